"""Packs the core for tablets: the run path, what it imports, and the runtime. `python -m … WHEELS RUNTIME OUT`."""

import hashlib
import json
import re
import shutil
import sys
import zipfile
from collections.abc import Iterable, Iterator
from pathlib import Path

from tight_ledger.core.base.source import source_digest, source_files

PACKAGE = Path(__file__).parents[1]
RUNTIME = ("pyodide.mjs", "pyodide.asm.mjs", "pyodide.asm.wasm", "python_stdlib.zip", "pyodide-lock.json")
NOT_NEEDED = (".pyi", "/RECORD", "/WHEEL", "/py.typed")
NOT_IMPORTED = re.compile(
    r"pydantic/(v1/|mypy\.py)|(multiprocessing|xml|_pyrepl|unittest|xmlrpc|wsgiref|pydoc_data|ensurepip)/"
    r"|(pdb|doctest|pydoc|imaplib|turtle)\.py|encodings/(cp(?!437)|mac_|iso8859|koi8|big5|euc|gb|hz|iso2022|johab|kz|ptcp|shift|tis)"
)
"""Of pydantic and the standard library, what no core and no runtime imports: a megabyte less to fetch."""
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
    """Write the archive, the runtime and `core.json`, which names them. The same files give the same bytes.

    Returns:
        The digest of the archive, in hex.
    """
    shutil.rmtree(out, ignore_errors=True)
    out.mkdir(parents=True)
    archive = _zip(out / "core.zip", (*_wheel_files(wheels.glob("*.whl")), *_own_files()))
    digest = hashlib.sha256(archive.read_bytes()).hexdigest()
    named = archive.rename(out / f"core-{digest[:16]}.zip")
    version = json.loads((runtime / "package.json").read_text())["version"]
    home = out / "runtime"
    home.mkdir()
    for name in RUNTIME:
        shutil.copyfile(runtime / name, home / name)
    library = home / "python_stdlib.zip"
    _zip(library, list(_wheel_files([library])))
    of_it = hashlib.sha256(b"".join((home / name).read_bytes() for name in RUNTIME)).hexdigest()
    home = home.rename(out / f"runtime-{version}-{of_it[:8]}")
    told = {"core": source_digest(), "digest": digest, "archive": named.name, "runtime": home.name}
    (out / "core.json").write_text(json.dumps(told))
    return digest


if __name__ == "__main__":
    pack(*(Path(given) for given in sys.argv[1:4]))
