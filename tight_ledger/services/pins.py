"""PINs are changed by their owner and reset by a keeper; people leave; sessions are listed and ended."""

import secrets
from collections.abc import Awaitable, Callable
from datetime import UTC, datetime
from functools import partial
from uuid import UUID

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import Person, Role, is_common_pin, require_keeper_stays, require_right, rights_of
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command, done_before, note, once
from tight_ledger.services.context import Context
from tight_ledger.services.notices import reach
from tight_ledger.services.people import admit, hash_pin, verified
from tight_ledger.services.proof.privacy import require_not_held
from tight_ledger.store import feeds as feed_store
from tight_ledger.store import ledger, names, turns
from tight_ledger.store import people as people_store
from tight_ledger.store.ids import new_id
from tight_ledger.store.ledger import moment

FEED = "calendar-"
"""How the key of an address for a calendar begins; that of a session is hexadecimal."""


class ChangePin(Command):
    """The PIN as it was, and the new one."""

    old: str = Field(max_length=20)
    new: str = Field(max_length=20)


class ResetPin(Command):
    """A PIN that is to be changed at the next sign-in."""

    pin: str = Field(max_length=20)


class Session(Model):
    """Somebody who is signed in on a device; or an address at which a calendar program reads for them."""

    id: str
    person: UUID
    name: str
    device: str
    until: datetime | None
    """None for an address, which holds until it or its right is ended."""


class SetRoles(Command):
    """The roles that somebody has from now on."""

    roles: tuple[Role, ...] = Field(min_length=1, max_length=4)


def _of(context: Context, actor: Actor | None, person: UUID, note_id: UUID, kind: str, text: str | None = None) -> ledger.Build:
    return note(context.now(), actor, id=note_id, stream=person, subject="person", kind=kind, text=text)


async def change_pin(context: Context, actor: Actor, request: ChangePin) -> None:
    """A person takes another PIN.

    Raises:
        Busy: too many wrong PINs.
        NotAllowed: the old one is wrong.
        Invalid: the new one is none, or it is the old one.
    """
    changed = _of(context, actor, actor.person.id, request.id, "pin_changed")
    if await context.database.run(lambda connection: done_before(connection, request.id, actor.person.id, changed)):
        return
    if request.new == request.old:
        raise Invalid("new", "This is the PIN as it was.", "Take another.")
    new_hash = await hash_pin(request.new, "new")
    person, known = await admit(context, actor.person.id, actor.device)
    await verified(context, person, actor.device, known, request.old, "old")

    async def work(connection: AsyncConnection) -> None:
        await people_store.set_pin(connection, actor.person.id, new_hash, must_change=False)
        await ledger.add_next(connection, "person", actor.person.id, changed)

    await context.database.run(work, transaction=True)


async def reset_pin(context: Context, actor: Actor, person: UUID, request: ResetPin) -> None:
    """A keeper gives somebody a PIN for one sign-in; their sessions end, and a lock after wrong PINs is lifted.

    Raises:
        NotAllowed: by somebody who is not a keeper.
        NotOnFile: nobody has this id.
        Invalid: the PIN is none.
    """
    require_right(actor.person.roles, "people", "person")
    await _reset(context, actor, person, request)


async def reset_at_the_server(context: Context, name: str, *, keeper: bool = False) -> str:
    """Whoever has the server itself gives somebody a PIN for one sign-in. Returns it.

    Args:
        keeper: make them keeper too.

    Raises:
        NotOnFile: nobody here goes by this name.
    """
    everybody = await context.database.run(people_store.here)
    found = next((person for person in everybody if person.name == name), None)
    if found is None:
        raise NotOnFile("name", f"Nobody here is called “{name}”.", f"Say one of: {', '.join(person.name for person in everybody)}.")
    pin = next(pin for pin in (f"{secrets.randbelow(1_000_000):06d}" for _ in iter(int, 1)) if not is_common_pin(pin))
    await _reset(context, None, found.id, ResetPin(id=new_id(), pin=pin))
    if keeper and "keeper" not in found.roles:
        roles = SetRoles(id=new_id(), roles=(*found.roles, "keeper"))
        await _set_roles(context, None, found.id, roles)
    return pin


async def erase_at_the_server(context: Context, name: str) -> str:
    """Whoever has the server itself erases the name of somebody who has left; every seal still holds. Returns the new name.

    Raises:
        NotOnFile: nobody was called so.
        Invalid: they have not left.
        NotAllowed: a hold keeps their work.
    """

    async def work(connection: AsyncConnection) -> str:
        found = next((person for person in await people_store.everybody(connection) if person.name == name), None)
        if found is None:
            raise NotOnFile("name", f"Nobody was called “{name}”.", "Write it as it stood on the list.")
        return await _erase(context, connection, found)

    return await context.database.run(work, transaction=True)


async def _erase(context: Context, connection: AsyncConnection, person: Person, build: ledger.Build | None = None) -> str:
    if person in await people_store.here(connection):
        raise Invalid("name", f"{person.name} is on the list.", "Only who has left is erased.")
    await require_not_held(connection, person.id)
    return await names.erase(connection, person, context.now(), build)


