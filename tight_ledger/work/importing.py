"""A file of specs comes in: a rehearsal first, then all of it or nothing. It is read piece by piece, beside other work."""

import asyncio
from collections.abc import AsyncIterator, Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from itertools import islice
from pathlib import Path
from typing import Literal
from uuid import UUID

from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base import Fault, Invalid, Model, NotOnFile, Stale
from tight_ledger.core.spec_files import Candidate, Row, Verdict, judge
from tight_ledger.core.specs import Spec
from tight_ledger.store import files, finding
from tight_ledger.store.database import DatabaseAway
from tight_ledger.work.library import file_specs
from tight_ledger.work.office import Actor, Office

Read = Callable[[Path], Iterator[Candidate]]
State = Literal["judging", "judged", "writing", "done", "failed"]
AT_ONCE = 200
MOST_SHOWN, MOST_FINE_SHOWN = 300, 100
MOST_KEPT = 8


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

    async def pieces(self) -> AsyncIterator[list[Candidate]]:
        """The file from its beginning, a few specs at a time; read in a thread, so that others are served meanwhile."""
        reading = self.read(self.path)
        while piece := await asyncio.to_thread(lambda: list(islice(reading, AT_ONCE))):
            yield piece


def receive(office: Office, actor: Actor, import_id: UUID, name: str, path: Path, read: Read) -> Progress:
    """Take a file in and begin its rehearsal. Nothing is written to the library."""
    while len(office.imports) >= MOST_KEPT:
        _, oldest = office.imports.popitem(last=False)
        if oldest.task is not None:
            oldest.task.cancel()
        oldest.path.unlink(missing_ok=True)
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


class _Known:
    """The revisions on file, and those that came earlier in this file."""

    def __init__(self) -> None:
        self._came: dict[UUID, dict[int, str]] = {}

    async def of(self, connection: AsyncConnection, piece: list[Candidate]) -> dict[UUID, dict[int, str]]:
        ids = {one.spec.id for one in piece if one.spec is not None}
        on_file = await files.digests(connection, ids)
        return {spec: on_file.get(spec, {}) | self._came.get(spec, {}) for spec in ids}

    def came(self, spec: Spec, digest: str) -> None:
        self._came[spec.id] = {spec.revision: digest}


async def _rehearse(office: Office, one: Import) -> None:
    known = _Known()
    counts: dict[Verdict, int] = dict.fromkeys(("new", "revision", "same", "asks", "refused"), 0)
    bad: list[Row] = []
    fine: list[Row] = []
    async for piece in one.pieces():
        on_file = await office.database.run(lambda connection, piece=piece: known.of(connection, piece))  # type: ignore[misc]
        judged = await asyncio.to_thread(_judge_all, piece, on_file)
        for candidate, (rows, digest) in zip(piece, judged, strict=True):
            counts[rows[0].verdict] += 1
            (bad if rows[0].fault else fine).extend(rows)
            if candidate.spec is not None:
                known.came(candidate.spec, digest)
        del bad[MOST_SHOWN:], fine[MOST_FINE_SHOWN:]
        one.done += len(piece)
        shown = tuple(sorted((*bad, *fine), key=lambda row: row.number))
        one.rehearsal = Rehearsal(rows=shown, specs=one.done, **counts)
    one.state = "judged"


def _judge_all(piece: list[Candidate], on_file: dict[UUID, dict[int, str]]) -> list[tuple[tuple[Row, ...], str]]:
    """The rows of each candidate, and the digest of its content."""
    found = []
    for candidate in piece:
        known = on_file[candidate.spec.id] if candidate.spec is not None else {}
        rows, digest = judge(candidate, known, affirmed=False), ""
        if candidate.spec is not None and rows[0].verdict != "refused":
            digest = known[candidate.spec.revision] = candidate.spec.digest
        found.append((rows, digest))
    return found


async def _write(office: Office, one: Import) -> None:
    async def work(connection: AsyncConnection) -> None:
        one.done = 0
        async for piece in one.pieces():
            await file_specs(office, connection, one.actor, [candidate.spec for candidate in piece if candidate.spec is not None])
            one.done += len(piece)

    await office.database.run(work, transaction=True)
    one.state = "done"
    with suppress(OSError):
        one.path.unlink()


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
