"""The rules of the fold, one entry after the other: what an entry closes, covers, reopens, and what is odd about it."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal
from uuid import UUID

from tight_ledger.core.entries import PHYSICAL, TIGHTENING, Entry
from tight_ledger.core.judging import OPEN, Judged, Progress, judge
from tight_ledger.core.plans import Pass, Plan, Policy, Pull, Test
from tight_ledger.core.verdicts import Code, Verdict

PullStatus = Literal["open", "done", "covered", "skipped"]
ANSWERS: dict[str, frozenset[str]] = {
    "pulled": frozenset({"torque", "angle"}),
    "checked": frozenset({"check"}),
    "loosened": frozenset({"loosen"}),
    "turned": frozenset({"turns", "align", "rotate"}),
    "measured": frozenset({"measure"}),
    "confirmed": frozenset({"do"}),
}
"""Which kinds of pass an entry of a kind can answer. `deviated` answers any."""
TIGHTENS: frozenset[str] = frozenset({"torque", "angle", "check", "turns"})
"""Kinds of pass that leave a fastener tighter: a later one covers an earlier one that is still open."""
AFTER_THE_JOINT: frozenset[str] = frozenset({"measure", "rotate"})
"""Tasks on the joint that what came loose puts in question."""
PAST_S = 2.0
"""A clock that goes back by more than this was set back."""


@dataclass(frozen=True, slots=True)
class PassState:
    """How one pass stands; `maybe` while the outcomes that decide whether it comes are still open."""

    id: str
    status: Literal["done", "current", "ahead", "maybe", "skipped"]
    done: int
    total: int


def live_entries(entries: Iterable[Entry]) -> list[Entry]:
    """Entries that count, each where it counts: repeated ids once, undone ones out, corrections in place.

    From last to first a live `undone` kills the entry it names, so undo of undo is redo. All corrections of an entry
    name its original; the last live one is folded in the original's place.
    """
    by_id: dict[UUID, Entry] = {}
    for entry in sorted(entries, key=lambda e: e.seq):
        by_id.setdefault(entry.id, entry)
    dead: set[UUID] = set()
    place: dict[UUID, int] = {}

    def original(entry: Entry) -> Entry:
        seen = {entry.id}
        while entry.corrects in by_id and entry.corrects not in seen:
            entry = by_id[entry.corrects]
            seen.add(entry.id)
        return entry

    for entry in reversed(by_id.values()):
        if entry.id in dead:
            continue
        if entry.undoes in by_id and by_id[entry.undoes].how != "wire":
            dead.add(entry.undoes)
        elif (root := original(entry)) is not entry:
            dead.add(entry.id if root.id in dead else root.id)
            place[entry.id] = root.seq
    live = [entry for entry in by_id.values() if entry.id not in dead]
    return sorted(live, key=lambda e: (place.get(e.id, e.seq), e.seq))


@dataclass(slots=True)
class Fold:
    """What the entries so far have done to a plan."""

    plan: Plan
    policy: Policy
    order: dict[str, tuple[int, Pass, Pull]]
    by_pass: dict[str, Pass]
    by_fastener: dict[str, list[tuple[int, Pass, Pull]]]
    outcomes: dict[str, str] = field(default_factory=dict)
    values: dict[str, float] = field(default_factory=dict)
    rungs: dict[str, str] = field(default_factory=dict)
    progress: dict[str, Progress] = field(default_factory=dict)
    closed_by: dict[str, Entry] = field(default_factory=dict)
    covered: set[str] = field(default_factory=set)
    verdicts: list[Verdict] = field(default_factory=list)
    answered_up_to: dict[str | None, int] = field(default_factory=dict)
    last_pull_at: dict[UUID, datetime] = field(default_factory=dict)
    last_tool: dict[str, UUID] = field(default_factory=dict)
    touched: dict[str, None] = field(default_factory=dict)
    memo: dict[str, bool] = field(default_factory=dict)
    changed: set[str] = field(default_factory=set)
    """Pulls whose outcome is not as when somebody last looked."""
    first: tuple[int, int] = (0, 0)
    """Pass and pull before which nothing is open."""

    # what is open ---------------------------------------------------------------------------------------------

    def holds(self, test: Test) -> bool:
        found = [outcome for rounds in test.passes for outcome in self.last_taken(rounds, test.fastener)]
        if not found:
            return test.negate
        wanted = test.one_of | {"in_time"} if "ok" in test.one_of else test.one_of
        return (all if test.every else any)(o in wanted for o in found) != test.negate

    def last_taken(self, rounds: tuple[str, ...], fastener: str | None) -> list[str | None]:
        for pass_id in reversed(rounds):
            one = self.by_pass[pass_id]
            pulls = [p for p in one.pulls if fastener is None or p.fastener in (None, fastener)]
            if taken := [p for p in pulls if not self.is_skipped(one, p)]:
                return [self.outcomes.get(p.id) for p in taken]
        return []

    def is_skipped(self, one: Pass, pull: Pull) -> bool:
        return bool(one.when and self.fails(one.id, one.when)) or bool(pull.when and self.fails(pull.id, pull.when))

    def fails(self, key: str, tests: tuple[Test, ...]) -> bool:
        if key not in self.memo:
            self.memo[key] = not all(self.holds(test) for test in tests)
        return self.memo[key]

    def status(self, one: Pass, pull: Pull) -> PullStatus:
        if pull.id in self.outcomes:
            return "covered" if pull.id in self.covered else "done"
        return "skipped" if self.is_skipped(one, pull) else "open"

    def is_open(self, one: Pass, pull: Pull) -> bool:
        return pull.id not in self.outcomes and not self.is_skipped(one, pull)

    def first_open(self) -> tuple[Pass | None, tuple[str, ...]]:
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

    def close_as(self, pull_id: str, outcome: str) -> None:
        self.outcomes[pull_id] = outcome
        self.changed.add(pull_id)

    # what happened --------------------------------------------------------------------------------------------

    def say(self, code: Code, entry: Entry, pull: Pull | None = None, fastener: str | None = None) -> None:
        self.verdicts.append(
            Verdict(
                code=code,
                entry=entry.id,
                seq=entry.seq,
                pull=pull.id if pull else entry.pull,
                fastener=fastener or (pull.fastener if pull else entry.fastener),
            )
        )

    def take(self, entry: Entry) -> None:
        if entry.in_conflict and entry.kind in PHYSICAL:
            self.say("conflict", entry)
        if entry.kind in TIGHTENING:
            self.pace(entry)
        if entry.kind in ("loosened", "replaced") and entry.pull is None:
            self.reopen(entry)
        elif entry.kind == "deviated" and entry.pull is None:
            self.say("deviated", entry)
            self.answered_up_to[entry.fastener] = entry.seq
        elif entry.kind in ANSWERS or entry.kind == "deviated":
            self.answer(entry)
        self.memo.clear()

    def pace(self, entry: Entry) -> None:
        if entry.corrects is not None:
            return
        before = self.last_pull_at.get(entry.device)
        self.last_pull_at[entry.device] = entry.at_device
        if before is None:
            return
        gap = (entry.at_device - before).total_seconds()
        if gap < -PAST_S:
            self.say("from_the_past", entry)
        if entry.reading is None and 0 <= gap < self.policy.fastest_pull_s:
            self.say("implausible", entry)

    def seconds_between(self, earlier: Entry, later: Entry) -> float:
        """Device time within one device, the server's across two."""
        if earlier.device == later.device:
            return (later.at_device - earlier.at_device).total_seconds()
        return (later.at_server - earlier.at_server).total_seconds()

    def answer(self, entry: Entry) -> None:
        fastener = entry.fastener
        if entry.pull not in self.order:
            self.say("off_plan", entry)
            if fastener is not None and entry.kind in TIGHTENING:
                self.touched[fastener] = None
            return
        index, one, pull = self.order[entry.pull]
        if pull.fastener is not None and one.kind in TIGHTENS and entry.kind in ANSWERS:
            self.touched[pull.fastener] = None
        if entry.kind != "deviated" and one.kind not in ANSWERS[entry.kind]:
            self.say("off_plan", entry, pull)
        elif pull.id in self.outcomes and pull.id not in self.covered:
            if entry.kind in TIGHTENING:
                friendly = self.policy.second_click == "check" and entry.reading is None and one.kind != "angle"
                self.say("second_click" if friendly else "twice", entry, pull)
        elif not self.is_open(one, pull):
            self.say("not_called_for", entry, pull)
        else:
            self.close(entry, index, one, pull)

    def close(self, entry: Entry, index: int, one: Pass, pull: Pull) -> None:
        if not self.comes_next(one, pull):
            current, following = self.first_open()
            if current is not None and pull.id not in following:
                self.say("out_of_order" if current.id == one.id else "stage_early", entry, pull)
        self.with_what(entry, one, pull)
        judged = judge(self, entry, one, pull)
        for code in judged.odd:
            self.say(code, entry, pull)
        if judged.outcome == "low" and one.kind == "torque":  # an angle goes on with the next swing
            self.say("low", entry, pull)
        if judged.outcome == "high" and one.kind in ("torque", "angle"):
            self.say("high", entry, pull)
        if judged.outcome == "moved":
            self.say("turned", entry, pull)
        if entry.kind == "deviated":
            self.say("deviated", entry, pull)
            self.answered_up_to[pull.fastener] = entry.seq
        if one.kind in TIGHTENS and entry.kind != "deviated":
            self.cover(entry, index, pull)
        if judged.outcome == OPEN or (judged.outcome == "low" and one.kind in ("torque", "angle")):
            return
        if judged.value is not None:
            self.values[pull.id] = judged.value
        self.closed_by[pull.id] = entry
        self.close_as(pull.id, judged.outcome)
        if one.after:
            self.timed(entry, one, pull, judged)

    def with_what(self, entry: Entry, one: Pass, pull: Pull) -> None:
        """The wrench: the planned one, and the same for a whole pass."""
        if not entry.tools or pull.tool is None:
            return
        if pull.tool not in entry.tools:
            self.say("wrong_tool", entry, pull)
        before = self.last_tool.get(one.id)
        planned = {p.tool for p in one.pulls}
        if before is not None and before != entry.tools[0] and len(planned) == 1 and entry.tools[0] not in planned:
            self.say("wrench_changed", entry, pull)
        self.last_tool[one.id] = entry.tools[0]

    def timed(self, entry: Entry, one: Pass, pull: Pull, judged: Judged) -> None:
        """Too early is said; too late closes the rest of the pass as late."""
        start = self.timed_from(one)
        if start is None:
            return
        elapsed = self.seconds_between(start, entry)
        if one.at_least_s is not None and elapsed < one.at_least_s:
            self.say("early", entry, pull)
        if one.at_most_s is not None and elapsed > one.at_most_s:
            self.say("late", entry, pull)
            for other in one.pulls:
                if other.id == pull.id or self.is_open(one, other):
                    self.close_as(other.id, "late")
        elif judged.outcome in ("ok", "done", "turned"):
            self.close_as(pull.id, "in_time")

    def timed_from(self, one: Pass) -> Entry | None:
        """The entry from which a pass's time runs: the last that closed the step before."""
        before = [p.id for rounds in one.after for pass_id in rounds for p in self.by_pass[pass_id].pulls]
        return max((self.closed_by[pull_id] for pull_id in before if pull_id in self.closed_by), key=lambda e: e.seq, default=None)

    def cover(self, entry: Entry, index: int, pull: Pull) -> None:
        """Earlier open stages of a fastener that is now tighter, since it was last loose, are never asked for again."""
        if pull.fastener is None:
            return
        for earlier_index, one, earlier in reversed(self.by_fastener[pull.fastener]):
            if earlier_index >= index:
                continue
            if one.free:
                return
            if one.kind in TIGHTENS and self.is_open(one, earlier):
                self.close_as(earlier.id, "skipped")
                self.covered.add(earlier.id)
                self.say("skipped", entry, earlier)

    def reopen(self, entry: Entry) -> None:
        """All stages of what came loose start again, since it was last loose; in an until-loop those of the newest round."""
        if entry.fastener is None:
            loose = set(self.by_fastener)
        else:
            loose = {f for unit in self.plan.units if entry.fastener in unit for f in unit} or {entry.fastener}
        newest = {(one.step, one.item): one.id for _, one, pull in self.order.values() if pull.id in self.outcomes}
        rows = [row for fastener in loose for row in self.since_loose(fastener)]
        first = min((index for index, _, pull in rows if pull.id in self.outcomes), default=len(self.order))
        rows += [row for row in self.order.values() if row[2].fastener is None and row[1].kind in AFTER_THE_JOINT and row[0] > first]
        for _, one, pull in rows:
            if not any(one.until_loops) or newest.get((one.step, one.item)) == one.id:
                self.forget(pull)
        self.first = (0, 0)
        for fastener in sorted(loose):
            self.answered_up_to[fastener] = entry.seq
            self.say("reopened", entry, fastener=fastener)

    def since_loose(self, fastener: str) -> list[tuple[int, Pass, Pull]]:
        """A fastener's pulls since its last planned free loosening that was done."""
        pulls = self.by_fastener.get(fastener, [])
        freed = [place for place, (_, one, pull) in enumerate(pulls) if one.free and pull.id in self.outcomes]
        return pulls[freed[-1] + 1 :] if freed else pulls

    def forget(self, pull: Pull) -> None:
        self.outcomes.pop(pull.id, None)
        self.changed.add(pull.id)
        self.values.pop(pull.id, None)
        self.rungs.pop(pull.id, None)
        self.progress.pop(pull.id, None)
        self.closed_by.pop(pull.id, None)
        self.covered.discard(pull.id)

    # how it stands --------------------------------------------------------------------------------------------

    def judged(self, stopped_at: Pass | None) -> tuple[Verdict, ...]:
        whole_joint = self.answered_up_to.get(None, 0)
        answered = []
        for v in self.verdicts:
            up_to = max(whole_joint, self.answered_up_to.get(v.fastener, 0) if v.fastener is not None else 0)
            closed = v.code == "low" and v.pull is not None and v.pull in self.outcomes
            is_answered = closed or v.seq < up_to
            answered.append(v if v.answered == is_answered else v.model_copy(update={"answered": is_answered}))
        if stopped_at is not None and stopped_at.kind == "stop":
            answered.append(Verdict(code="stopped", pull=stopped_at.id))
        return tuple(answered)

    def pass_state(self, one: Pass, current: Pass | None) -> PassState:
        done = sum(pull.id in self.outcomes for pull in one.pulls)
        total = sum(pull.id in self.outcomes or not self.is_skipped(one, pull) for pull in one.pulls)
        if current is not None and current.id == one.id:
            return PassState(id=one.id, status="current", done=done, total=total)
        if total == 0:
            return PassState(id=one.id, status="skipped", done=0, total=0)
        if done == total:
            return PassState(id=one.id, status="done", done=done, total=total)
        undecided = any(None in self.last_taken(rounds, test.fastener) for test in one.when for rounds in test.passes)
        return PassState(id=one.id, status="maybe" if undecided else "ahead", done=done, total=total)

    def hanging(self, conditional: Iterable[tuple[int, Pass, Pull]]) -> set[str]:
        """Passes whose outcomes a later pass that has begun hangs on.

        Args:
            conditional: the pulls that have a condition.
        """
        return {
            pass_id
            for _, one, pull in conditional
            if pull.id in self.outcomes
            for test in (*one.when, *pull.when)
            for rounds in test.passes
            for pass_id in rounds
        }
