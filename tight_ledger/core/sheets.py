"""The spec sheet: a spec as a mechanic reads it."""

from tight_ledger.core.bands import Band
from tight_ledger.core.base import Invalid, Model
from tight_ledger.core.display import Shown, show_band
from tight_ledger.core.plans import Policy
from tight_ledger.core.specs import Followup, Spec, pick_figure, walk
from tight_ledger.core.step_words import Line, read_aloud
from tight_ledger.core.steps import Angle, Loosen, Measure, Torque
from tight_ledger.core.units import TORQUE_UNITS

CAUTION = "The manufacturer's current manual, local rules and licensed practice come first."
WHEEL_CAUTION = "A wheel that is not tight can come off."


class Figure(Model):
    """What one kind of fastener is tightened to: as written, stage by stage; the last torque of it in every unit."""

    of: str
    count: int
    thread: str
    kind: str
    """Class, coating, condition and what else there is to say of this kind."""
    written: str
    units: tuple[Shown, ...]


class Procedure(Model):
    """A named procedure, read aloud."""

    name: str
    lines: tuple[Line, ...]


class Sheet(Model):
    """What the spec sheet shows beyond the spec itself."""

    figures: tuple[Figure, ...]
    procedures: tuple[Procedure, ...]
    followups: tuple[str, ...]
    hand: str
    count: int
    threads: str
    parts: tuple[str, ...]
    """Single-use parts, and what stands where."""
    source: str
    caution: str


def sheet(spec: Spec, policy: Policy) -> Sheet:
    """The sheet of a spec, its main procedure first."""
    first = main_procedure(spec)
    names = [first, *(name for name in spec.procedures if name != first)]
    return Sheet(
        figures=tuple(_figure(spec, kind, policy) for kind in kinds_in_order(spec)),
        procedures=tuple(Procedure(name=name, lines=tuple(read_aloud(spec, spec.procedures[name], policy))) for name in names),
        followups=tuple(followup_words(followup) for followup in spec.followups),
        hand=hand_words(spec),
        count=len(spec.layout.fasteners),
        threads=thread_words(spec),
        parts=tuple(_parts(spec)),
        source=spec.source.words,
        caution=f"{CAUTION} {WHEEL_CAUTION}" if spec.joint.startswith("wheel") else CAUTION,
    )


def kinds_in_order(spec: Spec) -> list[str]:
    """The kinds of fastener, in the order in which the layout has them."""
    return list(dict.fromkeys(fastener.kind for fastener in spec.layout.fasteners))


def main_procedure(spec: Spec) -> str:
    """`tighten`, or the first there is."""
    return "tighten" if "tighten" in spec.procedures else next(iter(spec.procedures))


def thread_words(spec: Spec) -> str:
    """`10 × M22×1.5`; `6 × M11×1.5, 3 × M8`."""
    threads = [spec.layout.kinds[fastener.kind].thread for fastener in spec.layout.fasteners]
    return ", ".join(f"{threads.count(thread)} × {thread}" for thread in dict.fromkeys(threads))


def headline(spec: Spec, kind: str) -> tuple[str, Band | None]:
    """What a kind is tightened to as written, stage after stage, and its last torque: `33–37 N·m → 56–60 N·m → 85–95°`."""
    label = next((f.label for f in spec.layout.fasteners if f.kind == kind), None)
    said: list[str] = []
    measured: list[str] = []
    last: Band | None = None
    for step in walk(spec.procedures[main_procedure(spec)]) if label is not None else ():
        if label is None or label not in spec.layout.select(step.of):
            continue
        if isinstance(step, Torque) and step.ladder:
            last = step.ladder[-1]
            said.append(f"{_written(step.ladder[0])} up to {_written(last)}")
        elif isinstance(step, Torque) and step.at is not None:
            last = _pick(spec, step.at, label, step.id)
            said += [_written(last)] if last is not None else []
        elif isinstance(step, Torque) and step.share == 1 and (final := _pick(spec, spec.finals, label, "finals")) is not None:
            last = final
            said.append(_written(final))
        elif isinstance(step, Angle) and (turn := _pick(spec, step.at, label, step.id)) is not None:
            said.append(_written(turn))
        elif isinstance(step, Loosen) and said:
            said.append("loosen")
        elif isinstance(step, Measure) and step.band is not None and (read := _pick(spec, step.band, label, step.id)) is not None:
            measured.append(f"{step.what.split(',')[0]} {_written(read)}")
    if not said and not spec.finals:
        return ", ".join(measured), None
    if not said and label is not None and (final := _pick(spec, spec.finals, label, "finals")) is not None:
        return _written(final), final
    while said and said[-1] == "loosen":
        said.pop()
    return " → ".join(word for n, word in enumerate(said) if n == 0 or word != said[n - 1]), last


def _pick(spec: Spec, figures: Band | dict[str, Band], label: str, field: str) -> Band | None:
    try:
        return pick_figure(spec.layout, figures, label, field)
    except Invalid:
        return None


def _written(band: Band) -> str:
    if band.written:
        return band.written
    shown = show_band(band, "N·m", (band.low + band.high) / 2) if band.quantity == "torque" else show_band(band)
    return f"{shown.low}–{shown.high} {shown.unit}"


def _figure(spec: Spec, kind: str, policy: Policy) -> Figure:
    described = spec.layout.kinds[kind]
    written, last = headline(spec, kind)
    units = tuple(show_band(last, unit, last.aim(policy.figure_in_range)) for unit in TORQUE_UNITS) if last is not None else ()
    said = [described.property_class and f"class {described.property_class}", described.coating, described.condition, described.note]
    said += ["single use"] if described.single_use else []
    said += ["tightened into yield"] if described.yields else []
    said += [f"used again up to {described.longest_mm:g} mm"] if described.longest_mm is not None else []
    return Figure(
        of=kind,
        count=sum(f.kind == kind for f in spec.layout.fasteners),
        thread=described.thread,
        kind=" · ".join(part for part in said if part),
        written=written,
        units=units,
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
