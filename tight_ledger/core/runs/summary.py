"""A run in short, derived from its entries: what lists over many runs are read from."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from tight_ledger.core.base.models import Model, Names
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.records.entries import PHYSICAL, TIGHTENING, Entry, Outcome, Started
from tight_ledger.core.runs.outcomes import reasons
from tight_ledger.core.runs.run import RunState


class RunSummary(Model):
    """A run in short."""

    seq: int
    """Of the last entry that it was derived from."""
    standing: Outcome | None = None
    touched: bool
    title: str
    position: str
    people: tuple[UUID, ...]
    """Who recorded that they did something, in order."""
    wrenches: tuple[str, ...]
    fasteners: int
    pulls: int
    reasons: tuple[str, ...]
    outcomes: Names
    """Of its pulls."""
    meters: tuple[Meter, ...]
    followup: str | None = None
    started_at: datetime
    ended_at: datetime | None = None
    ended_by: UUID | None = None

    @property
    def counts(self) -> bool:
        """Whether it says how its place stands: not one that was abandoned before anything was pulled."""
        return self.touched or self.standing not in (None, "abandoned")


def summary_of(started: Started, state: RunState, entries: Sequence[Entry]) -> RunSummary:
    """A run in short.

    Args:
        started: the tooling in force.
        entries: the run's, by seq.
    """
    ended = next((entry for entry in reversed(entries) if entry.kind == "finished"), None)
    facts = started.facts
    return RunSummary(
        seq=entries[-1].seq, standing=state.standing, touched=bool(state.touched), title=facts.title if facts is not None else "",
        position=started.position.words, people=tuple(dict.fromkeys(entry.by for entry in entries if entry.kind in PHYSICAL)),
        wrenches=tuple(dict.fromkeys(tooling.wrench.name for tooling in started.tooling)),
        fasteners=len(facts.layout.fasteners) if facts is not None else len(started.plan.labels),
        pulls=sum(entry.kind in TIGHTENING for entry in entries), reasons=state.reasons or reasons(started.plan, state),
        outcomes=frozenset(pull.outcome for pull in state.pulls if pull.outcome is not None), meters=started.meters,
        followup=started.followup, started_at=entries[0].at_server, ended_at=ended.at_server if ended is not None else None,
        ended_by=ended.by if ended is not None else None,
    )  # fmt: skip
