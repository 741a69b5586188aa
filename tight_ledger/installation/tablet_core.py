"""Packs the core for tablets, compiled: the run path, what it imports, and the runtime. `python -m … WHEELS RUNTIME OUT`.

Then it writes a compressed copy of each file that the server sends. Compressing the core takes seconds, so it is not done at each request.
"""

import gzip
import hashlib
import json
import re
import shutil
import subprocess
import sys
import zipfile
from collections.abc import Iterable, Iterator
from pathlib import Path

from tight_ledger.core.base.source import source_digest, source_files
from tight_ledger.store.pages import BUILT, COMPRESSED

PACKAGE = Path(__file__).parents[1]
COMPILER = PACKAGE.parent / "web" / "compile.mjs"
RUNTIME = ("pyodide.mjs", "pyodide.asm.mjs", "pyodide.asm.wasm", "python_stdlib.zip", "pyodide-lock.json")
NOT_NEEDED = (".pyi", "/RECORD", "/WHEEL", "/py.typed")
NOT_IMPORTED = re.compile(
    r"pydantic/(v1/|mypy\.py)|(multiprocessing|xml|_pyrepl|unittest|xmlrpc|wsgiref|pydoc_data|ensurepip)/"
    r"|(pdb|doctest|pydoc|imaplib|turtle)\.py|encodings/(cp(?!437)|mac_|iso8859|koi8|big5|euc|gb|hz|iso2022|johab|kz|ptcp|shift|tis)"
)
"""Of pydantic and the standard library, what no core and no runtime imports: a megabyte less to fetch."""
COMPRESSES_WELL = (".js", ".mjs", ".css", ".json", ".svg", ".wasm")
EPOCH = (1980, 1, 1, 0, 0, 0)


def _own_files() -> Iterator[tuple[str, bytes]]:
    for file in (PACKAGE / "__init__.py", PACKAGE / "core" / "__init__.py"):
        yield str(file.relative_to(PACKAGE.parent)), file.read_bytes()
    for file in source_files():
        yield str(file.relative_to(PACKAGE.parent)), file.read_bytes()


def _wheel_files(wheels: Iterable[Path]) -> Iterator[tuple[str, bytes]]:
    for wheel in sorted(wheels):
        with zipfile.ZipFile(wheel) as packed:
            for name in sorted(packed.namelist()):
                if not name.endswith("/") and not name.endswith(NOT_NEEDED) and NOT_IMPORTED.match(name) is None:
                    yield name, packed.read(name)


def _zip(file: Path, contents: Iterable[tuple[str, bytes]]) -> Path:
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=9) as packed:
        for name, content in contents:
            packed.writestr(zipfile.ZipInfo(name, EPOCH), content, zipfile.ZIP_DEFLATED, 9)
    return file


def pack(wheels: Path, runtime: Path, out: Path) -> str:
    """Write the archive, the runtime and `core.json`, which names every file. The same files give the same bytes.

    Returns:
        The digest of the archive, in hex.
    """
    shutil.rmtree(out, ignore_errors=True)
    out.mkdir(parents=True)
    archive = _zip(out / "core.zip", (*_wheel_files(wheels.glob("*.whl")), *_own_files()))
    library = _zip(out / "python_stdlib.zip", list(_wheel_files([runtime / "python_stdlib.zip"])))
    subprocess.run(["node", str(COMPILER), str(archive), str(library)], check=True)
    digest = hashlib.sha256(archive.read_bytes()).hexdigest()
    named = archive.rename(out / f"core-{digest[:16]}.zip")
    version = json.loads((runtime / "package.json").read_text())["version"]
    home = out / "runtime"
    home.mkdir()
    for name in RUNTIME:
        shutil.copyfile(runtime / name, home / name)
    library.replace(home / library.name)
    of_it = hashlib.sha256(b"".join((home / name).read_bytes() for name in RUNTIME)).hexdigest()
    home = home.rename(out / f"runtime-{version}-{of_it[:8]}")
    files = [named.name, *(f"{home.name}/{name}" for name in RUNTIME)]
    told = {"core": source_digest(), "digest": digest, "archive": named.name, "runtime": home.name, "files": files}
    (out / "core.json").write_text(json.dumps(told))
    return digest


def compress(folder: Path) -> None:
    """Write a compressed copy beside each file of a folder whose type compresses well."""
    for file in [each for each in folder.rglob("*") if each.suffix in COMPRESSES_WELL]:
        Path(f"{file}{COMPRESSED}").write_bytes(gzip.compress(file.read_bytes(), mtime=0))


if __name__ == "__main__":
    pack(*(Path(given) for given in sys.argv[1:4]))
    for name in BUILT:
        compress(Path(sys.argv[3]).parent / name)
