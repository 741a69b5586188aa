import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import type { Schemas } from "../api/client";
import type { Kept } from "../api/outbox";

interface Tight extends DBSchema {
  outbox: { key: string; value: Kept };
  photos: { key: string; value: { id: string; name: string; content: Blob } };
  answers: { key: string; value: unknown };
  streams: { key: string; value: Schemas["Stream"] };
}

/** With less than this share left, or so little, it is said before anything is refused. */
const LITTLE_SHARE = 0.1;
const LITTLE_BYTES = 20e6;

/** What the tablet keeps. Everything of it is written down before the screen moves on. */
export const database: Promise<IDBPDatabase<Tight>> = openDB<Tight>("tight", 1, {
  upgrade(fresh) {
    fresh.createObjectStore("outbox", { keyPath: "id" });
    fresh.createObjectStore("photos", { keyPath: "id" });
    fresh.createObjectStore("answers");
    fresh.createObjectStore("streams");
  },
});

export type Room = { lasting: boolean; little: boolean; used_mb: number; of_mb: number };

let lasts: Promise<boolean> | undefined;

/** Ask that nothing of it is removed: once a visit, since a browser may ask the person. */
async function askToKeep(): Promise<boolean> {
  const { storage } = navigator;
  return (await storage?.persisted?.()) || ((await storage?.persist?.()) ?? false);
}

/** Whether the browser keeps it, and how much room is left. A browser that says nothing gives no figures. */
export async function room(): Promise<Room> {
  const { storage } = navigator;
  lasts ??= askToKeep();
  const lasting = await lasts;
  const { usage = 0, quota = 0 } = (await storage?.estimate?.()) ?? {};
  const left = quota - usage;
  const little = quota > 0 && (left < LITTLE_BYTES || left < quota * LITTLE_SHARE);
  return { lasting, little, used_mb: usage / 1e6, of_mb: quota / 1e6 };
}
