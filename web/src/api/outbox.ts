import { markOf } from "../core/pressKey";
import { database } from "../core/storage";
import { madeByServer } from "../parts/ids";
import { Problem } from "./client";

/** A command as it was pressed, with everything that a second try needs. */
export type Kept = {
  id: string;
  method: "POST" | "PUT";
  address: string;
  body: unknown;
  /** The screen that finds it again after a reload: `run/…`; empty for a command that any screen may send. */
  scope: string;
  /** When it was pressed. */
  at: string;
  /** The same by the server's clock [ms]; null where the tablet did not know it. */
  byServer?: number | null;
  /** Whether the tablet has judged it itself, and goes on meanwhile. */
  local?: boolean;
  /** What happened, in words, for whoever looks at the outbox. */
  what?: string;
  /** Waiting to be sent unless it says otherwise: sent and not in a backup yet, or refused. */
  state?: "sent" | "refused";
  /** Why it was refused. */
  why?: string;
  /** Its place in the order of the presses, whatever the clock says. */
  number?: number;
  /** Sent before; the server was restored from a backup that did not hold it. */
  again?: boolean;
  /** Shows in whose session it was pressed; made once, at the press, for what was pressed. */
  mark?: string;
  /** Photos that belong to it, and go after it. */
  photos?: readonly string[];
};

/** Where commands are kept until the server has answered them. */
export interface Outbox {
  all(): readonly Kept[];
  get(id: string): Kept | undefined;
  /** Done once it is written down. */
  put(kept: Kept): Promise<void>;
  remove(id: string): Promise<void>;
  /** A photo that is written down together with the entry that names it. */
  attach(id: string, photo: File): void;
  watch(changed: () => void): () => void;
}

const EARLIER = "tight.outbox/";
const FULL = {
  fault: "This tablet could not write it down: nothing was recorded.",
  remedy: "Make room on the tablet, or use another one. What was recorded before is kept.",
};
type Told = { put: Kept } | { remove: string };

/** In the browser's database: it survives a reload, a crash and an empty battery. Every tab of the tablet sees the same. */
class DurableOutbox implements Outbox {
  private readonly kept = new Map<string, Kept>();
  private readonly watching = new Set<() => void>();
  private readonly tabs = new BroadcastChannel("tight.outbox");
  private readonly numbers = new Map<string, number>();
  private readonly attached = new Map<string, File>();
  private last = 0;

  /** Read what an earlier visit left. Nothing is pressed before. */
  async open(): Promise<void> {
    this.tabs.onmessage = ({ data }: MessageEvent<Told>) => this.heard(data);
    for (const each of await (await database).getAll("outbox")) this.heard({ put: each });
    await this.bringOver();
  }

  get(id: string): Kept | undefined {
    return this.kept.get(id);
  }

  all = (): readonly Kept[] => [...this.kept.values()].sort((early, late) => (early.number ?? 0) - (late.number ?? 0));

  async put(kept: Kept): Promise<void> {
    const number = this.numberOf(kept);
    const { mark: _, ...pressed } = kept;
    const mark = await this.markFor(kept);
    const byServer = kept.byServer ?? madeByServer(kept.id);
    await this.write({ ...pressed, number, byServer, ...(mark ? { mark } : {}) });
  }

  attach(id: string, photo: File): void {
    this.attached.set(id, photo);
  }

  async remove(id: string): Promise<void> {
    await (await database).delete("outbox", id);
    this.tell({ remove: id });
  }

  watch = (changed: () => void): (() => void) => {
    this.watching.add(changed);
    return () => this.watching.delete(changed);
  };

  private numberOf({ id, number = this.numbers.get(id) ?? this.last + 1 }: Kept): number {
    this.numbers.set(id, number);
    this.last = Math.max(this.last, number);
    return number;
  }

  private async write(next: Kept): Promise<void> {
    try {
      const written = (await database).transaction(["outbox", "photos"], "readwrite", { durability: "strict" });
      const photos = (next.photos ?? []).flatMap((id) => {
        const content = this.attached.get(id);
        return content ? [written.objectStore("photos").put({ id, name: content.name, content })] : [];
      });
      await Promise.all([written.objectStore("outbox").put(next), ...photos, written.done]);
      for (const id of next.photos ?? []) this.attached.delete(id);
    } catch {
      throw new Problem(507, FULL);
    }
    this.tell({ put: next });
  }

  /** What was written down before keeps its mark, or goes without; what is pressed now gets one. */
  private markFor({ id, method, address, body }: Kept): Promise<string | undefined> | string | undefined {
    const before = this.kept.get(id);
    const isTheSame = before && JSON.stringify(before.body) === JSON.stringify(body);
    return isTheSame ? before.mark : markOf(method, address, body);
  }

  /** What an earlier version kept in the browser's storage. It was not pressed now, and gets no mark. */
  private async bringOver(): Promise<void> {
    const names = Object.keys(localStorage).filter((name) => name.startsWith(EARLIER));
    const found = names.map((name) => JSON.parse(localStorage.getItem(name) ?? "null") as Kept);
    for (const kept of found.sort((early, late) => early.at.localeCompare(late.at))) {
      await this.write({ ...kept, number: this.numberOf(kept) });
      localStorage.removeItem(EARLIER + kept.id);
    }
  }

  private tell(told: Told): void {
    this.heard(told);
    this.tabs.postMessage(told);
  }

  private heard(told: Told): void {
    if ("put" in told) {
      this.kept.set(told.put.id, told.put);
      this.last = Math.max(this.last, told.put.number ?? 0);
    } else this.kept.delete(told.remove);
    for (const each of this.watching) each();
  }
}

const durable = new DurableOutbox();
export const outbox: Outbox = durable;
export const openOutbox = (): Promise<void> => durable.open();

/** Presses that the core of this page is judging now. One that is cut off here waits at the next visit; the server judges it. */
export const judging = new Set<string>();

/** Whether it still has to reach the server. */
export const isWaiting = (kept: Kept): boolean => kept.state === undefined && !judging.has(kept.id);
