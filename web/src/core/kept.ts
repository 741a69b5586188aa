import { clear, createStore, get, set } from "idb-keyval";
import { Problem, type Schemas } from "../api/client";

type Stream = Schemas["Stream"];
const answers = createStore("tight-answers", "answers");
const streams = createStore("tight-streams", "streams");

/**
 * An answer of the server; the last one that was kept on this tablet while the server is away.
 *
 * What is kept belongs to whoever is signed in: `forgetAnswers` removes it at the door.
 */
export async function kept<T>(name: string, asked: () => Promise<T>): Promise<T> {
  try {
    const answer = await asked();
    await set(name, answer, answers).catch(() => undefined); // a full tablet works on, by the server
    return answer;
  } catch (error) {
    const known =
      error instanceof Problem && error.away ? await get<T>(name, answers).catch(() => undefined) : undefined;
    if (known === undefined) throw error;
    return known;
  }
}

/** The entries of a run as they were sealed, from the first; none if it was never held here. */
export const keptStream = (run: string): Promise<Stream | undefined> =>
  get<Stream>(run, streams).catch(() => undefined);

/** Put what is new behind what is known. Two that ask at once add it once. */
export async function addToStream(run: string, known: Stream | undefined, fresh: Stream): Promise<Stream> {
  const before = known?.entries ?? [];
  const added = fresh.entries.filter((entry) => Number(entry.seq) > before.length);
  const whole = { hand: fresh.hand, entries: [...before, ...added] };
  if (added.length > 0) await set(run, whole, streams).catch(() => undefined);
  return whole;
}

/** Somebody else takes the tablet: what was kept for the last person goes. What they did and is not sent yet stays. */
export async function forgetAnswers(): Promise<void> {
  await Promise.all([clear(answers), clear(streams)]);
}
