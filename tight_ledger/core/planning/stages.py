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
from tight_ledger.core.records.plans import Pass, Pull

OF_A_FASTENER: frozenset[str] = frozenset({"torque", "angle", "turns", "loosen", "align", "check", "measure"})
"""Kinds of pass that are stages of a fastener."""


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


def amount_words(one: Pass) -> str:
    """How far by hand: `2 turns`, `back 1 position`, `to the next slot, 35° at most`."""
    figure = "" if one.amount is None else f"{one.amount:g}"
    said = {
        "turns": f"{figure} turn{'' if figure == '1' else 's'}", "deg": f"{figure}°",
        "positions": f"{figure} lock position{'' if figure == '1' else 's'}",
    }.get(one.unit, "")  # fmt: skip
    if one.kind == "align":
        return f"{'on' if one.way == 'forward' else 'back'} to the next slot, {said} at most"
    if one.kind == "rotate":
        return f"{said} of the {one.what}"
    if one.kind == "loosen":
        return f"back {said}" if said else "loosen"
    return said


def stages_by_kind(layout: Layout, passes: Sequence[Pass], aim: Aim, shares: Mapping[str, float]) -> tuple[KindStages, ...]:
    """The stages of each kind of fastener, in the sequence in which the plan comes to them.

    Args:
        passes: of a compiled plan, with the settings of any wrench.
        aim: the figure in a range that this shop works to.
        shares: by step, its share of the final figure.
    """
    by_label = {fastener.label: _of_fastener(passes, fastener.label) for fastener in layout.fasteners}
    rows: dict[tuple[str, tuple[object, ...]], list[str]] = {}
    for fastener in layout.fasteners:
        signature = tuple((step, _alike(some[0][1])) for step, some in by_label[fastener.label].items())
        rows.setdefault((fastener.kind, signature), []).append(fastener.label)
    found = []
    for (kind, _), labels in rows.items():
        steps = [_together([by_label[label][step] for label in labels]) for step in by_label[labels[0]]]
        stages = tuple(_stage(some, len(by_label[labels[0]][some[0][0].step]), aim, shares) for some in steps)
        whole = len(labels) == sum(fastener.kind == kind for fastener in layout.fasteners)
        named = kind if whole else f"{kind}, no. {', '.join(labels)}"
        last = next((band for some in reversed(steps) if (band := _last_torque(*some[0])) is not None), None)
        found.append(KindStages(of=kind, noun=layout.kinds[kind].noun, labels=tuple(labels), named=named, stages=stages, last=last))
    return tuple(found)


def joint_stages(passes: Sequence[Pass], aim: Aim) -> tuple[Stage, ...]:
    """What is measured on the joint as a whole, step by step."""
    steps: dict[str, list[tuple[Pass, Pull]]] = {}
    for one in passes:
        if one.kind == "measure" and one.pulls[0].fastener is None:
            steps.setdefault(one.step, []).append((one, one.pulls[0]))
    return tuple(_stage(some, len(some), aim, {}) for some in steps.values())


def _of_fastener(passes: Iterable[Pass], label: str) -> dict[str, list[tuple[Pass, Pull]]]:
    """By step, the passes that touch a fastener, each with its first pull there."""
    steps: dict[str, list[tuple[Pass, Pull]]] = {}
    for one in passes:
        pull = next((pull for pull in one.pulls if pull.fastener == label), None)
        if pull is not None and one.kind in OF_A_FASTENER:
            steps.setdefault(one.step, []).append((one, pull))
    return steps


def _alike(pull: Pull) -> object:
    """What two fasteners must have in common to share a line."""
    return pull.band, tuple(rung.band for rung in pull.rungs), pull.watch


def _together(of_labels: list[list[tuple[Pass, Pull]]]) -> list[tuple[Pass, Pull]]:
    """The passes of some fasteners, each once."""
    return list({one.id: (one, pull) for some in of_labels for one, pull in some}.values())


def _stage(some: list[tuple[Pass, Pull]], rounds: int, aim: Aim, shares: Mapping[str, float]) -> Stage:
    one, pull = some[0]
    units = _units(pull.band, aim) if pull.band is not None and not _is_ladder(pull) else ()
    figure = (pull.band.written if pull.band is not None else "") or units[0].limits if units else ""
    share = shares.get(one.step, 1)
    said = _text(one, pull, f"{share * 100:g}\u00a0%: {figure}" if share != 1 else figure)
    if rounds > 1:
        said += f", {'at most ' if any(one.until_loops) else ''}{rounds} times"
    return Stage(
        step=one.step, kind=one.kind, passes=tuple(row.id for row, _ in some), figure=figure, units=units,
        words=f"if needed: {said}" if _hangs(one, pull) else said,
        main=one.kind in ("torque", "angle", "measure") and share == 1 and not _hangs(one, pull),
    )  # fmt: skip


def _hangs(one: Pass, pull: Pull) -> bool:
    """Whether its first pass comes only after a certain outcome."""
    return bool(one.when or pull.when)


def _is_ladder(pull: Pull) -> bool:
    return bool(pull.rungs) and pull.rungs[0].low is None


def _last_torque(one: Pass, pull: Pull) -> Band | None:
    if one.kind not in ("torque", "check"):
        return None
    return pull.rungs[-1].band if _is_ladder(pull) else pull.band


def _units(band: Band, aim: Aim) -> tuple[Shown, ...]:
    units: tuple[ReadingUnit, ...] = USUAL_UNITS if band.quantity in ("torque", "drag") else ()
    first = show_band(band, None, band.aim(aim))
    return (first, *(show_band(band, unit, band.aim(aim)) for unit in units if unit != first.unit))


def _text(one: Pass, pull: Pull, figure: str) -> str:
    if one.kind == "torque" and _is_ladder(pull):
        if pull.pick is not None and pull.pick.how == "same":
            return "to the figure that was found"
        rungs = [rung.band.written or show_band(rung.band).limits for rung in pull.rungs]
        return f"{rungs[0]} up to {rungs[-1]}"
    if one.kind == "torque" and pull.rungs:
        return f"{figure} and what turns it already"
    if one.kind == "check":
        return "check"
    if one.kind == "measure":
        return " ".join(part for part in (one.what, figure) if part)
    return figure if one.kind in ("torque", "angle") else amount_words(one)
