"""`angle`: turn on by an angle. Swings add up; low stays open; by eye the band is wider."""

import math
from typing import Any

from tight_ledger.core.base.display import gap, show_band
from tight_ledger.core.base.rounding import nine_digits
from tight_ledger.core.base.units import from_stored
from tight_ledger.core.kinds.acts import Act, Doing, done_meanwhile, resumed
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import OPEN, Judged, JudgedVerdict, held_to_limit
from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.kinds.reading_aloud import fasteners_aloud
from tight_ledger.core.kinds.readings import PullProgress, seconds_between
from tight_ledger.core.kinds.step_kind import EntryFigures, StepCells, StepKind
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.records.verdicts import VerdictCode
from tight_ledger.core.specs.spec import Spec, pick_figure
from tight_ledger.core.specs.steps import Angle

MOST_IN_YIELD = 1
"""A further angle after warming up is turned on bolts that are in yield, once. Common practice, no source."""
_BY_GAUGE = Act(say="at the mark, by the gauge", kind="pulled", how="gauge")
_BY_EYE = Act(say="by eye", kind="pulled", how="eye")
_HOW = {"eye": "by eye", "gauge": "by the gauge", "wire": "by the wrench"}


def _passes(builder: PlanBuilder, step: Angle, context: StepContext) -> Built:
    if any(context.until_loops) and context.rounds[-1] > 1:
        builder.refuse_if_yielded(step, context, "is turned into yield; no loop turns it on again.", "Take the angle out of the loop.")
    builder.refuse_in_yield(step, context, most=MOST_IN_YIELD)
    layout, kind_of = builder.spec.layout, {fastener.label: fastener.kind for fastener in builder.spec.layout.fasteners}
    pulls = []
    for label, fields in builder.pull_fields(step, context):
        kind, tool = layout.kinds[kind_of[label]], builder.tool_fields(step, label)
        watch = pick_figure(layout, step.watch, label, step.id) if step.watch is not None else None
        torque_nm = watch.high if watch is not None else builder.last_torque_nm(label)
        pulls.append(
            Pull(
                **fields, **tool, band=pick_figure(layout, step.at, label, step.id), watch=watch,
                watch_is_limit=step.watch_is_limit and watch is not None,
                windup_deg=builder.tooling[tool["tooling"]].windup_deg_per_nm * torque_nm,
                yields=kind.yields, once=kind.yields and kind.longest_mm is None,
            )
        )  # fmt: skip
        if kind.yields:
            builder.yielded.add(label)
    return tuple(pulls), {}


def _judge(fold: FoldState, entry: Entry, _pass: Pass, pull: Pull) -> Judged:
    odd: list[VerdictCode] = []
    watched = () if pull.watch_is_limit else _odd_end(pull, entry)
    band, by_eye = pull.band, entry.how == "eye"
    if band is None or (entry.reading is None and not by_eye and entry.how != "gauge"):
        return Judged(OPEN, verdicts=(*watched, JudgedVerdict("no_figure")), closes=False)
    progress = fold.readings.progress.setdefault(pull.id, PullProgress())
    if progress.last is not None and seconds_between(progress.last, entry) > fold.policy.longest_pause_s:
        odd.append("long_pause")
    progress.last = entry
    if entry.reading is None:  # turned to the mark, which is at the figure
        progress.degrees = band.aim()
    else:
        turned = max(entry.reading.stored - (0.0 if by_eye else pull.windup_deg), 0.0)
        progress.degrees = nine_digits(turned if entry.counts == "total" else math.fsum((progress.degrees, turned)))
    outcome = (band.widened(fold.policy.by_eye_deg) if by_eye else band).judge(progress.degrees)
    if outcome == "high":
        odd.append("spent" if pull.yields else "high")
    if pull.watch_is_limit and outcome != "low":
        watched = held_to_limit(pull, _ended_nm(pull, entry), lambda ended_nm: f"ended at {_as_watched(pull, ended_nm)}")
    found = (*watched, *map(JudgedVerdict, odd))
    return Judged("by_eye" if by_eye and outcome == "ok" else outcome, progress.degrees, found, closes=outcome != "low")


def _odd_end(pull: Pull, entry: Entry) -> tuple[JudgedVerdict, ...]:
    """What the torque at the end of the angle says; nothing if it is as expected, or not known."""
    ended_nm = _ended_nm(pull, entry)
    if pull.watch is None or ended_nm is None or pull.watch.judge(ended_nm) == "ok":
        return ()
    return (JudgedVerdict("watch", f"ended at {_as_watched(pull, ended_nm)}, expected {show_band(pull.watch).limits}"),)


def _ended_nm(pull: Pull, entry: Entry) -> float | None:
    return pull.at_fastener(entry.end_torque.torque_nm) if entry.end_torque is not None else None


def _as_watched(pull: Pull, ended_nm: float) -> str:
    unit = (pull.watch.unit if pull.watch is not None else None) or "N·m"
    return f"{from_stored(ended_nm, unit):.3g}{gap(unit)}{unit}"


def _prompt(_pass: Pass, pull: Pull, doing: Doing) -> dict[str, Any]:
    assert pull.band is not None
    watch = show_band(pull.watch) if pull.watch is not None else None
    return {
        "angle": show_band(pull.band), "degrees_done": round(doing.degrees, 1),
        "degrees_left": round(max(pull.band.aim() - doing.degrees, 0), 1),
        "windup_deg": round(pull.windup_deg, 1), "watch": f"ends at {watch.limits}" if watch is not None else "",
    }  # fmt: skip


def _on_return(_pass: Pass, pull: Pull, doing: Doing) -> tuple[str, tuple[Act, ...]]:
    assert pull.band is not None
    aim, done = pull.band.aim(), doing.degrees
    return f"{done:.0f}° of {aim:.0f}° are recorded. Where does the mark stand?", (
        resumed(f"Where it stood, at {done:.0f}°", "not pulled"),
        done_meanwhile(f"At the target, {aim:.0f}°", _BY_GAUGE, counts="total"),
        done_meanwhile("Elsewhere: type the degrees", _BY_GAUGE, counts="total", asks_degrees=True),
        resumed("Not sure: it needs a new one" if pull.yields else "Not sure: loosen it and start again", "not sure"),
    )


def _told(entry: Entry, _pass: Pass, _pull: Pull, figures: EntryFigures) -> str:
    how = _HOW.get(entry.how or "", "")
    return f"turned {figures.read or 'to the mark'}{figures.more}{f', {how}' if how else ''}"


def _aloud(spec: Spec, step: Angle) -> str:
    return f"{fasteners_aloud(spec, step)} on by the angle"


ANGLE = StepKind(
    name="angle", step=Angle, says="turn on by an angle", aloud=_aloud,
    cells=StepCells(figure_field="at", figure_sort="angle", watch_sort="torque"),
    outcomes=frozenset({"low", "ok", "high", "by_eye"}), passes=_passes, answered_by="pulled", judge=_judge, reading="angle",
    presses=("gauge", "eye"), tightens=True, adds_up=True, by_wire=True,
    numbered_with="angle", title=lambda _pass, place, of: f"angle {place} of {of}" if of > 1 else "angle",
    is_stage=True, is_figure=True, stage=lambda _pass, _pull, figure: figure, told=_told,
    ask=lambda _pass: "angle", prompt=_prompt, acts=lambda _pass, _pull, _doing: (_BY_GAUGE, _BY_EYE), on_return=_on_return,
)  # fmt: skip
