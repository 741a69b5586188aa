"""What must be true before the first pull: compiled from the spec, the tools and the machine, confirmed item by item.

Each item is a task of the plan, so that confirming it is an entry like any other. A spec that words an item itself, as
a task of the same name without the plus, has it its own way.
"""

from collections.abc import Sequence

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.records.plans import Pass, Pull, Test, Tooling
from tight_ledger.core.specs.spec import Spec, walk
from tight_ledger.core.specs.steps import AdjustStep, Align, Angle, StepBase, Torque, Turns
from tight_ledger.core.tools.adapters import Multiplier
from tight_ledger.core.tools.inventory import Support
from tight_ledger.core.tools.wrenches import SET_BEFOREHAND

LIFTED = frozenset({"wheels and hubs", "suspension and steering", "brakes"})
"""Systems that are worked on with the corner off the ground. Common practice, no source."""


class Load(Model):
    """What an axle carries, if somebody knows."""

    axle: str = ""
    axle_kg: float | None = None

    @property
    def corner_kg(self) -> float | None:
        """Half of the axle's load. Common practice, no source."""
        return None if self.axle_kg is None else self.axle_kg / 2


def is_lifted(spec: Spec, procedure: str) -> bool:
    """Whether the corner is off the ground: something is tightened at an axle, not only looked after."""
    return spec.system in LIFTED and bool(spec.positions.axles) and _builds(spec, procedure)


def load_at(axle_loads_kg: dict[str, float], position: Position) -> Load:
    """What is known about the load at a position."""
    return Load(axle=position.axle, axle_kg=axle_loads_kg.get(position.axle))


def held_words(load: Load, supports: Sequence[Support]) -> str:
    """What holds the machine, with the sum.

    Raises:
        Invalid: a jack or a stand that bears less than the corner weighs.
    """
    corner_kg = load.corner_kg
    if corner_kg is None:
        named = (
            " and ".join(f"{support.name}, rated {support.rated_kg:,.0f} kg" for support in supports) or "a stand that bears this corner"
        )
        return f"Held by {named}; never by the jack alone. Wheels chocked. Nobody has said what this axle weighs."
    sums = f"{load.axle} axle {load.axle_kg:,.0f} kg ÷ 2 = {corner_kg:,.0f} kg on this corner"
    for support in supports:
        if support.rated_kg < corner_kg:
            raise Invalid("supports", f"{support.name} bears {support.rated_kg:,.0f} kg: {sums}.", "Take one that bears it.")
    spare = [f"{support.name} bears {support.rated_kg:,.0f} kg, {support.rated_kg - corner_kg:,.0f} to spare" for support in supports]
    if not any(support.what == "stand" for support in supports):
        spare.append(f"a stand rated {corner_kg:,.0f} kg or more holds it, never the jack alone")
    return f"{sums[0].upper()}{sums[1:]}: {'; '.join(spare)}. Wheels chocked."


def checklist(
    spec: Spec,
    procedure: str,
    tooling: Sequence[Tooling],
    passes: Sequence[Pass],
    policy: Policy,
    load: Load,
    supports: Sequence[Support],
    used: int = 0,
) -> tuple[Pass, ...]:
    """The tasks that come before a plan's own passes.

    Args:
        used: how often the joint at this place was tightened before, by the record.

    Raises:
        Invalid: see `held_words`.
    """
    held = held_words(load, supports) if is_lifted(spec, procedure) else ""
    if not policy.checklist:
        return ()
    lengths = _lengths(spec, used) if _builds(spec, procedure) else ()
    said = {
        "school": _of_school(spec, procedure, policy),
        **(_of_parts(spec, procedure) if _builds(spec, procedure) else {}),
        "held": held,
        **_of_tools(tooling, passes),
    }
    own = {step.id for step in walk(spec.steps_of(procedure))}
    tasks = tuple(
        Pass(id=f"+{name}", step=f"+{name}", kind="do", pulls=(Pull(id=f"+{name}"),), say=words)
        for name, words in said.items()
        if words and name not in own
    )
    return tasks + (lengths if "length" not in own else ())


