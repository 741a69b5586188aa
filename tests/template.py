"""The data of a shop with the demo, loaded once for each version of the code and each day to start on; shops begin as copies of it."""

import fcntl
import hashlib
import shutil
import subprocess
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

ROOT = Path(__file__).parents[1]
PLACE = ROOT / ".tight" / "template"
MOST_KEPT = 8
"""Number of earlier ones that stay: each day to start on has its own."""


def version(at: datetime) -> str:
    """Changes with the program, and with the time at which the demo's data was loaded."""
    digest = hashlib.sha256(at.isoformat().encode())
    for file in sorted((ROOT / "tight_ledger").rglob("*")):
        if file.suffix in (".py", ".csv", ".json"):
            digest.update(file.read_bytes())
    return digest.hexdigest()[:16]


def copy_template(data: Path, at: datetime, load: Callable[[Path, datetime], None]) -> None:
    """Fill the data folder of a new shop.

    Args:
        at: the time at which the demo's data is loaded.
        load: makes the data of such a shop in a folder, and leaves nothing running; called by the first who needs it.
    """
    PLACE.mkdir(parents=True, exist_ok=True)
    with (PLACE / "lock").open("w") as locked:
        fcntl.flock(locked, fcntl.LOCK_EX)
        made = PLACE / version(at)
        if not (made / "whole").exists():
            shutil.rmtree(made, ignore_errors=True)
            for older in sorted(PLACE.glob("*/whole"), key=lambda file: file.stat().st_mtime)[:-MOST_KEPT]:
                shutil.rmtree(older.parent)
            load(made / "data", at)
            (made / "whole").touch()
        data.mkdir(parents=True, exist_ok=True)
        subprocess.run(["cp", "-a", "--sparse=always", f"{made / 'data'}/.", str(data)], check=True)
