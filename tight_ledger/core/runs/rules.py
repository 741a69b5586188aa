"""The rules of the fold: what an entry covers, reopens and answers, and what is odd about it. Each with its story in docs/rules.md."""

from collections.abc import Callable

from tight_ledger.core.kinds.fold_state import FoldState, Row
from tight_ledger.core.kinds.judging import Judged
from tight_ledger.core.records.entries import Entry, Report
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.records.verdicts import CLOSED_BY_ITS_PULL, Verdict

TIGHTENS: frozenset[str] = frozenset({"torque", "angle", "check", "turns"})
"""Kinds of pass that leave a fastener tighter: a later one covers an earlier one that is still open."""
MEASURES: frozenset[str] = frozenset({"measure", "align"})
"""Kinds of pass whose last reading must lie in its band."""
AFTER_THE_JOINT: frozenset[str] = frozenset({"measure", "rotate"})
"""Tasks on the joint that what came loose puts in question."""
PAST_S = 2.0
"""A clock that goes back by more than this was set back."""
FEWEST_FOR_A_PACE = 4


def clock(fold: FoldState, entry: Entry) -> None:
    """A device's clock goes forward, and no two pulls are closer together than a hand can make them."""
    if entry.corrects is not None:
        return
    before = fold.last_pull_at.get(entry.device)
    fold.last_pull_at[entry.device] = entry.at_device
    if before is None:
        return
    gap = (entry.at_device - before).total_seconds()
    if gap < -PAST_S:
        fold.say("from_the_past", entry)
    if entry.reading is None and 0 <= gap < fold.policy.fastest_pull_s:
        fold.say("implausible", entry)


def pace(fold: FoldState, entry: Entry, one: Pass) -> None:
    """A whole pass takes longer than pressing a key: what no instrument backs is held against the shop's mean."""
    if entry.reading is not None or entry.corrects is not None:
        return
    presses = fold.pass_pace.setdefault(one.id, [])
    presses.append(entry)
    closed = all(pull.id in fold.outcomes or fold.is_skipped(one, pull) for pull in reversed(one.pulls))  # the last is open longest
    if not closed or len(presses) < FEWEST_FOR_A_PACE or len({press.device for press in presses}) > 1:
        return
    mean_s = (presses[-1].at_device - presses[0].at_device).total_seconds() / (len(presses) - 1)
    if 0 <= mean_s < fold.policy.fastest_mean_s:
        fold.verdicts.append(Verdict(code="hurried", entry=entry.id, seq=entry.seq, pull=presses[-1].pull))
    elif one.kind == "check":
        fold.steady |= {pull.fastener: entry.seq for pull in one.pulls if pull.fastener is not None}


