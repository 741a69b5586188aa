"""`loosen`: turn back, all the way or by an amount. `free` ends what was tight before it."""

from tight_ledger.core.kinds.acts import Act
from tight_ledger.core.kinds.by_hand import amount_prompt, amount_words, ask_if_done, pulls_for_each
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import Judged
from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.kinds.reading_aloud import fasteners_aloud
from tight_ledger.core.kinds.step_kind import EntryFigures, StepCells, StepKind
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import Loosen

_BACK = Act(say="turned back", kind="loosened")
_UNITS = {"turn": "turns", "turns": "turns", "°": "deg", "deg": "deg", "position": "positions", "positions": "positions"}
_ALOUD = {"turns": " turn", "deg": "°", "positions": " position"}


def _passes(builder: PlanBuilder, step: Loosen, context: StepContext) -> Built:
    if step.unit == "free":
        builder.yielded -= set(builder.labels(step, context))
    return pulls_for_each(builder, step, context, amount=step.amount, unit=step.unit, free=step.unit == "free", way="back")


def _judge(_fold: FoldState, _entry: Entry, _pass: Pass, _pull: Pull) -> Judged:
    return Judged("loose")


def _back_words(pass_: Pass) -> str:
    amount = amount_words(pass_)
    return f"back {amount}" if amount else "loosen"


def _told(_entry: Entry, pass_: Pass, _pull: Pull, _figures: EntryFigures) -> str:
    return f"turned {_back_words(pass_)}" if pass_.unit != "free" else "turned back"


def _aloud(spec: Spec, step: Loosen) -> str:
    if step.unit == "free" or step.amount is None:
        return f"loosen {fasteners_aloud(spec, step)}"
    amount = f"{step.amount:g}{_ALOUD[step.unit]}{'s' if step.amount > 1 and step.unit != 'deg' else ''}"
    return f"{fasteners_aloud(spec, step)} back {amount}"


LOOSEN = StepKind(
    name="loosen", step=Loosen, says="turn back", aloud=_aloud, cells=StepCells(amount_field="amount", amount_units=_UNITS),
    outcomes=frozenset({"loose"}), passes=_passes, answered_by="loosened", judge=_judge,
    title=lambda _pass, _place, _of: "loosen", is_stage=True, stage=lambda pass_, _pull, _figure: _back_words(pass_), told=_told,
    ask=lambda _pass: "loosen",
    prompt=lambda pass_, _pull, _doing: amount_prompt("until it is loose" if pass_.unit == "free" else _back_words(pass_)),
    acts=lambda _pass, _pull, _doing: (_BACK,), on_return=lambda _pass, _pull, _doing: ask_if_done(_BACK),
)  # fmt: skip
