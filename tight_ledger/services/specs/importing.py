"""A file of specs comes in: a rehearsal first, then all of it or nothing. It is read piece by piece, beside other work."""

import asyncio
import time
from collections.abc import AsyncIterator, Awaitable, Callable, Iterator
from contextlib import suppress
from datetime import timedelta
from itertools import islice
from pathlib import Path
from typing import TypeVar
from uuid import UUID

from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Fault, Invalid, NotOnFile
from tight_ledger.core.base.models import canonical
from tight_ledger.core.spec_table.files import FORMAT, Candidate, FileRow, FileVerdict, judge
from tight_ledger.core.specs.spec import Spec
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.imports import ImportProgress, ImportTrouble, Read, Rehearsal
from tight_ledger.services.specs.revisions import file_specs
from tight_ledger.store import imports as import_store
from tight_ledger.store import search as search_store
from tight_ledger.store import specs as spec_store
from tight_ledger.store.database import DatabaseAway
from tight_ledger.store.ledger import moment

AT_ONCE = 200
MOST_SHOWN, MOST_FINE_SHOWN = 300, 100
MOST_KEPT = 8
STORED_EVERY_S = 0.3
GIVEN_UP = timedelta(minutes=2)
"""After this without a sign of life, the server process that worked on an import was stopped."""
_STOPPED = ImportTrouble(
    field="file", fault="The server was stopped while it read this file.", remedy="Nothing was written. Send it again."
)
TO_WRITE: frozenset[FileVerdict] = frozenset({"new", "revision", "asks"})
T = TypeVar("T")


async def _pieces(reading: Iterator[T]) -> AsyncIterator[list[T]]:
    """Items in batches, each read in a thread so that the event loop is free."""
    while piece := await asyncio.to_thread(lambda: list(islice(reading, AT_ONCE))):
        yield piece


async def receive(context: Context, import_id: UUID, name: str, path: Path, read: Read) -> ImportProgress:
    """Take a file in and begin its rehearsal; the same id twice is one file. Nothing is written to the library."""
    sent = ImportProgress(id=import_id, name=name, state="judging", done=0, rehearsal=Rehearsal())
    now = moment(context.now())
    new = await context.database.run(
        lambda connection: import_store.add(connection, import_id, sent.state, sent.model_dump_json(), now, MOST_KEPT), transaction=True
    )
    if not new:
        path.unlink(missing_ok=True)
        return await look(context, import_id)
    context.begin(_Work(context, sent).guarded(lambda work: work.rehearse(path, read)))
    return sent


async def look(context: Context, import_id: UUID) -> ImportProgress:
    """How far an import is.

    Raises:
        NotOnFile: none has this id.
    """
    found = await context.database.run(lambda connection: import_store.find(connection, import_id))
    if found is None:
        raise NotOnFile("file", "This file is no longer here.", "Send it again.")
    state, content, touched_at = found
    sent = ImportProgress.model_validate_json(content).model_copy(update={"state": state})
    if state in ("judging", "writing") and moment(context.now()) - touched_at > GIVEN_UP:
        return sent.model_copy(update={"state": "failed", "trouble": _STOPPED})
    return sent


async def bring_in(context: Context, actor: Actor, import_id: UUID, affirmed: bool) -> ImportProgress:
    """Begin to put all of it on file, as drafts, in one transaction.

    Raises:
        NotOnFile: none has this id.
        Invalid: it was refused, asks and nobody answered, or is not judged yet.
    """
    sent = await look(context, import_id)
    told = sent.rehearsal
    if sent.state in ("writing", "done"):
        return sent
    if sent.state != "judged" or told.refused:
        raise Invalid("file", "This file is not ready to come in.", "Look at its rehearsal.")
    if told.asks and not affirmed:
        raise Invalid("file", f"{told.asks} figures are unlikely.", "Look at them, and say that they are as written.")
    now = moment(context.now())
    if await context.database.run(lambda connection: import_store.claim(connection, import_id, "judged", "writing", now)):
        sent = sent.model_copy(update={"state": "writing", "done": 0})
        context.begin(_Work(context, sent).guarded(lambda work: work.write(actor)))
        return sent
    return await look(context, import_id)


