"""The fold: takes a run's entries one after the other, and applies the rules to each."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal
from uuid import UUID

from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import OPEN, Judged, JudgedVerdict
from tight_ledger.core.kinds.pull_state import PlannedPull
from tight_ledger.core.kinds.rungs import picked, planned_setting
from tight_ledger.core.kinds.step_kind import Registry, StepKind
from tight_ledger.core.records.corrections import corrected, may_correct, may_take_back
from tight_ledger.core.records.entries import ANSWERING, PHYSICAL, TIGHTENING, Entry, Report
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.runs import rules

GOOD: frozenset[str] = frozenset({"ok", "aligned", "in_time"})
"""Outcomes of a measurement in its band."""


@dataclass(frozen=True, slots=True)
class PassState:
    """How a pass stands; `maybe` while the outcomes that decide whether it comes are still open."""

    id: str
    status: Literal["done", "current", "ahead", "maybe", "skipped"]
    done: int
    total: int


def answers(kinds: Registry) -> dict[str, frozenset[str]]:
    """The kinds of step that each kind of entry can answer. `deviated` answers any."""
    found: dict[str, set[str]] = {}
    for kind in kinds.values():
        if kind.answered_by is not None:
            found.setdefault(kind.answered_by, set()).add(kind.name)
    return {entry_kind: frozenset(names) for entry_kind, names in found.items()}


def original_of(by_id: Mapping[UUID, Entry], entry: Report) -> Entry | None:
    """The entry that a chain of corrections began with; None if it corrects nothing that is there."""
    seen, corrects, found = {entry.id}, entry.corrects, None
    while corrects is not None and corrects in by_id and corrects not in seen:
        found = by_id[corrects]
        seen.add(corrects)
        corrects = found.corrects
    return found


def live_entries(entries: Iterable[Entry], step_of: dict[str, str]) -> list[Entry]:
    """Entries that count, in the order in which they count: repeated ids once, undone ones left out, corrections in place.

    From last to first, a live `undone` removes the entry that it names, so undoing an undo redoes. All corrections of an
    entry name the original; the last live correction takes the place of the original. One that may not (`records.corrections`)
    counts as an entry of its own, and removes nothing.

    Args:
        step_of: by pull id, the id of its pass.
    """
    by_id: dict[UUID, Entry] = {}
    for entry in sorted(entries, key=lambda e: e.seq):
        by_id.setdefault(entry.id, entry)
    dead: set[UUID] = set()
    counts: dict[UUID, Entry] = {}
    place: dict[UUID, int] = {}
    for entry in reversed(by_id.values()):
        if entry.id in dead:
            continue
        if entry.undoes in by_id and may_take_back(by_id[entry.undoes]):
            dead.add(entry.undoes)
        elif (root := original_of(by_id, entry)) is not None and may_correct(root, entry, step_of):
            if root.id in dead:
                dead.add(entry.id)
                continue
            dead.add(root.id)
            counts[entry.id], place[entry.id] = corrected(root, entry), root.seq
    live = [counts.get(entry.id, entry) for entry in by_id.values() if entry.id not in dead]
    return sorted(live, key=lambda e: (place.get(e.id, e.seq), e.seq))


def take(fold: FoldState, kinds: Registry, entry: Entry) -> None:
    """Change the state of a run by its next entry."""
    if entry.in_conflict and entry.kind in PHYSICAL:
        fold.say("conflict", entry)
    if entry.trial:
        rules.practice(fold, entry)
    rules.how_it_came(fold, entry)
    if entry.kind in TIGHTENING:
        fold.hands.add(entry.by)
        if entry.recorded_by != entry.by:
            fold.in_anothers_name.setdefault(entry.recorded_by, set()).add(entry.by)
        rules.clock_goes_forward(fold, entry)
    if entry.kind == "set" and entry.tools and entry.setting is not None:
        fold.tool_use.set_to[entry.tools[0]] = entry.setting
    elif entry.kind == "resumed" and entry.option == "not sure" and entry.pull in fold.pulls.order:
        rules.left_unsure(fold, kinds, entry, fold.pulls.order[entry.pull])
    elif entry.kind == "clarified":
        _clarify(fold, kinds, entry)
    elif entry.kind == "vouched":
        fold.remedies.vouched[entry.by] = entry.seq
    elif entry.kind == "deviated" and entry.about is not None:
        fold.remedies.settled.add(entry.about)
    elif entry.kind in ("loosened", "replaced") and entry.pull is None:
        rules.starts_again(fold, kinds, entry)
    elif entry.kind == "deviated" and entry.pull is None:
        fold.say("deviated", entry)
        fold.remedies.decided_for[entry.fastener] = entry.seq
    elif entry.kind == "deviated" or entry.kind in ANSWERING:
        _answer(fold, kinds, entry)
    fold.pulls.condition_cache.clear()


def _clarify(fold: FoldState, kinds: Registry, entry: Entry) -> None:
    """Settle whether a held entry was the same pull or a second one, of which only a second one counts; or that a notice was read,
    or what was found at an odd end."""
    if entry.about is not None and entry.option in ("seen", "looked"):
        (fold.remedies.seen if entry.option == "seen" else fold.remedies.looked_at).add(entry.about)
        return
    held = fold.held.get(entry.about) if entry.about is not None else None
    if held is None or held.id in fold.remedies.clarified:
        return
    fold.remedies.clarified.add(held.id)
    first = fold.first_of(held.pull or "")
    if entry.option == "two" or (first is not None and both_measured(first, held)):
        _answer(fold, kinds, held)
    elif first is not None and held.reading is not None and first.reading is None:
        rules.is_measured_after_all(fold, held)
        _answer(fold, kinds, held)


def both_measured(first: Entry, second: Entry) -> bool:
    """Whether both of two entries carry a reading: two readings are two pulls, unless a person typed the same one twice."""
    if first.reading is None or second.reading is None:
        return False
    return "wire" in (first.how, second.how) or first.reading != second.reading


def _answer(fold: FoldState, kinds: Registry, entry: Entry) -> None:
    fastener, pulls = entry.fastener, fold.pulls
    if entry.pull not in pulls.order:
        fold.say("off_plan", entry)
        if fastener is not None and entry.kind in TIGHTENING:
            fold.touched[fastener] = None
        return
    planned = pulls.order[entry.pull]
    _, pass_, pull = planned
    kind, decided = kinds[pass_.kind], entry.kind == "deviated"
    if not is_of(pull, entry):
        fold.say("off_plan", entry, fastener=fastener, detail=f"told for {entry.pull}, which is another one's")
        if fastener is not None and entry.kind in TIGHTENING:
            fold.touched[fastener] = None
        return
    if pull.fastener is not None and kind.tightens and not decided:
        fold.touched[pull.fastener] = None
    if not decided and kind.answered_by != entry.kind:
        fold.say("off_plan", entry, pull)
    elif entry.kind in TIGHTENING and rules.is_held(fold, entry, pull):
        return
    elif pull.id in pulls.outcomes and pull.id not in pulls.covered:
        if entry.kind in TIGHTENING:
            rules.pulled_again(fold, kinds, entry, pass_, pull)
    elif not pulls.is_open(pass_, pull):
        fold.say("not_called_for", entry, pull)
    else:
        _close(fold, kinds, kind, entry, planned)
        if entry.kind in TIGHTENING and entry.reading is None and entry.corrects is None and entry.is_timed:
            rules.pace_of_the_pass(fold, kinds, entry, pass_)


def is_of(pull: Pull, said: Report) -> bool:
    """Whether a report names the fastener of its pull, or none."""
    return said.fastener is None or said.fastener == pull.fastener


def _close(fold: FoldState, kinds: Registry, kind: StepKind, entry: Entry, planned: PlannedPull) -> None:
    """Judge an entry at its open pull, and close the pull if the entry is enough for it."""
    index, pass_, pull = planned
    if not fold.pulls.comes_next(pass_, pull):
        rules.out_of_order(fold, entry, pass_, pull)
    if entry.tools:
        rules.by_the_planned_wrench(fold, entry, pass_, pull)
    decided = entry.kind == "deviated"
    judged = _decided(entry, pass_, pull) if decided or kind.judge is None else kind.judge(fold, entry, pass_, pull)
    for found in judged.verdicts:
        fold.say(found.code, entry, pull, detail=found.detail)
    if entry.how == "wire" and pull.tool is not None:
        sent = planned_setting(pull, picked(fold.readings, pull, entry))
        if sent is not None:
            fold.tool_use.set_to[pull.tool] = sent
    if decided:
        rules.decided_by_the_lead(fold, entry, pass_, pull)
    elif kind.tightens and judged.outcome != OPEN:
        rules.covers_earlier_stages(fold, kinds, entry, index, pull)
    if not judged.closes:
        return
    if judged.value is not None:
        fold.readings.values[pull.id] = judged.value
    fold.readings.closed_by[pull.id] = entry
    fold.pulls.close_as(pull.id, judged.outcome)
    if pull.yields and pull.fastener is not None:
        fold.yielded[pull.fastener] = pull
    if pass_.after:
        rules.in_time(fold, entry, pass_, pull, judged)
    if kind.has_measured_band and fold.pulls.outcomes[pull.id] in GOOD:
        rules.good_reading(fold, entry, pass_, pull)


def _decided(entry: Entry, pass_: Pass, pull: Pull) -> Judged:
    """A lead's decision in the place of what was planned; a figure that nobody measured is said, and a choice that nobody made."""
    keys = {option.key for option in pass_.options}
    chosen = entry.option if not keys or entry.option in keys else None
    judged = pull.band is None and not pull.rungs and (not keys or chosen is not None)
    return Judged(chosen or "deviated", verdicts=() if judged else (JudgedVerdict("not_judged"),))


