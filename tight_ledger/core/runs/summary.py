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
    """A run in short. Of a run that goes on it says only what does not change."""

    title: str
    position: str
    wrenches: tuple[str, ...]
    fasteners: int
    meters: tuple[Meter, ...]
    followup: str | None = None
    started_at: datetime
    standing: Outcome | None = None
    touched: bool = False
    people: tuple[UUID, ...] = ()
    """Who recorded that they did something, in order."""
    pulls: int = 0
    reasons: tuple[str, ...] = ()
    outcomes: Names = frozenset()
    """Of its pulls."""
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
    facts = started.facts
    fixed = {
        "title": facts.title if facts is not None else "", "position": started.position.words, "started_at": entries[0].at_server,
        "wrenches": tuple(dict.fromkeys(tooling.wrench.name for tooling in started.tooling)), "meters": started.meters,
        "fasteners": len(facts.layout.fasteners) if facts is not None else len(started.plan.labels), "followup": started.followup,
    }  # fmt: skip
    if state.standing is None:
        return RunSummary.model_validate(fixed)
    ended = next((entry for entry in reversed(entries) if entry.kind == "finished"), None)
    said = {
        "standing": state.standing, "touched": bool(state.touched), "ended_at": ended.at_server if ended is not None else None,
        "people": tuple(dict.fromkeys(entry.by for entry in entries if entry.kind in PHYSICAL)),
        "pulls": sum(entry.kind in TIGHTENING for entry in entries), "reasons": state.reasons or reasons(started.plan, state),
        "outcomes": frozenset(pull.outcome for pull in state.pulls if pull.outcome is not None),
        "ended_by": ended.by if ended is not None else None,
    }  # fmt: skip
    return RunSummary.model_validate(fixed | said)
