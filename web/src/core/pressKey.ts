import { database } from "./storage";

/**
 * The key pair of a session. The private key is made on this tablet, never leaves it, and no script can read it; the server knows
 * the public key. Each command is signed when it is pressed. So it counts for the person who pressed it, even if somebody else is
 * signed in when it is sent.
 */
type PressKey = { id: string; key: CryptoKey };
/** Beside what is kept for whoever is signed in: it is forgotten with it. */
const NAME = "press-key";
const CURVE = { name: "ECDSA", namedCurve: "P-256" };
const SIGNING = { name: "ECDSA", hash: "SHA-256" };

/** A pair of keys for somebody who signs in; none where the browser makes none, because the page came over plain HTTP. */
export async function makePressKey(): Promise<{ publicHex: string; key: CryptoKey } | null> {
  if (!crypto.subtle) return null;
  const pair = await crypto.subtle.generateKey(CURVE, false, ["sign", "verify"]);
  return { publicHex: hex(await crypto.subtle.exportKey("raw", pair.publicKey)), key: pair.privateKey };
}

/** The server knows it: what is pressed from now on is signed with it. */
export async function signWith(next: PressKey | null): Promise<void> {
  const answers = await database;
  if (next) await answers.put("answers", next, NAME).catch(() => undefined);
  else await answers.delete("answers", NAME);
}

/**
 * The signature of a command that is pressed now; undefined if nobody is signed in with a key. The key is read from the tablet's
 * database each time, so that a tab opened before the sign-in uses the same key.
 */
export async function markOf(method: string, address: string, body: unknown): Promise<string | undefined> {
  const kept = (await (await database).get("answers", NAME).catch(() => undefined)) as PressKey | undefined;
  if (!kept) return undefined;
  const { id, key } = kept;
  const [path] = address.split("?");
  const text = new TextEncoder().encode(`${method} ${path}\n${JSON.stringify(body)}`);
  const signature = await crypto.subtle.sign(SIGNING, key, text).catch(() => null); // a press is taken without, too
  return signature ? `${id}.${hex(signature)}` : undefined;
}

const hex = (bytes: ArrayBuffer): string =>
  [...new Uint8Array(bytes)].map((byte) => byte.toString(16).padStart(2, "0")).join("");
