"""The public keys of sessions."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import delete, insert, select
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.people import Person
from tight_ledger.store.people import person_of
from tight_ledger.store.tables import people, press_keys

KEPT = timedelta(days=60)
"""How long the key of a session that has ended is kept for what comes late."""


@dataclass(frozen=True, slots=True)
class PressKey:
    """The public key of a session, whose it is, and until when it was used."""

    person: Person
    must_change: bool
    device: UUID
    public: bytes
    until: datetime


async def keep(connection: AsyncConnection, key: UUID, public: bytes, person: UUID, device: UUID, now: datetime, until: datetime) -> None:
    """Keep the key of a session, and remove those that nothing waits for any more."""
    await connection.execute(delete(press_keys).where(press_keys.c.until < now - KEPT))
    await connection.execute(insert(press_keys).values(id=key, public=public, person_id=person, device_id=device, until=until))


async def key_of(connection: AsyncConnection, key: UUID) -> PressKey | None:
    """The key with this id; None if there is no such key, or if its owner has left."""
    columns = (press_keys.c.device_id, press_keys.c.public, press_keys.c.until)
    query = (
        select(people.c.id, people.c.name, people.c.roles, people.c.must_change, *columns)
        .join(people, people.c.id == press_keys.c.person_id)
        .where(press_keys.c.id == key, people.c.left_at.is_(None))
    )
    row = (await connection.execute(query)).first()
    return PressKey(person_of(row), row.must_change, row.device_id, bytes(row.public), row.until) if row else None
