"""From a spec to a run: which wrenches can do it, what must be true, and the sealed start."""

from datetime import datetime
from uuid import UUID

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger import __version__
from tight_ledger.core.base.errors import Invalid, Stale
from tight_ledger.core.base.models import digest
from tight_ledger.core.base.moments import DeviceTime
from tight_ledger.core.library.revisions import statuses
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.planning.checklist import checklist, load_at
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.records.entries import Entry, Started
from tight_ledger.core.records.facts import facts_of
from tight_ledger.core.records.notes import Note
from tight_ledger.core.runs.starting import ask_about_meters, require_startable
from tight_ledger.core.specs.spec import Spec
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context
from tight_ledger.services.runs.preparing import Taken, supports_of, tooling_of
from tight_ledger.services.runs.standing import PlaceStanding, open_followups, place_standing
from tight_ledger.services.specs.search import checked_by
from tight_ledger.services.tools.inventory import certificates
from tight_ledger.store import ledger
from tight_ledger.store import machines as machine_store
from tight_ledger.store import runs as run_store
from tight_ledger.store import specs as spec_store
from tight_ledger.store.ids import new_id
from tight_ledger.store.runs import RunRow


class Start(Command):
    """Everything that was prepared."""

    spec: UUID
    revision: int = Field(ge=1)
    procedure: str = Field(max_length=60)
    machine: UUID
    position: Position
    meters: tuple[Meter, ...] = ()
    tooling: tuple[Taken, ...] = Field(max_length=20)
    """In the sequence in which they are looked at: the first that is meant for a fastener and step is used."""
    supports: tuple[UUID, ...] = Field(default=(), max_length=8)
    """The jack and the stands under this corner."""
    axle_load_kg: float | None = Field(default=None, gt=0, le=200_000)
    proof: str = Field(max_length=200)
    at_device: DeviceTime
    affirmed: tuple[str, ...] = ()


async def _followed(
    context: Context, connection: AsyncConnection, request: Start, spec: Spec, place: PlaceStanding | None
) -> tuple[UUID | None, str | None]:
    """The run that a follow-up procedure follows, and which follow-up it is; nothing for any other procedure.

    Raises:
        Invalid: there is no good run here to follow.
    """
    if request.procedure not in {followup.procedure for followup in spec.followups}:
        return None, None
    if place is None or place.standing not in ("good", "released"):
        raise Invalid("procedure", "There is no good run here to follow up.", "Tighten it first.")
    for open_followup in await open_followups(context, connection, request.machine):
        same_place = (open_followup.position_key, open_followup.joint) == (request.position.key, spec.joint)
        if same_place and open_followup.due.procedure == request.procedure:
            return open_followup.root, open_followup.due.followup
    return place.row.parent_id or place.row.id, None


async def _started_before(connection: AsyncConnection, request: Start) -> bool:
    """Whether this start was sent before.

    Raises:
        Stale: its id stands for another run.
    """
    row = await run_store.known(connection, request.id)
    if row is None:
        return False
    [first, *_] = await run_store.entries(connection, request.id)
    before = (row.spec_id, row.spec_revision, row.procedure, row.machine_id, row.position_key, first.at_device)
    if before != (request.spec, request.revision, request.procedure, request.machine, request.position.key, request.at_device):
        raise ledger.used_elsewhere()
    return True


async def start(context: Context, actor: Actor, request: Start) -> UUID:
    """Start a run; the same id twice is the same run once.

    Raises:
        Invalid: the spec is not for this machine or position, the proof fails, a wrench cannot do it, a stand does not
            bear the corner.
        NotAllowed: a wrench is used all the same, and not by a lead's word.
        MustAsk: an odd meter reading.
        Stale: the place has an unfinished run.
    """
    shop, now = await context.shop(), context.now()

    async def work(connection: AsyncConnection) -> None:
        if await _started_before(connection, request):
            return
        spec = await spec_store.find(connection, request.spec, request.revision)
        machine = await machine_store.find(connection, request.machine)
        status = statuses(await ledger.notes(connection, "spec", spec.id))[spec.revision]
        require_startable(spec, status, machine, request.position, request.proof, request.meters)
        if "meter" not in request.affirmed:
            ask_about_meters(await machine_store.meters(connection, machine.id), request.meters)
        tooling = await tooling_of(context, connection, shop, actor, spec, request.procedure, request.position, request.tooling)
        loads = machine.axle_loads_kg | ({request.position.axle: request.axle_load_kg} if request.axle_load_kg else {})
        load, supports = load_at(loads, request.position), await supports_of(connection, request.supports)
        place = await place_standing(context, connection, machine.id, request.position.key, spec.joint)
        rows = await run_store.at_place(connection, machine.id, request.position.key, spec.joint)
        used = len(await run_store.settled(connection, [row.id for row in rows]))
        plan = compile_plan(
            spec, request.procedure, tooling, shop.policy,
            lambda passes: checklist(spec, request.procedure, tooling, passes, shop.policy, load, supports, used),
        )  # fmt: skip
        parent, followup = await _followed(context, connection, request, spec, place)
        started = Started(
            plan=plan, spec_revision=spec.revision, tooling=tooling, policy=shop.policy, machine=machine.id,
            position=request.position, meters=request.meters, supports=tuple(supports), proof=request.proof, parent=parent,
            followup=followup, engine=__version__,
            facts=facts_of(
                spec, machine, request.position, request.procedure, checked=await checked_by(connection, spec, now),
                certificates=await certificates(connection, [row.wrench.id for row in tooling]),
            ),
        )  # fmt: skip
        row = RunRow(
            id=request.id, job_id=await run_store.job_for(connection, machine.id, ledger.moment(now)), machine_id=machine.id,
            position_key=request.position.key, joint=spec.joint, spec_id=spec.id, spec_revision=spec.revision,
            procedure=request.procedure, parent_id=parent, started_at=ledger.moment(now),
        )  # fmt: skip
        if await run_store.occupy(connection, row) is not None or (place is not None and place.standing is None):
            where = request.position.words or f"{machine.fleet_number} as a whole"
            raise Stale("position", f"A run on {where} is not finished.", "Open it from the machine and finish it first.")
        await run_store.add(connection, row)

        def entry(seq: int) -> Entry:
            return Entry(
                id=new_id(), kind="started", by=actor.person.id, recorded_by=actor.person.id,
                device=actor.device, at_device=request.at_device, at_server=now, run=request.id, seq=seq,
                plan=digest(plan), started=started,
            )  # fmt: skip

        await ledger.begin(connection, "run", request.id, entry)
        for meter in request.meters:
            await ledger.add_next(connection, "machine", machine.id, meter_note(actor, machine.id, meter, now, new_id()))
        if loads != machine.axle_loads_kg:
            await machine_store.describe(connection, machine.model_copy(update={"axle_loads_kg": loads}))

    await context.database.run(work, transaction=True)
    return request.id


def meter_note(actor: Actor, machine_id: UUID, meter: Meter, now: datetime, entry_id: UUID) -> ledger.Build:
    """What makes the entry of a meter reading in the machine's stream."""

    def note(seq: int) -> Note:
        return Note(
            id=entry_id, stream=machine_id, subject="machine", kind="meter_read", seq=seq,
            by=actor.person.id, device=actor.device, at_server=now, meter=meter,
        )  # fmt: skip

    return note
