import { address } from "../api/addresses";
import { api, ask, Problem, type Schemas } from "../api/client";
import { isWaiting, judging, type Kept, outbox } from "../api/outbox";
import { restored } from "./epoch";
import { addToStream, forgetStream, isOutOfReach, keep, kept, keptAnswer, keptStream } from "./kept";
import { tabletCore } from "./tabletCore";

export const BEGUN = address("/api/runs/begun");
const NOTHING: Schemas["Stream"] = { hand: "right", epoch: 0, entries: [] };

/** A run that this tablet began without the server, and that is not there yet. */
function begunHere(run: string): Schemas["Begun"] | undefined {
  const start = outbox.all().find((each) => each.scope === `run/${run}` && each.address.startsWith(BEGUN));
  return start?.body as Schemas["Begun"] | undefined;
}

/**
 * Reads what the server has sealed since, and keeps it on the tablet. A server that is away is an error here.
 *
 * Returns the run from its first entry.
 */
export async function readSealed(run: string): Promise<Schemas["Stream"]> {
  const known = await keptStream(run);
  const after = known?.entries.length ?? 0;
  const fresh = await ask(
    api.GET("/api/runs/{run_id}/stream", { params: { path: { run_id: run }, query: { after } } }),
  );
  if (known && known.epoch !== fresh.epoch) {
    // The server was restored: what was known may be of another past. What it lost waits again before anything is shown.
    await restored.found();
    await forgetStream(run);
    tabletCore.drop(run);
    return await readSealed(run);
  }
  return await addToStream(run, fresh);
}

/** What somebody may not read is not shown from what was kept either. */
const NOT_FOR_THEM = [401, 403];

/** What the server has sealed; what is known of it already, while the server is away or cannot give it. */
async function refresh(run: string): Promise<Schemas["Stream"]> {
  try {
    return await readSealed(run);
  } catch (error) {
    const known = await keptStream(run);
    const forThem = error instanceof Problem && !NOT_FOR_THEM.includes(error.status);
    if (known && (isOutOfReach(error) || forThem)) return known;
    if (begunHere(run) && (isOutOfReach(error) || (error instanceof Problem && error.status === 404))) return NOTHING;
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

/** What does not change in a run; of one that only this tablet knows, what its core says. */
export async function readSheet(run: string): Promise<Schemas["RunSheet"]> {
  const path = { params: { path: { run_id: run } } };
  try {
    return await kept(`sheet/${run}`, () => ask(api.GET("/api/runs/{run_id}/sheet", path)));
  } catch (error) {
    const known = begunHere(run) ? await keptAnswer<Schemas["RunSheet"]>(`sheet/${run}`) : undefined;
    if (known === undefined) throw error;
    return known;
  }
}

/** The job of a machine as the server says. */
export async function readJob(machine: string): Promise<Schemas["JobNow"]> {
  const path = { params: { path: { machine_id: machine } } };
  return await kept(`job/${machine}`, () => ask(api.GET("/api/machines/{machine_id}/job", path)));
}

/** The runs of a machine that this tablet began, and that the server does not know yet. */
export const begunOn = (machine: string): readonly string[] =>
  outbox
    .all()
    .filter((each) => each.address.startsWith(BEGUN) && isWaiting(each))
    .map((each) => (each.body as Schemas["Begun"]).start)
    .filter((start) => start.machine === machine)
    .map((start) => start.id);

/** A run as it stands, to be printed. */
export async function readPaper(run: string): Promise<Schemas["PaperRun"]> {
  if (tabletCore.holds(run)) return tabletCore.paper(run);
  return ask(api.GET("/api/runs/{run_id}/paper", { params: { path: { run_id: run } } }));
}

/**
 * What was recorded in a run on this tablet and is not in its sealed stream, in the order of the presses, whatever became of it
 * since; but for what was refused.
 */
function lackedBy(sealed: Schemas["Stream"], run: string): readonly Kept[] {
  const known = new Set(sealed.entries.map((entry) => entry.id));
  const here = outbox.all().filter((kept) => kept.scope === `run/${run}` && kept.local && kept.state !== "refused");
  return here.filter((kept) => !known.has(kept.id) && !judging.has(kept.id) && !kept.address.startsWith(BEGUN));
}

/** Hold a run on this tablet: what the server has sealed, and what was kept here from an earlier visit. */
export async function hold(run: string, me: Schemas["Me"]): Promise<Schemas["Now"]> {
  const sealed = await refresh(run);
  const begun = begunHere(run);
  let now: Schemas["Now"];
  if (sealed.entries.length === 0 && begun) {
    const told = await tabletCore.resume(begun, me.device);
    await keep(`sheet/${run}`, told.sheet);
    now = told.now;
  } else {
    now = await tabletCore.hear(run, sealed);
    await keepStart(run, me, sealed);
  }
  for (const kept of lackedBy(sealed, run)) {
    try {
      now = (await tabletCore.report(run, me, kept.body as Schemas["Report"], kept.byServer ?? null)).now;
      if (kept.why) await outbox.put({ ...kept, why: "" });
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      await outbox.put({ ...kept, why: `Not shown in the run: ${error.fault} ${error.remedy}` });
    }
  }
  tabletCore.takeOver(run);
  return now;
}

/** The start of a run that this tablet began by the server: kept as acknowledged, like everything else that it sent. */
async function keepStart(run: string, me: Schemas["Me"], { entries }: Schemas["Stream"]): Promise<void> {
  const first = entries[0] as (Schemas["Begun"]["started"] & Record<string, unknown>) | undefined;
  const started = (first as { started?: Schemas["Begun"]["started"] } | undefined)?.started;
  if (!first || !started?.facts || first.device !== me.device || begunHere(run)) return;
  const of = { machine: started.machine, position: started.position, proof: started.proof, meters: started.meters };
  const start = {
    ...of,
    id: run,
    spec: started.facts.spec,
    revision: started.spec_revision,
    procedure: started.facts.procedure,
    tooling: [],
    at_device: String(first.at_device),
  };
  const body = { id: String(first.id), start, by: String(first.by), started };
  const what = `${started.facts.machine.fleet_number}: started, ${started.facts.title}`;
  const common = {
    id: String(first.id),
    method: "POST" as const,
    scope: `run/${run}`,
    at: start.at_device,
    local: true,
  };
  await outbox.put({ ...common, address: BEGUN, body, what, state: "sent" });
}
