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
  /** Whether the tablet has judged it itself, and goes on meanwhile. */
  local?: boolean;
};

/** Where commands are kept until the server has answered them. */
export interface Outbox {
  all(): readonly Kept[];
  put(kept: Kept): void;
  remove(id: string): void;
}

const PREFIX = "tight.outbox/";

/** In the storage of the browser: it survives a reload and an empty battery. */
class StoredOutbox implements Outbox {
  constructor(private readonly storage: Storage) {}

  all(): readonly Kept[] {
    const names = Array.from({ length: this.storage.length }, (_, place) => this.storage.key(place) ?? "");
    return names
      .filter((name) => name.startsWith(PREFIX))
      .map((name) => JSON.parse(this.storage.getItem(name) ?? "null") as Kept | null)
      .filter((kept) => kept !== null)
      .sort((early, late) => early.at.localeCompare(late.at) || early.id.localeCompare(late.id));
  }

  put(kept: Kept): void {
    this.storage.setItem(PREFIX + kept.id, JSON.stringify(kept));
  }

  remove(id: string): void {
    this.storage.removeItem(PREFIX + id);
  }
}

export const outbox: Outbox = new StoredOutbox(localStorage);
