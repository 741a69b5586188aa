"""The shop: setting it up, and its choices where mechanics disagree."""

import secrets
from zoneinfo import available_timezones

from pydantic import Field, field_validator
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.choices import ShopChoice, choose, questions
from tight_ledger.core.base.errors import NotAllowed
from tight_ledger.core.base.people import Person, require_lead
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.records.notes import Note
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command, done_before
from tight_ledger.services.context import Context
from tight_ledger.services.people import hash_pin, put_on_the_list
from tight_ledger.store import ledger
from tight_ledger.store import people as people_store
from tight_ledger.store import shop as shop_store
from tight_ledger.store.shop import STREAM, Shop


class SetUp(Command):
    """The first person sets the shop up."""

    code: str = Field(max_length=20)
    """As it was printed where the program was started."""
    shop: str = Field(min_length=1, max_length=80)
    time_zone: str = Field(default="UTC", max_length=64)
    name: str = Field(min_length=1, max_length=80)
    pin: str = Field(max_length=20)

    @field_validator("time_zone")
    @classmethod
    def _known(cls, zone: str) -> str:
        if zone not in available_timezones():
            raise ValueError("this time zone is not known: name it as Europe/Lisbon")
        return zone


class Chosen(Command):
    """A question answered otherwise."""

    field: str = Field(max_length=60)
    value: str = Field(min_length=1, max_length=40)


async def set_up(context: Context, request: SetUp) -> Person:
    """Found the shop with its first lead.

    Raises:
        NotAllowed: another code than the printed one.
        Invalid: it is set up already, or the PIN is none.
    """
    if not context.setup_code or not secrets.compare_digest(request.code.encode(), context.setup_code.encode()):
        raise NotAllowed("code", "This is not the code.", "It stands where ./tight up --empty was started.")
    person, pin_hash = Person(id=request.id, name=request.name, role="lead"), await hash_pin(request.pin)

    async def work(connection: AsyncConnection) -> None:
        if await people_store.is_there(connection, person):
            return
        await shop_store.set_up(connection, Shop(name=request.shop, time_zone=request.time_zone, policy=Policy()))
        await put_on_the_list(connection, person, pin_hash, context.now())

    await context.database.run(work, transaction=True)
    return person


async def choices(context: Context) -> tuple[ShopChoice, ...]:
    """The questions, and what this shop has chosen."""
    return questions((await context.shop()).policy)


async def answer(context: Context, actor: Actor, request: Chosen) -> tuple[ShopChoice, ...]:
    """A lead answers a question otherwise; runs that have begun keep what was in force when they did.

    Raises:
        NotAllowed: by somebody who is not a lead.
        Invalid: no such question, or no such answer.
    """
    require_lead(actor.person.role, "field", "change the shop's choices")

    def note(seq: int) -> Note:
        return Note(
            id=request.id, stream=STREAM, subject="shop", kind="chosen", seq=seq, by=actor.person.id, device=actor.device,
            at_server=context.now(), text=f"{request.field}: {request.value}",
        )  # fmt: skip

    async def work(connection: AsyncConnection) -> None:
        if not await done_before(connection, request.id, STREAM, note):
            shop = await shop_store.require(connection)
            await shop_store.keep_policy(connection, choose(shop.policy, request.field, request.value))
            await ledger.add_next(connection, "shop", STREAM, note)

    await context.database.run(work, transaction=True)
    return await choices(context)