async def erase(context: Context, actor: Actor, person_id: UUID, request: Command) -> None:
    """A keeper erases the name of somebody who has left; every seal still holds, and cards say that the name is gone.

    Raises:
        NotAllowed: by somebody who is not a keeper, or a hold keeps their work.
        NotOnFile: nobody has this id.
        Invalid: they have not left.
    """
    require_right(actor.person.roles, "people", "person")
    erased = _of(context, actor, person_id, request.id, "erased")

    async def work(connection: AsyncConnection) -> None:
        if await done_before(connection, request.id, person_id, erased):
            return
        found = next((person for person in await people_store.everybody(connection) if person.id == person_id), None)
        if found is None:
            raise NotOnFile("person", "Nobody has this id.", "Pick somebody who has left.")
        await _erase(context, connection, found, erased)

    await context.database.run(work, transaction=True)


async def _reset(context: Context, actor: Actor | None, person: UUID, request: ResetPin) -> None:
    reset, new_hash = _of(context, actor, person, request.id, "pin_reset"), await hash_pin(request.pin)

    async def act(connection: AsyncConnection) -> None:
        await people_store.find(connection, person)
        await people_store.lift_waits(connection, person, moment(context.now()))
        await people_store.set_pin(connection, person, new_hash, must_change=True)
        await people_store.close_sessions(connection, person)

    await once(context, request.id, ("person", person), reset, act)


async def unlock(context: Context, actor: Actor, person: UUID, request: Command) -> None:
    """A lead or a keeper lifts the wait after wrong PINs, on every tablet.

    Raises:
        NotAllowed: by somebody who may not.
        NotOnFile: nobody has this id.
    """
    require_right(actor.person.roles, "unlock", "person")
    lifted = _of(context, actor, person, request.id, "unlocked")

    async def act(connection: AsyncConnection) -> None:
        await people_store.find(connection, person)
        await people_store.lift_waits(connection, person, moment(context.now()))

    await once(context, request.id, ("person", person), lifted, act)


async def set_roles(context: Context, actor: Actor, person: UUID, request: SetRoles) -> None:
    """A keeper says what somebody may do from now on.

    Raises:
        NotAllowed: by somebody who is not a keeper.
        NotOnFile: nobody has this id.
        Invalid: a role twice, or no keeper would be left.
    """
    require_right(actor.person.roles, "people", "person")
    await _set_roles(context, actor, person, request)
    await reach(context, actor, "person", person)


async def _set_roles(context: Context, actor: Actor | None, person: UUID, request: SetRoles) -> None:
    given = note(
        context.now(), actor, id=request.id, stream=person, subject="person", kind="roles_set", text=", ".join(request.roles),
        roles=request.roles,
    )  # fmt: skip

    async def act(connection: AsyncConnection) -> None:
        before, _ = await people_store.find(connection, person)
        if "keeper" not in request.roles:
            await turns.take(connection, turns.KEEPERS)
            require_keeper_stays(await people_store.here(connection, locked=True), before)
        await people_store.set_roles(connection, Person(id=person, name=before.name, roles=request.roles))
        if "work" not in rights_of(request.roles):
            await feed_store.end(connection, person)

    await once(context, request.id, ("person", person), given, act)


async def leave(context: Context, actor: Actor, person: UUID, request: Command) -> None:
    """Somebody does not work here any more: their sessions end, nobody can pick them, their history stays.

    Raises:
        NotAllowed: by somebody who is not a keeper.
        NotOnFile: nobody has this id.
        Invalid: it is the last keeper.
    """
    require_right(actor.person.roles, "people", "person")
    left, now = _of(context, actor, person, request.id, "left"), moment(context.now())

    async def act(connection: AsyncConnection) -> None:
        await turns.take(connection, turns.KEEPERS)
        leaving, _ = await people_store.find(connection, person)
        require_keeper_stays(await people_store.here(connection, locked=True), leaving)
        await people_store.leave(connection, person, now)
        await people_store.close_sessions(connection, person)

    await once(context, request.id, ("person", person), left, act)
    await reach(context, actor, "person", person)


async def sessions(context: Context, actor: Actor) -> tuple[Session, ...]:
    """Who is signed in where, and who has an address for a calendar: a keeper sees everybody's, anybody else their own."""
    keeps = "people" in rights_of(actor.person.roles)
    signed_in = await context.database.run(lambda connection: people_store.sessions_of(connection, moment(context.now())))
    feeds = await context.database.run(feed_store.everything)
    everything = [
        *(
            Session(id=row.key, person=row.person, name=row.name, device=row.device, until=row.until.replace(tzinfo=UTC))
            for row in signed_in
        ),
        *(Session(id=f"{FEED}{row.id}", person=row.person, name=row.name, device="an address for a calendar", until=None) for row in feeds),
    ]
    return tuple(session for session in everything if keeps or session.person == actor.person.id)


async def end_session(context: Context, actor: Actor, key: str) -> None:
    """End a session, or an address for a calendar; one that has ended stays ended.

    Raises:
        NotAllowed: somebody else's, and not by a keeper.
    """
    signed_in = await context.database.run(lambda connection: people_store.sessions_of(connection, moment(context.now())))
    feeds = await context.database.run(feed_store.everything)
    ends: dict[str, tuple[UUID, Callable[[AsyncConnection], Awaitable[None]]]] = {}
    closing, now = people_store.close_session, moment(context.now())
    ends |= {row.key: (row.person, partial(closing, token_hash=row.token_hash, now=now)) for row in signed_in}
    ends |= {f"{FEED}{row.id}": (row.person, partial(feed_store.end_one, feed=row.id)) for row in feeds}
    if key not in ends:
        return
    person, end = ends[key]
    if person != actor.person.id:
        require_right(actor.person.roles, "people", "session")
    await context.database.run(end)
