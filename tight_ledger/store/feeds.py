"""Addresses by which another program follows what is due."""

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


async def end(connection: AsyncConnection, person: UUID) -> None:
    """End every feed that somebody made."""
    await connection.execute(delete(feeds).where(feeds.c.person_id == person))
