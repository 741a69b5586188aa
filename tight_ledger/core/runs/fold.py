"""The fold: one entry after the other, what it closes and which rules it goes through."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal
from uuid import UUID

from tight_ledger.core.kinds.fold_state import FoldState, Row
from tight_ledger.core.kinds.judging import OPEN, Judged, judge, means, picked
from tight_ledger.core.records.entries import PHYSICAL, TIGHTENING, Entry
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.runs import rules

ANSWERS: dict[str, frozenset[str]] = {
    "pulled": frozenset({"torque", "angle"}),
    "checked": frozenset({"check"}),
    "loosened": frozenset({"loosen"}),
    "turned": frozenset({"turns", "align", "rotate"}),
    "measured": frozenset({"measure"}),
    "confirmed": frozenset({"do"}),
}
"""Which kinds of pass an entry of a kind can answer. `deviated` answers any."""
GOOD: frozenset[str] = frozenset({"ok", "aligned", "in_time"})
"""Outcomes of a measurement that was in its band."""


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


def take(fold: FoldState, entry: Entry) -> None:
    """Fold one entry on."""
    if entry.in_conflict and entry.kind in PHYSICAL:
        fold.say("conflict", entry)
    if entry.kind in TIGHTENING:
        rules.clock(fold, entry)
    if entry.kind == "set" and entry.tools and entry.setting is not None:
        fold.set_to[entry.tools[0]] = entry.setting
    elif entry.kind == "resumed" and entry.option == "not sure" and entry.pull in fold.order:
        _left_unsure(fold, entry, fold.order[entry.pull])
    elif entry.kind == "clarified":
        _clarify(fold, entry)
    elif entry.kind in ("loosened", "replaced") and entry.pull is None:
        rules.loosen(fold, entry)
    elif entry.kind == "deviated" and entry.pull is None:
        fold.say("deviated", entry)
        fold.decided_for[entry.fastener] = entry.seq
    elif entry.kind in ANSWERS or entry.kind == "deviated":
        _answer(fold, entry)
    fold.memo.clear()


def _left_unsure(fold: FoldState, entry: Entry, row: Row) -> None:
    """An angle of which nobody knows how far it went cannot be gone on with; a torque is simply pulled again."""
    _, one, pull = row
    if one.kind == "angle" and fold.is_open(one, pull):
        fold.unsure.add(pull.id)
        fold.say("spent" if pull.yields else "unsure", entry, pull, detail="nobody knows how far it was turned" if pull.yields else "")


def _clarify(fold: FoldState, entry: Entry) -> None:
    """One pull recorded twice, or two pulls: the second counts only if it was one."""
    held = fold.held.get(entry.about) if entry.about is not None else None
    if held is None or held.id in fold.settled:
        return
    fold.settled.add(held.id)
    if entry.option == "two":
        _answer(fold, held)


def _answer(fold: FoldState, entry: Entry) -> None:
    fastener = entry.fastener
    if entry.pull not in fold.order:
        fold.say("off_plan", entry)
        if fastener is not None and entry.kind in TIGHTENING:
            fold.touched[fastener] = None
        return
    index, one, pull = fold.order[entry.pull]
    if pull.fastener is not None and one.kind in rules.TIGHTENS and entry.kind in ANSWERS:
        fold.touched[pull.fastener] = None
    if entry.kind != "deviated" and one.kind not in ANSWERS[entry.kind]:
        fold.say("off_plan", entry, pull)
    elif entry.kind in TIGHTENING and rules.is_held(fold, entry, pull):
        return
    elif pull.id in fold.outcomes and pull.id not in fold.covered:
        if entry.kind in TIGHTENING:
            rules.again(fold, entry, one, pull)
    elif not fold.is_open(one, pull):
        fold.say("not_called_for", entry, pull)
    else:
        _close(fold, entry, index, one, pull)
        if entry.kind in TIGHTENING:
            rules.pace(fold, entry, one)


def _close(fold: FoldState, entry: Entry, index: int, one: Pass, pull: Pull) -> None:
    if not fold.comes_next(one, pull):
        current, following = fold.first_open()
        if current is not None and pull.id not in following:
            fold.say("out_of_order" if current.id == one.id else "stage_early", entry, pull)
    rules.with_what(fold, entry, one, pull)
    judged = judge(fold, entry, one, pull)
    _say_what_is_odd(fold, entry, one, pull, judged)
    if entry.how == "wire" and pull.tool is not None and (told := fold.planned_setting(pull, picked(fold, pull, entry))) is not None:
        fold.set_to[pull.tool] = told  # a wrench on the line is told its figure
    if entry.kind == "deviated":
        rules.decide(fold, entry, one, pull)
    elif one.kind in rules.TIGHTENS and judged.outcome != OPEN:
        rules.cover(fold, entry, index, pull)
    if judged.outcome == OPEN or (judged.outcome == "low" and one.kind in ("torque", "angle")):
        return
    if judged.value is not None:
        fold.values[pull.id] = judged.value
    fold.closed_by[pull.id] = entry
    fold.close_as(pull.id, judged.outcome)
    if one.kind == "angle" and pull.yields and pull.fastener is not None:
        fold.yielded[pull.fastener] = pull
    if one.after:
        rules.time(fold, entry, one, pull, judged)
    if one.kind in rules.MEASURES and fold.outcomes[pull.id] in GOOD:
        rules.good_again(fold, entry, one, pull)


def _say_what_is_odd(fold: FoldState, entry: Entry, one: Pass, pull: Pull, judged: Judged) -> None:
    for code in judged.odd:
        fold.say(code, entry, pull)
    if judged.outcome == "low" and one.kind == "torque":  # an angle goes on with the next swing
        fold.say("low", entry, pull)
    if judged.outcome == "high" and one.kind in ("torque", "angle"):
        fold.say("spent" if pull.yields else "high", entry, pull)
    if judged.outcome in ("low", "high") and one.kind in rules.MEASURES and judged.outcome not in one.again_on:
        fold.say("out_of_band", entry, pull, detail=means(one, judged.outcome))
    if judged.outcome == "moved":
        fold.say("turned", entry, pull)


def pass_state(fold: FoldState, one: Pass, current: Pass | None) -> PassState:
    """How a pass stands."""
    done = sum(pull.id in fold.outcomes for pull in one.pulls)
    total = sum(pull.id in fold.outcomes or not fold.is_skipped(one, pull) for pull in one.pulls)
    if current is not None and current.id == one.id:
        return PassState(id=one.id, status="current", done=done, total=total)
    if total == 0:
        return PassState(id=one.id, status="skipped", done=0, total=0)
    if done == total:
        return PassState(id=one.id, status="done", done=done, total=total)
    undecided = any(None in fold.last_taken(rounds, test.fastener) for test in one.when for rounds in test.passes)
    return PassState(id=one.id, status="maybe" if undecided else "ahead", done=done, total=total)


def hanging(fold: FoldState, conditional: Iterable[Row]) -> set[str]:
    """Passes whose outcomes a later pass that has begun hangs on.

    Args:
        conditional: the pulls that have a condition.
    """
    return {
        pass_id
        for _, one, pull in conditional
        if pull.id in fold.outcomes
        for test in (*one.when, *pull.when)
        for rounds in test.passes
        for pass_id in rounds
    }
