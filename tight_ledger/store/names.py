"""Names of people: sealed as salted commitments, so that a name can be proved, and erased without breaking a seal."""

import secrets
from datetime import datetime
from uuid import UUID

from sqlalchemy import text, update
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.people import Person
from tight_ledger.core.records.facts import SALT_BYTES, commitment
from tight_ledger.core.records.notes import Note
from tight_ledger.store import ledger, practice
from tight_ledger.store import people as people_store
from tight_ledger.store.ids import new_id
from tight_ledger.store.tables import people, pins


async def seal(connection: AsyncConnection, person: Person, now: datetime, by: UUID | None = None, device: UUID | None = None) -> None:
    """Seal the commitment to a name, and keep the salt that proves it; an earlier salt is gone."""
    salt = secrets.token_bytes(SALT_BYTES)

    def note(seq: int) -> Note:
        return Note(
            id=new_id(), stream=person.id, subject="person", kind="named", seq=seq, at_server=now,
            digest=commitment(salt, person.name), by=by, device=device, text=", ".join(person.roles),
        )  # fmt: skip

    await people_store.keep_salt(connection, person.id, salt)
    await ledger.add_next(connection, "person", person.id, note)


async def erase(connection: AsyncConnection, person: Person, now: datetime, note: ledger.Build | None = None) -> str:
    """Put a name that says nothing in the place of somebody's; the salt that proved it is gone. Returns the new name.

    Args:
        note: makes the entry that says so; None for what is done on the server itself.
    """

    def plain(seq: int) -> Note:
        return Note(id=new_id(), stream=person.id, subject="person", kind="erased", seq=seq, at_server=now)

    nobody = person.model_copy(update={"name": f"Former colleague {person.id.hex[-8:]}"})
    await connection.execute(update(people).where(people.c.id == person.id).values(name=nobody.name))
    await connection.execute(update(pins).where(pins.c.person_id == person.id).values(pin_hash=""))
    await practice.erase(connection, person.id)
    await ledger.add_next(connection, "person", person.id, note or plain)
    await seal(connection, nobody, now)
    return nobody.name


async def repeat_erasures(connection: AsyncConnection, elsewhere: str, now: datetime) -> int:
    """Erase again whoever was erased in the ledger of another database, and not in this. Returns how many.

    Args:
        elsewhere: the name of that database, on the same server.
    """
    asked = f"SELECT h.stream FROM `{elsewhere}`.ledger AS h LEFT JOIN ledger AS a ON a.stream = h.stream AND a.kind = 'erased'"
    rows = await connection.execute(text(f"{asked} WHERE h.kind = 'erased' AND a.id IS NULL"))
    erased = {UUID(bytes=row.stream) if isinstance(row.stream, bytes) else UUID(str(row.stream)) for row in rows}
    known = [person for person in await people_store.everybody(connection) if person.id in erased]
    for person in known:
        await erase(connection, person, now)
    return len(known)