def pass_state(fold: FoldState, pass_: Pass, current: Pass | None) -> PassState:
    """How a pass stands, given the pass that is worked on now."""
    pulls = fold.pulls
    done = sum(pull.id in pulls.outcomes for pull in pass_.pulls)
    total = sum(pull.id in pulls.outcomes or not pulls.is_skipped(pass_, pull) for pull in pass_.pulls)
    if current is not None and current.id == pass_.id:
        return PassState(id=pass_.id, status="current", done=done, total=total)
    if total == 0:
        return PassState(id=pass_.id, status="skipped", done=0, total=0)
    if done == total:
        return PassState(id=pass_.id, status="done", done=done, total=total)
    undecided = any(None in pulls.last_taken(rounds, test.fastener) for test in pass_.when for rounds in test.passes)
    return PassState(id=pass_.id, status="maybe" if undecided else "ahead", done=done, total=total)


def decided_passes(fold: FoldState, conditional: Iterable[PlannedPull]) -> set[str]:
    """Ids of the passes whose outcomes decided about a pull that is already done; they cannot be taken back.

    Args:
        conditional: the pulls that have a condition.
    """
    return {
        pass_id
        for _, pass_, pull in conditional
        if pull.id in fold.pulls.outcomes
        for test in (*pass_.when, *pull.when)
        for rounds in test.passes
        for pass_id in rounds
    }
