"""`torque`: pull to a torque. Low stays open; a ladder climbs; a measured running torque is added."""

from typing import Any

from tight_ledger.core.base import cells
from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.display import show_band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.slips import is_far_off
from tight_ledger.core.kinds.acts import Act, Doing, done_meanwhile, resumed
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import Judged, JudgedVerdict, held_to_limit
from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.kinds.reading_aloud import fasteners_aloud
from tight_ledger.core.kinds.rungs import is_ladder, picked
from tight_ledger.core.kinds.step_kind import EntryFigures, StepCells, StepKind
from tight_ledger.core.kinds.torque_pulls import torque_of, torque_prompt
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Pull, Rung
from tight_ledger.core.records.verdicts import VerdictCode
from tight_ledger.core.specs.spec import Spec, advised_settings, pick_figure
from tight_ledger.core.specs.steps import Measure, Torque

RUNNING_ROWS = 8
"""Number of running-torque ranges; each has its own setting."""
LADDER, FOUND, SET_BY = "ladder:", "found in ", "as set by "
FARTHER = 1.25
"""Of the most that it turns, without the torque: the thread gives way. Common practice, no source."""
_CLICK = Act(say="clicked", kind="pulled", how="click")


def _passes(builder: PlanBuilder, step: Torque, context: StepContext) -> Built:
    builder.refuse_if_yielded(step, context, "was turned into yield; it is not pulled again.", "Leave the step out.")
    builder.refuse_in_yield(step, context, most=0)
    pulls = []
    for label, common in builder.pull_fields(step, context):
        place = builder.tool_for(step, label)
        fields = common | builder.tool_fields(step, label)
        if step.watch is not None:
            fields |= {"watch": pick_figure(builder.spec.layout, step.watch, label, step.id), "watch_is_limit": step.watch_is_limit}
        if step.ladder or step.found is not None:
            fields["rungs"] = _ladder(builder, step, place)
            if step.found is not None:
                fields["pick"] = builder.pick(step.found, context, step.id, "same", None)
            elif step.id in builder.compiled:
                fields["pick"] = builder.pick(step.id, context, step.id, "next", label)
        elif step.set_by is not None:
            fields["rungs"] = _advised_rows(builder, step, place)
            fields["pick"] = builder.pick(step.set_by, context, step.id, "range", label)
        elif step.plus is not None:
            fields["rungs"] = _running_rows(builder, step, label, place)
            fields["pick"] = builder.pick(step.plus, context, step.id, "range", label)
            fields["band"] = builder.torque_band(step, label)
        else:
            band = builder.torque_band(step, label)
            fields |= {"band": band, "setting": builder.setting(place, band)}
        pulls.append(Pull(**fields))
    return tuple(pulls), {}


def _ladder(builder: PlanBuilder, step: Torque, place: int) -> tuple[Rung, ...]:
    source = builder.steps.get(step.found) if step.found is not None else step
    if not isinstance(source, Torque) or not source.ladder:
        raise Invalid(step.id, f"“{step.found}” is no step with a ladder.", "Name an earlier one that has one.")
    return tuple(Rung(key=str(n), band=band, setting=builder.setting(place, band)) for n, band in enumerate(source.ladder, 1))


def _running_rows(builder: PlanBuilder, step: Torque, label: str, place: int) -> tuple[Rung, ...]:
    """Ranges of running torque, each added to the figure: any reading within a range keeps the sum inside the band."""
    band, source = builder.torque_band(step, label), builder.steps.get(step.plus or "")
    measured = source.band if isinstance(source, Measure) and isinstance(source.band, Band) else None
    most = measured.high if measured is not None else band.high
    width = min(most / RUNNING_ROWS, (band.high - band.low) / 2)
    rows, low = [], 0.0
    while low < most:
        high = low + width
        summed = Band(quantity="torque", low=band.low + high, high=band.high + low)
        rows.append(Rung(key=f"{low:.3g}", band=summed, setting=builder.setting(place, summed), low=low, high=high))
        low = high
    return tuple(rows)


def _advised_rows(builder: PlanBuilder, step: Torque, place: int) -> tuple[Rung, ...]:
    """A row for every setting that an adjustment can come to; half a step on either side picks it."""
    figures, rows = advised_settings(builder.spec, step), []
    half = figures.step_nm / 2
    for nm in figures.settings():
        band = figures.band_at(nm)
        rows.append(Rung(key=f"{nm:g}", band=band, setting=builder.setting(place, band), low=nm - half, high=nm + half))
    return tuple(rows)


def _judge(fold: FoldState, entry: Entry, _pass: Pass, pull: Pull) -> Judged:
    rung = picked(fold.readings, pull, entry)
    band = pull.band if not pull.rungs else rung.band if rung is not None else None
    torque_nm, why = torque_of(fold, entry, pull, rung)
    if band is None or torque_nm is None:
        return Judged.stays_open("no_figure" if band is None else why)
    odd: list[VerdictCode] = []
    if rung is not None:
        fold.readings.rungs[pull.id] = rung.key
    if entry.how == "wire" and is_far_off(torque_nm, band):
        odd.append("implausible")
    outcome = band.judge(torque_nm)
    if outcome == "low":
        odd.append("low")
    elif outcome == "high":
        odd.append("spent" if pull.yields else "high")
    turned = entry.turned.stored if entry.turned is not None else None
    if pull.watch_is_limit:
        watched = () if outcome == "low" else held_to_limit(pull, turned, lambda turned_deg: f"turned {turned_deg:.0f}°")
    else:
        watched = (JudgedVerdict("watch", said),) if (said := _watched(pull, turned, outcome)) else ()
    return Judged(outcome, torque_nm, (*watched, *map(JudgedVerdict, odd)), closes=outcome != "low")


