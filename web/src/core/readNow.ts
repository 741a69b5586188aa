import { api, ask, Problem, type Schemas } from "../api/client";
import { outbox } from "../api/outbox";
import { tabletCore } from "./tabletCore";

const stream = (run: string, after: number) =>
  ask(api.GET("/api/runs/{run_id}/stream", { params: { path: { run_id: run }, query: { after } } }));

/**
 * A run as it stands: where the tablet holds it, by the tablet's own core, with what is not sent yet; else by the server. A
 * server that is away makes no difference to a run that is held.
 */
export async function readNow(run: string): Promise<Schemas["Now"]> {
  const sealed = tabletCore.holds(run) ? tabletCore.sealed(run) : null;
  if (sealed === null) return ask(api.GET("/api/runs/{run_id}/now", { params: { path: { run_id: run } } }));
  try {
    return await tabletCore.hear(run, await stream(run, sealed));
  } catch (error) {
    if (!(error instanceof Problem) || error.isAnswer) throw error;
    return tabletCore.hear(run, { entries: [], hand: "right" });
  }
}

/** Hold a run on this tablet: what the server has sealed, and what was kept here from an earlier visit. */
export async function hold(run: string, me: Schemas["Me"]): Promise<Schemas["Now"]> {
  let now = await tabletCore.hear(run, await stream(run, 0));
  for (const kept of outbox.all().filter((each) => each.scope === `run/${run}` && each.local)) {
    const report = kept.body as Schemas["Report"];
    now = await tabletCore.report(run, me, report).catch(() => now);
  }
  return now;
}
