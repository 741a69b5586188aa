import { api, ask, askIfChanged, type Schemas } from "../api/client";
import { isWaiting, outbox } from "../api/outbox";
import { atDevice } from "../parts/ids";
import { addToStream, keepAlong, keptAnswer, takenPart } from "./kept";
import { reach } from "./reach";
import { BEGUN } from "./readNow";
import { type Pack, tabletCore } from "./tabletCore";

/** What was taken along, and when; the server is asked with its tag whether it has changed. */
export type Along = Schemas["Along"] & { at: string; tag?: string | null };
type Part = { version: string };
const EVERY_MS = 3 * 60_000;
const PARTS_AT_ONCE = 20;
let begun = false;

/** Take along what a run of a machine in the bay needs; what was taken last while the server is away. */
async function take(): Promise<void> {
  const before = await keptAnswer<Along>("taken");
  const headers = before?.tag ? { "If-None-Match": before.tag } : {};
  const listed = await askIfChanged(api.GET("/api/runs/along", { headers })).catch(() => null); // away: what was taken before stays
  if (listed) await fetchParts(listed.data, listed.tag).catch(() => undefined);
  const along = await keptAnswer<Along>("taken");
  if (along && tabletCore.isReady) {
    await tabletCore.renew(along.core).catch(() => undefined); // away: an older core judges an open run as well
    if (!tabletCore.isReady) return;
    const device = await keptAnswer<string>("device");
    for (const begun of begunAndWaiting()) await tabletCore.know(begun, device ?? "");
    const pack = await takenPack(along);
    if (pack) tabletCore.take(pack);
  }
}

/** Fetch the parts of which this tablet has none or another version. */
async function fetchParts(list: Schemas["Along"], tag: string | null): Promise<void> {
  const wanted: string[] = [];
  for (const [name, version] of Object.entries(list.parts)) {
    if ((await takenPart<Part>(name))?.version !== version) wanted.push(name);
  }
  const fetched = new Map<string, Part>();
  for (let first = 0; first < wanted.length; first += PARTS_AT_ONCE) {
    const names = wanted.slice(first, first + PARTS_AT_ONCE);
    const parts = await ask(api.POST("/api/runs/along/parts", { body: { names } }));
    if (parts.shop) fetched.set("shop", parts.shop);
    for (const machine of parts.machines) fetched.set(`machine/${machine.now.machine.id}`, machine);
    for (const spec of parts.specs) fetched.set(`spec/${spec.file.spec.id}`, spec);
    for (const run of parts.runs) {
      fetched.set(`run/${run.sheet.run}`, run);
      await addToStream(run.sheet.run, run.stream);
    }
  }
  const kept: Along = { ...list, at: atDevice(), tag };
  await keepAlong(kept, fetched);
}

/** Every part of a kind that was taken along, in the sequence of the list. */
async function takenParts<T>(along: Along, kind: "machine" | "spec"): Promise<T[]> {
  const names = Object.keys(along.parts).filter((name) => name.startsWith(`${kind}/`));
  const parts = await Promise.all(names.map((name) => takenPart<T>(name)));
  return parts.filter((part) => part !== undefined);
}

/** What the core works from. */
async function takenPack(along: Along): Promise<Pack | null> {
  const shop = await takenPart<Schemas["ShopAlong"]>("shop");
  if (!shop) return null;
  const machines = await takenParts<Schemas["MachineAlong"]>(along, "machine");
  const specs = await takenParts<Schemas["SpecAlong"]>(along, "spec");
  return {
    policy: shop.policy,
    crib: shop.crib,
    certificates: shop.certificates,
    machines: machines.map((machine) => machine.before),
    specs: specs
      .filter((spec) => spec.startable)
      .map(({ file, checked }) => ({ spec: file.spec, status: file.status, checked })),
  };
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
  const along = await keptAnswer<Along>("taken");
  const taken = along ? await takenParts<Schemas["MachineAlong"]>(along, "machine") : [];
  const words = asked.toLowerCase().split(/\s+/).filter(Boolean);
  const holds = (text: string) => words.every((word) => text.toLowerCase().includes(word));
  const called = (of: Schemas["Machine"]) => `${of.fleet_number} ${of.maker} ${of.model} ${of.registration}`;
  const picked = taken.filter((part) => machine === null || part.now.machine.id === machine);
  const hits = picked.flatMap(({ now, found }) =>
    found.hits
      .filter((hit) => holds(`${called(now.machine)} ${hit.title} ${hit.joint} ${hit.threads}`))
      .map((hit) => (machine ? hit : { ...hit, machine: now.machine })),
  );
  const machines = machine ? [] : taken.map((part) => part.now.machine).filter((each) => holds(called(each)));
  const of = machine ? picked[0]?.found : undefined;
  const common = { more: false, unreadable: false, vin: null, question: of?.question ?? null };
  return { ...common, hits, machines, machine: of?.machine ?? null };
}
