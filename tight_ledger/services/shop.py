"""The shop: setting it up, and its choices where mechanics disagree."""

import secrets
from uuid import UUID
from zoneinfo import available_timezones

from pydantic import Field, field_validator
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.choices import ShopChoice, choose, questions
from tight_ledger.core.base.errors import NotAllowed
from tight_ledger.core.base.given_names import require_name
from tight_ledger.core.base.people import Person, require_right
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.settings import ShopSettings
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command, note, once
from tight_ledger.services.context import Context
from tight_ledger.services.people import hash_pin, put_on_the_list
from tight_ledger.services.tablets import keep
from tight_ledger.store import people as people_store
from tight_ledger.store import shop as shop_store
from tight_ledger.store.shop import STREAM, Shop


def known_zone(zone: str) -> str:
    """A time zone that is known.

    Raises:
        ValueError: it is not.
    """
    if zone not in available_timezones():
        raise ValueError("this time zone is not known: name it as Europe/Lisbon")
    return zone


class SetUp(Command):
    """The first person sets the shop up."""

    code: str = Field(max_length=20)
    """As it was printed where the program was started."""
    shop: str = Field(min_length=1, max_length=80)
    time_zone: str = Field(max_length=64)
    name: str = Field(min_length=1, max_length=80)
    pin: str = Field(max_length=20)
    tablet: UUID
    tablet_name: str = Field(min_length=1, max_length=80)

    @field_validator("time_zone")
    @classmethod
    def _known(cls, zone: str) -> str:
        return known_zone(zone)


class Moved(Command):
    """A new time zone for the shop."""

    time_zone: str = Field(max_length=64)

    @field_validator("time_zone")
    @classmethod
    def _known(cls, zone: str) -> str:
        return known_zone(zone)


class Chosen(Command):
    """A question answered otherwise."""

    field: str = Field(max_length=60)
    value: str = Field(max_length=2_000)
    """Of several answers, all that hold, with ` | ` between them."""


async def set_up(context: Context, request: SetUp) -> tuple[Person, str | None]:
    """Found the shop with its first person, lead and keeper, and introduce the tablet in their hands.

    Returns:
        The person, and the secret of the tablet; none when the same is sent again.

    Raises:
        NotAllowed: another code than the printed one.
        Invalid: it is set up already, or the PIN is none.
    """
    if not context.setup_code or not secrets.compare_digest(request.code.encode(), context.setup_code.encode()):
        raise NotAllowed("code", "This is not the code.", "It stands where ./tight up --empty was started.")
    for field, name in (("shop", request.shop), ("name", request.name), ("tablet_name", request.tablet_name)):
        require_name(field, name)
    person, pin_hash = Person(id=request.id, name=request.name, roles=("lead", "keeper")), await hash_pin(request.pin)

    async def work(connection: AsyncConnection) -> str | None:
        if await people_store.is_there(connection, person):
            return None
        await shop_store.set_up(connection, Shop(name=request.shop, time_zone=request.time_zone, policy=Policy()))
        await put_on_the_list(connection, person, pin_hash, context.now())
        return await keep(connection, context, request.tablet, request.tablet_name, person)

    return person, await context.database.run(work, transaction=True)


async def choices(context: Context) -> tuple[ShopChoice, ...]:
    """The questions, and what this shop has chosen."""
    shop = await context.shop()
    known = await context.database.run(context.catalogue)
    return (*questions(shop.settings), *questions(shop.policy, (what.joint for what in known.entries["what"].values())))


async def move(context: Context, actor: Actor, request: Moved) -> None:
    """A keeper sets the time zone of the shop. Stored moments do not change; they are shown in the new zone.

    Raises:
        NotAllowed: by somebody who is not a keeper.
    """
    require_right(actor.person.roles, "shop", "time_zone")
    said = f"time zone: {request.time_zone}"
    chosen = note(context.now(), actor, id=request.id, stream=STREAM, subject="shop", kind="chosen", text=said)
    await once(context, request.id, ("shop", STREAM), chosen, lambda connection: shop_store.keep_zone(connection, request.time_zone))


async def answer(context: Context, actor: Actor, request: Chosen) -> tuple[ShopChoice, ...]:
    """A keeper answers a question otherwise; runs that have begun keep what was in force when they did.

    Raises:
        NotAllowed: by somebody who is not a keeper.
        Invalid: no such question, or no such answer.
    """
    require_right(actor.person.roles, "shop", "field")

    said = f"{request.field}: {request.value}"
    chosen = note(context.now(), actor, id=request.id, stream=STREAM, subject="shop", kind="chosen", text=said)

    async def act(connection: AsyncConnection) -> None:
        shop = await shop_store.require(connection)
        if request.field in ShopSettings.model_fields:
            await shop_store.keep_settings(connection, choose(shop.settings, request.field, request.value))
        else:
            await shop_store.keep_policy(connection, choose(shop.policy, request.field, request.value))

    await once(context, request.id, ("shop", STREAM), chosen, act)
    return await choices(context)
