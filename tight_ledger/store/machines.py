"""Machines, each stored whole as JSON, and their meters."""

from datetime import datetime
from uuid import UUID

from sqlalchemy import select, update
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile
from tight_ledger.core.base.models import canonical
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.specs.followups import Happened
from tight_ledger.store import tables
from tight_ledger.store.ledger import notes
from tight_ledger.store.unique import insert_once


async def add(connection: AsyncConnection, machine: Machine) -> bool:
    """Put a machine on file; whether it was new.

    Raises:
        Invalid: the fleet number is taken.
    """
    taken = Invalid("fleet_number", f"{machine.fleet_number} is on file already.", "Open it, or give another number.")
    content = canonical(machine).decode()
    return await insert_once(
        connection, tables.machines, "fleet_number", taken, id=machine.id, fleet_number=machine.fleet_number, content=content
    )


async def describe(connection: AsyncConnection, machine: Machine) -> None:
    """Keep what was found out about a machine."""
    table = tables.machines
    await connection.execute(update(table).where(table.c.id == machine.id).values(content=canonical(machine).decode()))


async def read_all(connection: AsyncConnection) -> list[Machine]:
    """Every machine, by fleet number."""
    rows = await connection.execute(select(tables.machines.c.content).order_by(tables.machines.c.fleet_number))
    return [Machine.model_validate_json(row.content) for row in rows]


async def find(connection: AsyncConnection, machine_id: UUID) -> Machine:
    """One machine.

    Raises:
        NotOnFile: no machine has this id.
    """
    row = (await connection.execute(select(tables.machines.c.content).where(tables.machines.c.id == machine_id))).first()
    if row is None:
        raise NotOnFile("machine", "No machine on file has this id.", "Find it by its fleet number, or add it.")
    return Machine.model_validate_json(row.content)


async def meters(connection: AsyncConnection, machine_id: UUID) -> dict[str, tuple[Meter, datetime]]:
    """The newest reading of each of a machine's meters, and when it came."""
    newest: dict[str, tuple[Meter, datetime]] = {}
    for note in await notes(connection, "machine", machine_id):
        if note.meter is not None:
            newest[note.meter.kind] = (note.meter, note.at_server)
    return newest


async def happened(connection: AsyncConnection, machine_id: UUID) -> dict[UUID, list[Happened]]:
    """By run, the events of its follow-ups that somebody reported."""
    found: dict[UUID, list[Happened]] = {}
    for note in await notes(connection, "machine", machine_id):
        if note.kind == "happened" and note.run is not None and note.followup is not None:
            found.setdefault(note.run, []).append(Happened(followup=note.followup, at=note.at_server))
    return found
