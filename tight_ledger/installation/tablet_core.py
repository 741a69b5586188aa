"""Packs the core for tablets: the run path, what it imports, and the runtime. `python -m … WHEELS RUNTIME OUT`."""

import hashlib
import json
import shutil
import sys
import zipfile
from collections.abc import Iterator
from pathlib import Path

from tight_ledger.core.base.source import source_digest, source_files

PACKAGE = Path(__file__).parents[1]
RUNTIME = ("pyodide.mjs", "pyodide.asm.mjs", "pyodide.asm.wasm", "python_stdlib.zip", "pyodide-lock.json")
NOT_NEEDED = (".pyi", "/RECORD", "/WHEEL", "/py.typed")
EPOCH = (1980, 1, 1, 0, 0, 0)


def _own_files() -> Iterator[tuple[str, bytes]]:
    for file in (PACKAGE / "__init__.py", PACKAGE / "core" / "__init__.py"):
        yield str(file.relative_to(PACKAGE.parent)), file.read_bytes()
    for file in source_files():
        yield str(file.relative_to(PACKAGE.parent)), file.read_bytes()


def _wheel_files(wheels: Path) -> Iterator[tuple[str, bytes]]:
    for wheel in sorted(wheels.glob("*.whl")):
        with zipfile.ZipFile(wheel) as packed:
            for name in sorted(packed.namelist()):
                if not name.endswith("/") and not name.endswith(NOT_NEEDED):
                    yield name, packed.read(name)


def pack(wheels: Path, runtime: Path, out: Path) -> str:
    """Write the archive, the runtime and `core.json`, which names them. The same files give the same bytes.

    Returns:
        The digest of the archive, in hex.
    """
    shutil.rmtree(out, ignore_errors=True)
    out.mkdir(parents=True)
    archive = out / "core.zip"
    with zipfile.ZipFile(archive, "w", zipfile.ZIP_DEFLATED, compresslevel=9) as packed:
        for name, content in (*_wheel_files(wheels), *_own_files()):
            packed.writestr(zipfile.ZipInfo(name, EPOCH), content, zipfile.ZIP_DEFLATED, 9)
    digest = hashlib.sha256(archive.read_bytes()).hexdigest()
    named = archive.rename(out / f"core-{digest[:16]}.zip")
    version = json.loads((runtime / "package.json").read_text())["version"]
    (out / f"runtime-{version}").mkdir()
    for name in RUNTIME:
        shutil.copyfile(runtime / name, out / f"runtime-{version}" / name)
    told = {"core": source_digest(), "digest": digest, "archive": named.name, "runtime": f"runtime-{version}"}
    (out / "core.json").write_text(json.dumps(told))
    return digest


if __name__ == "__main__":
    pack(*(Path(given) for given in sys.argv[1:4]))
