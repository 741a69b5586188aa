"""`measure`: read a gauge, on the joint or at each fastener; several readings, their mean, largest or spread."""

import statistics
from collections.abc import Callable
from typing import Any

from tight_ledger.core.adjust.agreement import Conformity, WayToRead, believed, conformity
from tight_ledger.core.adjust.methods import METHODS
from tight_ledger.core.base.bands import Band, Reading
from tight_ledger.core.base.display import show_band, units_for
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.rounding import is_above, nine_digits
from tight_ledger.core.base.units import STORED_UNIT, ReadingUnit, from_stored
from tight_ledger.core.kinds.acts import Doing
from tight_ledger.core.kinds.adjust import advised_beside
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import OPEN, Judged, JudgedVerdict
from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.kinds.readings import PullProgress
from tight_ledger.core.kinds.step_kind import EntryFigures, StepCells, StepKind
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.records.verdicts import VerdictCode
from tight_ledger.core.specs.spec import Spec, pick_figure
from tight_ledger.core.specs.steps import Condition, Measure

_FIELDS = ("readings", "take", "what", "low_means", "high_means", "method", "varies_at_most", "circle_mm")
_TAKES: dict[str, Callable[[list[float]], float]] = {
    "each": lambda readings: readings[-1],
    "mean": statistics.fmean,
    "max": max,
    "spread": lambda readings: max(readings) - min(readings),
    "places": statistics.fmean,
}
_WAYS: dict[str, WayToRead] = {"agreed": "two that agree", "together": "three together"}
"""How readings come to be believed; there are as many as it takes."""
_TAKES_ALOUD = {
    "each": "", "mean": ", their mean", "max": ", the largest", "spread": ", their spread", "agreed": "", "together": "",
    "places": ", each at another place round",
}  # fmt: skip
_WAYS_ALOUD = {"agreed": ", until two agree", "together": ", three within a graduation"}
_EACH_IN_BAND = frozenset({"each", "places"})
"""Ways to read of which every single reading lies in the band."""
_UNITS_WITHOUT_BAND: tuple[ReadingUnit, ...] = ("mm", "thou", "N·m", "lbf·in")


def _passes(builder: PlanBuilder, step: Measure, context: StepContext) -> Built:
    fields: dict[str, Any] = {name: getattr(step, name) for name in _FIELDS}
    if step.take in _WAYS:
        fields["graduation"] = step.agrees_within
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
    offset = fold.readings.offset(pass_, pull)
    if entry.reading is None or offset is None:
        return Judged.stays_open("no_figure")
    progress, gauge = fold.readings.progress.setdefault(pull.id, PullProgress()), fold.gauge_of(entry)
    progress.readings.append(nine_digits(_at_circle(entry.reading, pass_) + offset))
    graduation = gauge.stored(gauge.graduation, entry.reading.radius_mm) if gauge is not None else 0.0
    uncertainty = gauge.uncertainty_of(entry.reading) if gauge is not None else 0.0
    series = _series(pass_, progress.readings, graduation)
    value = _value(pass_, series[-1], graduation) if series else None
    if value is None:
        return Judged(OPEN, closes=False)
    if pull.band is None:
        return Judged("ok", value)
    placed = conformity(value, pull.band, uncertainty)
    if placed == "at the limit" and len(series) == 1:
        return Judged(OPEN, closes=False)  # it is taken once more
    fold.readings.uncertainty[pull.id] = uncertainty
    return _placed(fold.policy, pass_, pull.band, series[-1], value, placed)


def _placed(policy: Policy, pass_: Pass, band: Band, newest: list[float], value: float, placed: Conformity) -> Judged:
    """Where a value lies that counts, with the readings that it comes from."""
    if pass_.varies_at_most is not None and is_above(varies := max(newest) - min(newest), pass_.varies_at_most):
        said = f"{pass_.what} varies by {varies:.3g} from place to place, {pass_.varies_at_most:g} at most"
        return Judged("high", value, (JudgedVerdict("out_of_band", said),))
    found = {band.judge(reading) for reading in newest} if pass_.take in _EACH_IN_BAND else {band.judge(value)}
    outcome = "high" if "high" in found else "low" if "low" in found else "ok"
    if outcome == "ok":
        return Judged(outcome, value, _near(policy, pass_, placed))
    if outcome in pass_.again_on:
        return Judged(outcome, value)
    means = pass_.low_means or "below its band" if outcome == "low" else pass_.high_means or "above its band"
    return Judged(outcome, value, (JudgedVerdict("out_of_band", f"{pass_.what}: {means}"),))


