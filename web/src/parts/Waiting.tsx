import { useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { Frame } from "./Frame";
import { Unsent } from "./NotSent";
import { Trouble } from "./Trouble";

/** What a screen shows before its data: that it is read, or why it cannot be, with the ways on. */
export function Waiting({ error, children }: { error: unknown; children?: ReactNode }) {
  const client = useQueryClient();
  if (!error) {
    return (
      <main className="flex flex-col gap-4 p-6">
        <Unsent />
        <p aria-busy="true">One moment …</p>
      </main>
    );
  }
  return (
    <Frame title="This cannot be shown now" dock={false}>
      <div className="mx-auto flex max-w-xl flex-col gap-4 p-6">
        <Trouble error={error} />
        <p className="flex flex-wrap gap-2">
          <button
            type="button"
            className="btn btn-primary"
            onClick={() => client.refetchQueries({ type: "active", predicate: (query) => query.state.error !== null })}
          >
            Try again
          </button>
          <Link className="btn" to="/">
            To the start
          </Link>
        </p>
        {children}
      </div>
    </Frame>
  );
}
