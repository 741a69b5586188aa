/** Runs the very core that the server runs. It is asked with JSON and answers with JSON, one question after the other. */

type Python = {
  unpackArchive: (archive: ArrayBuffer, format: "zip", options: { extractDir: string }) => void;
  runPython: (source: string) => unknown;
  globals: { get: (name: string) => { answer: (asked: string) => string } };
};
type Asked = { number: number; asked: string };
type Channel = { onmessage: ((event: MessageEvent<Asked>) => void) | null; postMessage: (told: unknown) => void };

const BEGIN = `
import sys
sys.path.insert(0, "/core")
from tight_ledger.core.runs.on_tablet import TabletCore
core = TabletCore()
`;
const channel = self as unknown as Channel;

/** The file that says which core the server offers, and lists its files. */
const NAMED = "/core/core.json";
type Named = { archive: string; runtime: string; digest: string; core: string; files: string[] };

/** Stores all files of the core on the tablet before it starts, so that it can start without the server next time. */
async function stored(): Promise<Named> {
  const told = await fetch(NAMED);
  const named = (await told.clone().json()) as Named;
  if (!("caches" in self)) return named; // the browser offers storage only at an address that it trusts
  const room = await caches.open("core");
  const files = named.files.map((file) => `/core/${file}`);
  const keep = async (file: string) => (await room.match(file)) ?? (await room.add(file));
  try {
    await Promise.all([...files.map(keep), room.put(NAMED, told)]);
    const needed = new Set([NAMED, ...files]);
    const earlier = (await room.keys()).filter(({ url }) => !needed.has(new URL(url).pathname));
    await Promise.all(earlier.map((each) => room.delete(each)));
  } catch (error) {
    if (!(error instanceof DOMException)) throw error; // the file did not arrive; a full tablet can still start the core
  }
  return named;
}

async function begin() {
  const named = await stored();
  const home = `/core/${named.runtime}/`;
  const [{ loadPyodide }, archive] = await Promise.all([
    import(/* @vite-ignore */ `${home}pyodide.mjs`),
    fetch(`/core/${named.archive}`).then((answer) => answer.arrayBuffer()),
  ]);
  const python = (await loadPyodide({ indexURL: home })) as Python;
  python.unpackArchive(archive, "zip", { extractDir: "/core" });
  python.runPython(BEGIN);
  return { core: python.globals.get("core"), running: { digest: named.digest, core: named.core } };
}

const begun = begin();
begun.then(
  ({ running }) => channel.postMessage({ ready: running }),
  (error) => channel.postMessage({ failed: String(error) }),
);
channel.onmessage = async ({ data }) => {
  const { core } = await begun;
  channel.postMessage({ number: data.number, answer: core.answer(data.asked) });
};
