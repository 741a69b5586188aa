import { api, askIfChanged, type Schemas } from "../api/client";
import { isWaiting, outbox } from "../api/outbox";
import { atDevice } from "../parts/ids";
import { addToStream, keepAll, keptAnswer } from "./kept";
import { reach } from "./reach";
import { BEGUN } from "./readNow";
import { tabletCore } from "./tabletCore";

/** What was taken along, and when; the server is asked with its tag whether it has changed. */
export type Along = Schemas["Along"] & { at: string; tag?: string | null };
const EVERY_MS = 3 * 60_000;
let begun = false;

/** Take along what a run of a machine in the bay needs; what was taken last while the server is away. */
async function take(): Promise<void> {
  const before = await keptAnswer<Along>("along");
  const headers = before?.tag ? { "If-None-Match": before.tag } : {};
  const taken = await askIfChanged(api.GET("/api/runs/along", { headers })).catch(() => null); // away: what was taken before stays
  const told = taken?.data;
  if (told) {
    const machines = told.machines.map((each): [string, unknown] => [`machine/${each.machine.id}`, each]);
    const files = told.files.map((each): [string, unknown] => [`spec/${each.spec.id}`, each]);
    const sheets = told.runs.map(({ sheet }): [string, unknown] => [`sheet/${sheet.run}`, sheet]);
    const jobs = Object.entries(told.jobs).map(([machine, job]): [string, unknown] => [`job/${machine}`, job]);
    for (const { sheet, stream } of told.runs) await addToStream(sheet.run, stream);
    await keepAll([
      ...machines,
      ...files,
      ...sheets,
      ...jobs,
      ["tools", told.crib],
      ["along", { ...told, runs: [], at: atDevice(), tag: taken.tag }],
    ]);
  }
  const along = told ?? before;
  if (along && tabletCore.isReady) {
    await tabletCore.renew(along.core).catch(() => undefined); // away: an older core judges an open run as well
    if (!tabletCore.isReady) return;
    const device = await keptAnswer<string>("device");
    for (const begun of begunAndWaiting()) await tabletCore.know(begun, device ?? "");
    tabletCore.take(along.pack);
  }
}

/** The runs that this tablet began, and that the server does not know yet. */
function begunAndWaiting(): readonly Schemas["Begun"][] {
  return outbox
    .all()
    .filter((kept) => kept.address.startsWith(BEGUN) && isWaiting(kept))
    .map((kept) => kept.body as Schemas["Begun"]);
}

/** Take it along now, when the core is ready, when the server is back, and from time to time. */
export function takeAlong(): void {
  if (begun) return;
  begun = true;
  let wasReady = false;
  const again = () => {
    if (tabletCore.isReady) take().catch(() => undefined); // what was taken before stays
  };
  tabletCore.watch(() => {
    if (tabletCore.isReady && !wasReady) again();
    wasReady = tabletCore.isReady;
  });
  reach.watch(() => !reach.away && again());
  setInterval(again, EVERY_MS);
}

/** What a search finds among what was taken along: every word is in what the hit or the machine shows. */
export async function findAlong(asked: string, machine: string | null): Promise<Schemas["SearchAnswer"]> {
  const along = await keptAnswer<Along>("along");
  const words = asked.toLowerCase().split(/\s+/).filter(Boolean);
  const holds = (text: string) => words.every((word) => text.toLowerCase().includes(word));
  const answers = Object.entries(along?.found ?? {}).filter(([id]) => machine === null || id === machine);
  const all = answers.flatMap(([id, answer]) => {
    const about = along?.machines.find((each) => each.machine.id === id)?.machine;
    const named = about ? `${about.fleet_number} ${about.maker} ${about.model} ${about.registration}` : "";
    return answer.hits
      .filter((hit) => holds(`${named} ${hit.title} ${hit.joint} ${hit.threads}`))
      .map((hit) => (machine ? hit : { ...hit, machine: about ?? null }));
  });
  const machines = along?.machines
    .map((each) => each.machine)
    .filter(
      (each) => machine === null && holds(`${each.fleet_number} ${each.maker} ${each.model} ${each.registration}`),
    );
  const of = machine ? along?.found[machine] : undefined;
  const common = { more: false, unreadable: false, vin: null, question: of?.question ?? null };
  return { ...common, hits: all, machines: machines ?? [], machine: of?.machine ?? null };
}
