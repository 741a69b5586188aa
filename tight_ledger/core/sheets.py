"""The spec sheet: a spec as a mechanic reads it aloud."""

from collections.abc import Iterator

from tight_ledger.core.base import Model
from tight_ledger.core.compiling import STAGE_SPREAD
from tight_ledger.core.plans import Policy
from tight_ledger.core.quantities import TORQUE_UNITS, Band, Shown, show, show_band
from tight_ledger.core.specs import Followup, Spec, pick_figure
from tight_ledger.core.steps import Check, Repeat, Step, Torque

CAUTION = "The manufacturer's current manual, local rules and licensed practice come first. A wheel that is not tight can come off."


class Figure(Model):
    """The final torque of one kind of fastener."""

    of: str
    thread: str
    written: str
    units: tuple[Shown, ...]


class Line(Model):
    """One step of a procedure, in words, with its figure if it has one."""

    words: str
    figures: tuple[Shown, ...] = ()


class Sheet(Model):
    """What the spec sheet shows beyond the spec itself."""

    figures: tuple[Figure, ...]
    lines: tuple[Line, ...]
    followups: tuple[str, ...]
    hand: str
    count: int
    caution: str = CAUTION


def sheet(spec: Spec, policy: Policy) -> Sheet:
    """The sheet of a spec's tightening procedure."""
    figures = []
    for kind, described in spec.layout.kinds.items():
        label = next(f.label for f in spec.layout.fasteners if f.kind == kind)
        band = spec.final_for(label)
        shown = tuple(show_band(band, unit, band.aim(policy.figure_in_range)) for unit in TORQUE_UNITS)
        figures.append(Figure(of=kind, thread=described.thread, written=band.written, units=shown))
    return Sheet(
        figures=tuple(figures),
        lines=tuple(_lines(spec, spec.procedures[main_procedure(spec)], policy)),
        followups=tuple(followup_words(followup) for followup in spec.followups),
        hand=hand_words(spec),
        count=len(spec.layout.fasteners),
    )


def main_procedure(spec: Spec) -> str:
    """`tighten`, or the first there is."""
    return "tighten" if "tighten" in spec.procedures else next(iter(spec.procedures))


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
    return said + (f"; starts again if any {' or '.join(sorted(followup.again_if))}" if followup.again_if else "")


def _figure(band: Band, policy: Policy) -> tuple[Shown, ...]:
    aim = band.aim(policy.figure_in_range)
    return (show(aim, "N·m"), show(aim, "lbf·ft"))


def _lines(spec: Spec, steps: tuple[Step, ...], policy: Policy) -> Iterator[Line]:
    first = spec.layout.fasteners[0].label
    for step in steps:
        if isinstance(step, Repeat):
            yield from _lines(spec, step.steps, policy)
            if step.until is not None:
                yield Line(words=f"again until every one is {' or '.join(sorted(step.until.one_of))}, at most {step.times} times")
            continue
        say = f", {step.say}" if step.say and step.kind != "do" else step.say
        if isinstance(step, Torque):
            band = spec.final_for(first) if step.at is None else pick_figure(spec.layout, step.at, first, step.id)
            share = step.share or 1.0
            staged = band if share == 1 else band.scaled(share, at_least=STAGE_SPREAD)
            yield Line(
                words=(f"all to {share * 100:g}\u00a0%" if step.share else "all to the figure") + say, figures=_figure(staged, policy)
            )
        elif isinstance(step, Check):
            yield Line(words=f"check all at the figure: does any turn?{say}", figures=_figure(spec.final_for(first), policy))
        else:
            yield Line(words=say or step.kind)
