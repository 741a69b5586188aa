"""The ledger: streams of sealed entries. The only writes are inserts."""

import asyncio
from collections import OrderedDict
from collections.abc import Awaitable, Callable, Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol, TypeGuard
from uuid import UUID

from pydantic import ValidationError
from sqlalchemy import Integer, cast, func, insert, select
from sqlalchemy.dialects.mysql import insert as upsert
from sqlalchemy.exc import DataError, DBAPIError, IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, Stale, Unreadable
from tight_ledger.core.base.models import canonical
from tight_ledger.core.proof.keys import SigningKey
from tight_ledger.core.records.entries import WITH_A_TOOL, Entry
from tight_ledger.core.records.notes import Note
from tight_ledger.core.records.sameness import says_the_same
from tight_ledger.core.records.seals import FIRST, seal
from tight_ledger.core.records.told import tells
from tight_ledger.store.database import DUPLICATE, Database, error_code, key_of
from tight_ledger.store.tables import ledger, told_stale

MOST_BYTES, MOST_BYTES_WITH_PLAN = 64 * 1024, 1024 * 1024
"""Largest entry; and with a plan, which has a line for every pull of every fastener."""


@dataclass(frozen=True, slots=True)
class Stored:
    """An entry's place in the ledger."""

    id: UUID
    seq: int
    body: bytes
    seal: bytes
    entry: Entry | Note | None = None
    """The entry as it was built; None if it was recorded before."""


class Build(Protocol):
    """Makes the entry, given its seq."""

    def __call__(self, seq: int) -> Entry | Note: ...


Also = Callable[[AsyncConnection], Awaitable[None]]


async def _nothing(_connection: AsyncConnection) -> None:
    """Nothing else belongs to the entry."""


async def head(connection: AsyncConnection, stream: UUID) -> tuple[int, bytes]:
    """The newest seq and seal of a stream; (0, the first seal) before its first entry."""
    query = select(ledger.c.seq, ledger.c.seal).where(ledger.c.stream == stream).order_by(ledger.c.seq.desc()).limit(1)
    row = (await connection.execute(query)).first()
    return (row.seq, bytes(row.seal)) if row else (0, FIRST)


async def heads(connection: AsyncConnection, streams: Collection[UUID]) -> dict[UUID, tuple[int, bytes]]:
    """By stream, its newest seq and seal; (0, the first seal) before its first entry."""
    newest = select(ledger.c.stream, func.max(ledger.c.seq).label("seq")).where(ledger.c.stream.in_(streams)).group_by(ledger.c.stream)
    top = newest.subquery()
    query = select(ledger.c.stream, ledger.c.seq, ledger.c.seal).join(top, (ledger.c.stream == top.c.stream) & (ledger.c.seq == top.c.seq))
    found = {row.stream: (row.seq, bytes(row.seal)) for row in await connection.execute(query)}
    return {stream: found.get(stream, (0, FIRST)) for stream in streams}


async def newest(connection: AsyncConnection) -> dict[tuple[str, str], str]:
    """When the newest entry of each kind was recorded, by subject and kind; changes with every entry."""
    query = select(ledger.c.subject, ledger.c.kind, func.max(ledger.c.at_server).label("at")).group_by(ledger.c.subject, ledger.c.kind)
    return {(row.subject, row.kind): str(row.at) for row in await connection.execute(query)}


async def bodies_of(connection: AsyncConnection, ids: Collection[UUID]) -> dict[UUID, str]:
    """By id, what is stored of those entries that are on file."""
    rows = await connection.execute(select(ledger.c.id, ledger.c.body).where(ledger.c.id.in_(ids)))
    return {row.id: row.body for row in rows}


def used_elsewhere() -> Stale:
    """The refusal of an id that belongs to another entry."""
    return Stale("id", "This id stands for something else already.", "Press again; a new one is made.")


async def recorded(connection: AsyncConnection, stream: UUID, entry_id: UUID, build: Build) -> Stored | None:
    """The entry that was recorded of a command; None if none was.

    Args:
        stream: where its entry stands.
        build: makes what would be recorded now; it must say the same.

    Raises:
        Stale: the id belongs to another entry, or to one that says something else.
    """
    query = select(ledger.c.id, ledger.c.stream, ledger.c.seq, ledger.c.body, ledger.c.seal).where(ledger.c.id == entry_id)
    row = (await connection.execute(query)).first()
    if row is None:
        return None
    if row.stream != stream or not says_the_same(row.body, canonical(build(row.seq))):
        raise used_elsewhere()
    return Stored(row.id, row.seq, row.body.encode(), bytes(row.seal))


