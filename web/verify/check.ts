/** A card's file, checked on its own: the same as `docs/verify.md` says, written a second time. */
import { ed25519 } from "@noble/curves/ed25519.js";
import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex, concatBytes, hexToBytes, utf8ToBytes } from "@noble/hashes/utils.js";
import canonicalize from "canonicalize";

export type CardCheck = { holds: boolean; lines: string[] };
type Entry = { seq: number; stored: string; seal: string };
type Name = { person: string; name: string; salt: string };
type Leaf = { place: number; seq: number; inclusion: string[] };
type Proof = {
  key: string;
  checkpoint: string;
  leaves: Record<string, Leaf>;
  words: { text: string; signature: string };
};
type Card = {
  format: string;
  version: number;
  card: Record<string, unknown> & { sheet: { run: string } };
  entries: Entry[];
  names: Name[];
  people: Record<string, Entry[]>;
  proof: Proof | null;
};
type Key = { name: string; id: string; bytes: Uint8Array; written: string };
type Point = { size: bigint; root: Uint8Array; time: string; text: string; code: string };

class Wrong extends Error {}

/** Of the spellings of some bytes in base64 only one is right. */
function fromBase64(text: string): Uint8Array {
  const letters = atob(text);
  if (btoa(letters) !== text) throw new Wrong(`“${text}” is not written as it was signed.`);
  return Uint8Array.from(letters, (letter) => letter.charCodeAt(0));
}

const same = (one: Uint8Array, other: Uint8Array) => bytesToHex(one) === bytesToHex(other);

/** Whether the file is what was sealed and signed; `expected` is the key that it must be signed by, or empty. */
export function checkCard(text: string, expected = ""): CardCheck {
  const lines: string[] = [];
  try {
    check(read(text), expected ? readKey(expected) : null, lines);
    return { holds: true, lines };
  } catch (error) {
    const said = error instanceof Wrong ? error.message : `This is not a whole card: ${error}.`;
    return { holds: false, lines: [...lines, said] };
  }
}

function read(text: string): Card {
  let card: Card;
  try {
    card = JSON.parse(text);
  } catch {
    throw new Wrong("This is no JSON file.");
  }
  if (card?.format !== "tight-ledger run") throw new Wrong("This is no card's file.");
  if (card.version !== 2) throw new Wrong(`This card is of version ${card.version}; this page knows version 2.`);
  return card;
}

function check(card: Card, expected: Key | null, lines: string[]) {
  const run = card.card.sheet.run;
  const heads: Record<string, Uint8Array[]> = { [run]: chain(card.entries, run) };
  lines.push(`${card.entries.length} entries: every seal holds.`);
  for (const [person, entries] of Object.entries(card.people)) heads[person] = chain(entries, person);
  for (const name of card.names) checkName(name, card.people[name.person] ?? []);
  if (card.names.length) lines.push(`${card.names.map((each) => each.name).join(", ")}: the names that were sealed.`);
  const proof = card.proof;
  if (!proof) {
    lines.push(
      "No checkpoint covers it: seals alone say that nothing was changed in it, not that nobody sealed it again.",
    );
    return;
  }
  const key = readKey(proof.key);
  if (expected && expected.written !== key.written)
    throw new Wrong(`It is signed by ${key.written}, not by the key that was given.`);
  checkWords(card, proof, key, run);
  lines.push("Every word of the card is the one that was signed.");
  const point = readCheckpoint(proof.checkpoint, key);
  for (const [stream, seals] of Object.entries(heads)) checkCovered(stream, seals, proof, point);
  const covered = proof.leaves[run]?.seq ?? 0;
  lines.push(
    `The checkpoint of ${point.time.replace("T", " ").slice(0, 16)} UTC, code ${point.code}, covers entries 1 to ${covered}.`,
  );
  if (covered < card.entries.length)
    lines.push(
      `Entries ${covered + 1} to ${card.entries.length} came after it: their seals hold, no checkpoint covers them yet.`,
    );
  lines.push(`Signed by ${key.written}. Compare it with the key that the shop has told you.`);
}

/** The seals of a record's entries, all of which hold. */
function chain(entries: Entry[], stream: string): Uint8Array[] {
  let before: Uint8Array = new Uint8Array(32);
  return entries.map((entry, place) => {
    const number = place + 1;
    if (entry.seq !== number) throw new Wrong(`Record ${stream}: entry ${number} is missing.`);
    const seal = sha256(concatBytes(before, utf8ToBytes(entry.stored)));
    if (bytesToHex(seal) !== entry.seal)
      throw new Wrong(`Record ${stream}, entry ${number}: its text is not the one that was sealed.`);
    const said = JSON.parse(entry.stored);
    if ((said.run !== stream && said.stream !== stream) || said.seq !== number)
      throw new Wrong(`Record ${stream}, entry ${number} belongs to another record.`);
    before = seal;
    return seal;
  });
}

function checkName(name: Name, entries: Entry[]) {
  const sealed = entries.map((each) => JSON.parse(each.stored)).filter((note) => note.kind === "named");
  const found = bytesToHex(sha256(concatBytes(hexToBytes(name.salt), utf8ToBytes(name.name))));
  if (sealed.at(-1)?.digest !== found) throw new Wrong(`“${name.name}” is not the name that was sealed.`);
}

