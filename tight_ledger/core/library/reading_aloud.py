"""Steps as a mechanic would read them aloud."""

from collections.abc import Callable, Iterator, Mapping
from typing import Any

from tight_ledger.core.base.display import Shown, show_band
from tight_ledger.core.base.models import Model
from tight_ledger.core.planning.stages import Stage, Stages
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import (
    Align,
    Angle,
    Check,
    Condition,
    Do,
    Each,
    Loosen,
    Measure,
    Repeat,
    Rotate,
    Step,
    Stop,
    Torque,
    Turns,
)

OUTCOME_WORDS = {"ok": "in the band", "in_time": "in time", "still": "still", "by_eye": "done by eye"}


class StepFigure(Model):
    """What a step asks of some fasteners; `of` is empty if it is all of them."""

    of: str = ""
    figure: str
    """As written; a share of a figure as its limits."""
    units: tuple[Shown, ...]


class Line(Model):
    """One step in words, with its figures; `depth` says how deep in blocks it stands."""

    id: str = ""
    words: str
    figures: tuple[StepFigure, ...] = ()
    depth: int = 0


def read_aloud(spec: Spec, steps: tuple[Step, ...], stages: Stages, depth: int = 0) -> Iterator[Line]:
    """Every step, blocks before what they hold.

    Args:
        stages: of the whole procedure, for the figures.
    """
    for step in steps:
        said = _WORDS[type(step)](spec, step)
        words = " ".join(part for part in (_when(step.when), said, _around(step)) if part)
        yield Line(id=step.id, words=words, figures=tuple(_figures(step, stages)), depth=depth)
        if isinstance(step, Repeat | Each):
            yield from read_aloud(spec, step.steps, stages, depth + 1)
        if isinstance(step, Repeat) and step.again:
            yield Line(words="and between two tries:", depth=depth)
            yield from read_aloud(spec, step.again, stages, depth + 1)


def _when(condition: Condition | None) -> str:
    return f"if {condition.step} was {_outcomes(condition)}:" if condition is not None else ""


def _outcomes(condition: Condition) -> str:
    return " or ".join(OUTCOME_WORDS.get(outcome, outcome.replace("_", " ")) for outcome in sorted(condition.one_of))


def _around(step: Step) -> str:
    """What goes with a step: its remark, what happens meanwhile, how long after another."""
    said = [step.say] if step.say and not isinstance(step, Do | Stop) else []
    said += [f"while you {step.meanwhile}"] if step.meanwhile else []
    said += [f"holding {step.hold}"] if step.hold else []
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
        return f"{who} one rung higher: {', '.join(band.written or show_band(band).limits for band in step.ladder)}"
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
    more = f", plus what {step.plus} read" if step.plus else ""
    more += f", less what {step.less} read" if step.less else ""
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


def _figures(step: Step, stages: Stages) -> Iterator[StepFigure]:
    """The figures of a step, kind by kind where they differ."""
    found: dict[str, tuple[Stage, list[str]]] = {}
    for row in stages.kinds:
        for stage in row.stages:
            if stage.step == step.id and stage.figure:
                found.setdefault(stage.figure, (stage, []))[1].append(row.named)
    for stage in stages.joint:
        if stage.step == step.id and stage.figure:
            found.setdefault(stage.figure, (stage, []))
    for figure, (stage, named) in found.items():
        yield StepFigure(of="" if len(found) == 1 else " and ".join(named), figure=figure, units=stage.units)