def _near(policy: Policy, pass_: Pass, found: Conformity) -> tuple[JudgedVerdict, ...]:
    """What is said of a value in the band that lies nearer to a limit than its gauge is certain."""
    if found != "at the limit":
        return ()
    code: VerdictCode = "unproven_reading" if policy.conformity == "proven" else "at_the_limit"
    return (JudgedVerdict(code, f"{pass_.what}: at the limit"),)


def _at_circle(reading: Reading, pass_: Pass) -> float:
    """What was read, at the radius at which the band holds."""
    if pass_.circle_mm is None or reading.radius_mm is None or reading.quantity != "length":
        return reading.stored
    return reading.stored * pass_.circle_mm / reading.radius_mm


def _series(pass_: Pass, readings: list[float], graduation: float) -> list[list[float]]:
    """The readings, cut where they come to a value; those after the last value are left out."""
    found, start = [], 0
    for end in range(1, len(readings) + 1):
        if _value(pass_, readings[start:end], graduation) is not None:
            found.append(readings[start:end])
            start = end
    return found


def _value(pass_: Pass, readings: list[float], graduation: float) -> float | None:
    """What the readings come to; None while more of them are needed.

    Args:
        graduation: of the gauge in the stored unit, 0 if nobody named it; readings cannot agree more closely.
    """
    if pass_.graduation is not None:
        found = believed(readings, max(pass_.graduation, graduation), _WAYS[pass_.take])
        return None if found is None else nine_digits(found)
    return nine_digits(_TAKES[pass_.take](readings)) if len(readings) >= pass_.readings else None


def _readings_of(pass_: Pass, done: int) -> int:
    """How many readings there will be, as far as one can say."""
    if pass_.take == "agreed":
        return max(2, done + 1)
    if pass_.take == "together":
        return 3 * (done // 3 + 1)
    return pass_.readings * (done // pass_.readings + 1)


def _prompt(pass_: Pass, pull: Pull, doing: Doing) -> dict[str, Any]:
    method = METHODS[pass_.method] if pass_.method is not None else None
    return {
        "measure": pass_.what, "band": show_band(pull.band) if pull.band is not None else None,
        "units": units_for(pull.band) if pull.band is not None else _UNITS_WITHOUT_BAND,
        "readings": tuple(_shown(reading, pull.band) for reading in doing.readings), "readings_done": len(doing.readings),
        "readings_of": _readings_of(pass_, len(doing.readings)), "circle_mm": pass_.circle_mm,
        "method": method, "confirm_method": method is not None and (method.every_time or not doing.readings),
    }  # fmt: skip


def _shown(reading: float, band: Band | None) -> str:
    """A stored reading in the unit of its band."""
    unit = (band.unit or STORED_UNIT[band.quantity]) if band is not None else None
    return f"{from_stored(reading, unit):.4g} {unit}" if unit is not None else f"{reading:.4g}"


def _aloud(_spec: Spec, step: Measure) -> str:
    many = f", {step.readings} readings{_TAKES_ALOUD[step.take]}" if step.readings > 1 else ""
    many += _WAYS_ALOUD.get(step.take, "")
    more = f", plus what {step.plus} read" if step.plus else ""
    more += f", less what {step.less} read" if step.less else ""
    return f"measure {step.what}{many}{more}"


def _told(entry: Entry, _pass: Pass, _pull: Pull, figures: EntryFigures) -> str:
    where = f" at {entry.reading.radius_mm:g} mm" if entry.reading is not None and entry.reading.radius_mm is not None else ""
    return f"read {figures.read}{where}"


def _tried(step: Measure, _until: Condition, times: int) -> str:
    return f"{step.what} out of its band after {times} tries"


MEASURE = StepKind(
    name="measure", step=Measure, says="read a gauge", aloud=_aloud,
    cells=StepCells(figure_field="band", figure_sort="measured", has_what=True),
    outcomes=frozenset({"low", "ok", "high"}), passes=_passes, takes_fasteners=lambda step: bool(step.per_fastener),
    answered_by="measured", judge=_judge, advises=advised_beside, has_measured_band=True, by_wire=True, after_the_joint=True,
    title=lambda pass_, _place, _of: pass_.what, is_stage=True, is_figure=True,
    stage=lambda pass_, _pull, figure: " ".join(part for part in (pass_.what, figure) if part), told=_told, tried=_tried,
    ask=lambda _pass: "measure", prompt=_prompt,
)  # fmt: skip
