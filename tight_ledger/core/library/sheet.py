"""The spec sheet: a spec as a mechanic reads it."""

from tight_ledger.core.base.display import Shown, show_band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.units import USUAL_UNITS, TorqueUnit
from tight_ledger.core.joints.proposals import why
from tight_ledger.core.kinds.guide import GuidePage, guide_page
from tight_ledger.core.library.reading_aloud import AloudLine, read_aloud
from tight_ledger.core.planning.compiler import compile_passes
from tight_ledger.core.planning.stages import KindStages, Stage, Stages, joint_stages, stages_by_kind
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.specs.spec import Followup, Spec, walk
from tight_ledger.core.specs.steps import Torque
from tight_ledger.core.tools.wrenches import ANY_WRENCH

CAUTION = "The manufacturer's current manual, local rules and licensed practice come first."
WHEEL_CAUTION = "A wheel that is not tight can come off."


class Figure(Model):
    """What is done to one kind of fastener, stage after stage, and its last torque in every unit."""

    stages: KindStages
    count: int
    thread: str
    about: str
    """Class, coating, condition and what else there is to say of this kind."""
    units: tuple[Shown, ...]


class Procedure(Model):
    """A named procedure, read aloud."""

    name: str
    lines: tuple[AloudLine, ...]


class Sheet(Model):
    """What the spec sheet shows beyond the spec itself."""

    figures: tuple[Figure, ...]
    measured: tuple[Stage, ...]
    """What is measured on the joint as a whole."""
    refused: str
    """Why the main procedure cannot be followed, so that no figures are shown; empty if it can."""
    procedures: tuple[Procedure, ...]
    orders: dict[str, str]
    """By name, why the fasteners are pulled in this order, and how evenly it closes the joint."""
    followups: tuple[str, ...]
    hand: str
    count: int
    threads: str
    parts: tuple[str, ...]
    """Single-use parts, and what stands where."""
    source: str
    caution: str
    guide: GuidePage
    """The page of the guide that helps at this joint."""


def sheet(spec: Spec, policy: Policy, unit: TorqueUnit = "N·m") -> Sheet:
    """The sheet of a spec, its main procedure first.

    Args:
        unit: of torque, that comes first after the one in which the spec is written.
    """
    first = main_procedure(spec)
    names = [first, *(name for name in spec.procedures if name != first)]
    done = {name: stages_of(spec, name, policy) for name in names}
    return Sheet(
        figures=tuple(_figure(spec, row, policy, unit) for row in done[first].kinds),
        measured=done[first].joint,
        refused=done[first].refused,
        procedures=tuple(Procedure(name=name, lines=tuple(read_aloud(spec, spec.procedures[name], done[name]))) for name in names),
        orders={name: why(spec.layout, name) for name in spec.layout.orders} if len(spec.layout.fasteners) > 1 else {},
        followups=tuple(followup_words(followup) for followup in spec.followups),
        hand=hand_words(spec),
        count=len(spec.layout.fasteners),
        threads=thread_words(spec),
        parts=tuple(_parts(spec)),
        source=spec.source.words,
        guide=guide_page({step.kind for step in walk(spec.procedures[first])}),
        caution=f"{CAUTION} {WHEEL_CAUTION}" if spec.system == "wheels and hubs" else CAUTION,
    )


def stages_of(spec: Spec, procedure: str, policy: Policy) -> Stages:
    """What a procedure does to each kind of fastener, from its compiled plan; nothing and the reason where it has none."""
    try:
        passes = compile_passes(spec, procedure, (Tooling(wrench=ANY_WRENCH),), policy)
    except Invalid as refusal:
        return Stages((), (), f"{refusal.fault} {refusal.remedy}")
    shares = {step.id: step.share for step in walk(spec.steps_of(procedure)) if isinstance(step, Torque) and step.share is not None}
    aim = policy.figure_in_range
    return Stages(stages_by_kind(spec.layout, passes, aim, shares), joint_stages(passes, aim))


def main_procedure(spec: Spec) -> str:
    """`tighten`, or the first there is."""
    return "tighten" if "tighten" in spec.procedures else next(iter(spec.procedures))


def thread_words(spec: Spec) -> str:
    """`10 × M22×1.5`; `6 × M11×1.5, 3 × M8`."""
    threads = [spec.layout.kinds[fastener.kind].thread for fastener in spec.layout.fasteners]
    return ", ".join(f"{threads.count(thread)} × {thread}" for thread in dict.fromkeys(threads))


def _figure(spec: Spec, row: KindStages, policy: Policy, unit: TorqueUnit) -> Figure:
    described, last = spec.layout.kinds[row.of], row.last
    units = tuple(dict.fromkeys((*([last.unit] if last and last.unit else ()), unit, *USUAL_UNITS))) if last is not None else ()
    said = [described.property_class and f"class {described.property_class}", described.coating, described.condition, described.note]
    said += ["single use"] if described.single_use else []
    said += ["tightened into yield"] if described.yields else []
    said += [f"used again up to {described.longest_mm:g} mm"] if described.longest_mm is not None else []
    return Figure(
        stages=row,
        count=len(row.labels),
        thread=described.thread,
        about=" · ".join(part for part in said if part),
        units=tuple(show_band(last, unit, last.aim(policy.figure_in_range)) for unit in units) if last is not None else (),
    )


def _parts(spec: Spec) -> list[str]:
    """What has to be new, and what stands where."""
    new = [f"New {kind} each time." for kind, described in spec.layout.kinds.items() if described.single_use]
    places = {kind: [f.label for f in spec.layout.fasteners if f.kind == kind] for kind in spec.layout.kinds}
    noted = [
        f"{kind} at {', '.join(places[kind])}: {described.note}."
        for kind, described in spec.layout.kinds.items()
        if described.note and len(spec.layout.kinds) > 1
    ]
    return [*new, *noted, *spec.orientation]


def hand_words(spec: Spec) -> str:
    """`right-hand thread`; `right-hand thread, left side left-hand`."""
    odd = [f"{side} side {hand}-hand" for side, hand in spec.hand_by_side.items() if hand != spec.thread_hand]
    return ", ".join((f"{spec.thread_hand}-hand thread", *odd))


def followup_words(followup: Followup) -> str:
    """`retorque after 80 km, at the latest after 14 days; starts again if moved`."""
    ways = [f"{figure:g} {unit}" for figure, unit in ((followup.km, "km"), (followup.hours, "hours")) if figure is not None]
    said = f"{followup.procedure} after {' or '.join(ways)}" if ways else followup.procedure
    if followup.days is not None:
        said += f", at the latest after {followup.days:g} days" if ways else f" after {followup.days:g} days"
    if followup.event:
        said += f"{', or' if ways or followup.days is not None else ''} {followup.event}"
    return said + (f"; starts again if any {' or '.join(sorted(followup.again_if))}" if followup.again_if else "")
