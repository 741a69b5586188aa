"""Machines: putting them on file, reading their meters."""

from collections.abc import Mapping, Sequence
from uuid import UUID

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, MustAsk
from tight_ledger.core.base.given_names import require_name
from tight_ledger.core.base.models import Model
from tight_ledger.core.machines.form import Form
from tight_ledger.core.machines.machine import Machine, maker_and_model
from tight_ledger.core.machines.meters import Meter, MeterKind
from tight_ledger.core.machines.vin import VinReading, read_vin
from tight_ledger.core.records.notes import Note, NoteKind
from tight_ledger.core.runs.machine_map import MachineMap
from tight_ledger.core.runs.starting import ask_about_meters
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command, done_before
from tight_ledger.services.context import Context, Remembered
from tight_ledger.services.machine_maps import map_of, specs_for
from tight_ledger.services.notices import reach
from tight_ledger.services.runs.starting import meter_note
from tight_ledger.services.standing import (
    OpenFollowup,
    PlaceNow,
    attention,
    governing,
    open_followups,
    place_now,
    place_of,
    titles_of,
    unreadable_place,
)
from tight_ledger.services.summaries import catch_up
from tight_ledger.store import ledger, summaries, told
from tight_ledger.store import machines as machine_store
from tight_ledger.store import runs as run_store
from tight_ledger.store import search as search_store
from tight_ledger.store.ids import new_id


async def machines(context: Context) -> list[Machine]:
    """Every machine, by fleet number."""
    return await context.database.run(machine_store.read_all)


async def file_machine(context: Context, machine: Machine, actor: Actor | None = None) -> Machine:
    """Put a machine on file, with the first entry of its stream.

    Raises:
        Invalid: the fleet number is taken, or cannot be read.
    """
    require_name("fleet_number", machine.fleet_number)

    def note(seq: int) -> Note:
        return Note(
            id=new_id(), stream=machine.id, subject="machine", kind="added", seq=seq, at_server=context.now(),
            by=actor.person.id if actor else None, device=actor.device if actor else None,
        )  # fmt: skip

    async def work(connection: AsyncConnection) -> None:
        if not await machine_store.add(connection, machine):
            return
        await ledger.begin(connection, "machine", machine.id, note)
        await search_store.changed(connection)

    await context.database.run(work, transaction=True)
    return machine


class MachineNow(Model):
    """A machine as it stands: what must not move, what is unfinished, what is due, its newest meter readings."""

    machine: Machine
    vin: VinReading | None = None
    meters: tuple[Meter, ...]
    attention: tuple[PlaceNow, ...]
    followups: tuple[OpenFollowup, ...]
    history: tuple[PlaceNow, ...]
    map: MachineMap


class NewMachine(Command):
    """A machine to put on file: fleet number, maker and model; everything else may be left out."""

    fleet_number: str = Field(min_length=1, max_length=40)
    maker_model: str = Field(min_length=3, max_length=160)
    meters: tuple[MeterKind, ...] = ()
    registration: str = Field(default="", max_length=16)
    vin: str = Field(default="", max_length=40)
    serial: str = Field(default="", max_length=40)
    year: int | None = Field(default=None, ge=1900, le=2100)
    affirmed: tuple[str, ...] = ()


async def add_machine(context: Context, actor: Actor, request: NewMachine) -> Machine:
    """Put a machine on file from two fields; the maker is one that is known, else the first word.

    Raises:
        Invalid: no model after the maker, or the fleet number is taken.
        MustAsk: another machine has this VIN, and nobody said that it is right.
    """
    known = await context.database.run(context.catalogue)
    makers = {who.maker for who in known.entries["who"].values()} | {machine.maker for machine in known.machines}
    maker, model = maker_and_model(request.maker_model, makers)
    if not model:
        raise Invalid("maker_model", f"“{request.maker_model}” names no model.", "Write maker and model: Fennick Causeway 12.")
    vin = request.vin.strip().upper()
    if vin and read_vin(vin) is None:
        raise Invalid("vin", f"“{vin}” is no VIN: it has {len(vin)} characters.", "It has 17 letters and figures, none of them I, O or Q.")
    await _ask_about_vin(context, request, vin)
    machine = Machine(
        id=request.id, fleet_number=request.fleet_number.strip(), maker=maker, model=model, meters=request.meters, vin=vin,
        registration=request.registration.strip(), serial=request.serial.strip(), year=request.year,
    )  # fmt: skip
    return await file_machine(context, machine, actor)


