"""Coming back to a run: who left it, when and why, and what the step that it stands at can have had meanwhile."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.names import name_of
from tight_ledger.core.records.entries import PHYSICAL, Entry
from tight_ledger.core.records.plans import Pass, Plan, Pull
from tight_ledger.core.runs.prompt import Act, current_pull, stage_words
from tight_ledger.core.runs.run import RunState

ON_RETURN = "recorded on coming back"
BEGUN: frozenset[str] = frozenset({"pulled", "checked", "loosened", "turned", "measured", "paused", "handed_over"})
"""Kinds of entry after which somebody may have gone on without recording it."""


class Return(Model):
    """What is asked of the person who comes back."""

    left_by: UUID
    left_at: datetime
    why: str
    """As the one who left said it; empty if nothing was said."""
    ask: str
    answers: tuple[Act, ...]


def returning(plan: Plan, state: RunState, entries: Sequence[Entry]) -> Return | None:
    """The question on coming back; None if nothing was begun, or the run is at its end.

    Args:
        entries: the run's, by seq.
    """
    found = current_pull(plan, state)
    left = next((entry for entry in reversed(entries) if entry.kind in PHYSICAL | {"handed_over"}), None)
    if found is None or left is None or not any(entry.kind in BEGUN for entry in entries):
        return None
    one, pull = found
    ask, answers = _question(plan, state, one, pull)
    why = left.text or "" if left.kind in ("paused", "handed_over") else ""
    return Return(left_by=left.by, left_at=left.at_server, why=why, ask=ask, answers=answers)


def _question(plan: Plan, state: RunState, one: Pass, pull: Pull) -> tuple[str, tuple[Act, ...]]:
    name = name_of(plan.nouns, pull.fastener) if pull.fastener is not None else ""
    where = ", ".join(part for part in (name, stage_words(plan)[one.id] or one.say.rstrip(".")) if part)
    where = where[:1].upper() + where[1:]
    if one.kind == "measure" or state.doing.unsure or state.doing.set_first is not None:
        return f"{where}: go on?", (_resumed("Go on"),)
    if one.kind == "angle" and pull.band is not None:
        aim, done = pull.band.aim(), state.doing.degrees
        not_sure = "Not sure: it needs a new one" if pull.yields else "Not sure: loosen it and start again"
        return f"{where}: {done:.0f}° of {aim:.0f}° are recorded. Where does the mark stand?", (
            _resumed(f"Where it stood, at {done:.0f}°", "not pulled"),
            _did(f"At the target, {aim:.0f}°", "pulled", how="gauge", counts="total"),
            _did("Elsewhere: type the degrees", "pulled", how="gauge", counts="total", asks_degrees=True),
            _resumed(not_sure, "not sure"),
        )
    if one.kind == "torque":
        return f"{where}: was it pulled while nobody recorded?", (
            _resumed("Not pulled", "not pulled"),
            _did("Yes, it clicked", "pulled", how="click"),
            _resumed("Not sure: pull it; if it clicks without turning it had its pull", "not sure"),
        )
    if one.kind == "check":
        return f"{where}: was it checked while nobody recorded?", (
            _resumed("Not checked", "not pulled"),
            _did("Yes, it did not turn", "checked", how="click", moved=False),
            _did("Yes, it turned", "checked", how="click", moved=True),
            _resumed("Not sure: check it again", "not sure"),
        )
    if len(one.options) > 1 or one.kind == "stop":
        return f"{where}: go on?", (_resumed("Go on"),)
    kind = {"do": "confirmed", "loosen": "loosened"}.get(one.kind, "turned")
    return f"{where}: was it done while nobody recorded?", (_resumed("Not done", "not pulled"), _did("Yes, it is done", kind))


def _resumed(say: str, option: str | None = None) -> Act:
    return Act(say=say, kind="resumed", option=option, of_fastener=False)


def _did(say: str, kind: str, **more: object) -> Act:
    given = {"say": say, "kind": kind, "text": ON_RETURN, "affirmed": ("pace",), "of_fastener": False}
    return Act.model_validate(given | more)