@dataclass(frozen=True, slots=True)
class _Sealed:
    entry: Entry | Note
    body: bytes
    seal: bytes

    def row(self, subject: str, stream: UUID, key: SigningKey | None) -> dict[str, object]:
        entry = self.entry
        return {
            "stream": stream, "seq": entry.seq, "id": entry.id, "subject": subject, "kind": entry.kind,
            "at_server": entry.at_server.replace(tzinfo=None), "tool": _pulled_with(entry), "body": self.body.decode(), "seal": self.seal,
            "mark": key.mark(stream, entry.seq, self.seal) if key is not None else None,
        }  # fmt: skip

    def stored(self) -> Stored:
        return Stored(self.entry.id, self.entry.seq, self.body, self.seal, self.entry)


def _pulled_with(entry: Entry | Note) -> UUID | None:
    return entry.tools[0] if isinstance(entry, Entry) and entry.kind in WITH_A_TOOL and entry.tools else None


def _sealed(build: Build, at: tuple[int, bytes]) -> _Sealed:
    entry = build(at[0] + 1)
    body = canonical(entry)
    if len(body) > (MOST_BYTES_WITH_PLAN if isinstance(entry, Entry) and entry.started is not None else MOST_BYTES):
        raise Invalid("entry", "This entry is too long.", f"An entry has at most {MOST_BYTES // 1024} kB.")
    return _Sealed(entry, body, seal(at[1], body))


async def add(connection: AsyncConnection, subject: str, stream: UUID, build: Build, at: tuple[int, bytes]) -> Stored:
    """Insert the entry after the head given. Raises IntegrityError if the place or the id is taken."""
    sealed = _sealed(build, at)
    await connection.execute(insert(ledger), sealed.row(subject, stream, key_of(connection)))
    await _mark(connection, [sealed.entry])
    return sealed.stored()


async def _mark(connection: AsyncConnection, added: Iterable[Entry | Note]) -> None:
    """Say of which streams what they have told is out of date; in the transaction that makes it so."""
    marks = {note.stream: {"stream": note.stream, "subject": note.subject, "mark": note.id} for note in added if _tells(note)}
    if marks:
        statement = upsert(told_stale)
        await connection.execute(statement.on_duplicate_key_update(mark=statement.inserted.mark), list(marks.values()))


def _tells(entry: Entry | Note) -> TypeGuard[Note]:
    return isinstance(entry, Note) and tells(entry)


async def begin(connection: AsyncConnection, subject: str, stream: UUID, build: Build) -> Stored:
    """Insert the first entry of a stream.

    Raises:
        Stale: the id is that of another stream.
    """
    await require_free(connection, [stream])
    return await add(connection, subject, stream, build, (0, FIRST))


async def require_free(connection: AsyncConnection, streams: Collection[UUID]) -> None:
    """Check that none of these streams has begun.

    Raises:
        Stale: one has.
    """
    query = select(ledger.c.stream).where(ledger.c.stream.in_(streams), ledger.c.seq == 1).limit(1)
    if (await connection.execute(query)).first() is not None:
        raise used_elsewhere()


async def add_next(connection: AsyncConnection, subject: str, stream: UUID, build: Build) -> Stored:
    """Insert an entry after the newest of its stream. Raises IntegrityError if another came first; the transaction is then repeated."""
    return await add(connection, subject, stream, build, await head(connection, stream))


async def add_many(connection: AsyncConnection, subject: str, builds: Sequence[tuple[UUID, Sequence[Build], tuple[int, bytes]]]) -> None:
    """Insert entries into several streams, each after the head given. Raises IntegrityError as `add` does."""
    rows, added, key = [], [], key_of(connection)
    for stream, builders, first in builds:
        at = first
        for build in builders:
            sealed = _sealed(build, at)
            rows.append(sealed.row(subject, stream, key))
            added.append(sealed.entry)
            at = (sealed.entry.seq, sealed.seal)
    if rows:
        await connection.execute(insert(ledger), rows)
        await _mark(connection, added)


