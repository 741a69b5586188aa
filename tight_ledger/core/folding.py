"""The rules of the fold, one entry after the other: what an entry closes, covers, reopens, and what is odd about it."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal
from uuid import UUID

from tight_ledger.core.entries import PHYSICAL, TIGHTENING, Entry
from tight_ledger.core.plans import Pass, Plan, Policy, Pull, Test
from tight_ledger.core.verdicts import Code, Verdict

PullStatus = Literal["open", "done", "covered", "skipped"]
ANSWERS: dict[str, frozenset[str]] = {
    "pulled": frozenset({"torque"}),
    "checked": frozenset({"check"}),
    "confirmed": frozenset({"do"}),
}
"""Which kinds of pass an entry of a kind can answer. `deviated` answers any."""


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
    outcomes: dict[str, str] = field(default_factory=dict)
    covered: set[str] = field(default_factory=set)
    verdicts: list[Verdict] = field(default_factory=list)
    answered_up_to: dict[str | None, int] = field(default_factory=dict)
    last_pull_at: dict[UUID, datetime] = field(default_factory=dict)
    touched: dict[str, None] = field(default_factory=dict)
    memo: dict[str, bool] = field(default_factory=dict)

    # what is open ---------------------------------------------------------------------------------------------

    def holds(self, test: Test) -> bool:
        found = [outcome for rounds in test.passes for outcome in self.last_taken(rounds, test.fastener)]
        if not found:
            return test.negate
        return (all if test.every else any)(o in test.one_of for o in found) != test.negate

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
        for one in self.plan.passes:
            for pull in one.pulls:
                if self.is_open(one, pull):
                    mates = (p.id for p in one.pulls if p.rank == pull.rank and self.is_open(one, p))
                    return one, tuple(mates)
        return None, ()

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
        before = self.last_pull_at.get(entry.device)
        self.last_pull_at[entry.device] = entry.at_device
        if before is None or entry.reading is not None:
            return
        if 0 <= (entry.at_device - before).total_seconds() < self.policy.fastest_pull_s:
            self.say("implausible", entry)

    def answer(self, entry: Entry) -> None:
        fastener = entry.fastener
        if entry.pull not in self.order:
            self.say("off_plan", entry)
            if fastener is not None and entry.kind in TIGHTENING:
                self.touched[fastener] = None
            return
        index, one, pull = self.order[entry.pull]
        if pull.fastener is not None and entry.kind in TIGHTENING:
            self.touched[pull.fastener] = None
        if entry.kind != "deviated" and one.kind not in ANSWERS[entry.kind]:
            self.say("off_plan", entry, pull)
        elif pull.id in self.outcomes and pull.id not in self.covered:
            if entry.kind in TIGHTENING:
                friendly = self.policy.second_click == "check" and entry.reading is None
                self.say("second_click" if friendly else "twice", entry, pull)
        elif not self.is_open(one, pull):
            self.say("not_called_for", entry, pull)
        else:
            self.close(entry, index, one, pull)

    def close(self, entry: Entry, index: int, one: Pass, pull: Pull) -> None:
        current, following = self.first_open()
        if current is not None and pull.id not in following:
            self.say("out_of_order" if current.id == one.id else "stage_early", entry, pull)
        if entry.tools is not None and pull.tool is not None and pull.tool not in entry.tools:
            self.say("wrong_tool", entry, pull)
        outcome = self.outcome(entry, one, pull)
        if outcome in ("low", "high"):
            self.say("low" if outcome == "low" else "high", entry, pull)
        if outcome == "moved":
            self.say("turned", entry, pull)
        if entry.kind == "deviated":
            self.say("deviated", entry, pull)
            self.answered_up_to[pull.fastener] = entry.seq
        if entry.kind in TIGHTENING:
            self.cover(entry, index, pull)
        if outcome != "low":
            self.outcomes[pull.id] = outcome

    def outcome(self, entry: Entry, one: Pass, pull: Pull) -> str:
        if entry.kind == "deviated":
            return entry.option or "deviated"
        if entry.kind == "confirmed":
            return entry.option or "done"
        if one.kind == "check":
            return "moved" if entry.moved else "still"
        if pull.band is None:
            return "ok"
        shown = entry.reading or entry.setting
        return pull.band.judge(pull.at_fastener(shown.torque_nm)) if shown is not None else "ok"

    def cover(self, entry: Entry, index: int, pull: Pull) -> None:
        """Earlier open stages of a fastener that is now tighter are never asked for again."""
        for earlier_index, one, earlier in self.order.values():
            if earlier_index >= index:
                break
            if earlier.fastener == pull.fastener and one.kind in ("torque", "check") and self.is_open(one, earlier):
                self.outcomes[earlier.id] = "skipped"
                self.covered.add(earlier.id)
                self.say("skipped", entry, earlier)

    def reopen(self, entry: Entry) -> None:
        """All stages of what came loose start again; within an until-loop only those of the newest round taken."""
        if entry.fastener is None:
            loose = {pull.fastener for _, _, pull in self.order.values()}
        else:
            loose = {f for unit in self.plan.units if entry.fastener in unit for f in unit} or {entry.fastener}
        newest: dict[str, str] = {}
        for _, one, pull in self.order.values():
            if pull.id in self.outcomes:
                newest[one.step] = one.id
        for _, one, pull in self.order.values():
            old_round = any(one.until_loops) and newest.get(one.step) != one.id
            if pull.fastener in loose and pull.fastener is not None and not old_round:
                self.outcomes.pop(pull.id, None)
                self.covered.discard(pull.id)
        for fastener in sorted(f for f in loose if f is not None):
            self.answered_up_to[fastener] = entry.seq
            self.say("reopened", entry, fastener=fastener)

    # how it stands --------------------------------------------------------------------------------------------

    def judged(self, stopped_at: Pass | None) -> tuple[Verdict, ...]:
        whole_joint = self.answered_up_to.get(None, 0)
        answered = []
        for v in self.verdicts:
            up_to = max(whole_joint, self.answered_up_to.get(v.fastener, 0) if v.fastener is not None else 0)
            closed = v.code == "low" and v.pull is not None and v.pull in self.outcomes
            answered.append(v.model_copy(update={"answered": closed or v.seq < up_to}))
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

    def hanging(self) -> set[str]:
        """Passes whose outcomes a later pass that has begun hangs on."""
        return {
            pass_id
            for _, one, pull in self.order.values()
            if pull.id in self.outcomes
            for test in (*one.when, *pull.when)
            for rounds in test.passes
            for pass_id in rounds
        }
