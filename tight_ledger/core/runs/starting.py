"""From which specs, on which machines, a run may start, what is asked first, and the start itself. Pure: both sides use it."""

from collections.abc import Collection, Iterable
from uuid import UUID

from pydantic import Field

from tight_ledger import __version__
from tight_ledger.core.base.errors import Invalid, InYield, MustAsk, Stale
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.moments import DeviceTime
from tight_ledger.core.base.people import Role
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.source import source_digest
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.meters import Meter, meter_warning
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.planning.checklist import checklist, load_at
from tight_ledger.core.planning.choosing import CribNow, Taken, tooling_of
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.records.entries import WELL, Outcome, Started
from tight_ledger.core.records.facts import RunFacts, facts_of
from tight_ledger.core.records.plans import Pass, Plan, Tooling
from tight_ledger.core.specs.applicability import fit, separating_question
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.tools.inventory import Support


class Start(Model):
    """Everything that was prepared. The id is the run's."""

    id: UUID
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


class DueHere(Model):
    """A follow-up that is open at a place."""

    procedure: str
    followup: str
    root: UUID
    """The run that it follows."""


class PlaceBefore(Model):
    """A joint at a position before a run starts there."""

    position_key: str
    joint: str
    unfinished: bool = False
    standing: Outcome | None = None
    """How the last run that counts ended; None if no run counts yet, or if the last one is unfinished."""
    last: UUID | None = None
    """The run that a follow-up would follow."""
    settled: int = 0
    """How many runs ended good or released here."""
    due: tuple[DueHere, ...] = ()
    in_yield: dict[str, int] = {}
    """By fastener, how often it was turned into yield here since it was replaced."""


class SpecBefore(Model):
    """A spec with how its revision stands."""

    spec: Spec
    status: str
    checked: bool
    """Whether a second person has checked it."""


class MachineBefore(Model):
    """A machine with its newest meter readings and its places."""

    machine: Machine
    meters: tuple[Meter, ...] = ()
    places: tuple[PlaceBefore, ...] = ()

    def place(self, position_key: str, joint: str) -> PlaceBefore:
        """A place; as new if nothing was done there."""
        found = (each for each in self.places if (each.position_key, each.joint) == (position_key, joint))
        return next(found, PlaceBefore(position_key=position_key, joint=joint))


class Ground(Model):
    """Everything that a start is judged on and compiled from, as the server knows it, or as a tablet was told last."""

    policy: Policy
    spec: SpecBefore
    machine: MachineBefore
    crib: CribNow
    certificates: dict[UUID, str] = {}
    """By wrench, the certificate of its last check."""


STARTABLE: frozenset[str] = frozenset({"current", "draft"})
"""Statuses of a revision from which a run may start."""


def require_startable(spec: Spec, status: str, machine: Machine, position: Position, proof: str, meters: Iterable[Meter]) -> None:
    """Refuse a run that must not start.

    Args:
        status: of the spec's revision.
        proof: what the person sees on the machine.
        meters: the readings that were typed.

    Raises:
        Invalid: the spec is not for this machine or position, or that is not known; its revision is not in force; the
            proof is another; the machine has no such meter.
    """
    _require_applies(spec, machine)
    if status not in STARTABLE:
        raise Invalid(
            "revision", f"Revision {spec.revision} of “{spec.title}” is {status}.", "Open the sheet again; it shows what is in force."
        )
    if not spec.positions.holds(position):
        raise Invalid("position", f"“{spec.title}” is not for {position.words or 'no position'}.", f"It is for {spec.positions.words}.")
    if proof != spec.proof.answer:
        raise Invalid(
            "proof",
            f"You see “{proof}”; this spec is for “{spec.proof.answer}”.",
            "Do not start from it. Find the spec that fits what is on the machine, or ask a lead.",
        )
    if odd := [meter.kind for meter in meters if meter.kind not in machine.meters]:
        raise Invalid("meters", f"{machine.fleet_number} has no meter for {', '.join(odd)}.", "Leave it out.")


def _require_applies(spec: Spec, machine: Machine) -> None:
    fits = fit(spec.applies_to, machine)
    if fits == "no":
        raise Invalid("spec", f"“{spec.title}” is not for {machine.fleet_number}.", "Pick a spec that names its maker, model and variant.")
    if fits == "unknown":
        question = separating_question([spec.applies_to], machine)
        about = question.attribute if question is not None else "year or serial number"
        raise Invalid("spec", f"Nobody has said which {about} {machine.fleet_number} has.", "Answer the question above the results first.")


def ask_about_meters(before: Iterable[Meter], meters: Iterable[Meter]) -> None:
    """Ask once about a reading that is odd; it never blocks.

    Args:
        before: the last reading of each kind.

    Raises:
        MustAsk: a reading is below the last one, or far above it.
    """
    last = {meter.kind: meter for meter in before}
    for meter in meters:
        if warning := meter_warning(last.get(meter.kind), meter):
            raise MustAsk("meter", f"meters.{meter.kind}", warning, "Correct it, or go on with it as it is.")


