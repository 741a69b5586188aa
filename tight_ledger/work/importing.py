"""A file of specs comes in: a rehearsal first, then all of it or nothing. It is read piece by piece, beside other work."""

import asyncio
from collections.abc import AsyncIterator, Callable, Iterator
from dataclasses import dataclass, field
from itertools import islice
from pathlib import Path
from typing import Literal, TypeVar
from uuid import UUID

from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Fault, Invalid, NotOnFile, Stale
from tight_ledger.core.base.models import Model
from tight_ledger.core.spec_table.files import Candidate, Row, Verdict, judge
from tight_ledger.core.specs.spec import Spec
from tight_ledger.store import files, finding
from tight_ledger.store.database import DatabaseAway
from tight_ledger.work.library import file_specs
from tight_ledger.work.office import Actor, Office

Read = Callable[[Path], Iterator[Candidate]]
State = Literal["judging", "judged", "writing", "done", "failed"]
AT_ONCE = 200
MOST_SHOWN, MOST_FINE_SHOWN = 300, 100
MOST_KEPT = 8
TO_WRITE: frozenset[Verdict] = frozenset({"new", "revision", "asks"})
T = TypeVar("T")


class Trouble(Model):
    """Why a file cannot come in."""

    field: str
    fault: str
    remedy: str


class Rehearsal(Model):
    """What would become of a file: how many of each, and the rows that need a look."""

    rows: tuple[Row, ...] = ()
    specs: int = 0
    new: int = 0
    revision: int = 0
    same: int = 0
    asks: int = 0
    refused: int = 0


class Progress(Model):
    """How far an import is."""

    id: UUID
    name: str
    state: State
    done: int
    rehearsal: Rehearsal
    trouble: Trouble | None = None


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
    trouble: Trouble | None = None
    task: "asyncio.Task[None] | None" = None

    def progress(self) -> Progress:
        """As it is shown."""
        return Progress(id=self.id, name=self.name, state=self.state, done=self.done, rehearsal=self.rehearsal, trouble=self.trouble)

    @property
    def judged(self) -> Path:
        """What was found good, ready to be written: a digest and a content in each line."""
        return self.path.with_suffix(".judged")

    def forget(self) -> None:
        """Leave nothing on the disk."""
        self.path.unlink(missing_ok=True)
        self.judged.unlink(missing_ok=True)


async def _pieces(reading: Iterator[T]) -> AsyncIterator[list[T]]:
    """A few at a time, made in a thread, so that others are served meanwhile."""
    while piece := await asyncio.to_thread(lambda: list(islice(reading, AT_ONCE))):
        yield piece


def receive(office: Office, actor: Actor, import_id: UUID, name: str, path: Path, read: Read) -> Progress:
    """Take a file in and begin its rehearsal; the same id twice is once. Nothing is written to the library."""
    if import_id in office.imports:
        path.unlink(missing_ok=True)
        return office.imports[import_id].progress()
    while len(office.imports) >= MOST_KEPT:
        _, oldest = office.imports.popitem(last=False)
        if oldest.task is not None:
            oldest.task.cancel()
        oldest.forget()
    one = office.imports[import_id] = Import(import_id, name, path, read, actor)
    one.task = asyncio.create_task(_guarded(one, _rehearse(office, one)))
    return one.progress()


def look(office: Office, import_id: UUID) -> Import:
    """An import that was received.

    Raises:
        NotOnFile: none has this id; the program may have been started anew.
    """
    if import_id not in office.imports:
        raise NotOnFile("file", "This file is no longer here.", "Send it again.")
    return office.imports[import_id]


def bring_in(office: Office, actor: Actor, import_id: UUID, affirmed: bool) -> Progress:
    """Begin to put all of it on file, as drafts, in one transaction.

    Raises:
        Invalid: it was refused, asks and nobody answered, or is not judged yet.
    """
    one = look(office, import_id)
    told = one.rehearsal
    if one.state in ("writing", "done"):
        return one.progress()
    if one.state != "judged" or told.refused:
        raise Invalid("file", "This file is not ready to come in.", "Look at its rehearsal.")
    if told.asks and not affirmed:
        raise Invalid("file", f"{told.asks} figures are unlikely.", "Look at them, and say that they are as written.")
    one.state, one.done, one.actor = "writing", 0, actor
    one.task = asyncio.create_task(_guarded(one, _write(office, one)))
    return one.progress()


