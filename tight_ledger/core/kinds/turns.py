"""`turns`: turn on by whole turns, by hand; it may seat before."""

from tight_ledger.core.kinds.acts import Act, Doing
from tight_ledger.core.kinds.by_hand import amount_prompt, amount_words, ask_if_done, pulls_for_each
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import Judged
from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.kinds.reading_aloud import fasteners_aloud
from tight_ledger.core.kinds.step_kind import EntryFigures, StepCells, StepKind
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import Turns

_SEATED = Act(say="seated", kind="turned", option="seated")


def _passes(builder: PlanBuilder, step: Turns, context: StepContext) -> Built:
    return pulls_for_each(builder, step, context, amount=step.turns, unit="turns")


def _judge(_fold: FoldState, entry: Entry, _pass: Pass, _pull: Pull) -> Judged:
    return Judged("seated" if entry.option == "seated" else "turned")


def _acts(pass_: Pass, _pull: Pull, _doing: Doing) -> tuple[Act, ...]:
    return Act(say=f"turned {amount_words(pass_)}", kind="turned"), _SEATED


def _told(entry: Entry, pass_: Pass, _pull: Pull, _figures: EntryFigures) -> str:
    return entry.option or f"turned {amount_words(pass_)}"


def _aloud(spec: Spec, step: Turns) -> str:
    return f"{fasteners_aloud(spec, step)} {step.turns:g} turn{'s' if step.turns > 1 else ''} on"


TURNS = StepKind(
    name="turns", step=Turns, says="turn on by hand, by turns", aloud=_aloud, cells=StepCells(amount_field="turns"),
    outcomes=frozenset({"turned", "seated"}), passes=_passes, answered_by="turned", judge=_judge, tightens=True,
    numbered_with="stage", title=lambda _pass, place, of: f"stage {place} of {of}",
    is_stage=True, stage=lambda pass_, _pull, _figure: amount_words(pass_), told=_told,
    ask=lambda _pass: "turn", prompt=lambda pass_, _pull, _doing: amount_prompt(amount_words(pass_)), acts=_acts,
    on_return=lambda pass_, pull, doing: ask_if_done(_acts(pass_, pull, doing)[0]),
)  # fmt: skip
