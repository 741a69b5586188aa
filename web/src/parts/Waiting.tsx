import { Trouble } from "./Trouble";

/** Pending or failed, in that order; a screen shows its data after these. */
export function Waiting({ error }: { error: unknown }) {
  return <main className="p-6">{error ? <Trouble error={error} /> : <p aria-busy="true">One moment …</p>}</main>;
}