@dataclass(slots=True)
class _Waiting:
    subject: str
    stream: UUID
    entry_id: UUID
    build: Build
    done: "asyncio.Future[Stored]"

    def succeed(self, stored: Stored) -> None:
        """Tell the one who waits where the entry is."""
        if not self.done.done():
            self.done.set_result(stored)

    def fail(self, error: Exception) -> None:
        """Tell the one who waits why the entry was not recorded."""
        if not self.done.done():
            self.done.set_exception(error)


def _sealed_or_alone(waiting: _Waiting, at: tuple[int, bytes]) -> _Sealed | None:
    """An entry after the head given. None if it goes in alone: the head that is kept here may be old, or a mark goes in with it."""
    try:
        made = _sealed(waiting.build, at)
    except Exception:  # alone the head is read again
        return None
    return None if _tells(made.entry) else made


class Appender:
    """Appends entries under the next free seq of their streams; the same id twice is the same entry once.

    What several people report at the same moment goes into one statement, and each is acknowledged only when it is
    durable. The heads of streams that are kept here are hints: the primary key decides.
    """

    MOST_AT_ONCE, MOST_HEADS = 64, 20_000

    def __init__(self, database: Database) -> None:
        self._database = database
        self._waiting: list[_Waiting] = []
        self._writing: asyncio.Task[None] | None = None
        self._heads: OrderedDict[UUID, tuple[int, bytes]] = OrderedDict()

    async def append(self, subject: str, stream: UUID, entry_id: UUID, build: Build) -> Stored:
        """Append one entry.

        Raises:
            DatabaseAway: the database does not answer; send the same again.
            Stale: the id belongs to an entry of another stream.
            Fault: what `build` refuses.
        """
        waiting = _Waiting(subject, stream, entry_id, build, asyncio.get_running_loop().create_future())
        self._waiting.append(waiting)
        if self._writing is None:
            self._writing = asyncio.create_task(self._write())
        return await waiting.done

    async def append_with(self, subject: str, stream: UUID, entry_id: UUID, build: Build, also: Also) -> Stored:
        """Append one entry, and do what belongs to it in the same transaction.

        Raises:
            DatabaseAway, Stale, Fault: as `append`.
        """

        async def work(connection: AsyncConnection) -> Stored:
            if (stored := await recorded(connection, stream, entry_id, build)) is not None:
                return stored
            stored = await add_next(connection, subject, stream, build)
            await also(connection)
            return stored

        self._heads.pop(stream, None)
        return await self._database.run(work, transaction=True)

    async def _write(self) -> None:
        try:
            while self._waiting:
                batch, self._waiting = self._waiting[: self.MOST_AT_ONCE], self._waiting[self.MOST_AT_ONCE :]
                try:
                    await self._database.run(lambda connection, batch=batch: self._together(connection, batch))  # type: ignore[misc]
                except Exception as error:  # each of those who wait is told
                    for waiting in batch:
                        waiting.fail(error)
        finally:
            self._writing = None

    async def _together(self, connection: AsyncConnection, batch: list[_Waiting]) -> None:
        """Insert a batch in one statement; entries that collide, or that their build refuses, are handled alone."""
        heads: dict[UUID, tuple[int, bytes]] = {}
        sealed: list[tuple[_Waiting, _Sealed]] = []
        alone: list[_Waiting] = []
        for waiting in batch:
            at = heads.get(waiting.stream) or self._heads.get(waiting.stream) or await head(connection, waiting.stream)
            if (made := _sealed_or_alone(waiting, at)) is None:
                alone.append(waiting)
                continue
            sealed.append((waiting, made))
            heads[waiting.stream] = (at[0] + 1, made.seal)
        try:
            if sealed:
                key = key_of(connection)
                await connection.execute(insert(ledger), [entry.row(waiting.subject, waiting.stream, key) for waiting, entry in sealed])
        except (IntegrityError, DataError) as error:  # an entry that does not fit fails alone
            if isinstance(error, IntegrityError) and error_code(error) != DUPLICATE:
                raise
            alone = batch
        else:
            for stream, at in heads.items():
                self._remember(stream, at)
            for waiting, entry in sealed:
                waiting.succeed(entry.stored())
        for waiting in alone:
            try:
                waiting.succeed(await self._alone(connection, waiting))
            except DataError as error:
                waiting.fail(error)
            except DBAPIError:
                raise
            except Exception as error:
                waiting.fail(error)

    async def _alone(self, connection: AsyncConnection, waiting: _Waiting) -> Stored:
        """Append one entry by itself: it may be recorded already, its stream may have grown, or something belongs to it."""
        while True:
            self._heads.pop(waiting.stream, None)
            if (stored := await recorded(connection, waiting.stream, waiting.entry_id, waiting.build)) is not None:
                return stored
            at = await head(connection, waiting.stream)
            if _tells(waiting.build(at[0] + 1)):
                return await self.append_with(waiting.subject, waiting.stream, waiting.entry_id, waiting.build, _nothing)
            try:
                stored = await add(connection, waiting.subject, waiting.stream, waiting.build, at)
            except IntegrityError as error:
                if error_code(error) != DUPLICATE:
                    raise
            else:
                self._remember(waiting.stream, (stored.seq, stored.seal))
                return stored

    def _remember(self, stream: UUID, at: tuple[int, bytes]) -> None:
        self._heads[stream] = at
        self._heads.move_to_end(stream)
        if len(self._heads) > self.MOST_HEADS:
            self._heads.popitem(last=False)


