import { api, ask, Problem, type Schemas } from "../api/client";
import { deliver } from "../api/deliver";
import { isWaiting, type Kept, outbox } from "../api/outbox";
import { restored } from "./epoch";
import { forgetStream, keptStream } from "./kept";
import { endWhatWasLeft } from "./me";
import { sendPhotos } from "./photos";
import { reach } from "./reach";
import { readSealed } from "./readNow";
import { tabletCore } from "./tabletCore";

const RUN = "run/";
const FIRST_MS = 1_000;
const LONGEST_MS = 10_000;
/** How often the tablet asks what of the acknowledged a backup holds by now. */
const ASKS_EVERY_MS = 5 * 60_000;
const MOST_IDS = 1_000;

/** What became of an entry that the tablet had judged itself: on file, or what the server says about it. */
export type Heard = { kept: Kept; problem: Problem | null; left: number };

/**
 * Brings what the tablet has judged to the server, run by run in the order of the presses, each as often as it takes. A question
 * of the server waits for the person at the run; so does everything of that run behind it. What was acknowledged stays until a
 * backup holds it; what the server has lost since goes there again.
 */
class Courier {
  private tries = 0;
  private going = false;
  private woken = false;
  private failing = false;
  private begun = false;
  /** How often the server was away; it may have been restored each time. Starts at 1, because nothing is known before the first answer. */
  private timesAway = 1;
  /** The number of `timesAway` when the server last said which entries it still has. */
  private askedSince = 0;
  private asking: Promise<boolean> | null = null;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly asked = new Set<string>();
  private readonly listeners = new Map<string, (heard: Heard) => unknown>();
  private readonly watching = new Set<() => void>();

  /** Number of entries that wait, and whether the server is away. Told as a text, so that it can be compared. */
  told = (): string => `${this.waiting().length}${reach.away || this.failing ? " away" : ""}`;

  watch = (changed: () => void): (() => void) => {
    this.watching.add(changed);
    const stops = [outbox.watch(changed), reach.watch(changed)];
    return () => {
      this.watching.delete(changed);
      for (const stop of stops) stop();
    };
  };

  /** Hear what becomes of the entries of a run. */
  listen(scope: string, heard: (heard: Heard) => unknown): () => void {
    this.listeners.set(scope, heard);
    this.asked.delete(scope); // asked again, so that whoever is here now can answer
    this.wake();
    return () => this.listeners.delete(scope);
  }

  /** Somebody has signed in: what an earlier visit left behind goes out, also what was refused because nobody was. */
  begin(): void {
    this.asked.clear();
    this.wake();
    if (this.begun) return;
    this.begun = true;
    restored.found = async () => {
      this.timesAway += 1;
      await this.knowsWhatIsSafe();
      if (this.mustAsk)
        throw new Problem(503, { fault: "The server was restored.", remedy: "What it lost goes back to it first." });
    };
    reach.watch(() => {
      if (reach.away) this.timesAway += 1;
      else this.askWhatIsSafe().then(() => this.wake());
    });
    this.askWhatIsSafe();
    setInterval(() => this.askWhatIsSafe(), ASKS_EVERY_MS);
  }

  /** Something waits, or a question was answered. */
  wake(scope?: string): void {
    if (scope) this.asked.delete(scope);
    this.tries = 0;
    clearTimeout(this.timer);
    this.changed();
    this.go();
  }

  private waiting(): readonly Kept[] {
    return outbox.all().filter((kept) => kept.local && isWaiting(kept));
  }

  private async go(): Promise<void> {
    this.woken = true;
    if (this.going) return; // it looks again before it rests
    this.going = true;
    try {
      while (this.woken) {
        this.woken = false;
        await alone("tight.courier", () => this.work());
      }
    } finally {
      this.going = false;
    }
  }

  private async work(): Promise<void> {
    await endWhatWasLeft().catch(() => undefined); // nothing goes out in the name of somebody who left
    while (this.next()) {
      // Entries that the server lost are sent first. No new entry is sent until the server has said which it lost.
      if (await this.knowsWhatIsSafe()) {
        const next = this.next();
        if (!next || (await this.bring(next))) continue;
      }
      this.timer = setTimeout(() => this.go(), Math.min(FIRST_MS * 1.5 ** this.tries, LONGEST_MS));
      this.tries += 1;
      return;
    }
    await sendPhotos().catch(() => undefined); // later, with the next that wakes it
  }

  private next(): Kept | undefined {
    return this.waiting().find((kept) => !this.asked.has(kept.scope));
  }

