"""PINs are changed by their owner and reset by a lead; people leave; sessions are listed and ended."""

import asyncio
from datetime import UTC, datetime
from uuid import UUID

from argon2.exceptions import VerifyMismatchError
from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotAllowed
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import require_lead
from tight_ledger.core.records.notes import Note
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command, done_before
from tight_ledger.services.context import Context
from tight_ledger.services.people import admit, hash_pin, verify
from tight_ledger.store import ledger
from tight_ledger.store import people as people_store
from tight_ledger.store.ledger import moment


class ChangePin(Command):
    """The PIN as it was, and the new one."""

    old: str = Field(max_length=20)
    new: str = Field(max_length=20)


class ResetPin(Command):
    """A PIN that is to be changed at the next sign-in."""

    pin: str = Field(max_length=20)


class Session(Model):
    """Somebody who is signed in on a device."""

    id: str
    person: UUID
    name: str
    device: str
    until: datetime


def _note(context: Context, actor: Actor, person: UUID, note_id: UUID, kind: str) -> ledger.Build:
    common = {"id": note_id, "stream": person, "subject": "person", "kind": kind, "by": actor.person.id, "device": actor.device}
    return lambda seq: Note.model_validate(common | {"seq": seq, "at_server": context.now()})


async def change_pin(context: Context, actor: Actor, request: ChangePin) -> None:
    """A person takes another PIN.

    Raises:
        Busy: too many wrong PINs.
        NotAllowed: the old one is wrong.
        Invalid: the new one is none, or it is the old one.
    """
    note = _note(context, actor, actor.person.id, request.id, "pin_changed")
    if await context.database.run(lambda connection: done_before(connection, request.id, actor.person.id, note)):
        return
    if request.new == request.old:
        raise Invalid("new", "This is the PIN as it was.", "Take another.")
    new_hash = await hash_pin(request.new, "new")
    _, known = await admit(context, actor.person.id)
    try:
        await asyncio.to_thread(verify, known, request.old)
    except VerifyMismatchError as error:
        raise NotAllowed("old", "This is not the PIN as it was.", "Type it again, or ask a lead to reset it.") from error

    async def work(connection: AsyncConnection) -> None:
        await people_store.note_attempt(connection, actor.person.id, moment(context.now()), good=True)
        await people_store.set_pin(connection, actor.person.id, new_hash, must_change=False)
        await ledger.add_next(connection, "person", actor.person.id, note)

    await context.database.run(work, transaction=True)


async def reset_pin(context: Context, actor: Actor, person: UUID, request: ResetPin) -> None:
    """A lead gives somebody a PIN for one sign-in; their sessions end, and a lock after wrong PINs is lifted.

    Raises:
        NotAllowed: by somebody who is not a lead.
        NotOnFile: nobody has this id.
        Invalid: the PIN is none.
    """
    require_lead(actor.person.role, "person", "reset a PIN")
    note, new_hash = _note(context, actor, person, request.id, "pin_reset"), await hash_pin(request.pin)

    async def work(connection: AsyncConnection) -> None:
        await people_store.find(connection, person)
        if await done_before(connection, request.id, person, note):
            return
        await people_store.note_attempt(connection, person, moment(context.now()), good=True)
        await people_store.set_pin(connection, person, new_hash, must_change=True)
        await people_store.close_sessions(connection, person)
        await ledger.add_next(connection, "person", person, note)

    await context.database.run(work, transaction=True)


async def leave(context: Context, actor: Actor, person: UUID, request: Command) -> None:
    """Somebody does not work here any more: their sessions end, nobody can pick them, their history stays.

    Raises:
        NotAllowed: by somebody who is not a lead.
        NotOnFile: nobody has this id.
        Invalid: it is the last lead.
    """
    require_lead(actor.person.role, "person", "take somebody off the list")
    note, now = _note(context, actor, person, request.id, "left"), moment(context.now())

    async def work(connection: AsyncConnection) -> None:
        if await done_before(connection, request.id, person, note):
            return
        leaving, _ = await people_store.find(connection, person)
        others = [each for each in await people_store.here(connection) if each.role == "lead" and each.id != person]
        if leaving.role == "lead" and not others:
            raise Invalid("person", f"{leaving.name} is the last lead.", "Put another lead on the list first.")
        await people_store.leave(connection, person, now)
        await people_store.close_sessions(connection, person)
        await ledger.add_next(connection, "person", person, note)

    await context.database.run(work, transaction=True)


async def sessions(context: Context, actor: Actor) -> tuple[Session, ...]:
    """Who is signed in where: a lead sees everybody, anybody else themselves."""
    found = await context.database.run(lambda connection: people_store.sessions_of(connection, moment(context.now())))
    mine = [each for each in found if actor.person.role == "lead" or each.person == actor.person.id]
    return tuple(
        Session(id=each.key, person=each.person, name=each.name, device=each.device, until=each.until.replace(tzinfo=UTC)) for each in mine
    )


async def end_session(context: Context, actor: Actor, key: str) -> None:
    """End a session; one that has ended stays ended.

    Raises:
        NotAllowed: somebody else's, and not by a lead.
    """
    found = await context.database.run(lambda connection: people_store.sessions_of(connection, moment(context.now())))
    session = next((each for each in found if each.key == key), None)
    if session is None:
        return
    if session.person != actor.person.id:
        require_lead(actor.person.role, "session", "end somebody else's session")
    await context.database.run(lambda connection: people_store.close_session(connection, session.token_hash))
