"""What a run's card says of each fastener: a line a fastener, stages across; what was required and what was got."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from uuid import UUID

from tight_ledger.core.base.display import show_band
from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.names import name_of
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Plan, Pull
from tight_ledger.core.runs.descriptions import figures_of, pass_words
from tight_ledger.core.runs.outcomes import blamed
from tight_ledger.core.runs.run import RunState

NOBODY: Mapping[UUID, str] = {}


class CardCell(Model):
    """One fastener in one stage, or one reading on the joint."""

    required: str
    """`350 N·m, 340–360`; empty where nothing is required but that it is done."""
    got: str
    """`clicked at 350 N·m`; empty as long as nothing was done."""
    wrong: tuple[str, ...] = ()
    """What is wrong with it, and not answered."""
    by: str = ""
    at: datetime | None = None
    how: str = ""
    """`from paper`, `trial`; empty for what was recorded as it happened, with a real tool."""


class CardRow(Model):
    """A fastener."""

    label: str
    name: str
    """`nut 4`."""
    wrong: tuple[str, ...]
    """Everything that is wrong with it, and not answered."""
    cells: tuple[CardCell | None, ...]
    """One for each column; None where a stage has no pull on it."""


class CardReading(Model):
    """What was read on the joint, not on a fastener."""

    what: str
    cell: CardCell


class CardTable(Model):
    """Everything that was required of a joint's fasteners, and what was got."""

    columns: tuple[str, ...]
    rows: tuple[CardRow, ...]
    readings: tuple[CardReading, ...] = ()


def card_table(
    plan: Plan, state: RunState, entries: Sequence[Entry], people: Mapping[UUID, str] = NOBODY, kinds: Registry = KINDS
) -> CardTable:
    """The table of a run.

    Args:
        plan: in force.
        entries: the run's, by seq.
        people: names by id.
    """
    live = set(state.live)
    last = {entry.pull: entry for entry in entries if entry.pull is not None and entry.id in live}
    wrong: dict[UUID, list[str]] = {}
    wrong_at: dict[str, list[str]] = {}
    for verdict in state.unanswered():
        if verdict.entry is not None:
            wrong.setdefault(verdict.entry, []).append(verdict.said)
        for label in blamed(plan, state, verdict):
            wrong_at.setdefault(label, []).append(verdict.said)
    standing = {pull.id: pull.status for pull in state.pulls}
    words = pass_words(plan, kinds)

    def cell(pass_: Pass, pull: Pull) -> CardCell | None:
        if standing[pull.id] == "skipped":
            return None
        entry, kind = last.get(pull.id), kinds[pass_.kind]
        required = _required(pull, entry)
        if entry is None or kind.answered_by != entry.kind:
            return CardCell(required=required, got="made unnecessary by a later one" if standing[pull.id] == "covered" else "")
        figures = figures_of(entry, pull, plan, state.clicked_at.get(entry.id))
        how = "trial" if entry.trial else "" if entry.is_timed else "from paper"
        return CardCell(
            required=required, got=kind.told(entry, pass_, pull, figures), wrong=tuple(wrong.get(entry.id, ())),
            by=people.get(entry.by, ""), at=entry.at_device if not entry.is_timed else entry.done_at, how=how,
        )  # fmt: skip

    shown = [pass_ for pass_ in plan.passes if any(pull.fastener is not None and standing[pull.id] != "skipped" for pull in pass_.pulls)]
    labels = dict.fromkeys(pull.fastener for pass_ in shown for pull in pass_.pulls if pull.fastener is not None)
    cells = [{pull.fastener: cell(pass_, pull) for pull in pass_.pulls} for pass_ in shown]
    readings = [
        CardReading(what=words[pass_.id], cell=found)
        for pass_ in plan.passes
        for pull in pass_.pulls
        if pull.fastener is None and kinds[pass_.kind].has_measured_band and (found := cell(pass_, pull)) is not None and found.got
    ]
    return CardTable(
        columns=tuple(words[pass_.id] for pass_ in shown),
        rows=tuple(
            CardRow(
                label=label,
                name=name_of(plan.nouns, label),
                wrong=tuple(wrong_at.get(label, ())),
                cells=tuple(column.get(label) for column in cells),
            )
            for label in sorted(labels, key=lambda label: (len(label), label))
        ),
        readings=tuple(readings),
    )


def _required(pull: Pull, entry: Entry | None) -> str:
    """`350 N·m, 340–360`: of a ladder, the rung that was taken."""
    rung = next((each for each in pull.rungs if entry is not None and each.key == entry.rung), None)
    band = rung.band if rung is not None else pull.band
    if band is None:
        return ""
    shown = show_band(band)
    return f"{shown.figure}\u00a0{shown.unit}, {shown.low}–{shown.high}".replace("\u00a0°", "°")
