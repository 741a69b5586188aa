"""Checks of a spec before it goes on file: against the strength of its threads, and against itself.

What the compiler refuses is refused. What is only unlikely is asked about: an estimate questions a spec, it does not
overrule it.
"""

import itertools
from collections.abc import Iterator
from contextlib import suppress

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.display import show_band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.slips import is_far_off, slips
from tight_ledger.core.joints.order_measures import measure_order
from tight_ledger.core.joints.threads import Thread, parse_thread, read_class, strength
from tight_ledger.core.mechanics.estimates import doubt, is_over
from tight_ledger.core.planning.compiler import compile_passes
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.specs.spec import Spec, pick_figure, walk
from tight_ledger.core.specs.steps import Angle, Check, Loosen, Step, Torque
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
    return tuple(dict.fromkeys((*_against_threads(spec), *_against_itself(spec), *_of_its_orders(spec))))


def _against_threads(spec: Spec) -> Iterator[str]:
    """Doubts about figures and threads: one far over what a thread bears; the highest far under it, unless an angle follows."""
    turned = _turned_by_an_angle(spec)
    for fastener in spec.layout.fasteners:
        kind = spec.layout.kinds[fastener.kind]
        thread = parse_thread(kind.thread)
        figures = list(_torques_of(spec, fastener.label))
        highest = max(figures, key=lambda band: band.high, default=None)
        name, unknown = _class_at(kind.property_class, thread)
        if unknown:
            yield unknown
        for band in figures:
            with suppress(Invalid):  # a thread so large that no strength of it is known
                said = doubt(band, thread, name)
                if said and (is_over(band, thread, name) or (band is highest and fastener.label not in turned)):
                    yield said


def _class_at(written: str, thread: Thread) -> tuple[str, str]:
    """The class of a thread; empty if none is known, with the sentence that says so. Its figures are then held against any class."""
    if not written.strip():
        return "", ""
    name = read_class(written)
    if name is None:
        return "", f"“{written}” is no class that is known here: its figures are held against the strongest. Is it written so?"
    try:
        strength(name, thread.diameter_mm)
    except Invalid:
        return "", f"{thread.designation} in class {written.strip()} is in none of the tables here. Is it written so?"
    return name, ""


def _turned_by_an_angle(spec: Spec) -> set[str]:
    steps = (step for steps in spec.procedures.values() for step in walk(steps) if isinstance(step, Angle))
    return {label for step in steps for label in spec.layout.select(step.of)}


def _torques_of(spec: Spec, label: str) -> Iterator[Band]:
    """Every torque that stands in a spec for a fastener: finals, steps, rungs."""
    with suppress(Invalid):  # a fastener that is not tightened to a final torque has none
        yield spec.final_for(label)
    for steps in spec.procedures.values():
        for step in walk(steps):
            if isinstance(step, Torque | Check) and label in spec.layout.select(step.of):
                yield from getattr(step, "ladder", ())
                if step.at is not None:
                    yield pick_figure(spec.layout, step.at, label, step.id)


def _against_itself(spec: Spec) -> Iterator[str]:
    """Doubts about figures that fall from stage to stage without loosening between, or that look like another unit."""
    for name, steps in spec.procedures.items():
        before: dict[str, Band] = {}
        for step in walk(steps):
            if isinstance(step, Loosen):
                before.clear()
            if not isinstance(step, Torque) or step.is_found:
                continue
            yield from _rungs(name, step)
            for label in spec.layout.select(step.of) if not step.ladder else ():
                now = _figure(spec, step, label)
                if label in before and now.high < before[label].low:
                    slipped = slips(now.aim(), before[label])
                    more = f" It would fit as {slipped[0]}." if slipped else " Is a figure in the wrong place?"
                    yield f"In {name}, step {step.id} asks for less than the step before.{more}"
                before[label] = now


def _rungs(name: str, step: Torque) -> Iterator[str]:
    """Doubts about a ladder that does not climb, or a rung that looks like another unit."""
    for lower, upper in itertools.pairwise(step.ladder):
        if upper.aim() <= lower.aim():
            yield f"In {name}, the ladder of step {step.id} does not climb at {upper.written or show_band(upper).limits}."
        elif is_far_off(upper.aim(), lower) and (found := slips(upper.aim(), lower)):
            yield f"In {name}, step {step.id}: {upper.written or show_band(upper).limits} would fit the rung before as {found[0]}."


def _of_its_orders(spec: Spec) -> Iterator[str]:
    """Doubts about orders that lean to one side, or go back toward the middle."""
    for steps in spec.procedures.values():
        for step in walk(steps):
            if not isinstance(step, Torque | Angle) or step.order == "any":
                continue
            name = step.order or "main"
            ranks = spec.layout.orders.get(name, ())
            found = measure_order(spec.layout, reversed(ranks) if step.reverse else ranks, spec.layout.select(step.of))
            if found.is_odd:
                yield f"The order “{name}”: {found.words[0].lower()}{found.words[1:]} Is it written so?"


def _figure(spec: Spec, step: Torque, label: str) -> Band:
    if step.at is not None:
        return pick_figure(spec.layout, step.at, label, step.id)
    return spec.final_for(label).scaled(step.share or 1.0, at_least=0)