class _Work:
    """The work on an import, with its progress, which is stored a few times a second."""

    def __init__(self, context: Context, progress: ImportProgress) -> None:
        self.context, self.progress, self._stored_at = context, progress, 0.0

    async def guarded(self, work: Callable[["_Work"], Awaitable[None]]) -> None:
        """Do some work; an error is kept as the import's trouble, and nothing goes on file."""
        try:
            await work(self)
        except Fault as fault:
            await self._fail(ImportTrouble(field=fault.field, fault=fault.fault, remedy=fault.remedy))
        except DatabaseAway:
            await self._fail(ImportTrouble(field="file", fault="The database is away.", remedy="Nothing was written. Send the file again."))
        except IntegrityError:
            taken = "Somebody else put one of these specs on file meanwhile."
            await self._fail(ImportTrouble(field="file", fault=taken, remedy="Send the file again."))
        except Exception:
            broken = "The file could not be read to its end."
            await self._fail(ImportTrouble(field="file", fault=broken, remedy="Nothing was written. Look at the file."))
            raise

    async def _fail(self, trouble: ImportTrouble) -> None:
        with suppress(DatabaseAway):
            await self.store(state="failed", trouble=trouble)

    async def store(self, **changes: object) -> None:
        """Change the progress and store it."""
        self.progress = progress = self.progress.model_copy(update=changes)
        self._stored_at, now = time.monotonic(), moment(self.context.now())
        await self.context.database.run(
            lambda connection: import_store.put(connection, progress.id, progress.state, progress.model_dump_json(), now)
        )

    async def _tell(self, **changes: object) -> None:
        """Change the progress; store it if that was not done just now."""
        self.progress = self.progress.model_copy(update=changes)
        if time.monotonic() - self._stored_at > STORED_EVERY_S:
            await self.store()

    async def rehearse(self, path: Path, read: Read) -> None:
        """Judge every spec of the file, and keep those that can come in."""
        rehearsal, database, import_id = _Rehearsing(), self.context.database, self.progress.id
        try:
            place = 0
            async for piece in _pieces(read(path)):
                ids = {candidate.spec.id for candidate in piece if candidate.spec is not None}
                on_file = await database.run(lambda connection, ids=ids: spec_store.digests(connection, ids))  # type: ignore[misc]
                accepted = await asyncio.to_thread(rehearsal.judge, piece, on_file)
                if accepted:
                    await database.run(
                        lambda connection, place=place, accepted=accepted: import_store.add_piece(connection, import_id, place, accepted)  # type: ignore[misc]
                    )
                    place += 1
                await self._tell(done=rehearsal.done, rehearsal=rehearsal.so_far())
            await self.store(state="judged", done=rehearsal.done, rehearsal=rehearsal.so_far())
        finally:
            path.unlink(missing_ok=True)

    async def write(self, actor: Actor) -> None:
        """Put everything that was accepted on file, in one transaction."""
        import_id = self.progress.id

        async def work(connection: AsyncConnection) -> None:
            place = done = 0
            while (piece := await import_store.piece(connection, import_id, place)) is not None:
                filed = await asyncio.to_thread(_filed, piece)
                await file_specs(self.context, connection, actor, filed)
                place, done = place + 1, done + len(filed)
                await self._tell(done=done)
            await import_store.forget_pieces(connection, import_id)
            self.progress = self.progress.model_copy(update={"done": done})

        await self.context.database.run(work, transaction=True)
        await self.store(state="done")


class _Rehearsing:
    """What was found in a file so far."""

    def __init__(self) -> None:
        self.done = 0
        self._came: dict[UUID, dict[int, str]] = {}  # by spec, the newest revision that came earlier in this file
        self._counts: dict[FileVerdict, int] = dict.fromkeys(("new", "revision", "same", "asks", "refused"), 0)
        self._bad: list[FileRow] = []
        self._fine: list[FileRow] = []

    def judge(self, piece: list[Candidate], on_file: dict[UUID, dict[int, str]]) -> str:
        """Judge a batch; gives the accepted specs, a digest and a content in each line."""
        lines = []
        for candidate in piece:
            spec = candidate.spec
            known = on_file.get(spec.id, {}) | self._came.get(spec.id, {}) if spec is not None else {}
            rows = judge(candidate, known, affirmed=False)
            self._counts[rows[0].verdict] += 1
            (self._bad if rows[0].fault else self._fine).extend(rows)
            if spec is not None and rows[0].verdict in TO_WRITE:
                filed = spec_store.Filed.of(spec)
                self._came[spec.id] = {spec.revision: filed.digest}
                lines.append(f"{filed.digest} {filed.content}")
        del self._bad[MOST_SHOWN:], self._fine[MOST_FINE_SHOWN:]
        self.done += len(piece)
        return "\n".join(lines)

    def so_far(self) -> Rehearsal:
        """The rehearsal so far."""
        shown = tuple(sorted((*self._bad, *self._fine), key=lambda row: row.number))
        return Rehearsal(rows=shown, specs=self.done, **self._counts)


def _filed(piece: str) -> list[spec_store.Filed]:
    parts = (line.partition(" ") for line in piece.split("\n"))
    return [spec_store.Filed(Spec.model_validate_json(content), digest, content) for digest, _, content in parts]


async def document(context: Context, *, drafts: bool = True) -> AsyncIterator[bytes]:
    """Every spec that is in force as one JSON document, piece by piece: canonical, by id.

    Args:
        drafts: include those that are not checked yet.
    """
    yield b'{"format":"' + FORMAT.encode() + b'","specs":['
    first = True
    async for batch in in_force(context, drafts=drafts):
        for spec in batch:
            yield (b"" if first else b",") + canonical(spec)
            first = False
    yield b'],"version":1}'


async def in_force(context: Context, *, drafts: bool = True) -> AsyncIterator[list[Spec]]:
    """Every spec that is in force, by id, in batches.

    Args:
        drafts: include those that are not checked yet.
    """
    last = UUID(int=0)
    while True:
        named = await context.database.run(lambda connection, last=last: search_store.in_force(connection, last, AT_ONCE, drafts=drafts))  # type: ignore[misc]
        if not named:
            return
        last = named[-1][0]
        specs = await context.database.run(lambda connection, named=named: spec_store.read_many(connection, named))  # type: ignore[misc]
        yield sorted(specs, key=lambda spec: spec.id)
