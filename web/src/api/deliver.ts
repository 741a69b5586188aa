import { askTime, reach } from "../core/reach";
import { isUnclear, keptFor } from "../core/serverClock";
import { pressedAt } from "../parts/ids";
import { Problem } from "./client";
import type { Kept } from "./outbox";

const AWAY = { fault: "The server does not answer.", remedy: "Nothing is lost: it is sent again by itself." };

/** Send a command once. Its id is the id of the request too, so that it can be followed through the server's log. */
export async function deliver<Answer>({ id, method, address, body, at, byServer, mark }: Kept): Promise<Answer> {
  const pressed = pressedAt(id, at, byServer);
  let response: Response;
  let said: unknown;
  try {
    if (isUnclear(pressed)) await askTime();
    response = await fetch(address, {
      method,
      credentials: "same-origin",
      headers: {
        "content-type": "application/json",
        "x-request-id": id,
        "waited-ms": keptFor(pressed).toFixed(0),
        ...(mark ? { "pressed-in": mark } : {}),
      },
      body: JSON.stringify(body),
    });
    said = await answerOf(response); // cut off while it is read, it is not known what became of it
    reach.heard(true);
  } catch {
    reach.heard(false);
    throw new Problem(0, AWAY);
  }
  if (response.ok) return said as Answer;
  throw new Problem(response.status, said ?? {});
}

async function answerOf(response: Response): Promise<unknown> {
  if (response.status === 204) return undefined;
  if (response.ok) return await response.json();
  return await response.json().catch(() => ({}));
}
