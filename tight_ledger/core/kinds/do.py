"""`do`: a task by hand, done or with an option chosen; a computed value can propose the option."""

from tight_ledger.core.kinds.acts import Act, Ask, Doing, go_on
from tight_ledger.core.kinds.by_hand import ask_if_done
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import OPEN, Judged, JudgedVerdict
from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.kinds.rungs import row_of
from tight_ledger.core.kinds.step_kind import StepKind
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import Do

_DONE = Act(say="confirmed", kind="confirmed")


def _passes(builder: PlanBuilder, step: Do, context: StepContext) -> Built:
    chosen = builder.policy.choices.get(step.id)
    fields: dict[str, object] = {"options": tuple(option for option in step.options if chosen in (None, option.key)) or step.options}
    fields |= builder.computed_from(step.by, step.const, context, step.id)
    fields |= {"whole_machine": True} if step.whole_machine else {}
    fields |= {"operation": step.operation} if step.operation is not None else {}
    if step.per_fastener:
        return tuple(Pull(**common) for _, common in builder.pull_fields(step, context)), fields
    return (Pull(id=step.id + context.suffix()),), fields


def _judge(fold: FoldState, entry: Entry, pass_: Pass, _pull: Pull) -> Judged:
    if pass_.by_another and fold.may_have_pulled(entry.by):
        return Judged.stays_open("same_person")
    keys = [option.key for option in pass_.options]
    chosen = entry.option or (keys[0] if len(keys) == 1 else None)
    if keys and chosen not in keys:
        return Judged(OPEN, verdicts=(JudgedVerdict("no_figure", "answered by none of its options"),), closes=False)
    return Judged(chosen if keys and chosen else "done", fold.readings.computed(pass_))


def _proposes(fold: FoldState, pass_: Pass) -> tuple[str, float | None]:
    """The option whose range holds the value; empty if none does."""
    value = fold.readings.computed(pass_)
    ranged = [option for option in pass_.options if option.low is not None or option.high is not None]
    place = row_of(value, [(option.low, option.high) for option in ranged]) if value is not None else None
    return (ranged[place].key if place is not None else ""), value


def _is_choice(pass_: Pass) -> bool:
    return len(pass_.options) > 1


def _ask(pass_: Pass) -> Ask:
    return "choose" if _is_choice(pass_) else "confirm"


def _acts(pass_: Pass, _pull: Pull, _doing: Doing) -> tuple[Act, ...]:
    if not _is_choice(pass_):
        return (_DONE,)
    return tuple(Act(say=option.say or option.key, kind="confirmed", option=option.key) for option in pass_.options)


def _on_return(pass_: Pass, pull: Pull, doing: Doing) -> tuple[str, tuple[Act, ...]]:
    return go_on(pass_, pull, doing) if _is_choice(pass_) else ask_if_done(_DONE)


def _aloud(_spec: Spec, step: Do) -> str:
    said = step.say.rstrip(".") or ("choose" if step.options else step.id)
    choices = ", ".join(option.say or option.key for option in step.options)
    return f"{said}: {choices}" if choices else said


DO = StepKind(
    name="do", step=Do, says="a task by hand, or a choice", aloud=_aloud, says_it=True,
    outcomes=frozenset({"done"}), options=lambda step: frozenset(option.key for option in step.options), passes=_passes,
    takes_fasteners=lambda step: bool(step.per_fastener), answered_by="confirmed", judge=_judge, proposes=_proposes,
    told=lambda entry, _pass, _pull, _figure: entry.option or "confirmed", ask=_ask, acts=_acts, on_return=_on_return,
)  # fmt: skip
