"""Codes by which wrenches pair with runs; in the database, so that any server process knows them."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy import delete, insert, select, update
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.people import Person
from tight_ledger.store.tables import pairings, people, sessions


@dataclass(frozen=True, slots=True)
class StoredPairing:
    """The run of a code, and in whose name its wrench speaks."""

    run: UUID
    person: Person
    device: UUID


async def code_of(connection: AsyncConnection, run: UUID, command: UUID) -> str | None:
    """The code that a command was given; None if it was given none, or the code was replaced since."""
    found = select(pairings.c.code).where(pairings.c.run_id == run, pairings.c.command == command)
    return (await connection.execute(found)).scalar_one_or_none()


async def pair(
    connection: AsyncConnection, code: str, *, run: UUID, person: UUID, device: UUID, command: UUID, now: datetime, until: datetime
) -> None:
    """Give a run a code; its earlier one, and codes that ran out, are removed.

    Raises:
        IntegrityError: the code is taken.
    """
    await connection.execute(delete(pairings).where((pairings.c.until <= now) | (pairings.c.run_id == run)))
    await connection.execute(
        insert(pairings).values(code=code, run_id=run, person_id=person, device_id=device, command=command, until=until)
    )


async def paired(connection: AsyncConnection, code: str, instrument: UUID | None, now: datetime, until: datetime) -> StoredPairing | None:
    """The pairing of a code; None if there is none, it ran out, another wrench has it, or its person has signed out of its device.

    Args:
        instrument: that uses the code; None for a simulated one.
        until: how long it may come back with it.
    """
    query = (
        select(pairings.c.run_id, pairings.c.device_id, pairings.c.sender, people.c.id, people.c.name, people.c.roles)
        .join(people, people.c.id == pairings.c.person_id)
        .where(pairings.c.code == code, pairings.c.until > now)
        .where(sessions.c.person_id == pairings.c.person_id, sessions.c.device_id == pairings.c.device_id, sessions.c.expires_at > now)
        .with_for_update(of=pairings)
    )
    row = (await connection.execute(query)).first()
    if row is not None and row.sender is None:
        await connection.execute(update(pairings).where(pairings.c.code == code).values(sender=instrument or row.run_id, until=until))
    elif row is not None and row.sender != (instrument or row.run_id):
        return None
    return StoredPairing(row.run_id, Person(id=row.id, name=row.name, roles=row.roles.split(",")), row.device_id) if row else None


async def signed_in(connection: AsyncConnection, person: UUID, device: UUID, now: datetime) -> Person | None:
    """Somebody as they are now, if they are signed in on a device."""
    query = (
        select(people.c.id, people.c.name, people.c.roles)
        .join(sessions, sessions.c.person_id == people.c.id)
        .where(people.c.id == person, people.c.left_at.is_(None), sessions.c.device_id == device, sessions.c.expires_at > now)
    )
    row = (await connection.execute(query)).first()
    return Person(id=row.id, name=row.name, roles=row.roles.split(",")) if row else None
