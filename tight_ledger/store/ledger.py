"""The ledger: streams of sealed entries. The only writes are inserts."""

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol
from uuid import UUID

from sqlalchemy import func, insert, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base import canonical
from tight_ledger.core.entries import Entry, Note
from tight_ledger.core.seals import FIRST, broken_at, seal
from tight_ledger.store.database import DUPLICATE, Database, error_code
from tight_ledger.store.tables import ledger


@dataclass(frozen=True, slots=True)
class Stored:
    """An entry's place in the ledger."""

    id: UUID
    seq: int
    body: bytes
    seal: bytes
    repeated: bool = False


class Build(Protocol):
    """Makes the entry for the place it is given."""

    def __call__(self, seq: int) -> Entry | Note: ...


class Heads:
    """The newest (seq, seal) of streams, as last seen here. Only a hint: the primary key decides."""

    def __init__(self, most: int = 20_000) -> None:
        self._heads: OrderedDict[UUID, tuple[int, bytes]] = OrderedDict()
        self._most = most

    def get(self, stream: UUID) -> tuple[int, bytes] | None:
        return self._heads.get(stream)

    def put(self, stream: UUID, seq: int, sealed: bytes) -> None:
        self._heads[stream] = (seq, sealed)
        self._heads.move_to_end(stream)
        if len(self._heads) > self._most:
            self._heads.popitem(last=False)

    def forget(self, stream: UUID) -> None:
        self._heads.pop(stream, None)


async def head(connection: AsyncConnection, stream: UUID) -> tuple[int, bytes]:
    """The newest seq and seal of a stream; (0, the first seal) before its first entry."""
    query = select(ledger.c.seq, ledger.c.seal).where(ledger.c.stream == stream).order_by(ledger.c.seq.desc()).limit(1)
    row = (await connection.execute(query)).first()
    return (row.seq, bytes(row.seal)) if row else (0, FIRST)


async def by_id(connection: AsyncConnection, entry_id: UUID) -> Stored | None:
    """An entry that is already there."""
    query = select(ledger.c.id, ledger.c.seq, ledger.c.body, ledger.c.seal).where(ledger.c.id == entry_id)
    row = (await connection.execute(query)).first()
    return Stored(row.id, row.seq, row.body.encode(), bytes(row.seal), repeated=True) if row else None


async def add(connection: AsyncConnection, subject: str, stream: UUID, build: Build, at: tuple[int, bytes]) -> Stored:
    """Insert the entry after the head given. Raises IntegrityError if the place or the id is taken."""
    entry = build(at[0] + 1)
    body = canonical(entry)
    sealed = seal(at[1], body)
    await connection.execute(
        insert(ledger).values(
            stream=stream, seq=entry.seq, id=entry.id, subject=subject, kind=entry.kind,
            at_server=entry.at_server.replace(tzinfo=None), body=body.decode(), seal=sealed,
        )
    )  # fmt: skip
    return Stored(entry.id, entry.seq, body, sealed)


async def append(database: Database, heads: Heads, subject: str, stream: UUID, entry_id: UUID, build: Build) -> Stored:
    """Append one entry under the next free seq. The same id twice is the same entry once."""

    async def attempt(connection: AsyncConnection) -> Stored:
        while True:
            place = heads.get(stream) or await head(connection, stream)
            try:
                return await add(connection, subject, stream, build, place)
            except IntegrityError as error:
                if error_code(error) != DUPLICATE:
                    raise
            heads.forget(stream)
            if (there := await by_id(connection, entry_id)) is not None:
                return there

    stored = await database.run(attempt)
    if not stored.repeated:
        heads.put(stream, stored.seq, stored.seal)
    return stored


async def read(connection: AsyncConnection, stream: UUID, after: int = 0) -> Sequence[tuple[int, bytes, bytes]]:
    """(seq, stored bytes, seal) of a stream, by seq."""
    query = select(ledger.c.seq, ledger.c.body, ledger.c.seal).where(ledger.c.stream == stream, ledger.c.seq > after)
    rows = await connection.execute(query.order_by(ledger.c.seq))
    return [(row.seq, row.body.encode(), bytes(row.seal)) for row in rows]


async def notes(connection: AsyncConnection, stream: UUID) -> list[Note]:
    """The entries of a stream that is not a run's."""
    return [Note.model_validate_json(body) for _, body, _ in await read(connection, stream)]


async def verify_all(connection: AsyncConnection) -> tuple[int, dict[UUID, int]]:
    """How many entries there are, and for each stream that does not hold the seq at which it breaks."""
    count, broken = 0, {}
    streams = (await connection.execute(select(ledger.c.stream, func.count()).group_by(ledger.c.stream))).all()
    for stream, entries in streams:
        count += entries
        if (seq := broken_at(await read(connection, stream))) is not None:
            broken[stream] = seq
    return count, broken


def moment(at: datetime) -> datetime:
    """A moment as it is stored: UTC without a zone, to the millisecond."""
    return at.replace(tzinfo=None, microsecond=at.microsecond // 1000 * 1000)