async def _ask_about_vin(context: Context, request: NewMachine, vin: str) -> None:
    if not vin or "vin" in request.affirmed:
        return
    same = next((machine for machine in await machines(context) if machine.vin == vin and machine.id != request.id), None)
    if same is not None:
        fault = f"{same.fleet_number} is on file with this VIN."
        raise MustAsk("vin", "vin", fault, "Look at the plate once more; or is it the same machine under another number?")


class Described(Command):
    """Something found out about a machine: `bearing` is `press-in`."""

    attribute: str = Field(min_length=1, max_length=40)
    value: str = Field(min_length=1, max_length=80)


async def describe(context: Context, actor: Actor, machine_id: UUID, request: Described) -> Machine:
    """Keep what was found out about a machine, and who said so.

    Raises:
        NotOnFile: no machine has this id.
    """

    said = f"{request.attribute}: {request.value}"
    known = await _change(
        context, actor, machine_id, request.id, "described", said, {"variant": {request.attribute: request.value}},
        attribute=request.attribute, value=request.value,
    )  # fmt: skip
    await reach(context, actor, "machine", machine_id)
    return known


async def _change(
    context: Context,
    actor: Actor,
    machine_id: UUID,
    command: UUID,
    kind: NoteKind,
    said: str,
    change: Mapping[str, object],
    attribute: str | None = None,
    value: str | None = None,
) -> Machine:
    """Keep something about a machine, and who said so.

    Args:
        change: the new fields; of its variant, only the attributes that are new.
        attribute: that was found out, if it is about its variant.
        value: of it.
    """

    def note(seq: int) -> Note:
        return Note(
            id=command, stream=machine_id, subject="machine", kind=kind, seq=seq, by=actor.person.id, device=actor.device,
            at_server=context.now(), text=said, attribute=attribute, value=value,
        )  # fmt: skip

    async def work(connection: AsyncConnection) -> Machine:
        machine = await machine_store.find(connection, machine_id)
        if await done_before(connection, command, machine_id, note):
            return machine
        merged = {name: {**machine.variant, **value} if isinstance(value, dict) else value for name, value in change.items()}
        known = machine.model_copy(update=merged)
        await machine_store.describe(connection, known)
        await ledger.add_next(connection, "machine", machine_id, note)
        await search_store.changed(connection)
        return known

    return await context.database.run(work, transaction=True)


class MeterRead(Command, Meter):
    """A reading of a machine's meter."""

    affirmed: tuple[str, ...] = Field(default=(), max_length=10)

    @property
    def meter(self) -> Meter:
        """The reading without the command."""
        return Meter(kind=self.kind, figure=self.figure, basis=self.basis)


async def read_meter(context: Context, actor: Actor, machine_id: UUID, request: MeterRead) -> None:
    """Write a meter reading down.

    Raises:
        NotOnFile: no machine has this id.
        Invalid: the machine has no such meter.
        MustAsk: the reading is odd.
    """

    async def work(connection: AsyncConnection) -> None:
        machine, meter = await machine_store.find(connection, machine_id), request.meter
        note = meter_note(actor, machine_id, meter, context.now(), request.id)
        if await done_before(connection, request.id, machine_id, note):
            return
        if meter.kind not in machine.meters:
            raise Invalid("kind", f"{machine.fleet_number} has no meter for {meter.kind}.", "Leave it out.")
        if "meter" not in request.affirmed:
            ask_about_meters(await told.meters(connection, machine_id), [meter])
        await ledger.add_next(connection, "machine", machine_id, note)

    await context.database.run(work, transaction=True)


