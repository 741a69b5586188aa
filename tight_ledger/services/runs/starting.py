"""From a spec to a run: the sealed start, whether the server starts it or a tablet started it without the server."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Fault, Invalid, MustAsk, Unreadable
from tight_ledger.core.base.models import digest
from tight_ledger.core.base.people import Person
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.records.entries import Entry, Flag, Started
from tight_ledger.core.records.notes import Note
from tight_ledger.core.runs import starting
from tight_ledger.core.runs.pack import Begun
from tight_ledger.core.runs.playable import unplayable
from tight_ledger.core.runs.starting import Ground, Start
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.people import require_person
from tight_ledger.services.runs.arriving import brought_back, kept_back, of_the_person, unproven
from tight_ledger.services.runs.preparing import ground_of
from tight_ledger.services.summaries import catch_up
from tight_ledger.store import ledger, summaries
from tight_ledger.store import machines as machine_store
from tight_ledger.store import people as people_store
from tight_ledger.store import runs as run_store
from tight_ledger.store.ids import new_id
from tight_ledger.store.runs import RunRow


async def _started_before(connection: AsyncConnection, request: Start) -> bool:
    """Whether this start was sent before.

    Raises:
        Stale: its id stands for another run.
        Unreadable: its record is gone.
    """
    row = await run_store.known(connection, request.id)
    if row is None:
        return False
    first = next(iter(await run_store.entries(connection, request.id)), None)
    if first is None or first.started is None:
        raise Unreadable("run", "The record of this run is gone.", "Tell who keeps the server.")
    started = first.started
    before = (
        row.spec_id, row.spec_revision, row.procedure, row.machine_id, row.position_key, first.at_device, started.proof, started.meters,
        [support.id for support in started.supports], [each.wrench.id for each in started.tooling],
    )  # fmt: skip
    if before != (
        request.spec, request.revision, request.procedure, request.machine, request.position.key, request.at_device, request.proof,
        request.meters, list(request.supports), [row.wrench for row in request.tooling],
    ):  # fmt: skip
        raise ledger.used_elsewhere()
    return True


async def start(context: Context, actor: Actor, requests: Sequence[Start]) -> None:
    """Start runs, all of them or none; the same id twice is the same run once.

    Args:
        requests: one for each place; what they say of the machine, as its meter, is written down once.

    Raises:
        Invalid, NotAllowed, MustAsk: see `core.runs.starting`.
        Stale: a place has an unfinished run.
    """
    await catch_up(context)
    shop, now = await context.shop(), context.now()

    async def begin(connection: AsyncConnection, request: Start) -> None:
        if await _started_before(connection, request):
            return
        ground = await ground_of(context, connection, shop, request)
        started = starting.start(ground, request, actor.person.roles)
        row = await _row(connection, ground, request, started, now)
        if await run_store.occupy(connection, row) is not None:
            ground = ground.model_copy(update={"machine": _taken(ground, row)})
        starting.require_free_place(ground, request)
        await run_store.add(connection, row)

        def entry(seq: int) -> Entry:
            return Entry(
                id=new_id(), kind="started", by=actor.person.id, recorded_by=actor.person.id, device=actor.device,
                at_device=request.at_device, at_server=now, run=request.id, seq=seq, plan=digest(started.plan), started=started,
            )  # fmt: skip

        said = request if request is requests[0] else request.model_copy(update={"meters": ()})
        await _keep(connection, actor, ground, said, entry, now)

    async def work(connection: AsyncConnection) -> None:
        for request in requests:
            await begin(connection, request)

    await context.database.run(work, transaction=True)


def _taken(ground: Ground, row: RunRow) -> starting.MachineBefore:
    """The machine, with the place of a run taken by another one at this moment."""
    place = ground.machine.place(row.position_key, row.joint).model_copy(update={"unfinished": True})
    return ground.machine.model_copy(update={"places": (place,)})


async def _row(connection: AsyncConnection, ground: Ground, request: Start, started: Started, now: datetime) -> RunRow:
    machine, spec = ground.machine.machine, ground.spec.spec
    return RunRow(
        id=request.id, job_id=await run_store.job_for(connection, machine.id, ledger.moment(now)), machine_id=machine.id,
        position_key=request.position.key, joint=spec.joint, spec_id=spec.id, spec_revision=spec.revision,
        procedure=request.procedure, parent_id=started.parent, started_at=ledger.moment(now),
    )  # fmt: skip


async def _keep(connection: AsyncConnection, actor: Actor, ground: Ground, request: Start, entry: ledger.Build, now: datetime) -> None:
    """Seal the start, and what was said about the machine with it."""
    await ledger.begin(connection, "run", request.id, entry)
    await summaries.mark(connection, request.id)
    machine = ground.machine.machine
    for meter in request.meters:
        await ledger.add_next(connection, "machine", machine.id, meter_note(actor, machine.id, meter, now, new_id()))
    if request.axle_load_kg:
        loads = machine.axle_loads_kg | {request.position.axle: request.axle_load_kg}
        await machine_store.describe(connection, machine.model_copy(update={"axle_loads_kg": loads}))


async def begun(context: Context, actor: Actor, request: Begun, *, waited_ms: int, again: bool = False) -> UUID:
    """Take in a run that a tablet started without the server: it is a fact, whatever the server would have said.

    The server compiles again from what it knows and flags what differs. A plan that cannot be played is replaced by the
    server's own. If the place was taken meanwhile, the run does not hold it, and both runs wait for a lead.

    Args:
        waited_ms: how long it was kept there before it was sent [ms].
        again: whether the tablet brings back what this server had acknowledged before it was restored.

    Raises:
        NotOnFile: the machine, or the spec's revision, is not on file.
        Invalid: nobody has the id of the person, the plan is for something else than what was prepared, or it cannot be
            played and the server can make none.
        Stale: the id stands for another run.
    """
    await catch_up(context)
    shop, now, prepared = await context.shop(), context.now(), request.start
    again = again and await context.epoch() > 0
    _require_its_own(request)
    wrong = unplayable(request.first(actor.device))
    contested: list[tuple[UUID, Flag]] = []
    held = kept_back(context, actor.device, waited_ms, explained=again)

    async def work(connection: AsyncConnection) -> None:
        contested.clear()
        if await _started_before(connection, prepared):
            return
        parent = request.started.parent
        if parent is not None and await run_store.known(connection, parent) is None:
            raise Invalid("started.parent", "No run has this id.", "Bring back the run that it follows first.")
        ground = await ground_of(context, connection, shop, prepared)
        person = require_person(await people_store.everybody(connection), request.by)
        here = {each.id: each for each in await people_store.here(connection)}
        differs = _differs(ground, request, person) if wrong is None else _unplayable(wrong)
        flags = [*of_the_person(here, person), *brought_back(again), *held, *differs]
        taken = request if wrong is None else _by_its_own_plan(ground, request, person, wrong)
        row = await _row(connection, ground, prepared, taken.started, now)
        holder = await run_store.occupy(connection, row)
        if holder is not None:
            flags.append(Flag(code="contested", words=f"another run was open at {_where(ground, prepared)} meanwhile", run=holder))
            contested.append((holder, Flag(code="contested", words=f"a second run was begun at {_where(ground, prepared)}", run=row.id)))
        await run_store.add(connection, row)

        def entry(seq: int) -> Entry:
            skew_ms = round((now - prepared.at_device).total_seconds() * 1000)
            added = {
                "seq": seq,
                "recorded_by": actor.person.id,
                "at_server": now,
                "skew_ms": skew_ms,
                "waited_ms": waited_ms,
                "flags": tuple(flags) or None,
            }
            added |= {"unproven": unproven(actor, request.by, claimed=request.unproven)}
            started = taken.started.model_copy(update={"facts": starting.facts_at(ground, prepared)})
            return taken.first(actor.device).model_copy(update=added | {"started": started})

        said = prepared.model_copy(update={"axle_load_kg": None}) if flags else prepared  # nobody has agreed to what it says of the machine
        await _keep(connection, actor, ground, said, entry, now)
        for run_id, flag in contested:
            await ledger.add_next(connection, "run", run_id, _flagged(actor, run_id, now, flag))
            await summaries.mark(connection, run_id)

    await context.database.run(work, transaction=True)
    for run_id, _ in contested:
        context.listeners.changed(run_id, (await context.run(run_id)).seq)
    return prepared.id


def _where(ground: Ground, request: Start) -> str:
    return request.position.words or f"{ground.machine.machine.fleet_number} as a whole"


def _require_its_own(request: Begun) -> None:
    """Refuse a plan that is not for what was prepared."""
    start, told = request.start, request.started
    facts = told.facts
    if facts is None or (facts.spec, told.spec_revision, facts.procedure, told.machine, told.position, told.proof, told.plan.spec) != (
        start.spec, start.revision, start.procedure, start.machine, start.position, start.proof, start.spec,
    ):  # fmt: skip
        raise Invalid("started", "The plan is not for what was prepared.", "Send both as the tablet made them.")


def _differs(ground: Ground, request: Begun, person: Person) -> Sequence[Flag]:
    """What the server compiles otherwise from the same spec and tooling, and what it would have said. The facts are its own anyway."""
    start, told, differs = request.start, request.started, list[str]()
    try:
        if starting.plan_of(ground, start, told.tooling, told.supports, told.policy) != told.plan:
            differs.append("it compiles to another plan")
        own = starting.start(ground, start, person.roles)
        names = ("tooling", "policy", "supports", "parent", "followup", "meters", "bolts")
        differs += [f"another {name}" for name in names if getattr(own, name) != getattr(told, name)]
        if not _known_of(told) <= _known_of(own):
            differs.append("another gauge or piece")
    except MustAsk as asks:
        differs.append(f"nobody was asked: {asks.fault}")
    except Fault as refusal:
        differs.append(f"it would not have been started: {refusal.fault}")
    return (Flag(code="differs", words=f"by what the server knows: {'; '.join(differs)}"),) if differs else ()


def _known_of(started: Started) -> set[object]:
    """What a start says of the gauges and pieces at hand."""
    return {(now.gauge, now.standing) for now in started.gauges} | {(now.piece, now.measured_mm) for now in started.stock}


def _unplayable(wrong: str) -> Sequence[Flag]:
    return (Flag(code="differs", words=f"the plan that the tablet sent cannot be played: {wrong}; the run goes by the server's own"),)


def _by_its_own_plan(ground: Ground, request: Begun, person: Person, wrong: str) -> Begun:
    """The run by the plan that the server makes of what was prepared.

    Raises:
        Invalid: it can make none either; the tablet keeps the start and what was recorded in it.
    """
    try:
        return request.model_copy(update={"started": starting.start(ground, request.start, person.roles)})
    except Fault as refusal:
        fault = f"Its plan cannot be played: {wrong}; and the server makes none: {refusal.fault}"
        raise Invalid("started.plan", fault, "It stays on this tablet. Show it to a lead.") from refusal


def _flagged(actor: Actor, run_id: UUID, now: datetime, flag: Flag) -> ledger.Build:
    entry_id = new_id()
    return lambda seq: Entry(
        id=entry_id, kind="flagged", by=actor.person.id, recorded_by=actor.person.id, device=actor.device, at_device=now, at_server=now,
        run=run_id, seq=seq, flags=(flag,),
    )  # fmt: skip


def meter_note(actor: Actor, machine_id: UUID, meter: Meter, now: datetime, entry_id: UUID) -> ledger.Build:
    """What makes the entry of a meter reading in the machine's stream."""

    def note(seq: int) -> Note:
        return Note(
            id=entry_id, stream=machine_id, subject="machine", kind="meter_read", seq=seq,
            by=actor.person.id, device=actor.device, at_server=now, meter=meter,
        )  # fmt: skip

    return note
