"""`check`: pull to the figure again and say whether it turned. Below the figure it proves nothing."""

from typing import Any

from tight_ledger.core.base.rounding import is_above
from tight_ledger.core.kinds.acts import Act, Doing, done_meanwhile, resumed
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import Judged, JudgedVerdict
from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.kinds.reading_aloud import fasteners_aloud
from tight_ledger.core.kinds.step_kind import EntryFigures, StepCells, StepKind
from tight_ledger.core.kinds.torque_pulls import torque_of, torque_prompt
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import Check

MOVED_DEG = 2.0
"""A fastener that turns further than this in a check has turned. Common practice, no source."""
_STILL = Act(say="did not turn", kind="checked", how="click", moved=False)
_TURNED = Act(say="turned", kind="checked", how="click", moved=True)


def _passes(builder: PlanBuilder, step: Check, context: StepContext) -> Built:
    builder.refuse_if_yielded(step, context, "was turned into yield; it is not pulled again.", "Leave the step out.")
    builder.refuse_in_yield(step, context, most=0)
    pulls = []
    for label, fields in builder.pull_fields(step, context):
        band, tool = builder.torque_band(step, label), builder.tool_fields(step, label)
        windup_deg = builder.tooling[tool["tooling"]].windup_deg_per_nm * band.high
        pulls.append(Pull(**fields, **tool, band=band, windup_deg=windup_deg, setting=builder.setting(tool["tooling"], band)))
    return tuple(pulls), {}


def has_moved(entry: Entry, pull: Pull) -> bool | None:
    """Whether a fastener turned in a check: by the degrees of a wrench, less its windup, else by the person's word; None: not said."""
    return entry.moved if entry.turned is None else is_above(entry.turned.stored - pull.windup_deg, MOVED_DEG)


def _judge(fold: FoldState, entry: Entry, _pass: Pass, pull: Pull) -> Judged:
    torque_nm, why = torque_of(fold, entry, pull, None)
    moved = has_moved(entry, pull)
    if torque_nm is None or moved is None:
        return Judged.stays_open(why if torque_nm is None else "no_figure")
    placed = pull.band.judge(torque_nm) if pull.band is not None else "ok"
    if placed == "low":
        return Judged.stays_open("check_low")
    found = (JudgedVerdict("high"),) if placed == "high" else ()
    return Judged("moved", torque_nm, (*found, JudgedVerdict("turned"))) if moved else Judged("still", torque_nm, found)


def _told(entry: Entry, _pass: Pass, pull: Pull, figures: EntryFigures) -> str:
    return f"{'turned' if has_moved(entry, pull) else 'did not turn'}{figures.at}"


def _prompt(_pass: Pass, pull: Pull, doing: Doing) -> dict[str, Any]:
    return torque_prompt(pull, doing, with_ladder=False)


def _on_return(_pass: Pass, _pull: Pull, _doing: Doing) -> tuple[str, tuple[Act, ...]]:
    return "was it checked while nobody recorded?", (
        resumed("Not checked", "not pulled"),
        done_meanwhile("Yes, it did not turn", _STILL),
        done_meanwhile("Yes, it turned", _TURNED),
        resumed("Not sure: check it again", "not sure"),
    )


def _aloud(spec: Spec, step: Check) -> str:
    return f"check {fasteners_aloud(spec, step)} at the figure: does any turn?"


CHECK = StepKind(
    name="check", step=Check, says="pull to the figure again: does any turn?", aloud=_aloud,
    cells=StepCells(figure_field="at", figure_sort="torque"),
    outcomes=frozenset({"still", "moved"}), passes=_passes, answered_by="checked", judge=_judge, reading="torque", presses=("click",),
    tightens=True, proves_pace=True, by_wire=True,
    title=lambda _pass, _place, _of: "check", comes_if="if any turned", counts_rounds=" {place} of{most} {of}",
    is_stage=True, stage=lambda _pass, _pull, _figure: "check", told=_told, tried=lambda _step, _until, _times: "turned in every check",
    ask=lambda _pass: "turned", prompt=_prompt, acts=lambda _pass, _pull, _doing: (_STILL, _TURNED), on_return=_on_return,
)  # fmt: skip
