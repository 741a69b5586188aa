"""Signing in with a PIN: slow hashes, failures counted in the database, quick switch on one tablet."""

import asyncio
import hashlib
import math
import secrets
from collections.abc import Callable, Collection
from datetime import UTC, datetime, timedelta
from uuid import UUID

from argon2 import PasswordHasher
from argon2.exceptions import VerifyMismatchError
from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Busy, Invalid, NotAllowed, NotSignedIn, Unreadable
from tight_ledger.core.base.given_names import require_name
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import Person, Role, check_new_pin, pin_wait_s, require_right
from tight_ledger.core.records.facts import commitment
from tight_ledger.services import pressing
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context
from tight_ledger.store import ledger, names, press_keys, turns
from tight_ledger.store import people as people_store
from tight_ledger.store.ids import new_id
from tight_ledger.store.ledger import moment

SESSION = timedelta(hours=14)
"""How long a session lasts: a long shift."""
CLOCKS_DIFFER_S = 60.0
"""By how much the clocks of two hosts may differ."""

_hasher = PasswordHasher()


class SignIn(Model):
    """A name picked, a PIN typed."""

    person: UUID
    pin: str = Field(max_length=20)
    press_key: str | None = Field(default=None, pattern="^04[0-9a-f]{128}$")
    """The public key of what the tablet signs in this session: a point of the curve P-256 in hex; none if it signs nothing."""


class NewPerson(Command):
    """Somebody to put on the list."""

    name: str = Field(min_length=1, max_length=80)
    roles: tuple[Role, ...] = Field(min_length=1, max_length=4)
    pin: str = Field(max_length=20)


async def hash_pin(pin: str, field: str = "pin") -> str:
    """The Argon2 hash of a PIN; computed in a thread.

    Raises:
        Invalid: it is no PIN, or one that is guessed first; tied to the field.
    """
    check_new_pin(pin, field)
    return await asyncio.to_thread(_hasher.hash, pin)


async def add_person(context: Context, actor: Actor, request: NewPerson) -> Person:
    """A keeper puts somebody on the list.

    Raises:
        NotAllowed: by somebody who is not a keeper.
        Invalid: the name is taken or cannot be read, or the PIN is none.
    """
    require_right(actor.person.roles, "people", "roles")
    require_name("name", request.name)
    person, pin_hash = Person(id=request.id, name=request.name, roles=request.roles), await hash_pin(request.pin)

    async def work(connection: AsyncConnection) -> None:
        if not await people_store.is_there(connection, person):
            await put_on_the_list(connection, person, pin_hash, context.now(), actor)

    await context.database.run(work, transaction=True)
    return person


async def put_on_the_list(connection: AsyncConnection, person: Person, pin_hash: str, now: datetime, actor: Actor | None = None) -> None:
    """Add a person, with the sealed commitment to their name."""
    await people_store.add(connection, person, pin_hash)
    await ledger.require_free(connection, [person.id])
    by, device = (actor.person.id, actor.device) if actor is not None else (None, None)
    await names.seal(connection, person, now, by, device)


async def seal_names(context: Context) -> int:
    """Seal the names of those from before names were sealed. Returns how many."""

    async def work(connection: AsyncConnection) -> int:
        salts = await people_store.salts(connection)
        fresh = [person for person in await people_store.everybody(connection) if person.id not in salts]
        for person in fresh:
            await names.seal(connection, person, context.now())
        return len(fresh)

    return await context.database.run(work, transaction=True)


async def proofs(connection: AsyncConnection, called: Collection[str]) -> list[dict[str, str]]:
    """For each of these names, the person, and the salt that proves it."""
    salts = await people_store.salts(connection)
    known = [person for person in await people_store.everybody(connection) if person.name in called and person.id in salts]
    return [{"person": str(person.id), "name": person.name, "salt": salts[person.id].hex()} for person in known]


async def names_shown(connection: AsyncConnection) -> dict[UUID, str]:
    """By person, the name; one that is not the name that was sealed says so."""
    everybody, salts = await people_store.everybody(connection), await people_store.salts(connection)
    sealed = await ledger.notes_of(connection, "person", [person.id for person in everybody])
    shown = {}
    for person in everybody:
        said, salt = sealed.get(person.id, []), salts.get(person.id)
        named = [note.digest for note in said if note.kind == "named"] if not isinstance(said, Unreadable) else []
        holds = not named or (salt is not None and commitment(salt, person.name) == named[-1])
        shown[person.id] = person.name if holds else f"{person.name} (not the name that was sealed)"
    return shown


