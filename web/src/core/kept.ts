import { Problem, type Schemas } from "../api/client";
import { database } from "./storage";

type Stream = Schemas["Stream"];

/** Keep an answer under a name, for when the server is away. A full tablet works on, by the server. */
export async function keep(name: string, answer: unknown): Promise<void> {
  await (await database).put("answers", answer, name).catch(() => undefined);
}

/** Keep several answers, all of them or none. */
export async function keepAll(answers: readonly [string, unknown][]): Promise<void> {
  const written = (await database).transaction("answers", "readwrite");
  const puts = answers.map(([name, answer]) => written.store.put(answer, name));
  await Promise.all([...puts, written.done]).catch(() => undefined);
}

/** What was kept under a name. */
export const keptAnswer = async <T>(name: string): Promise<T | undefined> =>
  (await database).get("answers", name).catch(() => undefined) as Promise<T | undefined>;

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

/** The entries of a run as they were sealed, from the first; none if it was never held here. */
export const keptStream = async (run: string): Promise<Stream | undefined> =>
  (await database).get("streams", run).catch(() => undefined);

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

export const forgetStream = async (run: string): Promise<void> => (await database).delete("streams", run);

/** What anybody at this tablet needs at the door, whoever was there last. */
const OF_THE_TABLET = ["sign-in", "device", "along"];

/** Somebody else takes the tablet: what was kept for the last person goes. What they did and is not sent yet stays. */
export async function forgetAnswers(): Promise<void> {
  const all = await database;
  for (const name of await all.getAllKeys("answers")) {
    if (!OF_THE_TABLET.includes(name)) await all.delete("answers", name);
  }
  await all.clear("streams");
}
