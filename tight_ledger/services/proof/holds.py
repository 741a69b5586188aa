"""Holds: a lead keeps the records of a machine, of a period, or of both from every erasure. Each is an entry, and so is its end."""

from datetime import date, datetime, time, timedelta
from uuid import UUID
from zoneinfo import ZoneInfo

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile, Unreadable
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import require_right
from tight_ledger.core.records.holds import Hold, holds_of
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command, note, once
from tight_ledger.services.context import Context
from tight_ledger.services.people import names_shown
from tight_ledger.store import ledger
from tight_ledger.store import machines as machine_store
from tight_ledger.store.shop import Shop


class NewHold(Command):
    """What is to be kept; its id is the command's."""

    machine: UUID | None = None
    since: date | None = None
    until: date | None = None
    """Days of the shop; both are part of the period."""
    text: str = Field(min_length=1, max_length=500)


class Lift(Command):
    """Why a hold is not needed any more."""

    text: str = Field(min_length=1, max_length=500)


class HoldLine(Model):
    """A hold in the list."""

    hold: Hold
    fleet_number: str
    by: str


def moments(since: date | None, until: date | None, shop: Shop) -> tuple[datetime | None, datetime | None]:
    """The period of two days of the shop, the second included."""
    zone, utc = ZoneInfo(shop.time_zone), ZoneInfo("UTC")
    first = datetime.combine(since, time(), zone).astimezone(utc) if since is not None else None
    return first, datetime.combine(until + timedelta(days=1), time(), zone).astimezone(utc) if until is not None else None


async def in_force(connection: AsyncConnection) -> tuple[Hold, ...]:
    """The holds in force.

    Raises:
        Unreadable: a hold cannot be read; nothing may be erased then.
    """
    streams = await ledger.streams_with(connection, "hold", ("held",))
    known = await ledger.notes_of(connection, "hold", streams)
    lost = next((each for each in known.values() if isinstance(each, Unreadable)), None)
    if lost is not None:
        raise lost
    return holds_of(notes for notes in known.values() if not isinstance(notes, Unreadable))


async def holds(context: Context) -> tuple[HoldLine, ...]:
    """The holds, the newest first."""

    async def work(connection: AsyncConnection) -> tuple[HoldLine, ...]:
        people = await names_shown(connection)
        known = await in_force(connection)
        fleet = await machine_store.fleet_numbers(connection, {each.machine for each in known if each.machine is not None})
        return tuple(
            HoldLine(
                hold=each, fleet_number=fleet.get(each.machine, "") if each.machine else "", by=people.get(each.by, "") if each.by else ""
            )
            for each in known
        )

    return await context.database.run(work)


async def hold(context: Context, actor: Actor, request: NewHold) -> None:
    """Keep a machine, a period, or a machine in a period.

    Raises:
        NotAllowed: by somebody who is no lead.
        NotOnFile: no machine has this id.
        Invalid: neither a machine nor a period is named, or it ends before it begins.
    """
    require_right(actor.person.roles, "hold", "machine")
    if request.machine is None and request.since is None and request.until is None:
        raise Invalid("machine", "Nothing is named that is to be kept.", "Name a machine, a period, or both.")
    if request.since is not None and request.until is not None and request.until < request.since:
        raise Invalid("until", "The period ends before it begins.", "Exchange the two days.")
    since, until = moments(request.since, request.until, await context.shop())
    said = note(
        context.now(), actor, id=request.id, stream=request.id, subject="hold", kind="held", text=request.text, machine=request.machine,
        since=since, until=until,
    )  # fmt: skip

    async def act(connection: AsyncConnection) -> None:
        if request.machine is not None:
            await machine_store.find(connection, request.machine)

    await once(context, request.id, ("hold", request.id), said, act)


async def lift(context: Context, actor: Actor, hold_id: UUID, request: Lift) -> None:
    """Lift a hold.

    Raises:
        NotAllowed: by somebody who is no lead.
        NotOnFile: no hold in force has this id.
    """
    require_right(actor.person.roles, "hold", "hold")
    said = note(context.now(), actor, id=request.id, stream=hold_id, subject="hold", kind="lifted", text=request.text)

    async def act(connection: AsyncConnection) -> None:
        if hold_id not in {each.id for each in await in_force(connection)}:
            raise NotOnFile("hold", "No hold in force has this id.", "Look at the list of holds.")

    await once(context, request.id, ("hold", hold_id), said, act)
