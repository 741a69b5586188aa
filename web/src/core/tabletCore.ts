import { Problem, type Schemas } from "../api/client";
import { atDevice, newId } from "../parts/ids";

type Now = Schemas["Now"];
type Fault = { fault: ConstructorParameters<typeof Problem>[1] & { status: number } };
type Told = { ready?: Running; failed?: string; number?: number; answer?: string };
type State = "not begun" | "beginning" | "ready" | "failed";
/** What runs in the worker: the digest of the archive, and of the core's own files. */
type Running = { digest: string; core: string };
type Me = Schemas["Me"] & { unproven?: boolean };
/** What the core works from while the server is away. */
export type Pack = Pick<Schemas["ShopAlong"], "policy" | "crib" | "certificates"> & {
  machines: readonly Schemas["MachineBefore"][];
  specs: readonly (Pick<Schemas["SpecFile"], "spec" | "status"> & { checked: boolean })[];
};

/** What names the core that the server gives away. */
const NAMED = "/core/core.json";
/** How long to wait before a core that failed is started again; the wait doubles each time, up to a limit. */
const TRIES_AGAIN_MS = { first: 3_000, most: 60_000 };
/** So long a question waits for the core to begin. */
const READY_WITHIN_MS = 60_000;
const NOT_READY = {
  fault: "This tablet cannot work this out itself yet.",
  remedy: "Wait a moment, or go where the server answers.",
};

/** What a wrench says, as a screen is told it. */
export type Said =
  | { type: "live"; torque: number; unit: string; angle_deg: number }
  | { type: "trouble"; what: string }
  | { type: "needle"; figure: number; unit: string }
  | { type: "pulled" | "read"; id: string };

/** That something was recorded in a run, as a screen that watches is told it. */
export type Changed = { type: "changed"; run: string; seq: number };

/** What is asked of the core, and what it answers. */
type Answers = {
  hear: { now: Now; sealed: number };
  report: { now: Now; sealed: number; words: string };
  forget: { now: Now; sealed: number };
  begin: { now: Now; sealed: number; sheet: Schemas["RunSheet"] };
  take: { machines: number };
  offer: { offered: Schemas["Offered"] };
  start: { begun: Schemas["Begun"]; plan: string };
  paper: { paper: Schemas["PaperRun"] };
  job: { job: Schemas["JobNow"] };
  wrench: { said: string };
  told: { report: Schemas["Report"]; now: Now; sealed: number; words: string };
  rights: { rights: Schemas["Me"]["rights"] };
  lab: { page: Schemas["LabPage"] };
};

/** The core in a worker of this page. It begins after the screen stands; until then the server says what comes next. */
class TabletCore {
  private state: State = "not begun";
  private worker: Worker | null = null;
  private number = 0;
  private failures = 0;
  private running: Running | null = null;
  private pack: Pack | null = null;
  private isRead = false;
  private readonly waiting = new Map<number, (answer: string | null) => void>();
  private readonly sealedOf = new Map<string, number>();
  private readonly held = new Set<string>();
  private readonly watching = new Set<() => void>();

  begin(): void {
    if (this.state !== "not begun") return;
    this.state = "beginning";
    this.open();
  }

  /** The worker stores its own files on the tablet, so that it need not wait for the service worker. */
  private open(): void {
    this.worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module" });
    this.worker.onmessage = ({ data }: MessageEvent<Told>) => this.told(data);
    this.worker.onerror = () => this.failed();
  }

  /** The core could not start, or stopped; for example, its files did not arrive. It is started again later. Until then the server judges. */
  private failed(): void {
    if (this.state === "failed") return;
    this.close();
    this.turn("failed");
    const after = Math.min(TRIES_AGAIN_MS.first * 2 ** this.failures, TRIES_AGAIN_MS.most);
    this.failures += 1;
    setTimeout(() => {
      this.turn("beginning");
      this.open();
    }, after);
  }

  /** Whether a run is held here: the tablet judges it itself. */
  holds(run: string): boolean {
    return this.state === "ready" && this.held.has(run);
  }

  get isReady(): boolean {
    return this.state === "ready";
  }

  /** Whether a run can be started here without the server. */
  get canStart(): boolean {
    return this.state === "ready" && this.pack !== null;
  }

  /** The number of the newest entry that the server has sealed, as far as this tablet knows. */
  sealed(run: string): number | null {
    return this.sealedOf.get(run) ?? null;
  }

  watch = (changed: () => void): (() => void) => {
    this.watching.add(changed);
    return () => this.watching.delete(changed);
  };

  /** Which core runs here; empty before it does. */
  get core(): string {
    return this.running?.core ?? "";
  }

  /** The server runs another core: fetch that one, if it gives it away. An open run goes on with it, since its plan stays. */
  async renew(core: string): Promise<void> {
    if (this.state !== "ready" || this.core === core) return;
    const given = (await (await fetch(NAMED)).json()) as { core: string };
    if (given.core === this.core) return;
    this.close();
    this.turn("beginning");
    this.open();
  }

  /** Ends the worker. Runs are no longer held here, and open questions are answered with an error. */
  private close(): void {
    this.worker?.terminate();
    for (const answered of this.waiting.values()) answered(null);
    this.waiting.clear();
    this.sealedOf.clear();
    this.held.clear();
    this.isRead = false;
  }

  /** What the server has sealed, from the first entry or after those that are known. */
  async hear(run: string, { entries, hand }: Omit<Schemas["Stream"], "epoch">): Promise<Now> {
    return this.holding(run, await this.ask("hear", { run, entries, hand }));
  }

