"""Whether a run can be played from what a tablet started it with. A plan comes from a program like this one; still it is looked at."""

from collections import Counter
from collections.abc import Iterable, Iterator

from tight_ledger.core.kinds.acts import Doing
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.records.entries import Entry, Started
from tight_ledger.core.records.plans import Pass, Pick, Plan, Pull, Refs
from tight_ledger.core.runs.outcomes import reasons
from tight_ledger.core.runs.prompt import stage_words
from tight_ledger.core.runs.run import Run


def unplayable(first: Entry, kinds: Registry = KINDS) -> str | None:
    """Why a run cannot be played from its first entry, in a few words; None if it can.

    Args:
        first: the entry that starts it, with its plan.
        kinds: the kinds of step that the plan can have.
    """
    assert first.started is not None
    wrong = next(_faults(first.started, kinds), None)
    if wrong is not None:
        return wrong
    try:
        _begin(first, first.started.plan, kinds)
    except Exception as error:  # whatever it is: a plan that cannot be begun is not taken in
        return f"it cannot be begun ({type(error).__name__})"
    return None


def _begin(first: Entry, plan: Plan, kinds: Registry) -> None:
    """Fold the start, and ask for each pull what its prompt shows."""
    run = Run(plan, kinds=kinds)
    run.add([first])
    reasons(plan, run.state())
    stage_words(plan, kinds)
    for pass_, pull in plan.planned.values():
        kind = kinds[pass_.kind]
        if kind.ask(pass_) in ("choose", "confirm") and not kind.acts(pass_, pull, Doing()):
            raise ValueError(pull.id)  # there is nothing that anybody could answer
        kind.prompt(pass_, pull, Doing())
        kind.on_return(pass_, pull, Doing())


def _faults(started: Started, kinds: Registry) -> Iterator[str]:
    plan = started.plan
    if not plan.passes:
        yield "it has no passes"
    yield from (f"pass {name} stands there twice" for name in _twice(pass_.id for pass_ in plan.passes))
    yield from (f"pull {name} stands there twice" for name in _twice(pull.id for pass_ in plan.passes for pull in pass_.pulls))
    before: set[str] = set()
    for pass_ in plan.passes:
        if pass_.kind not in kinds:
            yield f"“{pass_.kind}” of pass {pass_.id} is no kind of step"
        yield from (f"pass {pass_.id} looks at {name}, which does not come before it" for name in _named(pass_) if name not in before)
        yield from (f"{name} is no fastener of the joint" for name in _fasteners(pass_) if name not in plan.labels)
        yield from (f"pass {pass_.id}: {wrong}" for pull in pass_.pulls for wrong in _of_pull(pull, len(started.tooling)))
        before.add(pass_.id)
        if set(pass_.coef) != set(pass_.by):
            yield f"pass {pass_.id} is computed from readings that it does not name"


def _of_pull(pull: Pull, wrenches: int) -> Iterator[str]:
    if pull.factor <= 0:
        yield f"the factor of {pull.id} is {pull.factor:g}"
    if wrenches and not 0 <= pull.tooling < wrenches:
        yield f"{pull.id} is pulled with wrench {pull.tooling} of {wrenches}"
    yield from (f"rung {name} of {pull.id} stands there twice" for name in _twice(rung.key for rung in pull.rungs))


def _named(pass_: Pass) -> Iterator[str]:
    """The passes that a pass and its pulls look at."""
    picks: list[Pick | None] = [pass_.plus, pass_.less, *(pull.pick for pull in pass_.pulls)]
    tests = [*pass_.when, *(test for pull in pass_.pulls for test in pull.when)]
    refs: list[Refs] = [pass_.after, *pass_.by.values(), *(test.passes for test in tests)]
    refs += [pick.passes for pick in picks if pick is not None]
    yield from (name for rounds in refs for names in rounds for name in names)


def _fasteners(pass_: Pass) -> Iterator[str]:
    tests = [*pass_.when, *(test for pull in pass_.pulls for test in pull.when)]
    yield from (test.fastener for test in tests if test.fastener is not None)
    yield from (pull.pick.fastener for pull in pass_.pulls if pull.pick is not None and pull.pick.fastener is not None)


def _twice(names: Iterable[str]) -> list[str]:
    return [name for name, count in Counter(names).items() if count > 1]
