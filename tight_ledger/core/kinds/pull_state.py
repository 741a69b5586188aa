"""How the pulls of a plan stand: which are done, which are skipped, and which comes next."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Literal

from tight_ledger.core.records.plans import Pass, Plan, Pull, Test

PullStatus = Literal["open", "done", "covered", "skipped"]
PlannedPull = tuple[int, Pass, Pull]
"""A pull with its index in the plan and its pass."""
StepAt = tuple[str, str | None, str | None]
"""A step id, with the item of its block and the fastener; None where it has none."""


@dataclass(slots=True)
class PullStates:
    """The outcome of every pull so far, and indexes into the plan."""

    plan: Plan
    order: dict[str, PlannedPull]
    """By pull id."""
    by_pass: dict[str, Pass]
    by_fastener: dict[str, list[PlannedPull]]
    outcomes: dict[str, str] = field(default_factory=dict)
    """By pull id; a pull without an outcome is open or skipped."""
    covered: set[str] = field(default_factory=set)
    """Pulls that a later, tighter pull made unnecessary."""
    changed: set[str] = field(default_factory=set)
    """Pulls whose outcome changed since the run's state was last computed."""
    first: tuple[int, int] = (0, 0)
    """Index of the pass and of its pull before which nothing is open."""
    condition_cache: dict[str, bool] = field(default_factory=dict)
    """By pass or pull id, whether its conditions fail; valid until the next entry."""

    def use(self, plan: Plan, order: dict[str, PlannedPull], by_fastener: dict[str, list[PlannedPull]]) -> None:
        """Continue with another plan that has the same pulls."""
        self.plan, self.order, self.by_fastener = plan, order, by_fastener
        self.by_pass = {pass_.id: pass_ for pass_ in plan.passes}

    def holds(self, test: Test) -> bool:
        """Whether a condition holds. A condition on passes that were all skipped holds only if it is negated."""
        found = [outcome for rounds in test.passes for outcome in self.last_taken(rounds, test.fastener)]
        if not found:
            return test.negate
        wanted = test.one_of | {"in_time"} if "ok" in test.one_of else test.one_of
        return (all if test.every else any)(outcome in wanted for outcome in found) != test.negate

    def last_taken(self, rounds: tuple[str, ...], fastener: str | None) -> list[str | None]:
        """Outcomes of the last round that was not skipped; None for a pull that is still open."""
        return [self.outcomes.get(pull.id) for pull in self.pulls_last_taken(rounds, fastener)]

    def pulls_last_taken(self, rounds: tuple[str, ...], fastener: str | None) -> list[Pull]:
        """Pulls of the last round that was not skipped.

        Args:
            rounds: pass ids of one step, in order.
            fastener: only the pulls on this fastener and on the joint; None for all.
        """
        for pass_id in reversed(rounds):
            pass_ = self.by_pass[pass_id]
            pulls = [pull for pull in pass_.pulls if fastener is None or pull.fastener in (None, fastener)]
            if taken := [pull for pull in pulls if not self.is_skipped(pass_, pull)]:
                return taken
        return []

    def is_skipped(self, pass_: Pass, pull: Pull) -> bool:
        """Whether a condition of the pass or of the pull does not hold."""
        return bool(pass_.when and self._fails(pass_.id, pass_.when)) or bool(pull.when and self._fails(pull.id, pull.when))

    def _fails(self, key: str, tests: tuple[Test, ...]) -> bool:
        if key not in self.condition_cache:
            self.condition_cache[key] = not all(self.holds(test) for test in tests)
        return self.condition_cache[key]

    def status(self, pass_: Pass, pull: Pull) -> PullStatus:
        """How a pull stands."""
        if pull.id in self.outcomes:
            return "covered" if pull.id in self.covered else "done"
        return "skipped" if self.is_skipped(pass_, pull) else "open"

    def is_open(self, pass_: Pass, pull: Pull) -> bool:
        """Whether a pull still has to be made."""
        return pull.id not in self.outcomes and not self.is_skipped(pass_, pull)

    def first_open(self) -> tuple[Pass | None, tuple[str, ...]]:
        """The first pass with an open pull, and the ids of the pulls that may be made next, in any order."""
        pass_index, pull_index = self.first
        for number, pass_ in enumerate(self.plan.passes[pass_index:], pass_index):
            for n in range(pull_index if number == pass_index else 0, len(pass_.pulls)):
                if self.is_open(pass_, pass_.pulls[n]):
                    self.first = (number, n)
                    return pass_, self._same_rank(pass_, n)
        return None, ()

    def comes_next(self, pass_: Pass, pull: Pull) -> bool:
        """Whether an open pull is the first open one. A quick test that may say no where `first_open` would say yes."""
        pass_index, pull_index = self.first
        if self.plan.passes[pass_index] is not pass_:
            return False
        while pull_index < len(pass_.pulls) and pass_.pulls[pull_index].id in self.outcomes:
            pull_index += 1
        self.first = (pass_index, min(pull_index, len(pass_.pulls) - 1))
        return pull_index < len(pass_.pulls) and pass_.pulls[pull_index] is pull

    def _same_rank(self, pass_: Pass, start: int) -> tuple[str, ...]:
        """Open pulls from an index on that have the same rank; equal ranks are adjacent."""
        found = []
        for pull in pass_.pulls[start:]:
            if pull.rank != pass_.pulls[start].rank:
                break
            if self.is_open(pass_, pull):
                found.append(pull.id)
        return tuple(found)

    def close_as(self, pull_id: str, outcome: str) -> None:
        """Record the outcome of a pull."""
        self.outcomes[pull_id] = outcome
        self.changed.add(pull_id)

    def reopen(self, pull: Pull) -> None:
        """Remove the outcome of a pull."""
        self.outcomes.pop(pull.id, None)
        self.covered.discard(pull.id)
        self.changed.add(pull.id)

    def steps_tested(self, tests: Iterable[Test], fastener: str | None) -> set[StepAt]:
        """The steps whose outcomes some conditions test, at a fastener and at the joint."""
        passes = (self.by_pass[pass_id] for test in tests for rounds in test.passes for pass_id in rounds)
        return {(pass_.step, pass_.item, label) for pass_ in passes for label in (fastener, None)}
