"""Machines: putting them on file, reading their meters."""

from uuid import UUID

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base import Invalid, Model
from tight_ledger.core.entries import Note
from tight_ledger.core.machines import Machine, Meter, MeterKind
from tight_ledger.core.vins import read_vin
from tight_ledger.store import files, finding, ledger
from tight_ledger.store.ids import new_id
from tight_ledger.work.office import Actor, Office
from tight_ledger.work.starting import add_meter


async def machines(office: Office) -> list[Machine]:
    """Every machine, by fleet number."""
    return await office.database.run(files.machines)


async def file_machine(office: Office, machine: Machine, actor: Actor | None = None) -> Machine:
    """Put a machine on file, with the first entry of its stream.

    Raises:
        Invalid: the fleet number is taken.
    """

    def note(seq: int) -> Note:
        return Note(
            id=new_id(), stream=machine.id, subject="machine", kind="added", seq=seq, at_server=office.now(),
            by=actor.person.id if actor else None, device=actor.device if actor else None,
        )  # fmt: skip

    async def work(connection: AsyncConnection) -> None:
        await files.add_machine(connection, machine)
        await ledger.add(connection, "machine", machine.id, note, await ledger.head(connection, machine.id))
        await finding.changed(connection)

    await office.database.run(work, transaction=True)
    return machine


class NewMachine(Model):
    """Two fields: the fleet number, and maker and model in one; what else it has may be left out."""

    id: UUID
    fleet_number: str = Field(min_length=1, max_length=40)
    maker_model: str = Field(min_length=3, max_length=160)
    meters: tuple[MeterKind, ...] = ()
    registration: str = Field(default="", max_length=16)
    vin: str = Field(default="", max_length=40)
    serial: str = Field(default="", max_length=40)
    year: int | None = Field(default=None, ge=1900, le=2100)


async def add_machine(office: Office, actor: Actor, request: NewMachine) -> Machine:
    """Put a machine on file from two fields; the maker is the first word.

    Raises:
        Invalid: no model after the maker, or the fleet number is taken.
    """
    maker, _, model = request.maker_model.strip().partition(" ")
    if not model.strip():
        raise Invalid("maker_model", f"“{request.maker_model}” names no model.", "Write maker and model: Fennick Causeway 12.")
    vin = request.vin.strip().upper()
    if vin and read_vin(vin) is None:
        raise Invalid("vin", f"“{vin}” is no VIN: it has {len(vin)} characters.", "It has 17 letters and figures, none of them I, O or Q.")
    machine = Machine(
        id=request.id, fleet_number=request.fleet_number.strip(), maker=maker, model=model.strip(), meters=request.meters, vin=vin,
        registration=request.registration.strip(), serial=request.serial.strip(), year=request.year,
    )  # fmt: skip
    return await file_machine(office, machine, actor)


class Described(Model):
    """Something found out about a machine: `bearing` is `press-in`."""

    attribute: str = Field(min_length=1, max_length=40)
    value: str = Field(min_length=1, max_length=80)


async def describe(office: Office, actor: Actor, machine_id: UUID, request: Described) -> Machine:
    """Keep what was found out about a machine, and who said so.

    Raises:
        NotOnFile: no machine has this id.
    """

    def note(seq: int) -> Note:
        return Note(
            id=new_id(), stream=machine_id, subject="machine", kind="described", seq=seq, by=actor.person.id, device=actor.device,
            at_server=office.now(), text=f"{request.attribute}: {request.value}",
        )  # fmt: skip

    async def work(connection: AsyncConnection) -> Machine:
        machine = await files.machine(connection, machine_id)
        known = machine.model_copy(update={"variant": machine.variant | {request.attribute: request.value}})
        await files.describe_machine(connection, known)
        await ledger.add(connection, "machine", machine_id, note, await ledger.head(connection, machine_id))
        await finding.changed(connection)
        return known

    return await office.database.run(work, transaction=True)


async def read_meter(office: Office, actor: Actor, machine_id: UUID, meter: Meter) -> None:
    """Write a meter reading down.

    Raises:
        NotOnFile: no machine has this id.
        Invalid: the machine has no such meter.
    """

    async def work(connection: AsyncConnection) -> None:
        machine = await files.machine(connection, machine_id)
        if meter.kind not in machine.meters:
            raise Invalid("kind", f"{machine.fleet_number} has no meter for {meter.kind}.", "Leave it out.")
        await add_meter(connection, actor, machine_id, meter, office.now())

    await office.database.run(work, transaction=True)
