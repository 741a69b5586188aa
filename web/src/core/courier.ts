import { Problem } from "../api/client";
import { deliver } from "../api/deliver";
import { type Kept, outbox } from "../api/outbox";
import { refresh } from "./readNow";

const RUN = "run/";
const FIRST_MS = 1_000;
const LONGEST_MS = 10_000;
/** A server that has not answered for so long is away, as far as anybody at the tablet can tell. */
const SILENT_MS = 2_000;

/** What became of an entry that the tablet had judged itself: on file, or what the server says about it. */
export type Heard = { kept: Kept; problem: Problem | null; left: number };

/**
 * Brings what the tablet has judged to the server, run by run in the order of the presses, each as often as it takes. A question
 * of the server waits for the person at the run; so does everything of that run behind it.
 */
class Courier {
  private tries = 0;
  private going = false;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly asked = new Set<string>();
  private readonly listeners = new Map<string, (heard: Heard) => unknown>();
  private readonly watching = new Set<() => void>();
  private silent = false;

  /** Number of entries that wait, and whether the server is away. Told as a text, so that it can be compared. */
  told = (): string => `${this.waiting().length}${this.silent ? " away" : ""}`;

  watch = (changed: () => void): (() => void) => {
    this.watching.add(changed);
    return () => this.watching.delete(changed);
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
    return outbox.all().filter((kept) => kept.local);
  }

  private async go(): Promise<void> {
    if (this.going) return;
    this.going = true;
    try {
      for (let next = this.next(); next; next = this.next()) {
        if (!(await this.bring(next))) {
          this.timer = setTimeout(() => this.go(), Math.min(FIRST_MS * 1.5 ** this.tries, LONGEST_MS));
          this.tries += 1;
          return;
        }
      }
    } finally {
      this.going = false;
    }
  }

  private next(): Kept | undefined {
    return this.waiting().find((kept) => !this.asked.has(kept.scope));
  }

  /** Whether there was a clear answer. */
  private async bring(kept: Kept): Promise<boolean> {
    const slow = setTimeout(() => this.away(true), SILENT_MS);
    try {
      await deliver(kept);
      await refresh(kept.scope.slice(RUN.length)); // it stays here until the tablet knows it as sealed
      this.done(kept, null);
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      if (!error.isAnswer) {
        this.away(true);
        return false;
      }
      this.done(kept, error);
    } finally {
      clearTimeout(slow);
    }
    this.tries = 0;
    this.away(false);
    return true;
  }

  private done(kept: Kept, problem: Problem | null): void {
    const waits = problem !== null && (problem.ask !== null || problem.status === 401);
    if (waits) this.asked.add(kept.scope);
    else outbox.remove(kept.id);
    const left = this.waiting().filter((each) => each.scope === kept.scope).length;
    this.listeners.get(kept.scope)?.({ kept, problem, left });
    this.changed();
  }

  private away(silent: boolean): void {
    if (this.silent === silent) return;
    this.silent = silent;
    this.changed();
  }

  private changed(): void {
    for (const each of this.watching) each();
  }
}

export const courier = new Courier();
window.addEventListener("online", () => courier.wake());
