"""A file of specs that was sent, and what is known of it."""

import asyncio
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.spec_table.files import Candidate, FileRow
from tight_ledger.services.actors import Actor

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


@dataclass(slots=True)
class Import:
    """A file that was sent, and what is known of it."""

    id: UUID
    name: str
    path: Path
    read: Read
    actor: Actor
    state: State = "judging"
    done: int = 0
    rehearsal: Rehearsal = field(default_factory=Rehearsal)
    trouble: ImportTrouble | None = None
    task: "asyncio.Task[None] | None" = None

    def progress(self) -> ImportProgress:
        """The progress, as it is shown."""
        return ImportProgress(id=self.id, name=self.name, state=self.state, done=self.done, rehearsal=self.rehearsal, trouble=self.trouble)

    @property
    def judged(self) -> Path:
        """The file of accepted specs: a digest and a content in each line."""
        return self.path.with_suffix(".judged")

    def forget(self) -> None:
        """Delete its files."""
        self.path.unlink(missing_ok=True)
        self.judged.unlink(missing_ok=True)
