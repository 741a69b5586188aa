"""Machines, spec revisions and the shop: what is on file, each stored whole as JSON."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Table, insert, select, tuple_, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile, Stale
from tight_ledger.core.base.models import Model, canonical
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.specs.spec import Spec
from tight_ledger.store import tables
from tight_ledger.store.ledger import notes


class Shop(Model):
    """The shop: its name, its clock, its choices."""

    name: str
    time_zone: str
    policy: Policy


async def shop(connection: AsyncConnection) -> Shop | None:
    """The shop; None before it was set up."""
    row = (await connection.execute(select(tables.shop))).first()
    return Shop(name=row.name, time_zone=row.time_zone, policy=Policy.model_validate_json(row.policy)) if row else None


async def found_shop(connection: AsyncConnection, new: Shop) -> None:
    """Set the shop up, once.

    Raises:
        Invalid: it is set up already.
    """
    try:
        await connection.execute(
            insert(tables.shop).values(id=1, name=new.name, time_zone=new.time_zone, policy=canonical(new.policy).decode())
        )
    except IntegrityError as error:
        raise Invalid("shop", "The shop is set up already.", "Sign in.") from error


async def keep_policy(connection: AsyncConnection, policy: Policy) -> None:
    """What the shop chooses from now on."""
    await connection.execute(update(tables.shop).values(policy=canonical(policy).decode()))


async def insert_once(connection: AsyncConnection, table: Table, taken: Invalid, **values: Any) -> bool:
    """Insert a row whose name must be free; whether it was new, or the same row is there already.

    Raises:
        Invalid: `taken`, if its name is not free.
        Stale: another row has its id.
    """
    row = (await connection.execute(select(table).where(table.c.id == values["id"]))).first()
    if row is not None:
        if any(getattr(row, name) != value for name, value in values.items()):
            raise Stale("id", "This id stands for something else already.", "Press again; a new one is made.")
        return False
    try:
        await connection.execute(insert(table).values(**values))
    except IntegrityError as error:
        raise taken from error
    return True


async def add_machine(connection: AsyncConnection, machine: Machine) -> bool:
    """Put a machine on file; whether it was new.

    Raises:
        Invalid: the fleet number is taken.
    """
    taken = Invalid("fleet_number", f"{machine.fleet_number} is on file already.", "Open it, or give another number.")
    content = canonical(machine).decode()
    return await insert_once(connection, tables.machines, taken, id=machine.id, fleet_number=machine.fleet_number, content=content)


async def describe_machine(connection: AsyncConnection, machine: Machine) -> None:
    """Keep what was found out about a machine."""
    table = tables.machines
    await connection.execute(update(table).where(table.c.id == machine.id).values(content=canonical(machine).decode()))


async def machines(connection: AsyncConnection) -> list[Machine]:
    """Every machine, by fleet number."""
    rows = await connection.execute(select(tables.machines.c.content).order_by(tables.machines.c.fleet_number))
    return [Machine.model_validate_json(row.content) for row in rows]


async def machine(connection: AsyncConnection, machine_id: UUID) -> Machine:
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
    for note in await notes(connection, machine_id):
        if note.meter is not None:
            newest[note.meter.kind] = (note.meter, note.at_server)
    return newest


@dataclass(frozen=True, slots=True)
class Filed:
    """A revision with its stored form, made once."""

    spec: Spec
    digest: str
    content: str

    @classmethod
    def of(cls, spec: Spec) -> "Filed":
        """A revision, its digest and its canonical JSON."""
        return cls(spec, spec.digest, canonical(spec).decode())


async def add_specs(connection: AsyncConnection, filed: Sequence[Filed]) -> None:
    """Put revisions on file.

    Raises:
        Invalid: one of them is there already.
    """
    rows = [{"spec_id": one.spec.id, "revision": one.spec.revision, "digest": one.digest, "content": one.content} for one in filed]
    try:
        await connection.execute(insert(tables.spec_revisions), rows)
    except IntegrityError as error:
        named = f"Revision {filed[0].spec.revision} of this spec is" if len(filed) == 1 else "One of these specs is"
        raise Invalid("revision", f"{named} on file already.", "Give the next number.") from error


async def specs(connection: AsyncConnection, revisions: Collection[tuple[UUID, int]]) -> list[Spec]:
    """The revisions named."""
    table = tables.spec_revisions
    if not revisions:
        return []
    query = select(table.c.content).where(tuple_(table.c.spec_id, table.c.revision).in_(list(revisions)))
    return [Spec.model_validate_json(row.content) for row in await connection.execute(query)]


async def digests(connection: AsyncConnection, specs: Collection[UUID]) -> dict[UUID, dict[int, str]]:
    """The digests of the revisions of some specs that are on file."""
    table = tables.spec_revisions
    found: dict[UUID, dict[int, str]] = {}
    for row in await connection.execute(select(table.c.spec_id, table.c.revision, table.c.digest).where(table.c.spec_id.in_(specs))):
        found.setdefault(row.spec_id, {})[row.revision] = row.digest
    return found


async def spec(connection: AsyncConnection, spec_id: UUID, revision: int | None = None) -> Spec:
    """One revision, the newest by default.

    Raises:
        NotOnFile: no spec has this id, or not this revision.
    """
    table = tables.spec_revisions
    query = select(table.c.content).where(table.c.spec_id == spec_id).order_by(table.c.revision.desc()).limit(1)
    if revision is not None:
        query = query.where(table.c.revision == revision)
    row = (await connection.execute(query)).first()
    if row is None:
        raise NotOnFile("spec", "No spec on file has this id.", "Find it by machine and joint.")
    return Spec.model_validate_json(row.content)
