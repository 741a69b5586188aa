import { Problem, type Schemas } from "../api/client";

type Now = Schemas["Now"];
type Answer = { now: Now; sealed: number } | { fault: ConstructorParameters<typeof Problem>[1] & { status: number } };
type Told = { ready?: string; failed?: string; number?: number; answer?: string };
type State = "not begun" | "beginning" | "ready" | "failed";
type Asked =
  | { do: "hear"; run: string; entries: readonly unknown[]; hand: string }
  | { do: "report"; run: string; me: Schemas["Person"]; device: string; report: Schemas["Report"] }
  | { do: "forget"; run: string; id: string };

/** A browser without a service worker is not waited for. */
const KEEPER_WITHIN_MS = 4_000;

/** The core in a worker of this page. It begins after the screen stands; until then the server says what comes next. */
class TabletCore {
  private state: State = "not begun";
  private worker: Worker | null = null;
  private number = 0;
  private readonly waiting = new Map<number, (answer: Answer) => void>();
  private readonly sealedOf = new Map<string, number>();
  private readonly watching = new Set<() => void>();

  begin(): void {
    if (this.state !== "not begun") return;
    this.state = "beginning";
    this.open();
  }

  /** Opened once the service worker keeps what is fetched, so that it is there without the server too. */
  private async open(): Promise<void> {
    const given = new Promise((resolve) => setTimeout(resolve, KEEPER_WITHIN_MS));
    await Promise.race([navigator.serviceWorker?.ready ?? given, given]);
    this.worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module" });
    this.worker.onmessage = ({ data }: MessageEvent<Told>) => this.told(data);
    this.worker.onerror = () => this.turn("failed");
  }

  /** Whether a run is held here: the tablet judges it itself. */
  holds(run: string): boolean {
    return this.state === "ready" && this.sealedOf.has(run);
  }

  get isReady(): boolean {
    return this.state === "ready";
  }

  /** The number of the newest entry that the server has sealed, as far as this tablet knows. */
  sealed(run: string): number | null {
    return this.sealedOf.get(run) ?? null;
  }

  watch = (changed: () => void): (() => void) => {
    this.watching.add(changed);
    return () => this.watching.delete(changed);
  };

  /** What the server has sealed, from the first entry or after those that are known. */
  hear(run: string, { entries, hand }: Schemas["Stream"]): Promise<Now> {
    return this.ask({ do: "hear", run, entries, hand });
  }

  report(run: string, me: Schemas["Me"], report: Schemas["Report"]): Promise<Now> {
    return this.ask({ do: "report", run, me: me.person, device: me.device, report });
  }

  forget(run: string, id: string): Promise<Now> {
    return this.ask({ do: "forget", run, id });
  }

  private async ask(asked: Asked): Promise<Now> {
    this.number += 1;
    const { number } = this;
    const answer = await new Promise<Answer>((resolve) => {
      this.waiting.set(number, resolve);
      this.worker?.postMessage({ number, asked: JSON.stringify(asked) });
    });
    if ("fault" in answer) throw new Problem(answer.fault.status, answer.fault);
    const isNew = !this.sealedOf.has(asked.run);
    this.sealedOf.set(asked.run, answer.sealed);
    if (isNew) this.changed();
    return answer.now;
  }

  private told({ ready, failed, number, answer }: Told): void {
    if (ready) this.turn("ready");
    if (failed) this.turn("failed");
    if (number === undefined || answer === undefined) return;
    this.waiting.get(number)?.(JSON.parse(answer));
    this.waiting.delete(number);
  }

  private turn(state: State): void {
    this.state = state;
    this.changed();
  }

  private changed(): void {
    for (const each of this.watching) each();
  }
}

export const tabletCore = new TabletCore();
