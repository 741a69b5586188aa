"""Coming back to a run: who left it, when and why, and what may have been done at its step meanwhile."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.names import name_of
from tight_ledger.core.kinds.acts import Act, go_on
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.records.entries import PHYSICAL, Entry
from tight_ledger.core.records.plans import Pass, Plan, Pull
from tight_ledger.core.runs.prompt import current_pull, stage_words
from tight_ledger.core.runs.run import RunState

BEGUN: frozenset[str] = frozenset({"pulled", "checked", "loosened", "turned", "measured", "paused", "handed_over"})
"""Kinds of entry after which somebody may have continued without recording it."""


class Return(Model):
    """What is asked of the person who comes back."""

    left_by: UUID
    left_at: datetime
    why: str
    """As the one who left said it; empty if nothing was said."""
    ask: str
    answers: tuple[Act, ...]


def returning(plan: Plan, state: RunState, entries: Sequence[Entry], kinds: Registry = KINDS) -> Return | None:
    """The question on coming back; None if nothing was begun, or the run is at its end.

    Args:
        entries: the run's, by seq.
        kinds: the kinds of step that the plan can have.
    """
    found = current_pull(plan, state)
    left = next((entry for entry in reversed(entries) if entry.kind in PHYSICAL | {"handed_over"}), None)
    if found is None or left is None or not any(entry.kind in BEGUN for entry in entries):
        return None
    pass_, pull = found
    waits = state.doing.unsure or state.doing.set_first is not None
    ask, answers = (go_on if waits else kinds[pass_.kind].on_return)(pass_, pull, state.doing)
    why = left.text or "" if left.kind in ("paused", "handed_over") else ""
    return Return(left_by=left.by, left_at=left.at_server, why=why, ask=f"{_where(plan, pass_, pull, kinds)}: {ask}", answers=answers)


def _where(plan: Plan, pass_: Pass, pull: Pull, kinds: Registry) -> str:
    name = name_of(plan.nouns, pull.fastener) if pull.fastener is not None else ""
    where = ", ".join(part for part in (name, stage_words(plan, kinds)[pass_.id] or pass_.say.rstrip(".")) if part)
    return where[:1].upper() + where[1:]
