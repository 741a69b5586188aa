"""People, their PINs' failures, devices and sessions."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import delete, func, insert, select, tuple_, update
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile, Stale
from tight_ledger.core.base.people import Person
from tight_ledger.store.ids import new_id
from tight_ledger.store.tables import devices, feeds, pairings, people, pin_attempts, pins, press_keys, sessions


def person_of(row: Any) -> Person:
    """The person of a row that has their columns."""
    return Person(id=row.id, name=row.name, roles=row.roles.split(","))


async def everybody(connection: AsyncConnection) -> list[Person]:
    """All people, by name; those who left too."""
    rows = await connection.execute(select(people.c.id, people.c.name, people.c.roles).order_by(people.c.name))
    return [person_of(row) for row in rows]


async def here(connection: AsyncConnection, *, locked: bool = False) -> list[Person]:
    """Those who work here now, by name; `locked` until the transaction ends, so that two cannot leave side by side."""
    query = select(people.c.id, people.c.name, people.c.roles).where(people.c.left_at.is_(None)).order_by(people.c.name)
    return [person_of(row) for row in await connection.execute(query.with_for_update() if locked else query)]


async def find(connection: AsyncConnection, person_id: UUID) -> tuple[Person, str]:
    """A person and the hash of their PIN; locked, so that guesses queue up.

    Raises:
        NotOnFile: nobody has this id.
    """
    query = select(people, pins.c.pin_hash).join(pins).where(people.c.id == person_id, people.c.left_at.is_(None))
    row = (await connection.execute(query.with_for_update())).first()
    if row is None:
        raise NotOnFile("person", "Nobody here has this id.", "Pick a name from the list.")
    return person_of(row), row.pin_hash


async def is_there(connection: AsyncConnection, person: Person) -> bool:
    """Whether this person is on the list already, under the same id.

    Raises:
        Stale: somebody else has the id.
    """
    row = (await connection.execute(select(people.c.id, people.c.name, people.c.roles).where(people.c.id == person.id))).first()
    if row is not None and person_of(row) != person:
        raise Stale("id", "This id stands for somebody else already.", "Press again; a new one is made.")
    return row is not None


async def add(connection: AsyncConnection, person: Person, pin_hash: str) -> None:
    """Put somebody on the list.

    Raises:
        Invalid: the name is taken.
    """
    if (await connection.execute(select(people.c.id).where(people.c.name == person.name))).first() is not None:
        raise Invalid("name", f"“{person.name}” is on the list already.", "Add an initial to tell the two apart.")
    await connection.execute(insert(people).values(id=person.id, name=person.name, roles=",".join(person.roles)))
    await connection.execute(insert(pins).values(person_id=person.id, pin_hash=pin_hash))


async def keep_salt(connection: AsyncConnection, person_id: UUID, salt: bytes) -> None:
    """Keep the salt that proves a person's name."""
    await connection.execute(update(people).where(people.c.id == person_id).values(salt=salt))


async def salts(connection: AsyncConnection) -> dict[UUID, bytes]:
    """By person, the salt of the name."""
    rows = await connection.execute(select(people.c.id, people.c.salt).where(people.c.salt.is_not(None)))
    return {row.id: bytes(row.salt) for row in rows}


async def note_attempt(connection: AsyncConnection, person_id: UUID, tablet: UUID | None, at: datetime, *, good: bool) -> None:
    """Remember that a PIN was tried, and where; `tablet` is None for one that nobody introduced."""
    await connection.execute(insert(pin_attempts).values(id=new_id(), person_id=person_id, device_id=tablet, at=at, good=good))


async def lift_waits(connection: AsyncConnection, person_id: UUID, at: datetime) -> None:
    """No wrong PIN of a person counts any more, on no tablet."""
    for (tablet,) in (
        await connection.execute(select(pin_attempts.c.device_id).where(pin_attempts.c.person_id == person_id).distinct())
    ).all():
        await note_attempt(connection, person_id, tablet, at, good=True)


async def failures(connection: AsyncConnection, person_id: UUID, tablet: UUID | None) -> tuple[int, datetime | None]:
    """Failures in a row on a tablet, newest first, and when the last one was."""
    query = select(pin_attempts.c.at, pin_attempts.c.good).where(
        pin_attempts.c.person_id == person_id, pin_attempts.c.device_id.is_not_distinct_from(tablet)
    )
    rows = (await connection.execute(query.order_by(pin_attempts.c.number.desc()).limit(20))).all()
    count = next((i for i, row in enumerate(rows) if row.good), len(rows))
    return count, rows[0].at if count else None


