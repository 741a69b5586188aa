"""The digest of the core that runs: two cores with the same digest judge and compile the same."""

import hashlib
from functools import cache
from pathlib import Path

CORE = Path(__file__).parents[1]
RUN_PATH = (
    "base", "machines", "joints", "mechanics", "simulation", "tools", "adjust", "lab", "specs", "records", "tool_care", "kinds", "planning",
    "runs",
)  # fmt: skip
"""The rooms that a tablet runs too; the others stay on the server."""


def source_files() -> list[Path]:
    """The files of the run path, in the sequence of their names."""
    rooms = [sorted((CORE / room).rglob("*")) for room in RUN_PATH]
    return [file for room in rooms for file in room if file.is_file() and "__pycache__" not in file.parts]


@cache
def source_digest() -> str:
    """SHA-256 over the names and contents of the files of the run path, in hex."""
    found = hashlib.sha256()
    for file in source_files():
        content = file.read_bytes()
        found.update(f"{file.relative_to(CORE).as_posix()} {len(content)}\n".encode())
        found.update(content)
    return found.hexdigest()