def followed(ground: Ground, request: Start) -> tuple[UUID | None, str | None]:
    """The run that a follow-up procedure follows, and which follow-up it is; nothing for any other procedure.

    Raises:
        Invalid: there is no good run here to follow.
    """
    spec = ground.spec.spec
    if request.procedure not in {followup.procedure for followup in spec.followups}:
        return None, None
    place = ground.machine.place(request.position.key, spec.joint)
    if place.standing not in WELL:
        raise Invalid("procedure", "There is no good run here to follow up.", "Tighten it first.")
    due = next((each for each in place.due if each.procedure == request.procedure), None)
    return (due.root, due.followup) if due is not None else (place.last, None)


def require_free_place(ground: Ground, request: Start) -> None:
    """Refuse a second run where the first is not finished.

    Raises:
        Stale: the place has an unfinished run.
    """
    if ground.machine.place(request.position.key, ground.spec.spec.joint).unfinished:
        where = request.position.words or f"{ground.machine.machine.fleet_number} as a whole"
        raise Stale("position", f"A run on {where} is not finished.", "Open it from the machine and finish it first.")


def start(ground: Ground, request: Start, roles: Collection[Role]) -> Started:
    """What a run starts with: its plan, its tooling and its facts.

    Args:
        roles: of the person who starts it.

    Raises:
        Invalid: the spec is not for this machine or position, the proof fails, a wrench cannot do it, a stand does not
            bear the corner.
        NotAllowed: a wrench is used all the same, and not by a lead's word.
        MustAsk: an odd meter reading, or fasteners that are in yield and would be pulled.
    """
    spec, machine, position, policy = ground.spec.spec, ground.machine.machine, request.position, ground.policy
    require_startable(spec, ground.spec.status, machine, position, request.proof, request.meters)
    if "meter" not in request.affirmed:
        ask_about_meters(ground.machine.meters, request.meters)
    tooling = tooling_of(ground.crib, policy, roles, spec, request.procedure, position, request.tooling)
    supports = tuple(ground.crib.supports(request.supports))
    plan = _plan_or_ask(ground, request, tooling, supports)
    parent, followup = followed(ground, request)
    return Started(
        plan=plan, spec_revision=spec.revision, tooling=tooling, policy=policy, machine=machine.id, position=position,
        meters=request.meters, supports=supports, proof=request.proof, parent=parent, followup=followup, engine=__version__,
        bolts=bolts_of(spec, request), sheets_recorded=True,
        core=source_digest(), facts=facts_at(ground, request), stock=ground.crib.stock_for(plan),
        gauges=ground.crib.gauges_for(plan),
    )  # fmt: skip


ALL_NEW, MEASURED = "all new", "measured"
"""What can be said of fasteners that were turned into yield here: replaced, or each measured within its longest length."""


def bolts_of(spec: Spec, request: Start) -> str | None:
    """What was said of the fasteners that were in yield; None if nothing was asked. What follows a run is done to the same ones."""
    if request.procedure in {followup.procedure for followup in spec.followups}:
        return None
    return next((answer for answer in (ALL_NEW, MEASURED) if answer in request.affirmed), None)


def _plan_or_ask(ground: Ground, request: Start, tooling: tuple[Tooling, ...], supports: tuple[Support, ...]) -> Plan:
    try:
        return plan_of(ground, request, tooling, supports, ground.policy)
    except InYield as refused:
        spec = ground.spec.spec
        if request.procedure in {followup.procedure for followup in spec.followups}:
            raise
        kinds = {each.label: spec.layout.kinds[each.kind] for each in spec.layout.fasteners}
        used = ground.machine.place(request.position.key, spec.joint).in_yield
        measured = all(kinds[label].longest_mm is not None for label in used if label in kinds)
        choices = (ALL_NEW, MEASURED) if measured else (ALL_NEW,)
        remedy = "Are all of them new, or was each measured within its longest length?" if measured else "Are all of them new?"
        raise MustAsk("bolts", "bolts", refused.fault, remedy, choices) from refused


def plan_of(ground: Ground, request: Start, tooling: tuple[Tooling, ...], supports: tuple[Support, ...], policy: Policy) -> Plan:
    """The plan of what was prepared, with its tasks.

    Args:
        tooling: as it was picked and judged.
        supports: that hold the machine.
        policy: the shop's choices when it was started.

    Raises:
        InYield: it pulls what is in yield here.
        Invalid: the spec has no such procedure, or a stand does not bear the corner.
    """
    spec, machine, position = ground.spec.spec, ground.machine.machine, request.position
    given = {position.axle: request.axle_load_kg} if request.axle_load_kg else {}
    load, used = load_at(machine.axle_loads_kg | given, position), ground.machine.place(position.key, spec.joint).settled

    def tasks(passes: tuple[Pass, ...]) -> tuple[Pass, ...]:
        return checklist(spec, request.procedure, tooling, passes, policy, load, supports, used)

    in_yield = {} if bolts_of(spec, request) else ground.machine.place(position.key, spec.joint).in_yield
    return compile_plan(spec, request.procedure, tooling, policy, tasks, in_yield=in_yield)


def facts_at(ground: Ground, request: Start) -> RunFacts:
    """The facts of a run: its machine, spec and papers as they are known when it starts."""
    worn = {row.wrench for row in request.tooling}
    return facts_of(
        ground.spec.spec, ground.machine.machine, request.position, request.procedure, checked=ground.spec.checked,
        certificates={tool: paper for tool, paper in ground.certificates.items() if tool in worn},
    )  # fmt: skip
