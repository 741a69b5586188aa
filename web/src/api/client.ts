import createClient from "openapi-fetch";
import { reach } from "../core/reach";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

const client = createClient<paths>({ credentials: "same-origin" });
export const api = client;

/** A refusal: what was wrong, what would be right; `ask` if it only wants an answer. */
export class Problem extends Error {
  readonly status: number;
  /** What kind of refusal it is: `unreadable`, `stale`; empty for one that this tablet makes. */
  readonly kind: string;
  readonly field: string;
  readonly fault: string;
  readonly remedy: string;
  readonly ask: string | null;
  /** What can be answered, where that is a choice. */
  readonly choices: readonly string[];
  /** The number by which the server's log knows it. */
  readonly request: string;

  constructor(status: number, said: Partial<Schemas["Problem"]>) {
    const fault = said.fault ?? "The server did not understand this.";
    super(fault);
    this.status = status;
    this.kind = said.type?.split(":").at(-1) ?? "";
    this.field = said.field ?? "";
    this.fault = fault;
    this.remedy = said.remedy ?? "Try again.";
    this.ask = said.ask ?? null;
    this.choices = said.choices ?? [];
    this.request = said.request ?? "";
  }

  /** The server or its database is away: what was sent is sent again. */
  get away(): boolean {
    return this.status === 0 || this.status === 502 || this.status === 503;
  }

  /** A clear answer; anything else is sent again: a mistake of the server, a full disk, too much at once. */
  get isAnswer(): boolean {
    return this.status >= 400 && this.status < 500 && ![408, 425, 429].includes(this.status);
  }
}

type Answer<T> = { data?: T | undefined; error?: unknown; response: Response };

/** The data of an answer; anything else is a Problem. */
export async function ask<T>(call: Promise<Answer<T>>): Promise<T> {
  return (await answered(call)).data as T;
}

/** The data of an answer with its tag; null if it is what was told before. */
export async function askIfChanged<T>(call: Promise<Answer<T>>): Promise<{ data: T; tag: string | null } | null> {
  const { data, response } = await answered(call);
  return response.status === 304 ? null : { data: data as T, tag: response.headers.get("etag") };
}

async function answered<T>(call: Promise<Answer<T>>): Promise<Answer<T>> {
  let answer: Answer<T>;
  try {
    answer = await call;
    reach.heard(true);
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error; // nobody waits for it any more
    reach.heard(false);
    throw new Problem(0, {
      fault: "The server does not answer.",
      remedy: "Nothing is lost: it is sent again by itself.",
    });
  }
  if (!answer.response.ok && answer.response.status !== 304) {
    throw new Problem(answer.response.status, (answer.error ?? {}) as Partial<Schemas["Problem"]>);
  }
  return answer;
}