async def open_session(
    connection: AsyncConnection, token_hash: bytes, person_id: UUID, device_id: UUID, until: datetime, key: UUID | None
) -> None:
    """Let a person work on a device.

    Args:
        key: the id of the key that its presses are signed with; None if they are not.
    """
    given = {"token_hash": token_hash, "person_id": person_id, "device_id": device_id, "expires_at": until, "key_id": key}
    await connection.execute(insert(sessions).values(given))


@dataclass(frozen=True, slots=True)
class SessionKey:
    """The public key of a session that has not ended."""

    id: UUID
    public: bytes


async def session(connection: AsyncConnection, token_hash: bytes, now: datetime) -> tuple[Person, UUID, bool, SessionKey | None] | None:
    """Who works, on which device, whether their PIN is to be changed first, and the key that their presses are signed with."""
    who = (people.c.id, people.c.name, people.c.roles, people.c.must_change)
    query = (
        select(*who, sessions.c.device_id, sessions.c.key_id, press_keys.c.public)
        .join(sessions, sessions.c.person_id == people.c.id)
        .outerjoin(press_keys, press_keys.c.id == sessions.c.key_id)
        .where(sessions.c.token_hash == token_hash, sessions.c.expires_at > now)
    )
    row = (await connection.execute(query)).first()
    if row is None:
        return None
    key = SessionKey(row.key_id, bytes(row.public)) if row.public is not None else None
    return person_of(row), row.device_id, row.must_change, key


@dataclass(frozen=True, slots=True)
class StoredSession:
    """A session that has not ended; `key` names it without letting anybody in."""

    token_hash: bytes
    person: UUID
    name: str
    device: str
    until: datetime

    @property
    def key(self) -> str:
        """The first half of the hash, in hex."""
        return self.token_hash[:16].hex()


async def sessions_of(connection: AsyncConnection, now: datetime) -> list[StoredSession]:
    """Every session that has not ended, by name."""
    query = (
        select(sessions.c.token_hash, people.c.id, people.c.name, devices.c.name.label("device"), sessions.c.expires_at)
        .join(people, people.c.id == sessions.c.person_id)
        .join(devices, devices.c.id == sessions.c.device_id)
        .where(sessions.c.expires_at > now)
        .order_by(people.c.name, sessions.c.expires_at)
    )
    return [StoredSession(bytes(row.token_hash), row.id, row.name, row.device, row.expires_at) for row in await connection.execute(query)]


async def close_sessions(connection: AsyncConnection, person_id: UUID) -> None:
    """End every session of a person: its key, the codes of wrenches that were made in it, the addresses for calendar programs."""
    await connection.execute(delete(press_keys).where(press_keys.c.person_id == person_id))
    await connection.execute(delete(feeds).where(feeds.c.person_id == person_id))
    await connection.execute(delete(pairings).where(pairings.c.person_id == person_id))
    await connection.execute(delete(sessions).where(sessions.c.person_id == person_id))


async def set_pin(connection: AsyncConnection, person_id: UUID, pin_hash: str, *, must_change: bool) -> None:
    """Keep the hash of a new PIN."""
    await connection.execute(update(people).where(people.c.id == person_id).values(must_change=must_change))
    await connection.execute(update(pins).where(pins.c.person_id == person_id).values(pin_hash=pin_hash))


async def set_roles(connection: AsyncConnection, person: Person) -> None:
    """Keep the roles of a person."""
    await connection.execute(update(people).where(people.c.id == person.id).values(roles=",".join(person.roles)))


async def leave(connection: AsyncConnection, person_id: UUID, at: datetime) -> None:
    """A person does not work here any more."""
    await connection.execute(update(people).where(people.c.id == person_id).values(left_at=at))


async def close_session(connection: AsyncConnection, token_hash: bytes, now: datetime) -> None:
    """End a session, and the codes of wrenches that its person made on its tablet. What was pressed in it until now stays signed."""
    of_it = select(sessions.c.key_id).where(sessions.c.token_hash == token_hash)
    await connection.execute(update(press_keys).where(press_keys.c.id.in_(of_it)).values(until=func.least(press_keys.c.until, now)))
    mine = select(sessions.c.person_id, sessions.c.device_id).where(sessions.c.token_hash == token_hash)
    await connection.execute(delete(pairings).where(tuple_(pairings.c.person_id, pairings.c.device_id).in_(mine)))
    await connection.execute(delete(sessions).where(sessions.c.token_hash == token_hash))


async def device_names(connection: AsyncConnection) -> dict[UUID, str]:
    """The devices by id."""
    return {row.id: row.name for row in await connection.execute(select(devices.c.id, devices.c.name))}
