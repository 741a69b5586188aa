"""`align`: to the next slot or lock position, forward or back, within a limit."""

from tight_ledger.core.base.rounding import is_above
from tight_ledger.core.kinds.acts import Act
from tight_ledger.core.kinds.by_hand import amount_prompt, amount_words, ask_if_done, pulls_for_each
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import Judged, JudgedVerdict
from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.kinds.reading_aloud import fasteners_aloud
from tight_ledger.core.kinds.step_kind import EntryFigures, StepCells, StepKind
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import Align

NO_SLOT = "no slot within the limit"
_IN_A_SLOT, _NO_SLOT = Act(say="stands in a slot", kind="turned"), Act(say=NO_SLOT, kind="turned", option="high")


def _passes(builder: PlanBuilder, step: Align, context: StepContext) -> Built:
    return pulls_for_each(builder, step, context, amount=step.at_most_deg, unit="deg", way=step.way)


def _judge(_fold: FoldState, entry: Entry, pass_: Pass, _pull: Pull) -> Judged:
    turned = entry.reading.stored if entry.reading is not None else None
    too_far = turned is not None and pass_.amount is not None and is_above(turned, pass_.amount)
    if not too_far and entry.option != "high":
        return Judged("aligned", turned)
    return Judged("high", turned, () if "high" in pass_.again_on else (JudgedVerdict("out_of_band", NO_SLOT),))


def _slot_words(pass_: Pass) -> str:
    return f"{'on' if pass_.way == 'forward' else 'back'} to the next slot, {amount_words(pass_)} at most"


def _told(entry: Entry, _pass: Pass, _pull: Pull, _figures: EntryFigures) -> str:
    return NO_SLOT if entry.option == "high" else "turned to the slot"


def _aloud(spec: Spec, step: Align) -> str:
    way = "on" if step.way == "forward" else "back"
    return f"{fasteners_aloud(spec, step)} {way} to the next slot, at most {step.at_most_deg:g}°"


ALIGN = StepKind(
    name="align", step=Align, says="to the next slot or lock position", aloud=_aloud, cells=StepCells(amount_field="at_most_deg"),
    outcomes=frozenset({"aligned", "high"}), passes=_passes, answered_by="turned", judge=_judge, reading="angle", has_measured_band=True,
    title=lambda _pass, _place, _of: "align", is_stage=True, stage=lambda pass_, _pull, _figure: _slot_words(pass_), told=_told,
    ask=lambda _pass: "align", prompt=lambda pass_, _pull, _doing: amount_prompt(_slot_words(pass_)),
    acts=lambda _pass, _pull, _doing: (_IN_A_SLOT, _NO_SLOT), on_return=lambda _pass, _pull, _doing: ask_if_done(_IN_A_SLOT),
)  # fmt: skip