async def _guarded(one: Import, work: "asyncio.Future[None] | object") -> None:
    """Whatever goes wrong is told; the file as a whole stays outside."""
    try:
        await work  # type: ignore[misc]
    except Fault as fault:
        one.trouble, one.state = Trouble(field=fault.field, fault=fault.fault, remedy=fault.remedy), "failed"
    except DatabaseAway:
        one.trouble = Trouble(field="file", fault="The database is away.", remedy="Nothing was written. Send the file again.")
        one.state = "failed"
    except IntegrityError:
        taken = Stale("file", "Somebody else put one of these specs on file meanwhile.", "Send the file again.")
        one.trouble, one.state = Trouble(field="file", fault=taken.fault, remedy=taken.remedy), "failed"
    except Exception:
        one.trouble = Trouble(field="file", fault="The file could not be read to its end.", remedy="Nothing was written. Look at the file.")
        one.state = "failed"
        raise


async def _rehearse(office: Office, one: Import) -> None:
    came: dict[UUID, dict[int, str]] = {}  # by spec, the newest revision that came earlier in this file
    counts: dict[Verdict, int] = dict.fromkeys(("new", "revision", "same", "asks", "refused"), 0)
    bad: list[Row] = []
    fine: list[Row] = []

    def judge_all(piece: list[Candidate], on_file: dict[UUID, dict[int, str]]) -> str:
        lines = []
        for candidate in piece:
            spec = candidate.spec
            known = on_file.get(spec.id, {}) | came.get(spec.id, {}) if spec is not None else {}
            rows = judge(candidate, known, affirmed=False)
            counts[rows[0].verdict] += 1
            (bad if rows[0].fault else fine).extend(rows)
            if spec is not None and rows[0].verdict in TO_WRITE:
                filed = files.Filed.of(spec)
                came[spec.id] = {spec.revision: filed.digest}
                lines.append(f"{filed.digest} {filed.content}\n")
        return "".join(lines)

    with one.judged.open("w", encoding="utf-8") as judged:
        async for piece in _pieces(one.read(one.path)):
            ids = {candidate.spec.id for candidate in piece if candidate.spec is not None}
            on_file = await office.database.run(lambda connection, ids=ids: files.digests(connection, ids))  # type: ignore[misc]
            judged.write(await asyncio.to_thread(judge_all, piece, on_file))
            del bad[MOST_SHOWN:], fine[MOST_FINE_SHOWN:]
            one.done += len(piece)
            shown = tuple(sorted((*bad, *fine), key=lambda row: row.number))
            one.rehearsal = Rehearsal(rows=shown, specs=one.done, **counts)
    one.state = "judged"


def _filed(path: Path) -> Iterator[files.Filed]:
    with path.open(encoding="utf-8", newline="\n") as file:
        for line in file:
            digest, _, content = line.rstrip("\n").partition(" ")
            yield files.Filed(Spec.model_validate_json(content), digest, content)


async def _write(office: Office, one: Import) -> None:
    async def work(connection: AsyncConnection) -> None:
        one.done = 0
        async for piece in _pieces(_filed(one.judged)):
            await file_specs(office, connection, one.actor, piece)
            one.done += len(piece)

    await office.database.run(work, transaction=True)
    one.state = "done"
    one.forget()


async def in_force(office: Office) -> AsyncIterator[list[Spec]]:
    """Every spec that is worked to, by id, some at a time."""
    last = UUID(int=0)
    while True:
        named = await office.database.run(lambda connection, last=last: finding.in_force(connection, last, AT_ONCE))  # type: ignore[misc]
        if not named:
            return
        last = named[-1][0]
        specs = await office.database.run(lambda connection, named=named: files.specs(connection, named))  # type: ignore[misc]
        yield sorted(specs, key=lambda spec: spec.id)
