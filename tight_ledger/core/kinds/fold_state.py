"""What the entries of a run have done to its plan so far, and the questions that the rules ask of it."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal
from uuid import UUID

from tight_ledger.core.base.policy import Policy
from tight_ledger.core.joints.names import name_of
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Plan, Pull, Refs, Rung, Test
from tight_ledger.core.records.verdicts import Code, Verdict
from tight_ledger.core.tools.wrenches import Setting

PullStatus = Literal["open", "done", "covered", "skipped"]
Row = tuple[int, Pass, Pull]
"""A pull with its place in the plan and its pass."""
Step = tuple[str, str | None, str | None]
"""A step at one item and one fastener of it; None where it has none."""


@dataclass(slots=True)
class Progress:
    """What has gathered on a pull that is not closed by one entry: swings of an angle, readings of a measurement."""

    degrees: float = 0.0
    readings: list[float] = field(default_factory=list)
    last: Entry | None = None


@dataclass(slots=True)
class FoldState:
    """What the entries so far have done to a plan."""

    plan: Plan
    policy: Policy
    order: dict[str, Row]
    by_pass: dict[str, Pass]
    by_fastener: dict[str, list[Row]]
    outcomes: dict[str, str] = field(default_factory=dict)
    values: dict[str, float] = field(default_factory=dict)
    rungs: dict[str, str] = field(default_factory=dict)
    progress: dict[str, Progress] = field(default_factory=dict)
    closed_by: dict[str, Entry] = field(default_factory=dict)
    covered: set[str] = field(default_factory=set)
    verdicts: list[Verdict] = field(default_factory=list)
    loosened: dict[str, int] = field(default_factory=dict)
    """By fastener, the seq of its last loosening: verdicts on entries before it are answered."""
    replaced: dict[str, int] = field(default_factory=dict)
    """By fastener, the seq at which it was last replaced by a new one."""
    decided_for: dict[str | None, int] = field(default_factory=dict)
    """By fastener, None for the whole joint: the seq of a lead's last decision about it."""
    decided_pull: dict[str, int] = field(default_factory=dict)
    """By pull, the seq of a lead's last decision at a stop that looks at it."""
    good_since: dict[Step, int] = field(default_factory=dict)
    """By step, the seq of the last reading of it that was in its band."""
    steady: dict[str, int] = field(default_factory=dict)
    """By fastener, the seq of the last check pass that was made at a pace that a hand can keep."""
    held: dict[UUID, Entry] = field(default_factory=dict)
    """Entries for a pull that another device had recorded already, until somebody says whether it was one pull or two."""
    settled: set[UUID] = field(default_factory=set)
    """Those of them about which somebody has said so."""
    set_to: dict[UUID, Setting] = field(default_factory=dict)
    """By tool, what somebody said that it is set to."""
    yielded: dict[str, Pull] = field(default_factory=dict)
    """By fastener, the pull that turned it into yield; gone once it was replaced."""
    unsure: set[str] = field(default_factory=set)
    """Pulls of which nobody knows how far they went."""
    last_pull_at: dict[UUID, datetime] = field(default_factory=dict)
    pass_pace: dict[str, list[Entry]] = field(default_factory=dict)
    """By pass, the presses that no instrument backs."""
    last_tool: dict[str, UUID] = field(default_factory=dict)
    touched: dict[str, None] = field(default_factory=dict)
    memo: dict[str, bool] = field(default_factory=dict)
    changed: set[str] = field(default_factory=set)
    """Pulls whose outcome is not as when somebody last looked."""
    first: tuple[int, int] = (0, 0)
    """Pass and pull before which nothing is open."""

    # what is open ---------------------------------------------------------------------------------------------

    def holds(self, test: Test) -> bool:
        """Whether a condition holds; one that looks at nothing that was taken does not."""
        found = [outcome for rounds in test.passes for outcome in self.last_taken(rounds, test.fastener)]
        if not found:
            return test.negate
        wanted = test.one_of | {"in_time"} if "ok" in test.one_of else test.one_of
        return (all if test.every else any)(o in wanted for o in found) != test.negate

    def last_taken(self, rounds: tuple[str, ...], fastener: str | None) -> list[str | None]:
        """The outcomes of the last round taken; None for a pull that has none yet."""
        return [self.outcomes.get(pull.id) for pull in self.pulls_last_taken(rounds, fastener)]

    def pulls_last_taken(self, rounds: tuple[str, ...], fastener: str | None) -> list[Pull]:
        """The pulls of the last round taken."""
        for pass_id in reversed(rounds):
            one = self.by_pass[pass_id]
            pulls = [p for p in one.pulls if fastener is None or p.fastener in (None, fastener)]
            if taken := [p for p in pulls if not self.is_skipped(one, p)]:
                return taken
        return []

    def is_skipped(self, one: Pass, pull: Pull) -> bool:
        """Whether its conditions do not hold."""
        return bool(one.when and self.fails(one.id, one.when)) or bool(pull.when and self.fails(pull.id, pull.when))

    def fails(self, key: str, tests: tuple[Test, ...]) -> bool:
        """Whether one of some conditions does not hold; remembered until the next entry."""
        if key not in self.memo:
            self.memo[key] = not all(self.holds(test) for test in tests)
        return self.memo[key]

    def status(self, one: Pass, pull: Pull) -> PullStatus:
        """How a pull stands."""
        if pull.id in self.outcomes:
            return "covered" if pull.id in self.covered else "done"
        return "skipped" if self.is_skipped(one, pull) else "open"

    def is_open(self, one: Pass, pull: Pull) -> bool:
        """Whether a pull is still to be made."""
        return pull.id not in self.outcomes and not self.is_skipped(one, pull)

    def first_open(self) -> tuple[Pass | None, tuple[str, ...]]:
        """The first pass with an open pull, and the pulls that may be made in any sequence with it."""
        place, at = self.first
        for number, one in enumerate(self.plan.passes[place:], place):
            for n in range(at if number == place else 0, len(one.pulls)):
                pull = one.pulls[n]
                if self.is_open(one, pull):
                    self.first = (number, n)
                    return one, self.rank_mates(one, n)
        return None, ()

    def comes_next(self, one: Pass, pull: Pull) -> bool:
        """Whether an open pull is the first, or stands right behind one that was: no need to look further."""
        place, at = self.first
        if self.plan.passes[place] is not one:
            return False
        while at < len(one.pulls) and one.pulls[at].id in self.outcomes:
            at += 1
        self.first = (place, min(at, len(one.pulls) - 1))
        return at < len(one.pulls) and one.pulls[at] is pull

    def rank_mates(self, one: Pass, at: int) -> tuple[str, ...]:
        """The open pulls that may be made in any sequence with one; equal ranks stand side by side."""
        rank, found = one.pulls[at].rank, []
        for pull in one.pulls[at:]:
            if pull.rank != rank:
                break
            if self.is_open(one, pull):
                found.append(pull.id)
        return tuple(found)

    # what was read --------------------------------------------------------------------------------------------

    def last_value(self, passes: Refs, fastener: str | None) -> float | None:
        """The value last read in some passes, at a fastener if one is named."""
        found = [
            self.values[pull.id]
            for rounds in passes
            for pass_id in rounds
            for pull in self.by_pass[pass_id].pulls
            if pull.id in self.values and (fastener is None or pull.fastener in (None, fastener))
        ]
        return found[-1] if found else None

    def rung_used(self, passes: Refs, fastener: str | None) -> str | None:
        """The rung last used in some passes."""
        found = [
            self.rungs[pull.id]
            for rounds in passes
            for pass_id in rounds
            for pull in self.by_pass[pass_id].pulls
            if pull.id in self.rungs and fastener in (None, pull.fastener)
        ]
        return found[-1] if found else None

    def planned_setting(self, pull: Pull, rung: Rung | None) -> Setting | None:
        """What the wrench ought to be set to; None for a pull without a setting."""
        return rung.setting if rung is not None else None if pull.rungs else pull.setting

    def seconds_between(self, earlier: Entry, later: Entry) -> float:
        """Device time within one device, the server's across two."""
        if earlier.device == later.device:
            return (later.at_device - earlier.at_device).total_seconds()
        return (later.at_server - earlier.at_server).total_seconds()

    # what is written down ---------------------------------------------------------------------------------------

    def close_as(self, pull_id: str, outcome: str) -> None:
        """Give a pull its outcome."""
        self.outcomes[pull_id] = outcome
        self.changed.add(pull_id)

    def forget(self, pull: Pull) -> None:
        """A pull that was reopened."""
        self.outcomes.pop(pull.id, None)
        self.changed.add(pull.id)
        for known in (self.values, self.rungs, self.progress, self.closed_by):
            known.pop(pull.id, None)
        self.covered.discard(pull.id)
        self.unsure.discard(pull.id)

    def say(self, code: Code, entry: Entry, pull: Pull | None = None, fastener: str | None = None, detail: str = "") -> None:
        """Write a verdict down."""
        label = fastener or (pull.fastener if pull else entry.fastener)
        name = name_of(self.plan.nouns, label) if label is not None else ""
        self.verdicts.append(
            Verdict(
                code=code, entry=entry.id, seq=entry.seq, pull=pull.id if pull else entry.pull, fastener=label, name=name, detail=detail
            )
        )

    def steps_looked_at(self, tests: Iterable[Test], fastener: str | None) -> set[Step]:
        """The steps that some conditions look at."""
        passes = (self.by_pass[pass_id] for test in tests for rounds in test.passes for pass_id in rounds)
        return {(one.step, one.item, label) for one in passes for label in (fastener, None)}
