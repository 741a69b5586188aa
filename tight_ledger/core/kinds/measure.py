"""`measure`: read a gauge, on the joint or at each fastener; several readings, their mean, largest or spread."""

import statistics
from collections.abc import Callable
from typing import Any

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.display import show_band, units_for
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.rounding import nine_digits
from tight_ledger.core.base.units import ReadingUnit
from tight_ledger.core.kinds.acts import Doing
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import OPEN, Judged, JudgedVerdict
from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.kinds.readings import PullProgress, Readings
from tight_ledger.core.kinds.step_kind import EntryFigures, StepCells, StepKind
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.specs.spec import Spec, pick_figure
from tight_ledger.core.specs.steps import Condition, Measure

_FIELDS = ("readings", "take", "what", "low_means", "high_means")
_TAKES: dict[str, Callable[[list[float]], float]] = {
    "each": lambda readings: readings[-1],
    "mean": statistics.fmean,
    "max": max,
    "spread": lambda readings: max(readings) - min(readings),
}
_TAKES_ALOUD = {"each": "", "mean": ", their mean", "max": ", the largest", "spread": ", their spread"}
_UNITS_WITHOUT_BAND: tuple[ReadingUnit, ...] = ("mm", "thou", "N·m", "lbf·in")


def _passes(builder: PlanBuilder, step: Measure, context: StepContext) -> Built:
    fields: dict[str, Any] = {name: getattr(step, name) for name in _FIELDS}
    for name in ("plus", "less"):
        if (other := getattr(step, name)) is not None:
            fields[name] = builder.pick(other, context, step.id, "same", None)
    if not step.per_fastener:
        if isinstance(step.band, dict):
            raise Invalid(step.id, "One reading for the whole joint has one band.", "Give one, or measure each fastener.")
        return (Pull(id=step.id + context.suffix(), band=step.band if isinstance(step.band, Band) else None),), fields
    layout = builder.spec.layout
    return tuple(
        Pull(**common, band=None if step.band is None else pick_figure(layout, step.band, label, step.id))
        for label, common in builder.pull_fields(step, context)
    ), fields


def _judge(fold: FoldState, entry: Entry, pass_: Pass, pull: Pull) -> Judged:
    offset = _offset(fold.readings, pass_, pull)
    if entry.reading is None or offset is None:
        return Judged.stays_open("no_figure")
    progress = fold.readings.progress.setdefault(pull.id, PullProgress())
    progress.readings.append(nine_digits(entry.reading.stored + offset))
    if len(progress.readings) < pass_.readings:
        return Judged(OPEN, closes=False)
    value = nine_digits(_TAKES[pass_.take](progress.readings))
    if pull.band is None:
        return Judged("ok", value)
    found = {pull.band.judge(reading) for reading in progress.readings} if pass_.take == "each" else {pull.band.judge(value)}
    outcome = "high" if "high" in found else "low" if "low" in found else "ok"
    if outcome == "ok" or outcome in pass_.again_on:
        return Judged(outcome, value)
    means = pass_.low_means or "below its band" if outcome == "low" else pass_.high_means or "above its band"
    return Judged(outcome, value, (JudgedVerdict("out_of_band", f"{pass_.what}: {means}"),))


def _offset(readings: Readings, pass_: Pass, pull: Pull) -> float | None:
    """Added to each reading: what an earlier step read, less what the gauge showed at zero. None while it was not read."""
    total = 0.0
    for pick, sign in ((pass_.plus, 1), (pass_.less, -1)):
        if pick is not None:
            value = readings.last_value(pick.passes, pull.fastener)
            if value is None:
                return None
            total += sign * value
    return total


def _prompt(pass_: Pass, pull: Pull, doing: Doing) -> dict[str, Any]:
    return {
        "measure": pass_.what, "band": show_band(pull.band) if pull.band is not None else None,
        "units": units_for(pull.band) if pull.band is not None else _UNITS_WITHOUT_BAND,
        "readings_done": len(doing.readings), "readings_of": pass_.readings,
    }  # fmt: skip


def _aloud(_spec: Spec, step: Measure) -> str:
    many = f", {step.readings} readings{_TAKES_ALOUD[step.take]}" if step.readings > 1 else ""
    more = f", plus what {step.plus} read" if step.plus else ""
    more += f", less what {step.less} read" if step.less else ""
    return f"measure {step.what}{many}{more}"


def _told(_entry: Entry, _pass: Pass, _pull: Pull, figures: EntryFigures) -> str:
    return f"read {figures.read}"


def _tried(step: Measure, _until: Condition, times: int) -> str:
    return f"{step.what} out of its band after {times} tries"


MEASURE = StepKind(
    name="measure", step=Measure, says="read a gauge", aloud=_aloud,
    cells=StepCells(figure_field="band", figure_sort="measured", has_what=True),
    outcomes=frozenset({"low", "ok", "high"}), passes=_passes, takes_fasteners=lambda step: bool(step.per_fastener),
    answered_by="measured", judge=_judge, has_measured_band=True, after_the_joint=True,
    title=lambda pass_, _place, _of: pass_.what, is_stage=True, is_figure=True,
    stage=lambda pass_, _pull, figure: " ".join(part for part in (pass_.what, figure) if part), told=_told, tried=_tried,
    ask=lambda _pass: "measure", prompt=_prompt,
)  # fmt: skip
