"""Signing in with a PIN: slow hashes, failures counted in the database, quick switch on one tablet."""

import asyncio
import hashlib
import math
import secrets
from datetime import UTC, timedelta
from uuid import UUID

from argon2 import PasswordHasher
from argon2.exceptions import VerifyMismatchError
from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Busy, Invalid, NotAllowed, NotSignedIn
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import Person, Role, check_new_pin, pin_wait_s, require_lead
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context
from tight_ledger.store import people as people_store
from tight_ledger.store.ledger import moment

SESSION = timedelta(hours=14)
"""How long a session lasts: a long shift."""

_hasher = PasswordHasher()


class SignIn(Model):
    """A name picked, a PIN typed, on a device that names itself."""

    person: UUID
    pin: str = Field(max_length=20)
    device: UUID
    device_name: str = Field(min_length=1, max_length=80)


class NewPerson(Command):
    """Somebody to put on the list."""

    name: str = Field(min_length=1, max_length=80)
    role: Role
    pin: str = Field(max_length=20)


async def hash_pin(pin: str) -> str:
    """The Argon2 hash of a PIN; computed in a thread."""
    check_new_pin(pin)
    return await asyncio.to_thread(_hasher.hash, pin)


async def add_person(context: Context, actor: Actor, request: NewPerson) -> Person:
    """A lead puts somebody on the list.

    Raises:
        NotAllowed: by somebody who is not a lead.
        Invalid: the name is taken, or the PIN is none.
    """
    require_lead(actor.person.role, "role", "put people on the list")
    person, pin_hash = Person(id=request.id, name=request.name, role=request.role), await hash_pin(request.pin)

    async def work(connection: AsyncConnection) -> None:
        if not await people_store.is_there(connection, person):
            await people_store.add(connection, person, pin_hash)

    await context.database.run(work, transaction=True)
    return person


async def sign_in(context: Context, request: SignIn) -> tuple[str, Actor]:
    """A session's token, and who it is for.

    Raises:
        Busy: too many failures; says how long to wait.
        NotAllowed: the PIN is wrong.
    """
    now = moment(context.now())

    async def admit(connection: AsyncConnection) -> tuple[Person, str]:
        person, pin_hash = await people_store.find(connection, request.person)
        failures, last = await people_store.failures(connection, request.person)
        # An attempt that lies ahead of the clock was made before the clock was put back: it has no say in how long to wait.
        if last is not None and now >= last and (wait := math.ceil(pin_wait_s(failures) - (now - last).total_seconds())) > 0:
            raise Busy("pin", f"Too many wrong PINs for {person.name}.", f"Wait {wait} seconds, or ask a lead.")
        # Written down before the answer is known, so that guessing side by side gains nothing.
        await people_store.note_attempt(connection, person.id, now, good=False)
        return person, pin_hash

    person, pin_hash = await context.database.run(admit, transaction=True)
    try:
        await asyncio.to_thread(_hasher.verify, pin_hash, request.pin)
    except VerifyMismatchError as error:
        raise NotAllowed("pin", "This is not the PIN.", f"Try again, {person.name}, or pick your own name.") from error
    token = secrets.token_urlsafe(32)

    async def open_session(connection: AsyncConnection) -> None:
        await people_store.note_attempt(connection, person.id, moment(context.now()), good=True)
        await people_store.seen(connection, request.device, request.device_name, now)
        await people_store.open_session(connection, token_hash(token), person.id, request.device, now + SESSION)

    await context.database.run(open_session, transaction=True)
    return token, Actor(person, request.device)


def token_hash(token: str) -> bytes:
    """The hash of a token, which is what is stored."""
    return hashlib.sha256(token.encode()).digest()


async def who(context: Context, token: str) -> Actor:
    """Who a token is for.

    Raises:
        NotSignedIn: nobody, or no longer.
    """
    now = context.now().astimezone(UTC)
    found = await context.database.run(lambda c: people_store.session(c, token_hash(token), moment(now)))
    if found is None:
        raise NotSignedIn("session", "Nobody is signed in here.", "Pick your name and type your PIN.")
    return Actor(*found)


async def sign_out(context: Context, token: str) -> None:
    """End a session."""
    await context.database.run(lambda c: people_store.close_session(c, token_hash(token)))


def require_person(known: list[Person], person_id: UUID) -> Person:
    """The person of an id.

    Raises:
        Invalid: nobody has it.
    """
    found = next((p for p in known if p.id == person_id), None)
    if found is None:
        raise Invalid("by", "Nobody here has this id.", "Pick who pulled from the list.")
    return found