  /** @param byServer when it was pressed, by the server's clock [ms]; null where the tablet did not know it. */
  async report(
    run: string,
    me: Me,
    report: Schemas["Report"],
    byServer: number | null,
  ): Promise<{ now: Now; words: string }> {
    const done_at = byServer === null ? null : new Date(byServer).toISOString();
    const told = await this.ask("report", { run, me: me.person, device: me.device, report, done_at });
    return { now: this.holding(run, told), words: told.words };
  }

  async forget(run: string, id: string): Promise<Now> {
    return this.holding(run, await this.ask("forget", { run, id }));
  }

  /** A run that this tablet began, and the server does not know yet. */
  async resume(begun: Schemas["Begun"], device: string): Promise<{ now: Now; sheet: Schemas["RunSheet"] }> {
    const told = await this.ask("begin", { run: begun.start.id, begun, device });
    return { now: this.holding(begun.start.id, told), sheet: told.sheet };
  }

  /** That such a run is open: no second one is started at its place. */
  async know(begun: Schemas["Begun"], device: string): Promise<void> {
    await this.ask("begin", { run: begun.start.id, begun, device });
  }

  async start(me: Me, entry: string, start: Schemas["Start"]): Promise<Schemas["Begun"]> {
    await this.read();
    const asked = { start, entry, me: me.person, device: me.device, unproven: me.unproven ?? false };
    return (await this.ask("start", asked)).begun;
  }

  /** What was taken along. The core reads it when it is first asked about it: that takes long, and a press must not wait. */
  take(pack: Pack): void {
    this.pack = pack;
    this.isRead = false;
    this.changed();
  }

  private async read(): Promise<void> {
    await this.until(() => this.canStart);
    if (this.isRead) return;
    this.isRead = true;
    await this.ask("take", { pack: this.pack });
  }

  async offer(spec: string, asked: Schemas["Asked"]): Promise<Schemas["Offered"]> {
    await this.read();
    return (await this.ask("offer", { spec, asked })).offered;
  }

  /** Several runs of a machine, as they stand for this tablet. */
  async job(runs: readonly string[], device: string): Promise<Schemas["JobNow"]> {
    return (await this.ask("job", { runs, device })).job;
  }

  async paper(run: string): Promise<Schemas["PaperRun"]> {
    return (await this.ask("paper", { run })).paper;
  }

  /** A key of the simulated wrench: what it says in the words of the line's protocol. */
  async wrench(run: string, act: { type: string; manner: string }): Promise<readonly Said[]> {
    const { said } = await this.ask("wrench", { run, act, at: atDevice(), ids: [newId(), newId()] });
    return JSON.parse(said) as Said[];
  }

  /** A pull that it told. */
  async tell(run: string, me: Me, told: Said): Promise<Answers["told"]> {
    const answer = await this.ask("told", { run, me: me.person, device: me.device, told });
    this.holding(run, answer);
    return answer;
  }

  /** A page of the lab as its knobs stand. */
  async lab(page: string, values: Readonly<Record<string, string>>): Promise<Schemas["LabPage"]> {
    return (await this.ask("lab", { page, values })).page;
  }

  async rights(me: Schemas["Person"]): Promise<Schemas["Me"]["rights"]> {
    return (await this.ask("rights", { me })).rights;
  }

  /** Hold a run no more; whoever looks at it reads it again. */
  drop(run: string): void {
    this.sealedOf.delete(run);
    if (this.held.delete(run)) this.changed();
  }

  /** From now on the tablet judges it: everything that was recorded here before is in it again. */
  takeOver(run: string): void {
    this.held.add(run);
    this.changed();
  }

  private holding(run: string, { now, sealed }: { now: Now; sealed: number }): Now {
    this.sealedOf.set(run, sealed);
    return now;
  }

  /** Wait until something holds; not for ever. */
  private until(holds: () => boolean): Promise<void> {
    if (holds()) return Promise.resolve();
    return new Promise((resolve, reject) => {
      const stop = this.watch(() => {
        if (!holds() && this.state !== "failed") return;
        finish();
        if (holds()) resolve();
        else reject(new Problem(503, NOT_READY));
      });
      const late = setTimeout(() => {
        finish();
        reject(new Problem(503, NOT_READY));
      }, READY_WITHIN_MS);
      const finish = () => {
        stop();
        clearTimeout(late);
      };
    });
  }

  private async ask<K extends keyof Answers>(what: K, asked: object): Promise<Answers[K]> {
    await this.until(() => this.state === "ready");
    this.number += 1;
    const { number } = this;
    const answer = await new Promise<string | null>((resolve) => {
      this.waiting.set(number, resolve);
      this.worker?.postMessage({ number, asked: JSON.stringify({ do: what, ...asked }) });
    });
    if (answer === null)
      throw new Problem(503, {
        fault: "The core of this tablet was started again, and could not answer.",
        remedy: "Press again.",
      });
    const told = JSON.parse(answer) as Answers[K] | Fault;
    if ("fault" in told) throw new Problem(told.fault.status, told.fault);
    return told;
  }

  private told({ ready, failed, number, answer }: Told): void {
    if (ready) {
      this.running = ready;
      this.failures = 0;
      this.turn("ready");
    }
    if (failed) this.failed();
    if (number === undefined || answer === undefined) return;
    this.waiting.get(number)?.(answer);
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
