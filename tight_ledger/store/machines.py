"""Machines, each stored whole as JSON, and their meters."""

from collections.abc import Collection
from uuid import UUID

from sqlalchemy import func, select, update
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile
from tight_ledger.core.base.models import canonical
from tight_ledger.core.machines.machine import Machine
from tight_ledger.store import tables
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


async def find_many(connection: AsyncConnection, machine_ids: Collection[UUID]) -> dict[UUID, Machine]:
    """By id, the machines that have one of these ids."""
    query = select(tables.machines.c.content).where(tables.machines.c.id.in_(machine_ids))
    found = [Machine.model_validate_json(row.content) for row in await connection.execute(query)]
    return {machine.id: machine for machine in found}


async def fleet_numbers(connection: AsyncConnection, machine_ids: Collection[UUID]) -> dict[UUID, str]:
    """By machine, its fleet number."""
    query = select(tables.machines.c.id, tables.machines.c.fleet_number).where(tables.machines.c.id.in_(machine_ids))
    return {row.id: row.fleet_number for row in await connection.execute(query)}


async def count(connection: AsyncConnection) -> int:
    """How many machines there are."""
    return int((await connection.execute(select(func.count()).select_from(tables.machines))).scalar_one())


async def first(connection: AsyncConnection, most: int) -> list[UUID]:
    """The first machines by fleet number."""
    return list((await connection.execute(select(tables.machines.c.id).order_by(tables.machines.c.fleet_number).limit(most))).scalars())


async def find(connection: AsyncConnection, machine_id: UUID) -> Machine:
    """One machine.

    Raises:
        NotOnFile: no machine has this id.
    """
    row = (await connection.execute(select(tables.machines.c.content).where(tables.machines.c.id == machine_id))).first()
    if row is None:
        raise NotOnFile("machine", "No machine on file has this id.", "Find it by its fleet number, or add it.")
    return Machine.model_validate_json(row.content)
