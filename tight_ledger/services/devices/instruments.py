"""Instruments: a keeper registers a wrench with the key that it shows; what it tells is evidence from then on."""

import hashlib
from datetime import UTC, datetime
from uuid import UUID

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import NotOnFile
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import require_right
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command, note, once
from tight_ledger.services.context import Context
from tight_ledger.store import instruments as instrument_store
from tight_ledger.store import ledger
from tight_ledger.store.ids import new_id
from tight_ledger.store.ledger import moment


class NewInstrument(Command):
    """A wrench that may tell what it pulled; its id is the command's."""

    name: str = Field(min_length=1, max_length=80)
    key: str = Field(min_length=32, max_length=200)
    """Made by the instrument, shown to the keeper, and kept here as a hash only."""


class Instrument(Model):
    """A registered instrument."""

    id: UUID
    name: str
    registered_at: datetime
    retired: bool


async def register(context: Context, actor: Actor, request: NewInstrument) -> None:
    """A keeper registers an instrument.

    Raises:
        NotAllowed: by somebody who is not a keeper.
        Invalid: the name is taken.
    """
    require_right(actor.person.roles, "instruments", "instrument")
    key_hash, now = hashlib.sha256(request.key.encode()).digest(), context.now()

    async def work(connection: AsyncConnection) -> None:
        if await instrument_store.add(connection, request.id, request.name.strip(), key_hash, moment(now)):
            first = note(now, actor, id=new_id(), stream=request.id, subject="instrument", kind="registered", text=request.name)
            await ledger.begin(connection, "instrument", request.id, first)

    await context.database.run(work, transaction=True)


async def instruments(context: Context) -> tuple[Instrument, ...]:
    """Every instrument, by name."""
    found = await context.database.run(instrument_store.everything)
    return tuple(
        Instrument(id=each.id, name=each.name, registered_at=each.registered_at.replace(tzinfo=UTC), retired=each.retired_at is not None)
        for each in found
    )


async def retire(context: Context, actor: Actor, instrument: UUID, request: Command) -> None:
    """A keeper takes an instrument off: it is lost, sold or not trusted any more.

    Raises:
        NotAllowed: by somebody who is not a keeper.
        NotOnFile: no such instrument.
    """
    require_right(actor.person.roles, "instruments", "instrument")
    now = moment(context.now())
    retired = note(context.now(), actor, id=request.id, stream=instrument, subject="instrument", kind="retired")

    async def act(connection: AsyncConnection) -> None:
        if all(each.id != instrument for each in await instrument_store.everything(connection)):
            raise NotOnFile("instrument", "No instrument has this id.", "Pick one from the list.")
        await instrument_store.retire(connection, instrument, now)

    await once(context, request.id, ("instrument", instrument), retired, act)
