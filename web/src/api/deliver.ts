import { reach } from "../core/reach";
import { Problem } from "./client";
import type { Kept } from "./outbox";

const AWAY = { fault: "The server does not answer.", remedy: "Nothing is lost: it is sent again by itself." };

/** Send a command once. Its id is the id of the request too, so that it can be followed through the server's log. */
export async function deliver<Answer>({ id, method, address, body }: Kept): Promise<Answer> {
  let response: Response;
  try {
    response = await fetch(address, {
      method,
      credentials: "same-origin",
      headers: { "content-type": "application/json", "x-request-id": id },
      body: JSON.stringify(body),
    });
    reach.heard(true);
  } catch {
    reach.heard(false);
    throw new Problem(0, AWAY);
  }
  if (response.ok) return (response.status === 204 ? undefined : await response.json()) as Answer;
  throw new Problem(response.status, await response.json().catch(() => ({})));
}