async def read(connection: AsyncConnection, stream: UUID, after: int = 0, subject: str | None = None) -> Sequence[tuple[int, bytes, bytes]]:
    """(seq, stored bytes, seal) of a stream, by seq; of one subject, or of all for the seals."""
    query = select(ledger.c.seq, ledger.c.body, ledger.c.seal).where(ledger.c.stream == stream, ledger.c.seq > after)
    if subject is not None:
        query = query.where(ledger.c.subject == subject)
    rows = await connection.execute(query.order_by(ledger.c.seq))
    return [(row.seq, row.body.encode(), bytes(row.seal)) for row in rows]


def _note(body: bytes | str) -> Note:
    try:
        return Note.model_validate_json(body)
    except ValidationError as error:
        raise Unreadable("record", "This record cannot be read.", "Nothing of it was changed; tell who keeps the server.") from error


async def notes(connection: AsyncConnection, subject: str, stream: UUID) -> list[Note]:
    """The entries of a stream that is not a run's.

    Raises:
        Unreadable: one of them is not one that this program can read.
    """
    return [_note(body) for _, body, _ in await read(connection, stream, subject=subject)]


async def notes_of(connection: AsyncConnection, subject: str, streams: Collection[UUID]) -> dict[UUID, list[Note] | Unreadable]:
    """By stream, the entries of streams that are not runs; or why a stream cannot be read."""
    query = select(ledger.c.stream, ledger.c.body).where(ledger.c.stream.in_(streams), ledger.c.subject == subject)
    found: dict[UUID, list[Note] | Unreadable] = {}
    for row in await connection.execute(query.order_by(ledger.c.stream, ledger.c.seq)):
        known = found.setdefault(row.stream, [])
        if isinstance(known, Unreadable):
            continue
        try:
            known.append(_note(row.body))
        except Unreadable as error:
            found[row.stream] = error
    return found


async def notes_of_all(connection: AsyncConnection, subject: str, streams: Collection[UUID]) -> dict[UUID, list[Note]]:
    """The entries of streams that are not runs, by stream. A stream without entries has an empty list.

    Raises:
        Unreadable: this program cannot read one of the entries.
    """
    found = await notes_of(connection, subject, streams)
    told: dict[UUID, list[Note]] = {stream: [] for stream in streams}
    for stream, known in found.items():
        if isinstance(known, Unreadable):
            raise known
        told[stream] = known
    return told


async def streams_with(connection: AsyncConnection, subject: str, kinds: Collection[str]) -> set[UUID]:
    """The streams of a subject that have an entry of one of these kinds."""
    query = select(ledger.c.stream).where(ledger.c.subject == subject, ledger.c.kind.in_(kinds)).distinct()
    return {row.stream for row in await connection.execute(query)}


async def restores(connection: AsyncConnection) -> int:
    """How often this shop was restored from a backup, those restores included that a later one gave up."""
    of_them = ledger.c.subject == "shop", ledger.c.kind == "restored"
    query = select(func.count(), func.max(cast(func.json_value(ledger.c.body, "$.figure"), Integer))).where(*of_them)
    count, epoch = (await connection.execute(query)).all()[0]
    return max(int(count), int(epoch or 1) - 1)


def moment(at: datetime) -> datetime:
    """A moment as it is stored: UTC without a zone, to the millisecond."""
    return at.replace(tzinfo=None, microsecond=at.microsecond // 1000 * 1000)
