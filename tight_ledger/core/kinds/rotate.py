"""`rotate`: turn the joint itself, as a hub, so that its rollers settle."""

from tight_ledger.core.kinds.acts import Act, Doing
from tight_ledger.core.kinds.by_hand import amount_prompt, amount_words, ask_if_done
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import Judged
from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.kinds.step_kind import EntryFigures, StepCells, StepKind
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import Rotate


def _passes(_builder: PlanBuilder, step: Rotate, context: StepContext) -> Built:
    return (Pull(id=step.id + context.suffix()),), {"amount": step.turns, "unit": "turns", "what": step.what}


def _judge(_fold: FoldState, _entry: Entry, _pass: Pass, _pull: Pull) -> Judged:
    return Judged("turned")


def _turn_words(pass_: Pass) -> str:
    return f"{amount_words(pass_)} of the {pass_.what}"


def _acts(pass_: Pass, _pull: Pull, _doing: Doing) -> tuple[Act, ...]:
    return (Act(say=f"turned {_turn_words(pass_)}", kind="turned"),)


def _told(entry: Entry, pass_: Pass, _pull: Pull, _figures: EntryFigures) -> str:
    return entry.option or f"turned {_turn_words(pass_)}"


def _aloud(_spec: Spec, step: Rotate) -> str:
    return f"turn the {step.what} {step.turns:g} time{'s' if step.turns > 1 else ''}"


ROTATE = StepKind(
    name="rotate", step=Rotate, says="turn the joint, as a hub", aloud=_aloud,
    cells=StepCells(amount_field="turns", has_what=True, for_fasteners=False),
    outcomes=frozenset({"turned"}), passes=_passes, takes_fasteners=lambda _step: False, answered_by="turned", judge=_judge,
    after_the_joint=True, title=lambda pass_, _place, _of: f"turn the {pass_.what}", told=_told,
    ask=lambda _pass: "rotate", prompt=lambda pass_, _pull, _doing: amount_prompt(_turn_words(pass_)), acts=_acts,
    on_return=lambda pass_, pull, doing: ask_if_done(_acts(pass_, pull, doing)[0]),
)  # fmt: skip
