import { Problem, type Schemas } from "../api/client";
import { database } from "./storage";

type Stream = Schemas["Stream"];

/** Keep an answer under a name, for when the server is away. A full tablet works on, by the server. */
export async function keep(name: string, answer: unknown): Promise<void> {
  await (await database).put("answers", answer, name).catch(() => undefined);
}

/** What was kept under a name; else what was taken along of it. */
export async function keptAnswer<T>(name: string): Promise<T | undefined> {
  const kept = await read<T>(name);
  return kept ?? ((await takenAnswer(name)) as T | undefined);
}

const read = async <T>(name: string): Promise<T | undefined> =>
  (await database).get("answers", name).catch(() => undefined) as Promise<T | undefined>;

const keyOfPart = (name: string) => `along/${name}`;

/** A part of what was taken along. */
export const takenPart = <T>(name: string): Promise<T | undefined> => read<T>(keyOfPart(name));

/** What was taken along of an answer that a screen asks for. */
async function takenAnswer(name: string): Promise<unknown> {
  const id = name.slice(name.indexOf("/") + 1);
  if (name === "tools") return (await takenPart<Schemas["ShopAlong"]>("shop"))?.shown;
  if (name === `machine/${id}`) return (await takenPart<Schemas["MachineAlong"]>(name))?.now;
  if (name === `spec/${id}`) return (await takenPart<Schemas["SpecAlong"]>(name))?.file;
  if (name === `sheet/${id}`) return (await takenPart<Schemas["RunAlong"]>(`run/${id}`))?.sheet;
  if (name === `job/${id}`) return (await read<Schemas["Along"]>("taken"))?.jobs[id];
  return undefined;
}

/** The names of the answers of screens that a part holds: what was kept of them before is older. */
const answersIn = (name: string): readonly string[] =>
  name === "shop" ? ["tools"] : [name, name.replace("run/", "sheet/"), name.replace("machine/", "job/")];

/** Keep what was fetched of what is taken along, and the list of it last; all of it or nothing: a full tablet works on with what it took before. */
export async function keepAlong(list: Schemas["Along"], fetched: ReadonlyMap<string, unknown>): Promise<void> {
  const written = (await database).transaction("answers", "readwrite");
  const outdated = (await written.store.getAllKeys()).filter(
    (key) => key.startsWith("along/") && !(key.slice(6) in list.parts),
  );
  const old = [...fetched.keys()].flatMap(answersIn).concat(Object.keys(list.jobs).map((machine) => `job/${machine}`));
  const done = [
    ...[...outdated, ...old].map((key) => written.store.delete(key)),
    ...[...fetched].map(([name, part]) => written.store.put(part, keyOfPart(name))),
    written.store.put(list, "taken"),
    written.done,
  ];
  await Promise.all(done).catch(() => undefined);
}

export const forgetAnswer = async (name: string): Promise<void> => (await database).delete("answers", name);

/** Whether somebody works here who picked a name without the server: nobody is signed in there for them. */
export const picked = { here: false };

/** Whether the server cannot be asked: it is away, or nobody is signed in there for whoever picked a name. */
export const isOutOfReach = (error: unknown): boolean =>
  error instanceof Problem && (error.away || (error.status === 401 && picked.here));

/**
 * An answer of the server; the last one that was kept on this tablet while the server is away.
 *
 * What is kept belongs to whoever is signed in: `forgetAnswers` removes it at the door.
 */
export async function kept<T>(name: string, asked: () => Promise<T>): Promise<T> {
  try {
    const answer = await asked();
    await keep(name, answer);
    return answer;
  } catch (error) {
    const known = isOutOfReach(error) ? await keptAnswer<T>(name) : undefined;
    if (known === undefined) throw error;
    return known;
  }
}

/** An answer of the server; while it cannot be asked, what the tablet knows itself. */
export async function otherwise<T>(asked: () => Promise<T>, here: () => Promise<T>): Promise<T> {
  try {
    return await asked();
  } catch (error) {
    if (isOutOfReach(error)) return here();
    throw error;
  }
}

/** The entries of a run as they were sealed, from the first; none if it was never held here, nor taken along. */
export async function keptStream(run: string): Promise<Stream | undefined> {
  const kept = await (await database).get("streams", run).catch(() => undefined);
  return kept ?? (await takenPart<Schemas["RunAlong"]>(`run/${run}`))?.stream;
}

/**
 * Put what is new behind what this tablet has of a run, by number, in one transaction: whoever reads and writes at the same
 * time only ever makes it longer. Entries that do not begin at the next number add nothing. A stream of another epoch is
 * replaced if it begins at the first entry.
 *
 * Returns the run as it is known now. A full tablet does not write it down; `keptStream` then still gives the old one.
 */
export async function addToStream(run: string, fresh: Stream): Promise<Stream> {
  let whole = fresh;
  try {
    const written = (await database).transaction("streams", "readwrite");
    const known = await written.store.get(run);
    const before = known?.epoch === fresh.epoch ? known.entries : [];
    const added = fresh.entries.filter((entry) => Number(entry.seq) > before.length);
    const follows = added.length > 0 && Number(added[0]?.seq) === before.length + 1;
    whole = { ...fresh, entries: follows ? [...before, ...added] : before };
    await Promise.all([follows ? written.store.put(whole, run) : undefined, written.done]);
  } catch {
    // A full tablet works on with what it was told.
  }
  return whole;
}

/** Forget what is known of a run, as it was taken along too: a restored server has lost some of it. */
export async function forgetStream(run: string): Promise<void> {
  const written = (await database).transaction(["streams", "answers"], "readwrite");
  const gone = [
    written.objectStore("streams").delete(run),
    written.objectStore("answers").delete(keyOfPart(`run/${run}`)),
  ];
  await Promise.all([...gone, written.done]);
}

/** What anybody at this tablet needs at the door, whoever was there last. */
const OF_THE_TABLET = ["sign-in", "device", "taken"];

/** Somebody else takes the tablet: what was kept for the last person goes. What they did and is not sent yet stays. */
export async function forgetAnswers(): Promise<void> {
  const all = await database;
  for (const name of await all.getAllKeys("answers")) {
    if (!OF_THE_TABLET.includes(name) && !name.startsWith("along/")) await all.delete("answers", name);
  }
  await all.clear("streams");
}
