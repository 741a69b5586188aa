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

async function begin() {
  const named = (await (await fetch("/core/core.json")).json()) as {
    archive: string;
    runtime: string;
    digest: string;
    core: string;
  };
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
