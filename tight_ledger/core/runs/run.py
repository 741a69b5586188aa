"""A run: a plan and the entries so far give what is next and what is wrong.

Nothing stores the state of a run. Entries say what happened; the fold judges them.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from uuid import UUID

from tight_ledger.core.adjust.methods import METHODS
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.kinds.acts import Advised, Doing
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.pull_state import PlannedPull, PullStatus
from tight_ledger.core.kinds.readings import RunningTime
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.rungs import picked, planned_setting
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.records.corrections import may_take_back
from tight_ledger.core.records.entries import TIGHTENING, Entry, Outcome
from tight_ledger.core.records.plans import Pass, Plan, Pull, Rung
from tight_ledger.core.records.verdicts import BAD, LOOKED_AT, SETTLED_BY_A_LEAD, Verdict
from tight_ledger.core.runs.answered import all_verdicts
from tight_ledger.core.runs.fold import PassState, decided_passes, live_entries, pass_state, take
from tight_ledger.core.runs.rules import timed_from
from tight_ledger.core.specs.steps import WhichEntry
from tight_ledger.core.tools.gauges import RankedGauge, rank_gauges
from tight_ledger.core.tools.wrenches import Setting


@dataclass(frozen=True, slots=True)
class PullState:
    """How one pull stands."""

    id: str
    status: PullStatus
    outcome: str | None = None


@dataclass(frozen=True, slots=True)
class RunState:
    """A run after its entries."""

    seq: int
    next: tuple[str, ...]
    doing: Doing
    pulls: tuple[PullState, ...]
    values: dict[str, float]
    """By pull, what was read in stored units."""
    clicked_at: dict[UUID, Setting]
    """By entry that tells a click, the setting that it was judged by."""
    passes: tuple[PassState, ...]
    verdicts: tuple[Verdict, ...]
    complete: bool
    clean: bool
    paused: bool
    touched: tuple[str, ...]
    in_yield: tuple[str, ...]
    """Fasteners that it turned into yield, and did not replace since."""
    replaced: tuple[str, ...]
    outcome: Outcome | None
    reasons: tuple[str, ...]
    standing: Outcome | None
    signed_by: tuple[UUID, ...]
    one_or_two: tuple[UUID, ...]
    """Entries of which nobody has said yet whether they are a pull of their own."""
    live: tuple[UUID, ...]
    undoable: tuple[UUID, ...]

    unproven: tuple[UUID, ...]
    """People under whose names something was recorded without their PIN, and who have not confirmed it."""

    def to_settle(self) -> frozenset[UUID]:
        """The entries about which only a lead can decide, and has not yet."""
        return frozenset(v.entry for v in self.verdicts if v.code in SETTLED_BY_A_LEAD and not v.answered and v.entry is not None)

    def unread(self) -> frozenset[UUID]:
        """The entries with a notice that nobody has read yet."""
        return frozenset(v.entry for v in self.verdicts if v.code == "notice" and not v.answered and v.entry is not None)

    def odd_ends(self) -> frozenset[UUID]:
        """The entries with an odd end about which nobody has said what they found."""
        return frozenset(v.entry for v in self.verdicts if v.code in LOOKED_AT and not v.answered and v.entry is not None)

    def unanswered(self) -> tuple[Verdict, ...]:
        """The verdicts that keep the run from being good."""
        return tuple(v for v in self.verdicts if v.code in BAD and not v.answered)


class Run:
    """A plan with its entries. A new last entry is folded on; an undo, a correction or a late one folds all again."""

    def __init__(self, plan: Plan, policy: Policy | None = None, kinds: Registry = KINDS) -> None:
        self._first_plan, self._policy, self._kinds = plan, policy, kinds
        self.entries: list[Entry] = []
        self._known: set[UUID] = set()
        self._restart([])

    def _use(self, plan: Plan) -> None:
        """Continue with a plan: the first one, or after a change of tools another with the same pulls."""
        self.plan = plan
        self._order: dict[str, PlannedPull] = {}
        self._by_fastener: dict[str, list[PlannedPull]] = {}
        for pass_ in plan.passes:
            for pull in pass_.pulls:
                planned = self._order[pull.id] = (len(self._order), pass_, pull)
                if pull.fastener is not None:
                    self._by_fastener.setdefault(pull.fastener, []).append(planned)
        self._conditional = [planned for planned in self._order.values() if planned[1].when or planned[2].when]
        tests = [test for _, pass_, pull in self._conditional for test in (*pass_.when, *pull.when)]
        tested = {pass_id for test in tests for rounds in test.passes for pass_id in rounds}
        self._tested = {pull.id for pass_ in plan.passes if pass_.id in tested for pull in pass_.pulls}
        self._pass_of = {pull.id: n for n, pass_ in enumerate(plan.passes) for pull in pass_.pulls}
        self._conditional_passes = {n for n, pass_ in enumerate(plan.passes) if pass_.when or any(pull.when for pull in pass_.pulls)}

    def _restart(self, live: list[Entry]) -> None:
        self._use(self._first_plan)
        started = next((e.started for e in live if e.started is not None), None)
        policy = self._policy or (started.policy if started else Policy())
        self._fold = FoldState.of(self.plan, policy, self._order, self._by_fastener)
        self._fold.stock = started.stock if started is not None else ()
        self._fold.sheets_recorded = started is not None and started.sheets_recorded
        self._gauges = started.gauges if started is not None else ()
        self._fold.gauges = {now.gauge.id: now.gauge for now in self._gauges}
        self._paused = False
        self._outcome: Outcome | None = None
        self._reasons: tuple[str, ...] = ()
        self._signed: list[UUID] = []
        self._live: list[Entry] = []
        self._live_ids: list[UUID] = []
        self._reversible: list[Entry] = []
        self._pulls: list[PullState] = []
        self._passes: list[PassState] = []
        self._current: int | None = None
        for entry in live:
            self._take(entry)

    def _take(self, entry: Entry) -> None:
        self._live.append(entry)
        self._live_ids.append(entry.id)
        if may_take_back(entry) and entry.kind != "undone":
            self._reversible.append(entry)
        if entry.kind == "retooled" and entry.started is not None:
            self._use(entry.started.plan)
            self._fold.use(self.plan, self._order, self._by_fastener)
            self._pulls = []
        elif entry.kind in ("paused", "resumed"):
            self._paused = entry.kind == "paused"
            take(self._fold, self._kinds, entry)
        elif entry.kind == "finished":
            self._outcome, self._reasons, self._signed = entry.outcome, entry.reasons or (), []
        elif entry.kind == "signed":
            self._signed.append(entry.by)
        else:
            if self._outcome is not None and entry.kind in TIGHTENING | {"loosened", "replaced"}:
                self._fold.say("not_called_for", entry)
            take(self._fold, self._kinds, entry)

    def knows(self, entry_id: UUID) -> bool:
        """Whether an entry was taken in."""
        return entry_id in self._known

    def add(self, fresh: Iterable[Entry]) -> None:
        """Take in entries, in any order, repeated ids allowed."""
        last = self.entries[-1].seq if self.entries else 0
        new = []
        for entry in sorted(fresh, key=lambda e: e.seq):
            if entry.id not in self._known:
                self._known.add(entry.id)
                new.append(entry)
        self.entries.extend(new)
        if all(e.seq > last and e.undoes is None and e.corrects is None and e.started is None for e in new):
            for entry in new:
                self._take(entry)
        else:
            self.entries.sort(key=lambda e: e.seq)
            self._restart(live_entries(self.entries, self._first_plan.step_of))

    def state(self) -> RunState:
        """The run as it stands."""
        fold, order = self._fold, self._order
        current, following = fold.pulls.first_open()
        verdicts = all_verdicts(fold, self._kinds, current)
        complete = current is None
        clean = complete and not any(v.code in BAD and not v.answered for v in verdicts)
        decided = decided_passes(fold, self._conditional)
        undoable = (e.id for e in self._reversible if not (e.pull in order and order[e.pull][1].id in decided))
        self._refresh(current)
        return RunState(
            seq=self.entries[-1].seq if self.entries else 0,
            next=following,
            doing=self._doing(current, following),
            pulls=tuple(self._pulls),
            values=dict(fold.readings.values),
            clicked_at=dict(fold.tool_use.clicked_at),
            passes=tuple(self._passes),
            verdicts=verdicts,
            complete=complete,
            clean=clean,
            paused=self._paused,
            touched=tuple(fold.touched),
            in_yield=tuple(fold.yielded),
            replaced=tuple(fold.remedies.replaced),
            outcome=self._outcome,
            reasons=self._reasons,
            standing="do not move" if self._outcome == "good" and not clean else self._outcome,
            signed_by=tuple(self._signed),
            one_or_two=tuple(entry_id for entry_id in fold.held if entry_id not in fold.remedies.clarified),
            live=tuple(self._live_ids),
            undoable=tuple(undoable) if self._outcome is None else (),
            unproven=tuple(fold.unproven[e] for v in verdicts if v.code == "not_proven" and not v.answered and (e := v.entry)),
        )

    def adjustments(self) -> tuple[Advised, ...]:
        """Every adjustment of which something was read, with all its tries, by reading and item."""
        first = {(pass_.reads, pass_.item): pass_ for pass_ in reversed(self.plan.passes) if pass_.reads}
        advised = (self._kinds[pass_.kind].advises(self._fold, pass_) for pass_ in reversed(first.values()))
        return tuple(each for each in advised if each is not None and each.tries)

    def _refresh(self, current: Pass | None) -> None:
        """Bring the pulls and passes up to date: those that changed, and those with conditions if what they look at changed."""
        fold, order, passes = self._fold, self._order, self.plan.passes
        if not self._pulls:
            changed: Iterable[str] = order
            conditional = self._conditional_passes
            self._pulls = [PullState("", "open")] * len(order)
            self._passes = [PassState("", "ahead", 0, 0)] * len(passes)
        else:
            changed, conditional = set(fold.pulls.changed), set[int]()
            if not self._tested.isdisjoint(changed):
                changed, conditional = changed | {row[2].id for row in self._conditional}, self._conditional_passes
        now = None if current is None else next(n for n in range(fold.pulls.first[0], len(passes)) if passes[n] is current)
        touched = {self._pass_of[pull_id] for pull_id in changed} | conditional | {n for n in (self._current, now) if n is not None}
        for pull_id in changed:
            index, pass_, pull = order[pull_id]
            self._pulls[index] = PullState(pull_id, fold.pulls.status(pass_, pull), fold.pulls.outcomes.get(pull_id))
        for n in touched:
            self._passes[n] = pass_state(fold, passes[n], current)
        self._current = now
        fold.pulls.changed.clear()

    def _doing(self, current: Pass | None, following: tuple[str, ...]) -> Doing:
        if current is None or not following:
            return Doing()
        fold, pull = self._fold, self._order[following[0]][2]
        progress = fold.readings.progress.get(pull.id)
        rung = picked(fold.readings, pull)
        proposed, value = self._kinds[current.kind].proposes(fold, current)

        def time(seconds: float | None, which: WhichEntry) -> RunningTime | None:
            start = timed_from(fold, current, which) if seconds is not None else None
            return RunningTime.since(start, seconds) if start is not None and seconds is not None else None

        return Doing(
            degrees=progress.degrees if progress is not None else 0.0,
            readings=tuple(progress.readings) if progress is not None else (),
            rung=rung,
            set_first=self._set_first(pull, rung),
            unsure=pull.id in fold.unsure,
            proposed=proposed,
            value=value,
            advised=self._kinds[current.kind].advises(fold, current),
            gauges=self._ranked_gauges(current, pull),
            wait=time(current.at_least_s, current.waits_from),
            limit=time(current.at_most_s, current.limited_from),
        )

    def _ranked_gauges(self, pass_: Pass, pull: Pull) -> tuple[RankedGauge, ...]:
        if pull.band is None or not self._kinds[pass_.kind].has_measured_band:
            return ()
        return rank_gauges(self._gauges, pull.band, kinds=METHODS[pass_.method].kinds if pass_.method is not None else None)

    def _set_first(self, pull: Pull, rung: Rung | None) -> Setting | None:
        """The setting of the next pull, unless somebody has said that its wrench is set to it."""
        wanted = planned_setting(pull, rung)
        if not pull.is_set or wanted is None or pull.tool is None or self._fold.tool_use.set_to.get(pull.tool) == wanted:
            return None
        return wanted


def replay(plan: Plan, entries: Iterable[Entry], policy: Policy | None = None, kinds: Registry = KINDS) -> RunState:
    """The state of a run.

    Args:
        plan: the plan in force.
        entries: in any order, repeated ids allowed.
        policy: the shop's choices; by default those in the `started` entry.
        kinds: the kinds of step that the plan can have.
    """
    run = Run(plan, policy, kinds)
    run.add(entries)
    return run.state()