def with_what(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> None:
    """The planned wrench, and the same for a whole pass."""
    if not entry.tools or pull.tool is None:
        return
    if pull.tool not in entry.tools:
        fold.say("wrong_tool", entry, pull)
    before = fold.last_tool.get(one.id)
    planned = {p.tool for p in one.pulls}
    if before is not None and before != entry.tools[0] and len(planned) == 1 and entry.tools[0] not in planned:
        fold.say("wrench_changed", entry, pull)
    fold.last_tool[one.id] = entry.tools[0]


def time(fold: FoldState, entry: Entry, one: Pass, pull: Pull, judged: Judged) -> None:
    """Too early is said; too late closes the rest of the pass as late."""
    start = timed_from(fold, one)
    if start is None:
        return
    elapsed = fold.seconds_between(start, entry)
    if one.at_least_s is not None and elapsed < one.at_least_s:
        fold.say("early", entry, pull)
    if one.at_most_s is not None and elapsed > one.at_most_s:
        fold.say("late", entry, pull)
        for other in one.pulls:
            if other.id == pull.id or fold.is_open(one, other):
                fold.close_as(other.id, "late")
    elif judged.outcome in ("ok", "done", "turned"):
        fold.close_as(pull.id, "in_time")


def timed_from(fold: FoldState, one: Pass) -> Entry | None:
    """The entry from which a pass's time runs: the last that closed the step before."""
    before = [p.id for rounds in one.after for pass_id in rounds for p in fold.by_pass[pass_id].pulls]
    return max((fold.closed_by[pull_id] for pull_id in before if pull_id in fold.closed_by), key=lambda e: e.seq, default=None)


def cover(fold: FoldState, entry: Entry, index: int, pull: Pull) -> None:
    """Earlier open stages of a fastener that is now tighter, since it was last loose, are never asked for again."""
    if pull.fastener is None:
        return
    for earlier_index, one, earlier in reversed(fold.by_fastener[pull.fastener]):
        if earlier_index >= index:
            continue
        if one.free:
            return
        if one.kind in TIGHTENS and fold.is_open(one, earlier):
            fold.close_as(earlier.id, "skipped")
            fold.covered.add(earlier.id)
            fold.say("skipped", entry, earlier)


def again(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> None:
    """A second pull where one was made is said, and not made up for on another fastener."""
    if pull.fastener in fold.yielded:
        fold.say("spent", entry, pull)
    else:
        friendly = fold.policy.second_click == "check" and entry.reading is None and one.kind != "angle"
        fold.say("second_click" if friendly else "twice", entry, pull)


def is_held(fold: FoldState, entry: Entry, pull: Pull) -> bool:
    """Keep an entry apart that was made without having seen another for the same pull, until somebody says: one pull, or two."""
    progress = fold.progress.get(pull.id)
    first = fold.closed_by.get(pull.id) or (progress.last if progress is not None else None)
    if first is None or not not_seen(entry, first) or entry.id in fold.settled:
        return False
    fold.held[entry.id] = entry
    fold.say("one_or_two", entry, pull)
    return True


def not_seen(entry: Report, first: Entry) -> bool:
    """Whether something was reported by somebody who had not seen another: by the number that was claimed, never by the clock."""
    return entry.claimed_seq is not None and entry.claimed_seq <= first.seq


def loosen(fold: FoldState, entry: Entry) -> None:
    """All stages of what came loose start again, since it was last loose; in an until-loop those of the newest round.

    What was turned into yield and is loosened is used up, unless its kind may be used again.
    """
    if entry.fastener is None:
        loose = set(fold.by_fastener)
    else:
        loose = {f for unit in fold.plan.units if entry.fastener in unit for f in unit} or {entry.fastener}
    newest = {(one.step, one.item): one.id for _, one, pull in fold.order.values() if pull.id in fold.outcomes}
    rows = [row for fastener in loose for row in _since_loose(fold, fastener)]
    first = min((index for index, _, pull in rows if pull.id in fold.outcomes), default=len(fold.order))
    rows += [row for row in fold.order.values() if row[2].fastener is None and row[1].kind in AFTER_THE_JOINT and row[0] > first]
    for _, one, pull in rows:
        if not any(one.until_loops) or newest.get((one.step, one.item)) == one.id:
            fold.forget(pull)
    fold.first = (0, 0)
    for fastener in sorted(loose):
        fold.loosened[fastener] = entry.seq
        fold.say("reopened", entry, fastener=fastener)
        used_up = fold.yielded.get(fastener)
        if entry.kind == "replaced":
            fold.replaced[fastener] = entry.seq
            fold.yielded.pop(fastener, None)
        elif used_up is not None and used_up.once:
            fold.say("spent", entry, fastener=fastener)


def _since_loose(fold: FoldState, fastener: str) -> list[Row]:
    """A fastener's pulls since its last planned free loosening that was done."""
    pulls = fold.by_fastener.get(fastener, [])
    freed = [place for place, (_, one, pull) in enumerate(pulls) if one.free and pull.id in fold.outcomes]
    return pulls[freed[-1] + 1 :] if freed else pulls


def good_again(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> None:
    """A reading in its band answers the earlier ones of its step, and of the steps because of which it was taken."""
    fold.good_since[one.step, one.item, pull.fastener] = entry.seq
    for step in fold.steps_looked_at((*one.when, *pull.when), pull.fastener):
        fold.good_since[step] = entry.seq


def decide(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> None:
    """A lead's decision answers for the fastener that it names; at a stop, for what the stop looks at."""
    fold.say("deviated", entry, pull)
    if pull.fastener is not None:
        fold.decided_for[pull.fastener] = entry.seq
    for test in (*one.when, *pull.when):
        for rounds in test.passes:
            for looked_at in (pull.id for pass_id in rounds for pull in fold.by_pass[pass_id].pulls):
                fold.decided_pull[looked_at] = entry.seq


def judged(fold: FoldState, stopped_at: Pass | None) -> tuple[Verdict, ...]:
    """Every verdict, each with whether something later has answered it; and the stop that the run stands at."""
    found = []
    for verdict in fold.verdicts:
        answered = is_answered(fold, verdict)
        found.append(verdict if verdict.answered == answered else verdict.model_copy(update={"answered": answered}))
    if stopped_at is not None and stopped_at.kind == "stop":
        found.append(Verdict(code="stopped", pull=stopped_at.id, detail=stopped_at.tried))
    return tuple(found)


def is_answered(fold: FoldState, verdict: Verdict) -> bool:
    """Whether something that came later has answered a verdict."""
    if verdict.code in _ANSWERED_BY:
        return _ANSWERED_BY[verdict.code](fold, verdict)
    return _by_the_lead(fold, verdict) or _by_loosening(fold, verdict)


def _by_the_lead(fold: FoldState, verdict: Verdict) -> bool:
    whole, named = fold.decided_for.get(None, 0), fold.decided_for.get(verdict.fastener, 0)
    return verdict.seq < max(whole, named, fold.decided_pull.get(verdict.pull or "", 0))


def _by_loosening(fold: FoldState, verdict: Verdict) -> bool:
    return verdict.fastener is not None and verdict.seq < fold.loosened.get(verdict.fastener, 0)


def _by_its_pull(fold: FoldState, verdict: Verdict) -> bool:
    closed = verdict.pull is not None and verdict.pull in fold.outcomes
    return closed or _by_the_lead(fold, verdict) or _by_loosening(fold, verdict)


def _by_a_new_one(fold: FoldState, verdict: Verdict) -> bool:
    return _by_the_lead(fold, verdict) or verdict.seq < fold.replaced.get(verdict.fastener or "", 0)


def _by_a_good_reading(fold: FoldState, verdict: Verdict) -> bool:
    _, one, pull = fold.order[verdict.pull or ""]
    good = fold.good_since.get((one.step, one.item, pull.fastener), 0)
    return verdict.seq < good or _by_the_lead(fold, verdict) or _by_loosening(fold, verdict)


def _by_a_steady_check(fold: FoldState, verdict: Verdict) -> bool:
    labels = [pull.fastener for pull in fold.order[verdict.pull or ""][1].pulls]
    checked = all(verdict.seq < fold.steady.get(label, 0) for label in labels if label is not None)
    return checked or _by_the_lead(fold, verdict)


_ANSWERED_BY: dict[str, Callable[[FoldState, Verdict], bool]] = {
    **dict.fromkeys(CLOSED_BY_ITS_PULL, _by_its_pull),
    "spent": _by_a_new_one,
    "not_judged": _by_loosening,
    "one_or_two": lambda fold, verdict: verdict.entry in fold.settled,
    "out_of_band": _by_a_good_reading,
    "hurried": _by_a_steady_check,
}
"""How those are answered that a lead's word and loosening do not answer alike."""
