"""Addresses by which another program follows what is due."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy import delete, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.store.ledger import moment
from tight_ledger.store.tables import feeds, people


async def keep(connection: AsyncConnection, feed: UUID, key_hash: bytes, person: UUID, at: datetime) -> None:
    """Store a feed with the hash of its key; the same id again replaces the hash."""
    given = {"key_hash": key_hash, "person_id": person, "made_at": moment(at)}
    await connection.execute(insert(feeds).values(id=feed, **given).on_duplicate_key_update(**given))


async def key_of(connection: AsyncConnection, feed: UUID) -> bytes | None:
    """The hash of a feed's key; None if there is no such feed, or whoever made it has left."""
    query = select(feeds.c.key_hash).join(people, people.c.id == feeds.c.person_id).where(feeds.c.id == feed, people.c.left_at.is_(None))
    found = (await connection.execute(query)).scalar()
    return bytes(found) if found is not None else None


@dataclass(frozen=True, slots=True)
class StoredFeed:
    """An address that somebody made, without its key."""

    id: UUID
    person: UUID
    name: str


async def everything(connection: AsyncConnection) -> list[StoredFeed]:
    """Every feed with who made it, by name."""
    query = select(feeds.c.id, feeds.c.person_id, people.c.name).join(people, people.c.id == feeds.c.person_id)
    rows = await connection.execute(query.order_by(people.c.name, feeds.c.made_at))
    return [StoredFeed(row.id, row.person_id, row.name) for row in rows]


async def end(connection: AsyncConnection, person: UUID) -> None:
    """End every feed that somebody made."""
    await connection.execute(delete(feeds).where(feeds.c.person_id == person))


async def end_one(connection: AsyncConnection, feed: UUID) -> None:
    """End a feed."""
    await connection.execute(delete(feeds).where(feeds.c.id == feed))