/** Each part of what is shown, with its digest; of a list each item is a part. */
function parts(card: Card): Map<string, string> {
  const shown: [string, unknown][] = Object.entries(card.card).map(([name, value]) => [`card.${name}`, value]);
  const found = new Map<string, string>();
  const digest = (value: unknown) => bytesToHex(sha256(utf8ToBytes(canonicalize(value) ?? "")));
  for (const [name, value] of [...shown, ["names", card.names] as [string, unknown]]) {
    found.set(name, digest(Array.isArray(value) ? value.length : value));
    if (!Array.isArray(value)) continue;
    for (const [place, item] of value.entries()) found.set(`${name}.${place + 1}`, digest(item));
  }
  return found;
}

function checkWords(card: Card, proof: Proof, key: Key, run: string) {
  const { text, signature } = proof.words;
  if (!ed25519.verify(fromBase64(signature), utf8ToBytes(text), key.bytes))
    throw new Wrong("The list of what the card says is not signed by the card's key.");
  const [head, named, ...stated] = text.trimEnd().split("\n");
  if (head !== "tight-ledger card" || named !== `run ${run}`) throw new Wrong("The signature belongs to another card.");
  const known = new Map(
    stated.map((line) => [line.slice(0, line.lastIndexOf(" ")), line.slice(line.lastIndexOf(" ") + 1)]),
  );
  const now = parts(card);
  const names = [...new Set([...known.keys(), ...now.keys()])];
  const depth = (name: string) => name.split(".").length;
  names.sort((one, other) => depth(other) - depth(one) || (one < other ? 1 : -1));
  for (const name of names)
    if (known.get(name) !== now.get(name))
      throw new Wrong(`The card says something else than what was signed: ${name}.`);
}

function readKey(written: string): Key {
  const [name = "", id = "", encoded = ""] = written.trim().split(/\+(.*?)\+(.*)/s);
  const bytes = fromBase64(encoded);
  const given = bytesToHex(sha256(concatBytes(utf8ToBytes(`${name}\n`), bytes))).slice(0, 8);
  if (bytes.length !== 33 || bytes[0] !== 1 || given !== id)
    throw new Wrong("This is no public key of an installation: copy the whole line, name+id+key.");
  return { name, id, bytes: bytes.slice(1), written: written.trim() };
}

function readCheckpoint(note: string, key: Key): Point {
  const [text = "", signatures = ""] = note.split(/\n\n/);
  const body = `${text}\n`;
  const [, size = "", root = "", , , time = ""] = text.split("\n");
  const signed = signatures
    .trimEnd()
    .split("\n")
    .map((line) => line.split(" "))
    .some(([dash, name, encoded = ""]) => {
      const bytes = fromBase64(encoded);
      const mine = dash === "—" && name === key.name && bytesToHex(bytes.slice(0, 4)) === key.id;
      return mine && ed25519.verify(bytes.slice(4), utf8ToBytes(body), key.bytes);
    });
  if (!signed) throw new Wrong("The checkpoint is not signed by the card's key.");
  const code = base32(sha256(utf8ToBytes(body)).slice(0, 10)).replace(/(.{4})(?=.)/g, "$1-");
  return { size: BigInt(size), root: fromBase64(root), time: time.replace("time ", ""), text: body, code };
}

function base32(bytes: Uint8Array): string {
  const bits = [...bytes].map((byte) => byte.toString(2).padStart(8, "0")).join("");
  return (bits.match(/.{5}/g) ?? [])
    .map((five) => "ABCDEFGHIJKLMNOPQRSTUVWXYZ234567"[Number.parseInt(five, 2)])
    .join("");
}

function checkCovered(stream: string, seals: Uint8Array[], proof: Proof, point: Point) {
  const leaf = proof.leaves[stream];
  const seal = leaf && seals[leaf.seq - 1];
  const number = new Uint8Array(8);
  if (leaf) new DataView(number.buffer).setBigUint64(0, BigInt(leaf.seq));
  const data = leaf && seal && concatBytes(hexToBytes(stream.replaceAll("-", "")), number, seal);
  if (!data || !isIn(data, BigInt(leaf.place), leaf.inclusion.map(hexToBytes), point))
    throw new Wrong(`Record ${stream}: the checkpoint does not cover its entry ${leaf?.seq ?? ""} with this seal.`);
}

const over = (left: Uint8Array, right: Uint8Array) => sha256(concatBytes(new Uint8Array([1]), left, right));

/** Whether a leaf stands at a place of the log (RFC 9162, 2.1.3.2). */
function isIn(data: Uint8Array, place: bigint, proof: Uint8Array[], point: Point): boolean {
  if (place < 0n || place >= point.size) return false;
  let [here, last] = [place, point.size - 1n];
  let found: Uint8Array = sha256(concatBytes(new Uint8Array([0]), data));
  for (const each of proof) {
    if (last === 0n) return false;
    if (here & 1n || here === last) {
      found = over(each, found);
      while (!(here & 1n) && here) [here, last] = [here >> 1n, last >> 1n];
    } else found = over(found, each);
    [here, last] = [here >> 1n, last >> 1n];
  }
  return last === 0n && same(found, point.root);
}
