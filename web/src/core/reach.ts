import type { Schemas } from "../api/client";
import { heardTime } from "./serverClock";

/** A server that answers nothing for so long is taken for one that is away; one that is slow is not away. */
const SILENT_MS = 8_000;
const EVERY_MS = 500;

/** Ask the server whether it lives, and what time it is there. Rejected while it does not answer. */
export async function askTime(): Promise<void> {
  const told = await fetch("/api/health", { cache: "no-store", signal: AbortSignal.timeout(SILENT_MS) });
  if (told.ok) heardTime(((await told.json()) as Schemas["Health"]).now);
}

/** Whether the server answers. Asked for twice a second while somebody looks, so that it is known before a key is pressed. */
class Reach {
  private silent = false;
  private readonly watching = new Set<() => void>();
  private timer: ReturnType<typeof setTimeout> | undefined;

  get away(): boolean {
    return this.silent;
  }

  watch = (changed: () => void): (() => void) => {
    this.watching.add(changed);
    return () => this.watching.delete(changed);
  };

  /** Begin to look; the browser says at once when its network goes or comes. */
  begin(): void {
    window.addEventListener("offline", () => this.heard(false));
    window.addEventListener("online", () => this.look());
    document.addEventListener("visibilitychange", () => this.look());
    this.look();
  }

  /** The server has answered, or did not. */
  heard(answers: boolean): void {
    if (this.silent === !answers) return;
    this.silent = !answers;
    for (const each of this.watching) each();
  }

  private async look(): Promise<void> {
    clearTimeout(this.timer);
    if (document.visibilityState === "hidden") return;
    try {
      await askTime();
      this.heard(true);
    } catch {
      this.heard(false);
    }
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.look(), EVERY_MS);
  }
}

export const reach = new Reach();
