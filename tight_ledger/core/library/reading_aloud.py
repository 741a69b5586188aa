"""A procedure in words, step by step, as a mechanic would read it aloud."""

from collections.abc import Iterator

from tight_ledger.core.base.display import Shown
from tight_ledger.core.base.models import Model
from tight_ledger.core.kinds.reading_aloud import outcomes_aloud
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.planning.stages import Stage, Stages
from tight_ledger.core.specs.spec import Spec, walk
from tight_ledger.core.specs.steps import Each, Repeat, Step, WhichEntry


class StepFigure(Model):
    """What a step asks of some fasteners; `of` is empty if it is all of them."""

    of: str = ""
    figure: str
    """As written; a share of a figure as its limits."""
    units: tuple[Shown, ...]


class AloudLine(Model):
    """One step in words, with its figures; `depth` says how deep in blocks it stands."""

    id: str = ""
    words: str
    figures: tuple[StepFigure, ...] = ()
    depth: int = 0


def read_aloud(spec: Spec, steps: tuple[Step, ...], stages: Stages, kinds: Registry = KINDS, depth: int = 0) -> Iterator[AloudLine]:
    """Every step, a block before its steps.

    Args:
        stages: of the whole procedure, for the figures.
        kinds: the kinds of step that the procedure can have.
        depth: number of blocks around the steps.
    """
    named = {step.id: step for procedure in spec.procedures.values() for step in walk(procedure)}
    for step in steps:
        when = f"if {step.when.step} was {outcomes_aloud(step.when)}:" if step.when is not None else ""
        before = named.get(step.timing.after) if step.timing is not None else None
        has_several = before is not None and kinds[before.kind].takes_fasteners(before)
        around = _around(step, has_several, remark_is_said=kinds[step.kind].says_it)
        words = " ".join(part for part in (when, kinds[step.kind].aloud(spec, step), around) if part)
        yield AloudLine(id=step.id, words=words, figures=tuple(_figures(step, stages)), depth=depth)
        if isinstance(step, Repeat | Each):
            yield from read_aloud(spec, step.steps, stages, kinds, depth + 1)
        if isinstance(step, Repeat) and step.again:
            yield AloudLine(words="and between two tries:", depth=depth)
            yield from read_aloud(spec, step.again, stages, kinds, depth + 1)


def _around(step: Step, has_several: bool, *, remark_is_said: bool) -> str:
    """What goes with a step: its remark, what happens meanwhile, how long after another.

    Args:
        has_several: whether that other step has an entry for each fastener, so that it matters from which of them a time runs.
    """
    said = [step.say] if step.say and not remark_is_said else []
    said += [f"while you {step.meanwhile}"] if step.meanwhile else []
    said += [f"holding {step.hold}"] if step.hold else []
    if step.timing is not None:
        least, most = step.timing.at_least_s, step.timing.at_most_s
        said += [f"not before {_span(least)} after {_entry(step.timing.waits_from, has_several)}{step.timing.after}"] if least else []
        said += [f"within {_span(most)} of {_entry(step.timing.limited_from, has_several)}{step.timing.after}"] if most else []
    order = f"in the order “{step.order}”" if step.order not in (None, "any") else ""
    said += [part for part in (order, "in reverse order" if step.reverse else "") if part]
    return f"({', '.join(said)})" if said else ""


def _entry(which: WhichEntry, has_several: bool) -> str:
    return f"the {which} entry of " if has_several else ""


def _span(seconds: float) -> str:
    return f"{seconds / 60:g} min" if seconds >= 60 else f"{seconds:g} s"


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
