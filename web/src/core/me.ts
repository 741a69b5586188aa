import { api, ask, Problem, type Schemas } from "../api/client";
import { forgetAnswer, keep, kept, keptAnswer, picked } from "./kept";
import { makePressKey, signWith } from "./pressKey";
import { tabletCore } from "./tabletCore";

/** Who is at the tablet; `unproven` if they picked their name while the server was away, and typed no PIN. */
export type Me = Schemas["Me"] & { unproven?: boolean };
const PICKED = "picked";

/**
 * Who is at the tablet: who picked a name without the server, else who is signed in; null while nobody is.
 *
 * That nobody is here is an answer, not an error: an answer stays on the screen while it is asked for again, so that the door
 * keeps the name that was chosen and the PIN that is half typed.
 */
export async function readMe(): Promise<Me | null> {
  const somebody = await keptAnswer<Me>(PICKED);
  picked.here = somebody !== undefined;
  if (somebody) return somebody;
  try {
    await endWhatWasLeft();
  } catch {
    return null;
  }
  try {
    const me = await kept("me", () => ask(api.GET("/api/me")));
    await keep("device", me.device);
    return me;
  } catch (error) {
    if (error instanceof Problem && error.status === 401) return null;
    throw error;
  }
}

/** Somebody signs in. What they press from now on is signed with a key of this session. */
export async function signIn(person: string, pin: string): Promise<Me> {
  const made = await makePressKey();
  const body = { person, pin, press_key: made?.publicHex ?? null };
  const { press_key, ...me } = await ask(api.POST("/api/sessions", { body }));
  await signWith(made && press_key ? { id: press_key, key: made.key } : null);
  await forgetPicked();
  await Promise.all([keep("device", me.device), keep("me", me)]); // the server may be away before it is asked who is here
  return me;
}

/** Somebody picks a name without the server. No PIN is kept on a tablet: what they record waits for it. */
export async function pickName(person: Schemas["Person"]): Promise<Me | null> {
  const device = await keptAnswer<string>("device");
  if (!device || !tabletCore.isReady) return null;
  const me: Me = { person, device, must_change: false, rights: await tabletCore.rights(person), unproven: true };
  await signWith(null);
  await keep(PICKED, me);
  picked.here = true;
  return me;
}

/** Whoever picked a name goes to the door, to sign in or to hand over. */
export async function forgetPicked(): Promise<void> {
  picked.here = false;
  await forgetAnswer(PICKED);
}

/** Whoever is at the tablet leaves while the server is away: their session is ended when it is back. */
const LEFT = "left";
export async function leaveLater(): Promise<void> {
  await keep(LEFT, true);
  await signWith(null);
  await forgetAnswer("me");
}

/** End the session of somebody who left while the server was away, before anybody else is taken for them. */
export async function endWhatWasLeft(): Promise<void> {
  if (!(await keptAnswer<boolean>(LEFT))) return;
  await ask(api.DELETE("/api/sessions"));
  await forgetAnswer(LEFT);
}
