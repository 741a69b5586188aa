"""Meter readings that come as a file: each line stands for itself."""

import json
from collections.abc import Collection, Sequence
from typing import get_args
from uuid import UUID, uuid5

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import Model
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.meters import Meter, MeterKind, meter_warning
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.runs.starting import meter_note
from tight_ledger.store import ledger, told
from tight_ledger.store import machines as machine_store

COLUMNS = ("machine", "meter", "figure")
MOST_ROWS = 5_000
KINDS: dict[str, MeterKind] = {kind: kind for kind in get_args(MeterKind)}
MeterRow = tuple[int, dict[str, str]]
"""The number of a line, and its cells by column."""


class MeterLine(Model):
    """A line of a file of meter readings: what became of it."""

    row: int
    fleet_number: str
    said: str
    """What was written down, or what is wrong with it."""
    ok: bool


class _File:
    """The lines of a file against what the machines' meters show, each line after those before it."""

    def __init__(self, fleet: dict[str, Machine], before: dict[UUID, dict[str, Meter]], file_id: UUID, known: Collection[UUID]):
        self._fleet, self._last, self._file_id, self._known = fleet, before, file_id, known
        self.fresh: dict[UUID, list[tuple[UUID, Meter]]] = {}
        """By machine, what is to be written down: the id of its entry, and the reading."""

    def line(self, row: MeterRow) -> MeterLine:
        """What becomes of the next line."""
        number, cells = row
        named = cells.get("machine", "").strip()
        words, ok = self._judged(number, named, cells)
        return MeterLine(row=number, fleet_number=named, said=words, ok=ok)

    def _judged(self, number: int, named: str, cells: dict[str, str]) -> tuple[str, bool]:
        machine, kind = self._fleet.get(named.casefold()), KINDS.get(cells.get("meter", "").strip())
        if machine is None:
            return "no machine has this fleet number", False
        if kind is None or kind not in machine.meters:
            return f"{machine.fleet_number} has no such meter; it has {', '.join(machine.meters) or 'none'}", False
        try:
            meter = Meter(kind=kind, figure=float(cells.get("figure", "").strip()))
        except ValueError:
            return f"“{cells.get('figure', '')[:40]}” is no figure", False
        last = self._last.setdefault(machine.id, {}).get(kind)
        if uuid5(self._file_id, str(number)) in self._known or (last is not None and last.figure == meter.figure):
            return f"{meter.figure:g} {kind} is written down already", True
        if warning := meter_warning(last, meter):
            return warning, False
        self._last[machine.id][kind] = meter
        self.fresh.setdefault(machine.id, []).append((uuid5(self._file_id, str(number)), meter))
        return f"{meter.figure:g} {kind}", True


async def read_meters(context: Context, actor: Actor, file_id: UUID, rows: Sequence[MeterRow]) -> tuple[MeterLine, ...]:
    """Write down the meter readings of a file, in one transaction.

    The same file twice is written down once: a reading's id comes from the file's. A reading that is written down already, or
    that is below the last one, is left out and says so.

    Args:
        rows: with the cells `machine`, `meter` and `figure`.

    Raises:
        Stale: the file's id stands for another file.
    """

    async def work(connection: AsyncConnection) -> tuple[MeterLine, ...]:
        named = {cells.get("machine", "").strip().casefold() for _, cells in rows}
        machines = {machine.fleet_number.casefold(): machine for machine in await machine_store.read_all(connection)}
        fleet = {number: machine for number, machine in machines.items() if number in named}
        ids = [machine.id for machine in fleet.values()]
        short = await told.read(connection, "machine", ids)
        before = {machine_id: dict(each.meters) for machine_id, each in short.items()}
        file = _File(fleet, before, file_id, await _known(connection, file_id, rows))
        lines = tuple([file.line(row) for row in rows])
        heads = await ledger.heads(connection, list(file.fresh))
        builds = [
            (machine_id, [meter_note(actor, machine_id, meter, context.now(), entry_id) for entry_id, meter in fresh], heads[machine_id])
            for machine_id, fresh in file.fresh.items()
        ]
        await ledger.add_many(connection, "machine", builds)
        return lines

    return await context.database.run(work, transaction=True)


async def _known(connection: AsyncConnection, file_id: UUID, rows: Sequence[MeterRow]) -> set[UUID]:
    """The entries that this file has written down before.

    Raises:
        Stale: it had another figure in one of its lines then.
    """
    told_now = {uuid5(file_id, str(number)): cells.get("figure", "").strip() for number, cells in rows}
    stored = await ledger.bodies_of(connection, told_now)
    for entry_id, body in stored.items():
        meter = json.loads(body).get("meter") or {}
        try:
            same = float(told_now[entry_id]) == meter.get("figure")
        except ValueError:
            same = False
        if not same:
            raise ledger.used_elsewhere()
    return set(stored)