  /** Whether there was a clear answer. */
  private async bring(kept: Kept): Promise<boolean> {
    try {
      await deliver(kept.again ? { ...kept, address: again(kept.address) } : kept);
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      if (error.isAnswer) await this.done(kept, error);
      return this.answered(error.isAnswer);
    }
    return await this.readBack(kept);
  }

  /**
   * The server has it. It goes on waiting here until the stream on this tablet's disk holds it: what is in neither would be gone
   * after a reload. Whatever the reading back says, it is no refusal of the entry.
   */
  private async readBack(kept: Kept): Promise<boolean> {
    const run = kept.scope.slice(RUN.length);
    const holds = async () => {
      await readSealed(run);
      return (await keptStream(run))?.entries.some((entry) => entry.id === kept.id) ?? false;
    };
    let isHeld = false;
    try {
      isHeld = (await holds()) || (await holds()); // the stream may be forgotten meanwhile, because the server lost some of it
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      if (!error.isAnswer) return this.answered(false);
    }
    if (isHeld) await this.done(kept, null);
    else {
      this.asked.add(kept.scope); // asked for again when somebody opens the run, or signs in
      this.changed();
    }
    return this.answered(true);
  }

  private answered(clear: boolean): boolean {
    if (clear) this.tries = 0;
    this.fails(!clear);
    return clear;
  }

  private async done(kept: Kept, problem: Problem | null): Promise<void> {
    const waits = problem !== null && (problem.ask !== null || problem.status === 401);
    if (waits) this.asked.add(kept.scope);
    else {
      const now = outbox.get(kept.id) ?? kept; // with the words that came meanwhile
      const answer = problem
        ? { state: "refused" as const, why: `${problem.fault} ${problem.remedy}` }
        : { state: "sent" as const, why: "" };
      await outbox.put({ ...now, ...answer });
    }
    const left = this.waiting().filter((each) => each.scope === kept.scope).length;
    this.listeners.get(kept.scope)?.({ kept, problem, left });
    this.changed();
  }

  private get mustAsk(): boolean {
    return this.askedSince < this.timesAway;
  }

  /** Whether nothing keeps new entries back: once more, if the server was away while it was asked. */
  private async knowsWhatIsSafe(): Promise<boolean> {
    if (!this.mustAsk) return true;
    return (await this.askWhatIsSafe()) && (!this.mustAsk || (await this.askWhatIsSafe()));
  }

  /**
   * Forget what a backup holds; send again what the server does not know any more. Asked once at a time: an answer that is older
   * than what was sent again since would take that for lost. Returns whether there was a clear answer.
   */
  private askWhatIsSafe(): Promise<boolean> {
    this.asking ??= this.askAboutSent().finally(() => {
      this.asking = null;
    });
    return this.asking;
  }

  private async askAboutSent(): Promise<boolean> {
    const sent = outbox.all().filter((kept) => kept.local && kept.state === "sent");
    const since = this.timesAway;
    let [answered, clear] = [true, true];
    for (let from = 0; from < sent.length; from += MOST_IDS) {
      const byId = new Map(sent.slice(from, from + MOST_IDS).map((kept) => [kept.id, kept]));
      const told = await ask(api.POST("/api/runs/safe", { body: { ids: [...byId.keys()] } })).catch((error) => {
        clear &&= error instanceof Problem && error.isAnswer;
        return null;
      });
      if (told) await this.settle(told, byId);
      else answered = false;
    }
    if (answered) this.askedSince = since;
    if (!clear || this.waiting().length === 0) this.fails(!clear);
    return clear;
  }

  private async settle({ safe, lost }: Schemas["Safe"], byId: Map<string, Kept>): Promise<void> {
    for (const id of safe) await outbox.remove(id);
    const runs = new Set<string>();
    for (const id of lost) {
      const kept = byId.get(id);
      if (!kept) continue;
      const { state, ...waits } = kept;
      await outbox.put({ ...waits, again: true });
      runs.add(kept.scope.slice(RUN.length));
    }
    for (const run of runs) {
      await forgetStream(run);
      tabletCore.drop(run);
    }
    if (runs.size > 0) this.wake();
  }

  private fails(failing: boolean): void {
    if (this.failing === failing) return;
    this.failing = failing;
    if (failing) this.timesAway += 1;
    this.changed();
  }

  private changed(): void {
    for (const each of this.watching) each();
  }
}

/** Only one tab of the tablet at a time; the others come after it. A browser without locks has to do without. */
async function alone(name: string, work: () => Promise<void>): Promise<void> {
  if (navigator.locks) await navigator.locks.request(name, work);
  else await work();
}

function again(address: string): string {
  return `${address}${address.includes("?") ? "&" : "?"}again=true`;
}

export const courier = new Courier();
