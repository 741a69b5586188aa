import type { FallbackProps } from "react-error-boundary";

/** A screen that broke: nothing that was recorded is lost, and what to do next. */
export function Broken({ resetErrorBoundary }: FallbackProps) {
  return (
    <main role="alert" className="mx-auto flex max-w-xl flex-col gap-4 p-6">
      <h1 className="text-3xl font-bold">This screen broke</h1>
      <p className="text-lg">
        Nothing that was recorded is lost; what was not sent yet is kept on this tablet and goes out by itself.
      </p>
      <p className="flex flex-wrap gap-2">
        <button type="button" className="btn btn-primary" onClick={resetErrorBoundary}>
          Try this screen again
        </button>
        <a className="btn" href="/">
          To the start
        </a>
      </p>
    </main>
  );
}
