"""Steps as a mechanic would read them aloud."""

from collections.abc import Callable, Iterator, Mapping
from typing import Any

from tight_ledger.core.bands import Band
from tight_ledger.core.base import Invalid, Model
from tight_ledger.core.display import Shown, show_band
from tight_ledger.core.plans import Policy
from tight_ledger.core.specs import STAGE_SPREAD, Spec, pick_figure
from tight_ledger.core.steps import (
    Align,
    Angle,
    Check,
    Condition,
    Do,
    Each,
    Figures,
    Loosen,
    Measure,
    Repeat,
    Rotate,
    Step,
    Stop,
    Torque,
    Turns,
)
from tight_ledger.core.units import TorqueUnit

AT_THE_SHEET: tuple[TorqueUnit, ...] = ("N·m", "lbf·ft")
OUTCOME_WORDS = {"ok": "in the band", "in_time": "in time", "still": "still", "by_eye": "done by eye"}


class StepFigure(Model):
    """What a step asks of some fasteners; `of` is empty if it is all of them."""

    of: str = ""
    written: str = ""
    units: tuple[Shown, ...]


class Line(Model):
    """One step in words, with its figures; `depth` says how deep in blocks it stands."""

    id: str = ""
    words: str
    figures: tuple[StepFigure, ...] = ()
    depth: int = 0


def figure_of(band: Band, policy: Policy) -> tuple[Shown, ...]:
    """A band as read from the sheet."""
    if band.quantity == "torque":
        aim = band.aim(policy.figure_in_range)
        return tuple(show_band(band, unit, aim) for unit in AT_THE_SHEET)
    return (show_band(band),)


def read_aloud(spec: Spec, steps: tuple[Step, ...], policy: Policy, depth: int = 0) -> Iterator[Line]:
    """Every step, blocks before what they hold."""
    for step in steps:
        said = _WORDS[type(step)](spec, step)
        words = " ".join(part for part in (_when(step.when), said, _around(step)) if part)
        yield Line(id=step.id, words=words, figures=tuple(_figures(spec, step, policy)), depth=depth)
        if isinstance(step, Repeat | Each):
            yield from read_aloud(spec, step.steps, policy, depth + 1)
        if isinstance(step, Repeat) and step.again:
            yield Line(words="and between two tries:", depth=depth)
            yield from read_aloud(spec, step.again, policy, depth + 1)


def _when(condition: Condition | None) -> str:
    return f"if {condition.step} was {_outcomes(condition)}:" if condition is not None else ""


def _outcomes(condition: Condition) -> str:
    return " or ".join(OUTCOME_WORDS.get(outcome, outcome.replace("_", " ")) for outcome in sorted(condition.one_of))


def _around(step: Step) -> str:
    """What goes with a step: its remark, what happens meanwhile, how long after another."""
    said = [step.say] if step.say and not isinstance(step, Do | Stop) else []
    said += [f"while you {step.meanwhile}"] if step.meanwhile else []
    if step.timing is not None:
        said += [f"not before {_span(step.timing.at_least_s)} after {step.timing.after}"] if step.timing.at_least_s else []
        said += [f"within {_span(step.timing.at_most_s)} of {step.timing.after}"] if step.timing.at_most_s else []
    order = f"in the order “{step.order}”" if step.order not in (None, "any") else ""
    said += [part for part in (order, "in reverse order" if step.reverse else "") if part]
    return f"({', '.join(said)})" if said else ""


def _span(seconds: float) -> str:
    return f"{seconds / 60:g} min" if seconds >= 60 else f"{seconds:g} s"


def _who(spec: Spec, step: Step) -> str:
    if step.of is None:
        return "all" if len(spec.layout.fasteners) > 1 else f"the {spec.layout.fasteners[0].kind}"
    named = (step.of,) if isinstance(step.of, str) else step.of
    return " and ".join(f"no. {name}" if any(f.label == name for f in spec.layout.fasteners) else name for name in named)


def _torque(spec: Spec, step: Torque) -> str:
    who = _who(spec, step)
    if step.found:
        return f"{who} to the figure that {step.found} ended on"
    if step.ladder:
        return f"{who} one rung higher: {', '.join(band.written or f'{band.low:g}–{band.high:g} N·m' for band in step.ladder)}"
    more = f", plus what {step.plus} read" if step.plus else ""
    if step.share is not None and step.share != 1:
        return f"{who} to {step.share * 100:g}\u00a0%{more}"
    return f"{who} to the figure{more}"


