"""A run in short, derived from its entries: what lists over many runs are read from."""

from collections.abc import Iterator, Sequence
from datetime import datetime
from uuid import UUID

from tight_ledger.core.base.models import Model, Names
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.records.entries import PHYSICAL, TIGHTENING, WITH_A_TOOL, Entry, Outcome, Started
from tight_ledger.core.runs.outcomes import reasons
from tight_ledger.core.runs.run import RunState

TERM_LENGTH = 120


class RunSummary(Model):
    """A run in short. For an open run, only what does not change in it; the rest has its default."""

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
    parts: Names = frozenset()
    """Kinds of fastener that it works on, and the shims, spacers and washers that were fitted."""


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
    fixed["parts"] = frozenset(_parts(started, entries))
    if state.standing is None:
        return RunSummary.model_validate(fixed)
    ended = next((entry for entry in reversed(entries) if entry.kind == "finished"), None)
    said = {
        "standing": state.standing, "touched": bool(state.touched), "ended_at": ended.at_server if ended is not None else None,
        "people": tuple(dict.fromkeys(entry.by for entry in entries if entry.kind in PHYSICAL)),
        "pulls": sum(entry.kind in TIGHTENING for entry in entries), "reasons": state.reasons or reasons(started.plan, state),
        "outcomes": frozenset(pull.outcome for pull in state.pulls if pull.outcome is not None),
    }  # fmt: skip
    return RunSummary.model_validate(fixed | said)


def _parts(started: Started, entries: Sequence[Entry]) -> Iterator[str]:
    if started.facts is not None:
        yield from started.facts.layout.kinds
    names = {now.piece.id: now.piece.name for now in started.stock}
    for entry in entries:
        if entry.kind == "adjusted" and entry.adjusted is not None and entry.proposed is not None:
            yield from (names[piece] for piece in entry.proposed.pieces if piece in names)


def terms_of(summary: RunSummary, entries: Sequence[Entry]) -> set[str]:
    """What a run is found by besides its place: who did, recorded or signed something in it, with which tools, and its parts."""
    people = {each for entry in entries for each in (entry.by, entry.recorded_by)}
    tools = {entry.tools[0] for entry in entries if entry.kind in WITH_A_TOOL and entry.tools}
    found = {f"person:{each}" for each in people} | {f"tool:{each}" for each in tools}
    return found | {f"part:{each.casefold()}"[:TERM_LENGTH] for each in summary.parts}
