"""How far a file of specs is that was sent, and what would become of it."""

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Literal
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.spec_table.files import Candidate, FileRow

Read = Callable[[Path], Iterator[Candidate]]


State = Literal["judging", "judged", "writing", "done", "failed"]


class ImportTrouble(Model):
    """Why a file cannot come in."""

    field: str
    fault: str
    remedy: str


class Rehearsal(Model):
    """What would become of a file: how many of each, and the rows that need a look."""

    rows: tuple[FileRow, ...] = ()
    specs: int = 0
    new: int = 0
    revision: int = 0
    same: int = 0
    asks: int = 0
    refused: int = 0


class ImportProgress(Model):
    """How far an import is."""

    id: UUID
    name: str
    state: State
    done: int
    rehearsal: Rehearsal
    trouble: ImportTrouble | None = None
