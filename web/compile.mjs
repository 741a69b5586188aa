/** Compiles the Python of archives by the very Python that runs them on a tablet, which then need not: node compile.mjs ARCHIVE … */
import { readFileSync, writeFileSync } from "node:fs";
import { loadPyodide } from "pyodide";

const COMPILE = `
import importlib.util, sys, zipfile
from importlib._bootstrap_external import _code_to_hash_pyc

def compiled(name, source, optimize):
    code = compile(source, "/core/" + name, "exec", dont_inherit=True, optimize=optimize)
    return bytes(_code_to_hash_pyc(code, importlib.util.source_hash(source), checked=False))

with zipfile.ZipFile("/archive.zip") as packed, zipfile.ZipFile("/compiled.zip", "w") as made:
    def add(name, content):
        made.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), content, zipfile.ZIP_DEFLATED, 9)
    for name in packed.namelist():
        content = packed.read(name)
        if not name.endswith(".py"):
            add(name, content)
        elif name.startswith("tight_ledger/"):  # its digest is over its sources
            add(name, content)
            folder, _, module = name.rpartition("/")
            add(f"{folder}/__pycache__/{module[:-3]}.{sys.implementation.cache_tag}.pyc", compiled(name, content, 0))
        else:
            add(name + "c", compiled(name, content, 2))
`;
const python = await loadPyodide();
for (const file of process.argv.slice(2)) {
  python.FS.writeFile("/archive.zip", readFileSync(file));
  python.runPython(COMPILE);
  writeFileSync(file, python.FS.readFile("/compiled.zip"));
}
