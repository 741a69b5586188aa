"""Which verdicts are answered by something that came later."""

from collections.abc import Callable

from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.records.plans import Pass
from tight_ledger.core.records.verdicts import CLOSED_BY_ITS_PULL, LOOKED_AT, SETTLED_BY_A_LEAD, Verdict


def all_verdicts(fold: FoldState, kinds: Registry, current: Pass | None) -> tuple[Verdict, ...]:
    """Every verdict, each with whether it is answered; and the stop that the run is at.

    Args:
        current: the pass that is worked on now; None at the end.
    """
    found = []
    for verdict in fold.verdicts:
        answered = is_answered(fold, verdict)
        found.append(verdict if verdict.answered == answered else verdict.model_copy(update={"answered": answered}))
    if current is not None and kinds[current.kind].only_a_lead:
        found.append(Verdict(code="stopped", pull=current.id, detail=current.tried or current.say.rstrip(".")))
    return tuple(found)


def is_answered(fold: FoldState, verdict: Verdict) -> bool:
    """Whether something that came later answered a verdict: a lead's decision or loosening, unless its code says otherwise."""
    if verdict.code in _ANSWERED_BY:
        return _ANSWERED_BY[verdict.code](fold, verdict)
    return _by_the_lead(fold, verdict) or _by_loosening(fold, verdict)


def _by_the_lead(fold: FoldState, verdict: Verdict) -> bool:
    decided = fold.remedies.decided_for
    whole, named = decided.get(None, 0), decided.get(verdict.fastener, 0)
    return verdict.seq < max(whole, named, fold.remedies.decided_pull.get(verdict.pull or "", 0))


def _by_loosening(fold: FoldState, verdict: Verdict) -> bool:
    return verdict.fastener is not None and verdict.seq < fold.remedies.loosened.get(verdict.fastener, 0)


def _by_its_pull(fold: FoldState, verdict: Verdict) -> bool:
    closed = verdict.pull is not None and verdict.pull in fold.pulls.outcomes
    return closed or _by_the_lead(fold, verdict) or _by_loosening(fold, verdict)


def _by_a_new_fastener(fold: FoldState, verdict: Verdict) -> bool:
    return _by_the_lead(fold, verdict) or verdict.seq < fold.remedies.replaced.get(verdict.fastener or "", 0)


def _by_a_good_reading(fold: FoldState, verdict: Verdict) -> bool:
    _, pass_, pull = fold.pulls.order[verdict.pull or ""]
    good = fold.remedies.good_reading.get((pass_.step, pass_.item, pull.fastener), 0)
    return verdict.seq < good or _by_the_lead(fold, verdict) or _by_loosening(fold, verdict)


def _by_a_steady_check(fold: FoldState, verdict: Verdict) -> bool:
    labels = [pull.fastener for pull in fold.pulls.order[verdict.pull or ""][1].pulls]
    checked = all(verdict.seq < fold.remedies.steady_check.get(label, 0) for label in labels if label is not None)
    return checked or _by_the_lead(fold, verdict)


def _by_another_time(fold: FoldState, verdict: Verdict) -> bool:
    """What came too late is good once it was begun again, and made in time; nobody's word is enough."""
    again = fold.readings.closed_by.get(verdict.pull or "")
    return again is not None and again.seq > verdict.seq and fold.pulls.outcomes.get(verdict.pull or "") != "late"


def _by_the_person(fold: FoldState, verdict: Verdict) -> bool:
    person = fold.unproven[verdict.entry] if verdict.entry is not None else None
    return person is not None and verdict.seq < fold.remedies.vouched.get(person, 0)


_ANSWERED_BY: dict[str, Callable[[FoldState, Verdict], bool]] = {
    **dict.fromkeys(CLOSED_BY_ITS_PULL, _by_its_pull),
    "spent": _by_a_new_fastener,
    "not_judged": _by_loosening,
    "one_or_two": lambda fold, verdict: verdict.entry in fold.remedies.clarified,
    "out_of_band": _by_a_good_reading,
    "unproven_reading": _by_a_good_reading,
    "hurried": _by_a_steady_check,
    "late": _by_another_time,
    "not_proven": _by_the_person,
    **dict.fromkeys(
        LOOKED_AT,
        lambda fold, verdict: verdict.entry in fold.remedies.looked_at or _by_the_lead(fold, verdict) or _by_loosening(fold, verdict),
    ),
    "notice": lambda fold, verdict: verdict.entry in fold.remedies.seen,
    **dict.fromkeys(SETTLED_BY_A_LEAD, lambda fold, verdict: verdict.entry in fold.remedies.settled),
    "trial": lambda _fold, _verdict: False,
}
"""Codes that are not answered by a lead's decision or loosening alike."""
