"""Instruments that may tell what they pulled, each with the hash of its key."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy import select, update
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid
from tight_ledger.store.tables import instruments
from tight_ledger.store.unique import insert_once


@dataclass(frozen=True, slots=True)
class StoredInstrument:
    """An instrument, without its key."""

    id: UUID
    name: str
    registered_at: datetime
    retired_at: datetime | None


async def add(connection: AsyncConnection, instrument_id: UUID, name: str, key_hash: bytes, at: datetime) -> bool:
    """Register an instrument; whether it was new.

    Raises:
        Invalid: the name is taken.
    """
    known = (await connection.execute(select(instruments.c.registered_at).where(instruments.c.id == instrument_id))).scalar()
    taken = Invalid("name", f"{name} is registered already.", "Give another name.")
    return await insert_once(
        connection, instruments, "name", taken, id=instrument_id, name=name, key_hash=key_hash, registered_at=known or at
    )


async def everything(connection: AsyncConnection) -> list[StoredInstrument]:
    """Every instrument, by name."""
    rows = await connection.execute(select(instruments).order_by(instruments.c.name))
    return [StoredInstrument(row.id, row.name, row.registered_at, row.retired_at) for row in rows]


async def is_key(connection: AsyncConnection, instrument_id: UUID, key_hash: bytes) -> bool:
    """Whether an instrument is registered with this key, and not retired."""
    known = instruments.c.id == instrument_id, instruments.c.key_hash == key_hash, instruments.c.retired_at.is_(None)
    return (await connection.execute(select(instruments.c.id).where(*known))).first() is not None


async def is_retired(connection: AsyncConnection, instrument_id: UUID) -> bool:
    """Whether an instrument was taken off the line."""
    known = instruments.c.id == instrument_id, instruments.c.retired_at.is_not(None)
    return (await connection.execute(select(instruments.c.id).where(*known))).first() is not None


async def retire(connection: AsyncConnection, instrument_id: UUID, at: datetime) -> None:
    """It tells nothing more."""
    known = instruments.c.id == instrument_id, instruments.c.retired_at.is_(None)
    await connection.execute(update(instruments).where(*known).values(retired_at=at))
