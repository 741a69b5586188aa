import { address } from "../../../api/addresses";
import type { Schemas } from "../../../api/client";
import { judging, type Kept, outbox } from "../../../api/outbox";
import type { Me } from "../../../core/me";
import { tabletCore } from "../../../core/tabletCore";
import { madeByServer } from "../../../parts/ids";
import type { Report } from "./recorder";

/** An entry of a run as it waits on this tablet, whoever judges it. */
function keptAs(run: string, report: Report): Kept {
  const query = report.how === "wire" ? { brief: true, trial: true } : { brief: true };
  const to = address("/api/runs/{run_id}/entries", { path: { run_id: run }, query });
  const common = { method: "POST" as const, scope: `run/${run}`, local: true, photos: report.files ?? [] };
  return { ...common, id: report.id, address: to, body: report, at: report.at_device };
}

/** Write an entry down. What cannot be written down did not happen, and says so. */
export async function written(run: string, report: Report, what: string): Promise<void> {
  try {
    await outbox.put({ ...keptAs(run, report), what });
  } catch (error) {
    if (tabletCore.holds(run)) await tabletCore.forget(run, report.id);
    throw error;
  }
}

/** Judge a press and write it down, side by side: the screen moves on when both are done. */
export async function judged(run: string, me: Me, report: Report): Promise<Schemas["Now"]> {
  const kept = keptAs(run, report);
  judging.add(report.id);
  const [told, put] = await Promise.allSettled([
    tabletCore.report(run, me, report, madeByServer(report.id)),
    outbox.put(kept),
  ]);
  judging.delete(report.id);
  if (told.status === "rejected") {
    await outbox.remove(report.id);
    throw told.reason;
  }
  if (put.status === "rejected") {
    await tabletCore.forget(run, report.id);
    throw put.reason;
  }
  outbox.put({ ...kept, what: told.value.words }).catch(() => undefined); // the words are for the outbox's screen only
  return told.value.now;
}
