"""A spec held against what its threads can bear and against itself, before it goes on file.

What the compiler refuses is refused. What is only unlikely is asked about: an estimate questions a spec, it does not
overrule it.
"""

from collections.abc import Iterator
from contextlib import suppress

from tight_ledger.core.bands import Band
from tight_ledger.core.base import Invalid
from tight_ledger.core.compiling import compile_passes
from tight_ledger.core.estimates import doubt
from tight_ledger.core.plans import Policy, Tooling
from tight_ledger.core.specs import Spec, pick_figure, walk
from tight_ledger.core.steps import Loosen, Step, Torque
from tight_ledger.core.threads import parse_thread
from tight_ledger.core.tools.wrenches import ANY_WRENCH


def require_sound(spec: Spec) -> None:
    """Refuse a spec whose procedures no wrench could follow.

    Raises:
        Invalid: what the compiler refuses, or a thread that is none.
    """
    for kind in spec.layout.kinds.values():
        parse_thread(kind.thread)
    for figures in (spec.finals, *(figures for steps in spec.procedures.values() for step in walk(steps) for figures in _figures_of(step))):
        for selector in figures:
            spec.layout.select(selector)
    for procedure in spec.procedures:
        compile_passes(spec, procedure, (Tooling(wrench=ANY_WRENCH),), Policy())


def _figures_of(step: Step) -> Iterator[dict[str, Band]]:
    """The figures of a step that name fasteners."""
    for name in ("at", "watch", "band"):
        figures = getattr(step, name, None)
        if isinstance(figures, dict):
            yield figures


def doubts(spec: Spec) -> tuple[str, ...]:
    """What is odd about a spec's figures, a sentence each."""
    return tuple(dict.fromkeys((*_against_threads(spec), *_against_itself(spec))))


def _against_threads(spec: Spec) -> Iterator[str]:
    for fastener in spec.layout.fasteners:
        kind = spec.layout.kinds[fastener.kind]
        with suppress(Invalid):  # a fastener that is not tightened to a final torque has none
            if said := doubt(spec.final_for(fastener.label), parse_thread(kind.thread), kind.property_class):
                yield f"{said} lbf·in or lbf·ft?"


def _against_itself(spec: Spec) -> Iterator[str]:
    """A figure that falls from one stage to the next, though nothing was loosened between."""
    for name, steps in spec.procedures.items():
        before: dict[str, Band] = {}
        for step in walk(steps):
            if isinstance(step, Loosen):
                before.clear()
            if not isinstance(step, Torque) or step.ladder or step.found:
                continue
            for label in spec.layout.select(step.of):
                now = _figure(spec, step, label)
                if label in before and now.high < before[label].low:
                    yield f"In {name}, step {step.id} asks for less than the step before. Is a figure in the wrong place?"
                before[label] = now


def _figure(spec: Spec, step: Torque, label: str) -> Band:
    if step.at is not None:
        return pick_figure(spec.layout, step.at, label, step.id)
    return spec.final_for(label).scaled(step.share or 1.0, at_least=0)
