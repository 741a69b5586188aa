"""The clock of this installation: the machine's own, or one that a file says, for tests and pictures."""

import os
from datetime import UTC, datetime
from pathlib import Path

VARIABLE = "TIGHT_CLOCK"
"""Names the file, in the environment of every command and of every process that it starts."""


def of_the_machine() -> datetime:
    """The time of this machine, in UTC: for the dates of a certificate, which a browser holds against its own machine's."""
    return datetime.now(UTC)


def now() -> datetime:
    """The time that it is, in UTC. Nothing else in the program asks the machine for it."""
    file = os.environ.get(VARIABLE)
    if not file:
        return of_the_machine()
    return datetime.fromisoformat(Path(file).read_text(encoding="utf-8").strip())