def _watched(pull: Pull, turned_deg: float | None, outcome: str) -> str:
    """What torque and turn say together; empty if they agree, or if one of them is not known.

    One that turns on without rising has a bad thread or yields; one that rises without turning is on its shell, bottomed or
    cross-threaded. Common practice, no source.
    """
    if pull.watch is None or turned_deg is None:
        return ""
    placed = pull.watch.judge(turned_deg)
    if placed == "high" and (outcome != "low" or turned_deg > FARTHER * pull.watch.high):
        return f"turned {turned_deg:.0f}° without rising as it should: a bad thread, or it yields"
    return f"rose after only {turned_deg:.0f}°: it bottoms, or is cross-threaded" if placed == "low" and outcome != "low" else ""


def _aloud(spec: Spec, step: Torque) -> str:
    fasteners = fasteners_aloud(spec, step)
    if step.found:
        return f"{fasteners} to the figure that {step.found} ended on"
    if step.set_by:
        return f"{fasteners} to what {step.set_by} came to"
    if step.ladder:
        return f"{fasteners} one rung higher: {', '.join(band.written or show_band(band).limits for band in step.ladder)}"
    more = f", plus what {step.plus} read" if step.plus else ""
    if step.share is not None and step.share != 1:
        return f"{fasteners} to {step.share * 100:g}\u00a0%{more}"
    return f"{fasteners} to the figure{more}"


def _stage(_pass: Pass, pull: Pull, figure: str) -> str:
    if is_ladder(pull):
        if pull.pick is not None and pull.pick.how == "same":
            return "to the figure that was found"
        rungs = [rung.band.written or show_band(rung.band).limits for rung in pull.rungs]
        return f"{rungs[0]} up to {rungs[-1]}"
    if pull.rungs and pull.band is None:
        return "to the setting that its reading asks for"
    return f"{figure} and what turns it already" if pull.rungs else figure


def _told(entry: Entry, _pass: Pass, _pull: Pull, figures: EntryFigures) -> str:
    return f"{'read' if entry.reading is not None else 'clicked'}{figures.at}{figures.more}"


def _prompt(_pass: Pass, pull: Pull, doing: Doing) -> dict[str, Any]:
    return torque_prompt(pull, doing, with_ladder=True)


def _on_return(_pass: Pass, _pull: Pull, _doing: Doing) -> tuple[str, tuple[Act, ...]]:
    return "was it pulled while nobody recorded?", (
        resumed("Not pulled", "not pulled"),
        done_meanwhile("Yes, it clicked", _CLICK),
        resumed("Not sure: pull it; if it clicks without turning it had its pull", "not sure"),
    )


def _read_short(text: str, unit: str) -> dict[str, Any] | None:
    """`ladder: 51–53 N·m | 56–58 N·m`, `found in t`, `as set by s`, `30 %`."""
    if text.startswith(LADDER):
        return {"ladder": [cells.read_figures(rung, "torque", unit, "figure") for rung in cells.listed(text.removeprefix(LADDER))]}
    if text.startswith(FOUND):
        return {"found": text.removeprefix(FOUND).strip()}
    if text.startswith(SET_BY):
        return {"set_by": text.removeprefix(SET_BY).strip()}
    if text.endswith("%") and "|" not in text and "±" not in text:
        try:
            return {"share": round(float(text.removesuffix("%").strip().replace(",", ".")) / 100, 6)}
        except ValueError as error:
            raise Invalid("figure", f"“{text}” is no share.", "Write 30 % of the final torque, or a figure with its unit.") from error
    return None


def _write_short(step: Torque, rest: dict[str, Any]) -> str:
    if "ladder" in rest and all(cells.is_read_back(band, "torque") for band in step.ladder):
        return f"{LADDER} {cells.BETWEEN.join(rung['written'] for rung in rest.pop('ladder'))}"
    if "found" in rest:
        return f"{FOUND}{rest.pop('found')}"
    if "set_by" in rest:
        return f"{SET_BY}{rest.pop('set_by')}"
    if "share" in rest:
        text = f"{rest['share'] * 100:.10g} %"
        if (_read_short(text, "") or {}).get("share") == rest["share"]:
            rest.pop("share")
            return text
    return ""


TORQUE = StepKind(
    name="torque", step=Torque, says="pull to a torque", aloud=_aloud,
    cells=StepCells(figure_field="at", figure_sort="torque", watch_sort="angle", read_short=_read_short, write_short=_write_short),
    outcomes=frozenset({"low", "ok", "high"}), passes=_passes, answered_by="pulled", judge=_judge, reading="torque", presses=("click",),
    tightens=True, by_wire=True, numbered_with="stage", title=lambda _pass, place, of: f"stage {place} of {of}",
    is_stage=True, is_figure=True, stage=_stage, told=_told,
    ask=lambda _pass: "click", prompt=_prompt, acts=lambda _pass, _pull, _doing: (_CLICK,), on_return=_on_return,
)  # fmt: skip
