"""What is due: the list of it, tags for it, and meters that come from a file."""

import csv
from collections.abc import Sequence
from io import StringIO
from typing import get_args
from uuid import UUID, uuid5

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile
from tight_ledger.core.base.models import Model
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.meters import Meter, MeterKind, meter_warning
from tight_ledger.core.specs.followups import DueStatus
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.runs.starting import meter_note
from tight_ledger.services.standing import OpenFollowup, open_followups
from tight_ledger.services.summaries import catch_up
from tight_ledger.store import ledger, told
from tight_ledger.store import machines as machine_store

KINDS: dict[str, MeterKind] = {kind: kind for kind in get_args(MeterKind)}
MOST_ROWS = 5_000


class MeterLine(Model):
    """A line of a file of meter readings: what became of it."""

    row: int
    fleet_number: str
    said: str
    """What was written down, or what is wrong with it."""
    ok: bool


async def followups(context: Context, statuses: Sequence[DueStatus] = ()) -> tuple[OpenFollowup, ...]:
    """The open follow-ups, the most urgent first; of some statuses, or all."""
    await catch_up(context)
    found = await context.database.run(lambda connection: open_followups(context, connection))
    return tuple(each for each in found if not statuses or each.due.status in statuses)


async def followup(context: Context, root: UUID, name: str) -> OpenFollowup:
    """One open follow-up.

    Raises:
        NotOnFile: it is not open: it was done, or never was.
    """
    found = next((each for each in await followups(context) if each.root == root and each.due.followup == name), None)
    if found is None:
        raise NotOnFile("followup", "This follow-up is not open any more.", "Open the machine; its history says what was done.")
    return found


async def read_meters(context: Context, actor: Actor, file_id: UUID, text: str) -> tuple[MeterLine, ...]:
    """Meter readings from a CSV file with the columns machine, meter and figure; each line stands for itself.

    The same file twice is written down once: a reading's id comes from the file's. A reading that is written down already, or
    that is below the last one, is left out and says so.

    Raises:
        Invalid: it is no such file, or too long.
    """
    rows = list(csv.DictReader(StringIO(text.removeprefix("\ufeff"))))
    missing = {"machine", "meter", "figure"} - set(rows[0] if rows else {})
    if missing:
        raise Invalid("file", f"The columns {', '.join(sorted(missing))} are missing.", "Write machine,meter,figure in the first line.")
    if len(rows) > MOST_ROWS:
        raise Invalid("file", f"It has {len(rows)} lines.", f"Send {MOST_ROWS} at most.")

    async def work(connection: AsyncConnection) -> tuple[MeterLine, ...]:
        fleet = {machine.fleet_number.casefold(): machine for machine in await machine_store.read_all(connection)}
        return tuple(
            [
                await _line(context, connection, actor, fleet, uuid5(file_id, str(number)), number, row)
                for number, row in enumerate(rows, start=2)
            ]
        )

    return await context.database.run(work, transaction=True)


async def _line(
    context: Context, connection: AsyncConnection, actor: Actor, fleet: dict[str, Machine], entry_id: UUID, number: int, row: dict[str, str]
) -> MeterLine:
    named = (row.get("machine") or "").strip()

    def said(words: str, *, ok: bool = False) -> MeterLine:
        return MeterLine(row=number, fleet_number=named, said=words, ok=ok)

    machine, kind = fleet.get(named.casefold()), KINDS.get((row.get("meter") or "").strip())
    if machine is None:
        return said("no machine has this fleet number")
    if kind is None or kind not in machine.meters:
        return said(f"{machine.fleet_number} has no such meter; it has {', '.join(machine.meters) or 'none'}")
    try:
        meter = Meter(kind=kind, figure=float((row.get("figure") or "").strip()))
    except ValueError:
        return said(f"“{row.get('figure')}” is no figure")
    last = next((each for each in await told.meters(connection, machine.id) if each.kind == kind), None)
    if last is not None and last.figure == meter.figure:
        return said(f"{meter.figure:g} {kind} is written down already", ok=True)
    if warning := meter_warning(last, meter):
        return said(warning)
    note = meter_note(actor, machine.id, meter, context.now(), entry_id)
    await ledger.add_next(connection, "machine", machine.id, note)
    return said(f"{meter.figure:g} {kind}", ok=True)
