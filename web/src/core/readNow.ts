import { api, ask, Problem, type Schemas } from "../api/client";
import { outbox } from "../api/outbox";
import { addToStream, keptStream } from "./kept";
import { tabletCore } from "./tabletCore";

/**
 * Reads what the server has sealed since, and keeps it on the tablet; what is known already while the server is away.
 *
 * Returns the run from its first entry.
 */
export async function refresh(run: string): Promise<Schemas["Stream"]> {
  const known = await keptStream(run);
  const after = known?.entries.length ?? 0;
  try {
    const fresh = await ask(
      api.GET("/api/runs/{run_id}/stream", { params: { path: { run_id: run }, query: { after } } }),
    );
    return await addToStream(run, known, fresh);
  } catch (error) {
    if (known && error instanceof Problem && error.away) return known;
    throw error;
  }
}

/**
 * A run as it stands: where the tablet holds it, by the tablet's own core, with what is not sent yet; else by the server. A
 * server that is away makes no difference to a run that is held.
 */
export async function readNow(run: string): Promise<Schemas["Now"]> {
  if (!tabletCore.holds(run)) return ask(api.GET("/api/runs/{run_id}/now", { params: { path: { run_id: run } } }));
  const { entries, hand } = await refresh(run);
  return tabletCore.hear(run, { entries: entries.slice(tabletCore.sealed(run) ?? 0), hand });
}

/** Hold a run on this tablet: what the server has sealed, and what was kept here from an earlier visit. */
export async function hold(run: string, me: Schemas["Me"]): Promise<Schemas["Now"]> {
  let now = await tabletCore.hear(run, await refresh(run));
  for (const waiting of outbox.all().filter((each) => each.scope === `run/${run}` && each.local)) {
    const report = waiting.body as Schemas["Report"];
    now = await tabletCore.report(run, me, report).catch(() => now);
  }
  return now;
}
