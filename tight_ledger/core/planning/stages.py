"""What is done to each kind of fastener, stage after stage, as the compiled plan has it.

Every place that shows the figures of a spec shows these stages: the sheet, the results, the booklet, a comparison.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

from tight_ledger.core.base.bands import Aim, Band
from tight_ledger.core.base.display import Shown, show_band
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.units import USUAL_UNITS, ReadingUnit
from tight_ledger.core.joints.layouts import Layout, Noun
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.rungs import is_ladder
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.records.plans import Pass, Pull

Planned = tuple[Pass, Pull]
"""A pull with its pass."""


class Stage(Model):
    """One pass, or the rounds of one step, as it is done to some fasteners."""

    step: str
    kind: str
    passes: tuple[str, ...]
    """The passes of the plan that it stands for."""
    figure: str = ""
    """`58–62 N·m`, as written; empty where it has none of its own."""
    words: str
    """`58–62 N·m`, `88–92°`, `loosen`, `check, at most 3 times`, `if needed: back 1 position`."""
    main: bool
    """Whether it is one of the spec's own figures: not a share of one, not a check."""
    units: tuple[Shown, ...] = ()
    """Its figure, first in the unit in which it was written; none without a figure."""


class KindStages(Model):
    """The stages of a kind of fastener; of a part of the kind, where its fasteners differ."""

    of: str
    noun: Noun
    labels: tuple[str, ...]
    named: str
    """The kind, or the kind with the numbers of those that these stages are for."""
    stages: tuple[Stage, ...]
    last: Band | None = None
    """The last torque."""


class Stages(NamedTuple):
    """What a procedure does to each kind of fastener and measures on the joint; or why it cannot be followed."""

    kinds: tuple[KindStages, ...]
    joint: tuple[Stage, ...]
    refused: str = ""


def stages_by_kind(
    layout: Layout, passes: Sequence[Pass], aim: Aim, shares: Mapping[str, float], kinds: Registry = KINDS
) -> tuple[KindStages, ...]:
    """The stages of each kind of fastener, in the order in which the plan comes to them.

    Args:
        passes: of a compiled plan, with the settings of any wrench.
        aim: the figure in a range that this shop works to.
        shares: by step id, its share of the final figure.
        kinds: the kinds of step that the plan can have.
    """
    by_label = {fastener.label: _of_fastener(passes, fastener.label, kinds) for fastener in layout.fasteners}
    alike: dict[tuple[str, tuple[object, ...]], list[str]] = {}
    for fastener in layout.fasteners:
        signature = tuple((step, _signature(planned[0][1])) for step, planned in by_label[fastener.label].items())
        alike.setdefault((fastener.kind, signature), []).append(fastener.label)
    found = []
    for (name, _), labels in alike.items():
        steps = [_together([by_label[label][step] for label in labels]) for step in by_label[labels[0]]]
        stages = tuple(_stage(planned, len(by_label[labels[0]][planned[0][0].step]), aim, shares, kinds) for planned in steps)
        whole = len(labels) == sum(fastener.kind == name for fastener in layout.fasteners)
        named = name if whole else f"{name}, no. {', '.join(labels)}"
        last = next((band for planned in reversed(steps) if (band := _last_torque(*planned[0], kinds)) is not None), None)
        found.append(KindStages(of=name, noun=layout.kinds[name].noun, labels=tuple(labels), named=named, stages=stages, last=last))
    return tuple(found)


def joint_stages(passes: Sequence[Pass], aim: Aim, kinds: Registry = KINDS) -> tuple[Stage, ...]:
    """What is measured on the joint as a whole, step by step."""
    steps: dict[str, list[Planned]] = {}
    for pass_ in passes:
        if kinds[pass_.kind].is_stage and pass_.pulls[0].fastener is None:
            steps.setdefault(pass_.step, []).append((pass_, pass_.pulls[0]))
    return tuple(_stage(planned, len(planned), aim, {}, kinds) for planned in steps.values())


def _of_fastener(passes: Iterable[Pass], label: str, kinds: Registry) -> dict[str, list[Planned]]:
    """By step id, the passes that are stages of a fastener, each with its first pull there."""
    steps: dict[str, list[Planned]] = {}
    for pass_ in passes:
        pull = next((pull for pull in pass_.pulls if pull.fastener == label), None)
        if pull is not None and kinds[pass_.kind].is_stage:
            steps.setdefault(pass_.step, []).append((pass_, pull))
    return steps


def _signature(pull: Pull) -> object:
    """What two fasteners must have in common to share a line."""
    return pull.band, tuple(rung.band for rung in pull.rungs), pull.watch


def _together(of_labels: list[list[Planned]]) -> list[Planned]:
    """The passes of several fasteners, each pass once."""
    return list({pass_.id: (pass_, pull) for planned in of_labels for pass_, pull in planned}.values())


def _stage(planned: list[Planned], rounds: int, aim: Aim, shares: Mapping[str, float], kinds: Registry) -> Stage:
    pass_, pull = planned[0]
    kind = kinds[pass_.kind]
    units = _units(pull.band, aim) if pull.band is not None and not is_ladder(pull) else ()
    figure = (pull.band.written if pull.band is not None else "") or units[0].limits if units else ""
    share = shares.get(pass_.step, 1)
    said = kind.stage(pass_, pull, f"{share * 100:g}\u00a0%: {figure}" if share != 1 else figure)
    if rounds > 1:
        said += f", {'at most ' if any(pass_.until_loops) else ''}{rounds} times"
    is_conditional = bool(pass_.when or pull.when)
    return Stage(
        step=pass_.step, kind=pass_.kind, passes=tuple(row.id for row, _ in planned), figure=figure, units=units,
        words=f"if needed: {said}" if is_conditional else said, main=kind.is_figure and share == 1 and not is_conditional,
    )  # fmt: skip


def _last_torque(pass_: Pass, pull: Pull, kinds: Registry) -> Band | None:
    if kinds[pass_.kind].reading != "torque":
        return None
    return pull.rungs[-1].band if is_ladder(pull) else pull.band


def _units(band: Band, aim: Aim) -> tuple[Shown, ...]:
    units: tuple[ReadingUnit, ...] = USUAL_UNITS if band.quantity in ("torque", "drag") else ()
    first = show_band(band, None, band.aim(aim))
    return (first, *(show_band(band, unit, band.aim(aim)) for unit in units if unit != first.unit))
