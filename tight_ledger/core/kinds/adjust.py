"""`adjust`: change a setting by what was read, with advice: what to do next and by how much."""

from typing import Any

from tight_ledger.core.adjust.hub import HubFigures
from tight_ledger.core.adjust.proposals import Around, Proposal, Try
from tight_ledger.core.adjust.registry import ADJUST, ADJUSTERS, advise
from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.display import show_band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.units import STORED_UNIT
from tight_ledger.core.kinds.acts import Act, Advised, Doing
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import Judged, JudgedVerdict
from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.kinds.step_kind import EntryFigures, StepCells, StepKind
from tight_ledger.core.records.entries import Adjusted, Entry
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import AdjustStep, Condition, Measure

ACCEPTED, STOPPED, MOVED = "accepted", "stopped", "moved"
_STEP = {"positions": 1.0, "°": 1.0, "mm": 0.01, "N·m": 1.0}


def _passes(builder: PlanBuilder, step: AdjustStep, context: StepContext) -> Built:
    reads = builder.step_beside(step, step.reads)
    if not isinstance(reads, Measure) or not isinstance(reads.band, Band):
        raise Invalid(step.id, f"“{step.reads}” is no reading with one band.", "Name a measure step that has a band.")
    figures = ADJUST.validate_python({"graduation": reads.agrees_within, **step.advice, "band": reads.band})
    computed = builder.computed_from(step.begin, step.const, context, step.id)
    return (Pull(id=step.id + context.suffix()),), {"advice": figures, "reads": step.reads, "what": reads.what, **computed}


def _judge(fold: FoldState, entry: Entry, pass_: Pass, _pull: Pull) -> Judged:
    advised = _advises(fold, pass_)
    at = advised.at
    if entry.option in (ACCEPTED, STOPPED):
        proposed = entry.proposed or advised.proposal
        agrees = entry.option == STOPPED or (proposed is not None and (proposed.do == "accept" or proposed.optional))
        return Judged(entry.option, at, () if agrees else (JudgedVerdict("against_advice"),))
    if entry.adjusted is None:
        return Judged.stays_open("no_figure")
    to = entry.adjusted.to if entry.adjusted.to is not None else at + (entry.adjusted.by or 0.0)
    return Judged(MOVED, to)


def _tries(fold: FoldState, pass_: Pass) -> tuple[tuple[Try, ...], float, float]:
    """The settings and readings so far, oldest first; the present setting; the uncertainty of the newest reading."""
    tries, at, uncertainty = [], 0.0, 0.0
    for each in fold.pulls.plan.passes:
        value = fold.readings.values.get(each.pulls[0].id) if each.pulls and each.item == pass_.item else None
        if value is not None and each.reads == pass_.reads:
            at = value
        elif value is not None and each.step == pass_.reads:
            tries.append(Try(at=at, reading=value))
            uncertainty = fold.readings.uncertainty.get(each.pulls[0].id, 0.0)
    return tuple(tries), at, uncertainty


def _found_at_others(fold: FoldState, pass_: Pass) -> tuple[float, ...]:
    """The settings that were accepted in the same step at other items."""
    values, outcomes = fold.readings.values, fold.pulls.outcomes
    same = (each.pulls[0].id for each in fold.pulls.plan.passes if each.step == pass_.step and each.item != pass_.item)
    return tuple(values[pull_id] for pull_id in same if outcomes.get(pull_id) == ACCEPTED and pull_id in values)


def _advises(fold: FoldState, pass_: Pass) -> Advised:
    assert pass_.advice is not None
    figures, adjuster = pass_.advice, ADJUSTERS[pass_.advice.by]
    tries, at, uncertainty = _tries(fold, pass_)
    proven = fold.policy.conformity == "proven"
    around = Around(fold.stock, fold.readings.computed(pass_), _found_at_others(fold, pass_), fold.policy.bolts_straight)
    proposal = advise(figures, tries, around, uncertainty=uncertainty, proven=proven)
    locks = {"travel": figures.travel_mm, "positions": figures.positions} if isinstance(figures, HubFigures) else {}
    return Advised(
        by=figures.by, tries=tries, proposal=proposal, setting=adjuster.setting, unit=adjuster.unit, adds_up=adjuster.adds_up,
        more=adjuster.more, less=adjuster.less, at=at, what=pass_.what, item=pass_.item or "",
        band=show_band(figures.band), low=figures.band.low,
        high=figures.band.high, **locks,
        reads_in=STORED_UNIT[figures.band.quantity], step=_STEP[adjuster.unit],
    )  # fmt: skip