async def machine_now(context: Context, machine_id: UUID, fitting: Sequence[tuple[UUID, int]] | None = None) -> MachineNow:
    """One machine as it stands.

    Args:
        fitting: the specs that fit it, by id and revision, if they are known already.

    Raises:
        NotOnFile: no machine has this id.
    """

    await catch_up(context)
    fits = await specs_for(context, machine_id) if fitting is None else fitting

    async def work(connection: AsyncConnection) -> MachineNow:
        machine = await machine_store.find(connection, machine_id)
        history = await _history(context, connection, machine)
        followups = tuple(await open_followups(context, connection, machine_id))
        return MachineNow(
            machine=machine,
            vin=read_vin(machine.vin),
            meters=await told.meters(connection, machine_id),
            attention=tuple(await attention(context, connection, machine_id)),
            followups=followups,
            history=tuple(history),
            map=await map_of(connection, machine, fits, await _governing_runs(context, connection, machine_id), followups),
        )

    return await context.database.run(work)


async def _history(context: Context, connection: AsyncConnection, machine: Machine) -> list[PlaceNow]:
    """A machine's newest runs; those that have ended from their short forms."""
    rows, history = await run_store.of_machine(connection, machine.id), []
    titles, short = await titles_of(connection, rows), await summaries.read(connection, [row.id for row in rows])
    for row in rows:
        title = f"{titles[row.id]} · {row.procedure}"
        if (ended := short.get(row.id)) is not None and ended.standing is not None:
            history.append(place_of(row, ended, machine, title))
            continue
        run = await context.readable(connection, row.id)
        history.append(place_now(run, machine, title) if run is not None else unreadable_place(row, machine, title))
    return history


async def _governing_runs(context: Context, connection: AsyncConnection, machine_id: UUID) -> list[Remembered]:
    """Of each joint and place, the run that says how it stands."""
    found: list[Remembered] = []
    red = {(row.position_key, row.joint): row for row in reversed(await summaries.red(connection, machine_id))}
    for row in await run_store.newest(connection, machine_id):
        rows = await run_store.at_place(connection, machine_id, row.position_key, row.joint)
        runs = (await governing(context, connection, rows))[:1]
        if (tagged := red.get((row.position_key, row.joint))) is not None:
            run = await context.readable(connection, tagged.id)
            runs = [run] if run is not None and run.state.standing == "do not move" else runs
        found += runs
    return found


class Formed(Command):
    """What a machine looks like from above."""

    form: Form


async def form(context: Context, actor: Actor, machine_id: UUID, request: Formed) -> Machine:
    """Keep what a machine looks like, and who said so.

    Raises:
        NotOnFile: no machine has this id.
    """
    return await _change(context, actor, machine_id, request.id, "formed", request.form.body, {"form": request.form})


class EventHappened(Command):
    """The event of a follow-up has happened, or comes now."""

    run: UUID
    followup: str = Field(min_length=1, max_length=60)


async def event_happened(context: Context, actor: Actor, machine_id: UUID, request: EventHappened) -> None:
    """Write down that what a follow-up waits for has happened: it is due from now on.

    Raises:
        NotOnFile: no machine has this id.
        Invalid: no open follow-up of this machine waits for it.
    """

    def note(seq: int) -> Note:
        return Note(
            id=request.id, stream=machine_id, subject="machine", kind="happened", seq=seq, by=actor.person.id, device=actor.device,
            at_server=context.now(), run=request.run, followup=request.followup,
        )  # fmt: skip

    await catch_up(context)

    async def work(connection: AsyncConnection) -> None:
        await machine_store.find(connection, machine_id)
        if await done_before(connection, request.id, machine_id, note):
            return
        waiting = await open_followups(context, connection, machine_id)
        if not any(each.root == request.run and each.due.followup == request.followup and each.due.event for each in waiting):
            raise Invalid("followup", "No follow-up of this machine waits for that.", "Look at the machine again.")
        await ledger.add_next(connection, "machine", machine_id, note)

    await context.database.run(work, transaction=True)
