"""Tablets: each is introduced once, by a lead or a keeper; nobody signs in on another."""

import hashlib
import secrets
from datetime import UTC
from uuid import UUID

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import NotAllowed
from tight_ledger.core.base.given_names import require_name
from tight_ledger.core.base.people import Person, require_right
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command, note, once
from tight_ledger.services.context import Context
from tight_ledger.services.people import admit, verified
from tight_ledger.store import ledger
from tight_ledger.store import tablets as tablet_store
from tight_ledger.store.ids import new_id
from tight_ledger.store.ledger import moment
from tight_ledger.store.tablets import Tablet


class Introduced(Command):
    """A tablet, by the name that it goes by here, and who introduces it; its id is the command's."""

    name: str = Field(min_length=1, max_length=80)
    person: UUID
    pin: str = Field(max_length=20)


def secret_hash(secret: str) -> bytes:
    """The hash of a tablet's secret, which is what is stored."""
    return hashlib.sha256(secret.encode()).digest()


async def keep(connection: AsyncConnection, context: Context, tablet: UUID, name: str, by: Person) -> str:
    """Keep a tablet, and note who introduced it. Returns its secret.

    Raises:
        Stale: the id stands for another already.
    """
    secret = secrets.token_urlsafe(32)
    introduced = note(context.now(), Actor(by, tablet), id=new_id(), stream=tablet, subject="tablet", kind="introduced")
    if await tablet_store.introduce(connection, tablet, name.strip(), secret_hash(secret), moment(context.now())):
        await ledger.begin(connection, "tablet", tablet, introduced)
    return secret


async def introduce(context: Context, request: Introduced) -> str:
    """A lead or a keeper introduces the tablet in their hands. Returns its secret.

    Raises:
        NotAllowed: by somebody who may not, or the PIN is wrong.
        Busy: too many wrong PINs on tablets that nobody introduced.
        Stale: the id stands for another tablet already.
        Invalid: the name cannot be read.
    """
    require_name("name", request.name)
    person, pin_hash = await admit(context, request.person, None, lambda person: require_right(person.roles, "introduce", "person"))
    await verified(context, person, None, pin_hash, request.pin)
    return await context.database.run(lambda c: keep(c, context, request.id, request.name, person), transaction=True)


async def require_known(context: Context, secret: str | None) -> UUID:
    """The tablet that shows a secret.

    Raises:
        NotAllowed: it was not introduced, or is lost.
    """
    found = await name_of(context, secret)
    if found is None:
        raise NotAllowed("tablet", "This tablet is not known here.", "A lead or a keeper introduces it once, at this door.")
    return found[0]


async def name_of(context: Context, secret: str | None) -> tuple[UUID, str] | None:
    """The id and name of the tablet that shows a secret; None if it was not introduced, or is lost."""
    if secret is None:
        return None
    return await context.database.run(lambda connection: tablet_store.known(connection, secret_hash(secret)))


async def tablets(context: Context) -> tuple[Tablet, ...]:
    """Every tablet, by name."""
    found = await context.database.run(tablet_store.everything)
    return tuple(each.model_copy(update={"since": each.since.replace(tzinfo=UTC)}) for each in found)


async def lost(context: Context, actor: Actor, tablet: UUID, request: Command) -> None:
    """A tablet is lost or sold: nobody signs in on it any more, and who was signed in is not.

    Raises:
        NotAllowed: by somebody who may not.
        NotOnFile: no tablet has this id.
    """
    require_right(actor.person.roles, "introduce", "tablet")
    gone = note(context.now(), actor, id=request.id, stream=tablet, subject="tablet", kind="lost")

    async def act(connection: AsyncConnection) -> None:
        await tablet_store.lose(connection, tablet, moment(context.now()))

    await once(context, request.id, ("tablet", tablet), gone, act)