def advised_beside(fold: FoldState, pass_: Pass) -> Advised | None:
    """How far an adjustment is, for a pass that takes its readings. Returns None if no adjustment uses them."""
    using = (each for each in fold.pulls.plan.passes if each.reads == pass_.step and each.item == pass_.item)
    adjusting = next(using, None)
    return _advises(fold, adjusting) if adjusting is not None else None


def _acts(_pass: Pass, _pull: Pull, doing: Doing) -> tuple[Act, ...]:
    """The key for what is proposed first; it is never the only one."""
    advised = doing.advised
    stays = Act(say="it stays so", kind="adjusted", option=ACCEPTED, of_fastener=False)
    stops = Act(say="stop here: a lead decides", kind="adjusted", option=STOPPED, of_fastener=False)
    other = Act(say="another amount", kind="adjusted", asks_amount=True, of_fastener=False)
    proposal = advised.proposal if advised is not None else None
    if advised is None or proposal is None:
        return (Act(say="this is fitted", kind="adjusted", asks_amount=True, of_fastener=False),)
    if proposal.do == "move":
        done = Act(say=_done(advised, proposal), kind="adjusted", adjusted=_as_proposed(advised, proposal), of_fastener=False)
        if not advised.tries:
            return (done, other, stops)
        return (done, stays, other, stops) if proposal.optional else (done, other, stays, stops)
    if not advised.tries:
        return (other.model_copy(update={"say": "this is fitted"}), stops)
    return (stays, other, stops) if proposal.do == "accept" else (stops, other, stays)


def _as_proposed(advised: Advised, proposal: Proposal) -> Adjusted:
    return Adjusted(by=proposal.by) if advised.adds_up else Adjusted(to=proposal.to)


def _done(advised: Advised, proposal: Proposal) -> str:
    if advised.adds_up and not proposal.by:
        return "read it again"
    return f"done: {_change(advised.adds_up, advised.more, advised.less, advised.unit, _as_proposed(advised, proposal))}"


def _change(adds_up: bool, more: str, less: str, unit: str, adjusted: Adjusted) -> str:
    """`2 positions looser`; `12.02 mm`."""
    gap = "" if unit == "°" else " "
    if adds_up and not adjusted.by:
        return "not moved: read again"
    if adjusted.by is not None and adds_up:
        count = "position" if unit == "positions" and abs(adjusted.by) == 1 else unit
        return f"{abs(adjusted.by):.4g}{gap}{count} {more if adjusted.by > 0 else less}"
    return f"{adjusted.to if adjusted.to is not None else adjusted.by or 0:.5g}{gap}{unit}"


def _told(entry: Entry, pass_: Pass, _pull: Pull, _figures: EntryFigures) -> str:
    assert pass_.advice is not None
    adjuster = ADJUSTERS[pass_.advice.by]
    if entry.option is not None or entry.adjusted is None:
        done = "stopped" if entry.option == STOPPED else "left so"
    else:
        done = _change(adjuster.adds_up, adjuster.more, adjuster.less, adjuster.unit, entry.adjusted)
    return f"{done}; proposed: {entry.proposed.say}" if entry.proposed is not None else done


def _aloud(_spec: Spec, step: AdjustStep) -> str:
    adjuster = ADJUSTERS[str(step.advice["by"])]
    return f"change the {adjuster.setting} by what {step.reads} read, as advised"


def _tried(_step: AdjustStep, _until: Condition, times: int) -> str:
    return f"not right after {times} tries"


def _prompt(pass_: Pass, _pull: Pull, _doing: Doing) -> dict[str, Any]:
    return {"measure": pass_.what}


ADJUST_STEP = StepKind(
    name="adjust", step=AdjustStep, says="change a setting by what was read, with advice", aloud=_aloud,
    cells=StepCells(for_fasteners=False), outcomes=frozenset({MOVED, ACCEPTED, STOPPED}), passes=_passes,
    takes_fasteners=lambda _step: False, answered_by="adjusted", judge=_judge, advises=_advises, after_the_joint=True,
    title=lambda pass_, _place, _of: f"set by the {pass_.what}", told=_told, tried=_tried, ask=lambda _pass: "adjust", prompt=_prompt,
    acts=_acts,
)  # fmt: skip