def _lengths(spec: Spec, used: int) -> tuple[Pass, ...]:
    """Tasks for bolts that may be used again up to a length: each is measured; a longer one stops the run until it is replaced."""
    limits = {f.label: spec.layout.kinds[f.kind].longest_mm for f in spec.layout.fasteners}
    pulls = tuple(
        Pull(id=f"+length:{label}", fastener=label, rank=rank, band=Band(quantity="length", low=0, high=limit))
        for rank, (label, limit) in enumerate(limits.items())
        if limit is not None
    )
    if not pulls:
        return ()
    before = (
        "not used here before, by this record"
        if used == 0
        else f"used here {used} {'time' if used == 1 else 'times'} before, by this record"
    )
    too_long = Test(passes=(("+length",),), one_of=frozenset({"high"}))
    return (
        Pass(id="+length", step="+length", kind="measure", pulls=pulls, what="length, free", say=before),
        Pass(
            id="+length!", step="+length!", kind="stop", pulls=(Pull(id="+length!", when=(too_long,)),),
            say="A bolt is longer than it may be: fit a new one, and let a lead decide.",
        ),
    )  # fmt: skip


def _builds(spec: Spec, procedure: str) -> bool:
    return any(isinstance(step, Torque | Angle | Turns | Align) for step in walk(spec.steps_of(procedure)))


def _of_parts(spec: Spec, procedure: str) -> dict[str, str]:
    kinds = spec.layout.kinds
    conditions = dict.fromkeys((spec.condition, *(kind.condition for kind in kinds.values())))
    condition = "; ".join(each for each in conditions if each)
    count = {name: sum(fastener.kind == name for fastener in spec.layout.fasteners) for name in kinds}
    new = ", ".join(f"{count[name]} × {name}" for name, kind in kinds.items() if kind.single_use)
    places = {name: ", ".join(fastener.label for fastener in spec.layout.fasteners if fastener.kind == name) for name in kinds}
    special = [f"{name} at {places[name]}: {kind.note}" for name, kind in kinds.items() if kind.note and len(kinds) > 1]
    steps: list[StepBase] = list(walk(spec.steps_of(procedure)))
    holds = dict.fromkeys(step.hold for step in steps if step.hold)
    return {
        "threads": f"Threads and seats: {condition}." if condition else "",
        "new": f"New parts fitted: {new}." if new else "",
        "places": " ".join(f"{line.rstrip('.')}." for line in (*special, *spec.orientation)),
        "hold": f"Counter-hold ready for {', '.join(holds)}; clear of housings, pipes and hands." if holds else "",
    }


def _of_school(spec: Spec, procedure: str, policy: Policy) -> str:
    """What is confirmed where a specification sets a pinion in another way than this shop does."""
    steps = (step.figures.school for step in walk(spec.steps_of(procedure)) if isinstance(step, AdjustStep))
    ways = dict.fromkeys(school for school in steps if school is not None)
    if policy.pinion == "as the document says" or not ways or policy.pinion in ways:
        return ""
    return f"This shop sets a pinion by {policy.pinion}; this document by {' and '.join(ways)}, and that is what is fitted here."


def _of_tools(tooling: Sequence[Tooling], passes: Sequence[Pass]) -> dict[str, str]:
    """The reaction arm, and each wrench that is used: which scale it is read by, or that it stands on nought."""
    gears = [adapter.name for each in tooling for adapter in each.adapters if isinstance(adapter, Multiplier)]
    used = dict.fromkeys(pull.tooling for pass_ in passes for pull in pass_.pulls if pull.setting is not None)
    ready = [
        f"{wrench.name} is whole and read in {wrench.unit}" if wrench.construction in SET_BEFOREHAND else f"{wrench.name} stands on 0"
        for wrench in (tooling[place].wrench for place in used)
    ]
    return {
        "arm": f"The arm of {' and '.join(gears)} stands against something solid; hands and hoses are clear of it." if gears else "",
        "tools": f"{'; '.join(ready)}." if ready else "",
    }