async def sign_in(context: Context, request: SignIn, tablet: UUID) -> tuple[str, Actor, UUID | None]:
    """A session's token, who it is for, and the id of its key.

    Args:
        tablet: one that was introduced.

    Raises:
        Busy: too many failures; says how long to wait.
        NotAllowed: the PIN is wrong.
        Invalid: the key is no point of the curve.
    """
    now = moment(context.now())
    key, public = (new_id(), bytes.fromhex(request.press_key)) if request.press_key is not None else (None, b"")
    if key is not None and not pressing.readable(public):
        raise Invalid("press_key", "This is no public key.", "Send a point of the curve P-256.")
    person, pin_hash = await admit(context, request.person, tablet)
    await verified(context, person, tablet, pin_hash, request.pin)
    token = secrets.token_urlsafe(32)

    async def open_session(connection: AsyncConnection) -> None:
        if key is not None:
            await press_keys.keep(connection, key, public, person.id, tablet, now, now + SESSION)
        await people_store.open_session(connection, token_hash(token), person.id, tablet, now + SESSION, key)

    await context.database.run(open_session, transaction=True)
    return token, await who(context, token), key


async def verified(context: Context, person: Person, tablet: UUID | None, pin_hash: str, pin: str, field: str = "pin") -> None:
    """Hold a PIN against its hash, in a thread; a right one is noted.

    Raises:
        NotAllowed: it is another; tied to the field.
    """
    try:
        await asyncio.to_thread(_hasher.verify, pin_hash, pin)
    except VerifyMismatchError as error:
        raise NotAllowed(field, "This is not the PIN.", f"Try again, {person.name}, or ask a keeper to reset it.") from error
    now = moment(context.now())
    await context.database.run(lambda c: people_store.note_attempt(c, person.id, tablet, now, good=True), transaction=True)


async def admit(
    context: Context, person_id: UUID, tablet: UUID | None, first: Callable[[Person], None] = lambda _: None
) -> tuple[Person, str]:
    """A person whose PIN may be tried now, and its hash; the attempt counts as wrong until a right one is noted.

    Wrong ones are counted for each person on each tablet, and together for all tablets that nobody introduced: who guesses on
    one makes nobody wait elsewhere.

    Args:
        tablet: where it is tried; None for one that nobody introduced.
        first: refuses a person before the attempt counts.

    Raises:
        Busy: too many failures; says how long to wait.
        NotOnFile: nobody here has this id.
    """

    async def work(connection: AsyncConnection) -> tuple[Person, str]:
        await turns.take(connection, f"pin {person_id}")
        now = moment(context.now())  # only now: who waited for the turn came after those before
        person, pin_hash = await people_store.find(connection, person_id)
        first(person)
        failures, last = await people_store.failures(connection, person_id, tablet)
        passed_s = (now - last).total_seconds() if last is not None else math.inf
        # An attempt that lies far ahead of the clock was made before the clock was put back: it has no say in how long to wait.
        if passed_s > -CLOCKS_DIFFER_S and (wait_s := pin_wait_s(failures) - max(passed_s, 0)) > 0:
            raise Busy("pin", f"Too many wrong PINs for {person.name}.", f"Wait {math.ceil(wait_s)} seconds, or ask a lead to lift it.")
        # Written down before the answer is known, so that guessing side by side gains nothing.
        await people_store.note_attempt(connection, person.id, tablet, now, good=False)
        return person, pin_hash

    return await context.database.run(work, transaction=True)


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
    now = moment(context.now().astimezone(UTC))
    await context.database.run(lambda c: people_store.close_session(c, token_hash(token), now), transaction=True)


def require_person(known: list[Person], person_id: UUID) -> Person:
    """The person of an id.

    Raises:
        Invalid: nobody has it.
    """
    found = next((p for p in known if p.id == person_id), None)
    if found is None:
        raise Invalid("by", "Nobody here has this id.", "Pick who pulled from the list.")
    return found