def _loosen(spec: Spec, step: Loosen) -> str:
    if step.unit == "free" or step.amount is None:
        return f"loosen {_who(spec, step)}"
    unit = {"turns": "turn", "deg": "°", "positions": "position"}[step.unit]
    amount = f"{step.amount:g}{unit}" if unit == "°" else f"{step.amount:g} {unit}{'s' if step.amount > 1 else ''}"
    return f"{_who(spec, step)} back {amount}"


def _measure(_: Spec, step: Measure) -> str:
    times = {"each": "", "mean": ", their mean", "max": ", the largest", "spread": ", their spread"}[step.take]
    many = f", {step.readings} readings{times}" if step.readings > 1 else ""
    more = f", less what {step.plus} read" if step.plus and step.what.startswith("stretch") else f", plus {step.plus}" if step.plus else ""
    return f"measure {step.what}{many}{more}"


def _do(_: Spec, step: Do) -> str:
    said = step.say.rstrip(".") or ("choose" if step.options else step.id)
    choices = ", ".join(option.say or option.key for option in step.options)
    return f"{said}: {choices}" if choices else said


def _each(_: Spec, step: Each) -> str:
    over = " then ".join(step.over) if step.over else "each fastener"
    return f"{over}, one finished before the next:"


def _repeat(_: Spec, step: Repeat) -> str:
    if step.until is None:
        return f"{step.times} times:"
    return f"again until {step.until.step} is {_outcomes(step.until)}, at most {step.times} times:"


_WORDS: Mapping[type, Callable[[Spec, Any], str]] = {
    Torque: _torque,
    Angle: lambda spec, step: f"{_who(spec, step)} on by the angle",
    Turns: lambda spec, step: f"{_who(spec, step)} {step.turns:g} turn{'s' if step.turns > 1 else ''} on",
    Loosen: _loosen,
    Align: lambda spec, step: (
        f"{_who(spec, step)} {'on' if step.way == 'forward' else 'back'} to the next slot, at most {step.at_most_deg:g}°"
    ),
    Check: lambda spec, step: f"check {_who(spec, step)} at the figure: does any turn?",
    Rotate: lambda _, step: f"turn the {step.what} {step.turns:g} time{'s' if step.turns > 1 else ''}",
    Measure: _measure,
    Do: _do,
    Stop: lambda _, step: f"stop: {step.say or 'a lead decides'}",
    Each: _each,
    Repeat: _repeat,
}


def _figures(spec: Spec, step: Step, policy: Policy) -> Iterator[StepFigure]:
    at: Figures | None = None
    if isinstance(step, Torque | Check):
        if isinstance(step, Torque) and (step.ladder or step.found):
            return
        at = step.at if step.at is not None else (spec.finals or None)
    elif isinstance(step, Angle):
        at = step.at
    elif isinstance(step, Measure):
        at = step.band
    if at is None:
        return
    share = step.share if isinstance(step, Torque) and step.share is not None else 1.0
    chosen = spec.layout.select(step.of)
    found: dict[Band, list[str]] = {}
    for label in chosen:
        try:
            band = pick_figure(spec.layout, at, label, step.id)
        except Invalid:  # said where the spec is refused, not here
            continue
        found.setdefault(band if share == 1 else band.scaled(share, at_least=STAGE_SPREAD), []).append(label)
    for band, labels in found.items():
        yield StepFigure(of="" if len(found) == 1 else _named(spec, labels), written=band.written, units=figure_of(band, policy))


def _named(spec: Spec, labels: list[str]) -> str:
    """The group, or the kinds, that are just these fasteners; else their numbers."""
    for name, group in spec.layout.groups.items():
        if set(group) == set(labels):
            return name
    kinds = dict.fromkeys(f.kind for f in spec.layout.fasteners if f.label in labels)
    if {f.label for f in spec.layout.fasteners if f.kind in kinds} == set(labels):
        return " and ".join(kinds)
    return f"no. {', '.join(labels)}"
