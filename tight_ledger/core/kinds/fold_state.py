"""Everything that the entries of a run have changed so far: the state that rules and kinds of step work on."""

from dataclasses import dataclass, field
from uuid import UUID

from tight_ledger.core.base.policy import Policy
from tight_ledger.core.joints.names import name_of
from tight_ledger.core.kinds.pull_state import PlannedPull, PullStates, StepAt
from tight_ledger.core.kinds.readings import Readings
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Plan, Pull
from tight_ledger.core.records.verdicts import Verdict, VerdictCode
from tight_ledger.core.tools.gauges import Gauge
from tight_ledger.core.tools.pieces import PieceNow
from tight_ledger.core.tools.wrenches import Setting


@dataclass(slots=True)
class Remedies:
    """What can answer an earlier verdict, each with the `seq` of its entry."""

    loosened: dict[str, int] = field(default_factory=dict)
    """By fastener, its last loosening."""
    replaced: dict[str, int] = field(default_factory=dict)
    """By fastener, its last replacement."""
    decided_for: dict[str | None, int] = field(default_factory=dict)
    """By fastener, a lead's last decision about it; None for the whole joint."""
    decided_pull: dict[str, int] = field(default_factory=dict)
    """By pull id, a lead's last decision at a stop that tests it."""
    good_reading: dict[StepAt, int] = field(default_factory=dict)
    """By step, its last reading inside the band."""
    steady_check: dict[str, int] = field(default_factory=dict)
    """By fastener, its last check in a pass that took as long as a hand needs."""
    clarified: set[UUID] = field(default_factory=set)
    """Held entries about which somebody has said: one pull, or two."""
    settled: set[UUID] = field(default_factory=set)
    """Flagged entries about which a lead has decided."""
    seen: set[UUID] = field(default_factory=set)
    """Entries with a notice that somebody has read."""
    looked_at: set[UUID] = field(default_factory=set)
    """Entries with an odd end about which somebody has said what they found."""
    vouched: dict[UUID, int] = field(default_factory=dict)
    """By person, when they last confirmed with their PIN what was recorded under their name without it."""


@dataclass(slots=True)
class ToolUse:
    """Which wrench was used when, and what it was set to."""

    set_to: dict[UUID, Setting] = field(default_factory=dict)
    """By tool id, what somebody said that it is set to."""
    clicked_at: dict[UUID, Setting] = field(default_factory=dict)
    """By entry that tells a click, the setting that it was judged by."""
    last_in_pass: dict[str, UUID] = field(default_factory=dict)
    """By pass id, the tool of its last pull."""
    last_pull: dict[UUID, Entry] = field(default_factory=dict)
    """By device, and by person, the last pull."""
    clocks: set[tuple[VerdictCode, UUID]] = field(default_factory=set)
    """What was said of the clock of a device."""
    presses: dict[str, list[Entry]] = field(default_factory=dict)
    """By pass id, the entries without an instrument's reading."""


@dataclass(slots=True)
class FoldState:
    """The state of a run after some entries."""

    policy: Policy
    pulls: PullStates
    readings: Readings
    remedies: Remedies = field(default_factory=Remedies)
    tool_use: ToolUse = field(default_factory=ToolUse)
    verdicts: list[Verdict] = field(default_factory=list)
    held: dict[UUID, Entry] = field(default_factory=dict)
    """Entries for a pull that another device had recorded before, until somebody says whether it was one pull or two."""
    yielded: dict[str, Pull] = field(default_factory=dict)
    """By fastener, the pull that turned it into yield; removed when it is replaced."""
    unproven: dict[UUID, UUID] = field(default_factory=dict)
    """By entry that was recorded without a PIN, the person under whose name."""
    unsure: set[str] = field(default_factory=set)
    """Ids of pulls of which nobody knows how far they went."""
    hands: set[UUID] = field(default_factory=set)
    """People who pulled."""
    in_anothers_name: dict[UUID, set[UUID]] = field(default_factory=dict)
    """By person in whose session pulls were recorded under another's name, those names."""
    sheets_recorded: bool = False
    """Whether each printing of the run's sheet is an entry."""
    sheets: list[Entry] = field(default_factory=list)
    """The printings of its sheet."""
    stock: tuple[PieceNow, ...] = ()
    """The shims and spacers that were known at the start."""
    gauges: dict[UUID, Gauge] = field(default_factory=dict)
    """The gauges that were known at the start."""
    touched: dict[str, None] = field(default_factory=dict)
    """Fasteners that were tightened at all, in order."""

    @staticmethod
    def of(plan: Plan, policy: Policy, order: dict[str, PlannedPull], by_fastener: dict[str, list[PlannedPull]]) -> "FoldState":
        """The state before the first entry."""
        by_pass = {pass_.id: pass_ for pass_ in plan.passes}
        return FoldState(policy, PullStates(plan, order, by_pass, by_fastener), Readings(by_pass))

    def use(self, plan: Plan, order: dict[str, PlannedPull], by_fastener: dict[str, list[PlannedPull]]) -> None:
        """Continue with another plan that has the same pulls."""
        self.pulls.use(plan, order, by_fastener)
        self.readings.by_pass = self.pulls.by_pass

    def say(self, code: VerdictCode, entry: Entry, pull: Pull | None = None, fastener: str | None = None, detail: str = "") -> None:
        """Record a verdict about an entry.

        Args:
            pull: the pull that it is about; by default the one that the entry names.
            fastener: the fastener that it is about; by default the pull's or the entry's.
            detail: words that replace the code's own.
        """
        label = fastener or (pull.fastener if pull else entry.fastener)
        name = name_of(self.pulls.plan.nouns, label) if label is not None else ""
        pull_id = pull.id if pull else entry.pull
        self.verdicts.append(Verdict(code=code, entry=entry.id, seq=entry.seq, pull=pull_id, fastener=label, name=name, detail=detail))

    def may_have_pulled(self, person: UUID) -> bool:
        """Whether somebody pulled: under their own name, or under one whose owner has not confirmed it with a PIN."""
        return person in self.hands or any(name not in self.remedies.vouched for name in self.in_anothers_name.get(person, ()))

    def gauge_of(self, entry: Entry) -> Gauge | None:
        """What an entry was read with; None if it does not say, or if the run does not know it."""
        return self.gauges.get(entry.tools[0]) if entry.tools else None

    def first_of(self, pull_id: str) -> Entry | None:
        """The entry that closed a pull, or else its last one so far."""
        progress = self.readings.progress.get(pull_id)
        return self.readings.closed_by.get(pull_id) or (progress.last if progress is not None else None)

    def reopen(self, pull: Pull) -> None:
        """Remove everything that is known about a pull, so that it has to be made again."""
        self.pulls.reopen(pull)
        self.readings.forget(pull.id)
        self.unsure.discard(pull.id)
