"""The rules of the fold, a function each: what is odd about an entry, what it covers, opens again and answers.

What a figure means for its pull is judged by the kind of step; `answered.py` has what answers a verdict later; the story
behind each verdict is in `records/verdicts.py`.
"""

from collections.abc import Iterable, Sequence
from uuid import UUID

from tight_ledger.core.base.display import span
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import Judged
from tight_ledger.core.kinds.pull_state import PlannedPull
from tight_ledger.core.kinds.readings import clocks_differ, seconds_between
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.records.entries import Entry, Report
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.records.verdicts import Verdict, VerdictCode
from tight_ledger.core.runs.answered import is_answered
from tight_ledger.core.specs.steps import WhichEntry

PAST_S = 2.0
"""A clock that goes back by more than this was set back."""
AHEAD_S = 120.0
"""A clock that is ahead of the server's by more than this tells of what has not happened yet."""
WHOLE_S = 1.0
"""Some clocks tell whole seconds only."""
WHOLE_MINUTE_S = 60.0
"""What is entered from paper is told in whole minutes."""
FEWEST_FOR_A_PACE = 4
"""Number of presses in a pass from which their mean pace is judged."""

# what is odd about an entry -------------------------------------------------------------------------------------------


def practice(fold: FoldState, entry: Entry) -> None:
    """Say once if a simulated wrench told something in this run; nothing answers it."""
    if all(verdict.code != "trial" for verdict in fold.verdicts):
        fold.say("trial", entry)


def how_it_came(fold: FoldState, entry: Entry) -> None:
    """Say what speaks against the way in which an entry came; each thing once until it is answered. A printed sheet speaks for what
    comes from paper after it."""
    if entry.kind == "printed":
        fold.sheets.append(entry)
    for flag in entry.flags or ():
        _say_once(fold, Verdict(code=flag.code, entry=entry.id, seq=entry.seq, detail=flag.words))
    if entry.unproven:
        fold.unproven[entry.id] = entry.by
        _say_once(fold, Verdict(code="not_proven", entry=entry.id, seq=entry.seq))
    if not entry.is_timed:
        code: VerdictCode = "from_paper" if _has_a_sheet(fold, entry) else "no_sheet"
        _say_once(fold, Verdict(code=code, entry=entry.id, seq=entry.seq))


def _has_a_sheet(fold: FoldState, entry: Entry) -> bool:
    """Whether the run was printed before what an entry tells from paper was done; moments from paper are told to the minute."""
    if not fold.sheets_recorded:
        return True
    return any((sheet.at_device - entry.at_device).total_seconds() < WHOLE_MINUTE_S for sheet in fold.sheets)


def _say_once(fold: FoldState, verdict: Verdict) -> None:
    def who(each: Verdict) -> UUID | None:
        return fold.unproven.get(each.entry) if each.entry is not None else None

    same = (each for each in fold.verdicts if (each.code, each.detail, who(each)) == (verdict.code, verdict.detail, who(verdict)))
    if all(is_answered(fold, each) for each in same):
        fold.verdicts.append(verdict)


def clock_goes_forward(fold: FoldState, entry: Entry) -> None:
    """Say if a device's clock is ahead, was set, or goes otherwise than the server's; and if a press came sooner than the same
    person can pull again, on whatever tablet."""
    if entry.corrects is not None or not entry.is_timed:
        return
    last = fold.tool_use.last_pull
    on_device, by_person = last.get(entry.device), last.get(entry.by)
    ahead_s = (entry.at_device - entry.done_at).total_seconds()
    if entry.waited_ms is not None and ahead_s > AHEAD_S and _is_new(fold, "clock_ahead", entry):
        fold.say("clock_ahead", entry, detail=f"its tablet's clock is {span(ahead_s)} ahead")
    if on_device is not None and clocks_differ(on_device, entry) and _is_new(fold, "clock_moved", entry):
        told, passed = (span(each) for each in (told_s(on_device, entry), seconds_between(on_device, entry)))
        fold.say("clock_moved", entry, detail=f"{told} after the last one by its tablet's clock; by the server's {passed}")
    if on_device is not None and (entry.at_device - on_device.at_device).total_seconds() < -PAST_S:
        fold.say("from_the_past", entry)
    if by_person is not None and entry.reading is None and 0 <= time_between_s(by_person, entry) < fold.policy.fastest_pull_s:
        fold.say("implausible", entry)
    last[entry.device] = last[entry.by] = entry


def _is_new(fold: FoldState, code: VerdictCode, entry: Entry) -> bool:
    """Whether nothing was said yet of the clock of a device; of each thing it is said once."""
    told = (code, entry.device) in fold.tool_use.clocks
    fold.tool_use.clocks.add((code, entry.device))
    return not told


def time_between_s(earlier: Entry, later: Entry) -> float:
    """The time between two entries for a question of pace [s]. Of two tablets of which it is not known how long their entries
    waited, the longer of what their clocks and the server's say."""
    if earlier.device == later.device or None not in (earlier.waited_ms, later.waited_ms):
        return seconds_between(earlier, later)
    return max(abs(told_s(earlier, later)), abs((later.at_server - earlier.at_server).total_seconds()))


def told_s(earlier: Entry, later: Entry) -> float:
    """The time between two entries as their devices tell it [s]."""
    return (later.at_device - earlier.at_device).total_seconds()


def pace_of_the_pass(fold: FoldState, kinds: Registry, entry: Entry, pass_: Pass) -> None:
    """Say if a whole pass was pressed faster, on average, than a hand can pull.

    Args:
        entry: a press, without an instrument's reading. Each person's presses are judged by themselves, on whatever tablet; a check
            at a steady pace answers an earlier pass that was too fast.
    """
    presses = fold.tool_use.presses.setdefault(pass_.id, [])
    presses.append(entry)
    pulls = fold.pulls
    closed = all(pull.id in pulls.outcomes or pulls.is_skipped(pass_, pull) for pull in reversed(pass_.pulls))  # the last is open longest
    if not closed:
        return
    by_person = [[press for press in presses if press.by == person] for person in dict.fromkeys(press.by for press in presses)]
    judged = [each for each in by_person if len(each) >= FEWEST_FOR_A_PACE]
    hurried = [each[-1] for each in judged if 0 <= taken_s(each) / (len(each) - 1) < fold.policy.fastest_mean_s]
    for press in hurried:
        fold.verdicts.append(Verdict(code="hurried", entry=press.id, seq=entry.seq, pull=press.pull))
    if judged and not hurried and kinds[pass_.kind].proves_pace:
        fold.remedies.steady_check |= {pull.fastener: entry.seq for pull in pass_.pulls if pull.fastener is not None}


def taken_s(presses: Sequence[Entry]) -> float:
    """How long some presses of one person took [s], from the first to the last, by the clock of their tablet: unless less time has
    passed at the server than can be.

    A tablet sends its entries one after the other, each when the one before was answered. So only the first of them can have come
    late, by no more than until the second was sent; by more than that the server's time is not shorter than the tablet's.
    """
    first, second, last = presses[0], presses[1], presses[-1]
    told = time_between_s(first, last)
    if len({press.device for press in presses}) > 1 or any(press.waited_ms is None for press in presses):
        return told
    passed = (last.done_at - first.done_at).total_seconds()
    on_the_way = told_s(first, second) + ((second.waited_ms or 0) - (first.waited_ms or 0)) / 1_000
    return max(passed, 0.0) if told - passed > max(on_the_way, 0.0) + WHOLE_S else told


def out_of_order(fold: FoldState, entry: Entry, pass_: Pass, pull: Pull) -> None:
    """Say that another pull comes first: out of order within its pass, or a stage before the last one is finished."""
    current, following = fold.pulls.first_open()
    if current is not None and pull.id not in following:
        fold.say("out_of_order" if current.id == pass_.id else "stage_early", entry, pull)


def by_the_planned_wrench(fold: FoldState, entry: Entry, pass_: Pass, pull: Pull) -> None:
    """Say if a pull was made with another wrench than planned, or if the wrench changed within a pass."""
    if not entry.tools or pull.tool is None:
        return
    if pull.tool not in entry.tools:
        fold.say("wrong_tool", entry, pull)
    before = fold.tool_use.last_in_pass.get(pass_.id)
    planned = {each.tool for each in pass_.pulls}
    if before is not None and before != entry.tools[0] and len(planned) == 1 and entry.tools[0] not in planned:
        fold.say("wrench_changed", entry, pull)
    fold.tool_use.last_in_pass[pass_.id] = entry.tools[0]


def in_time(fold: FoldState, entry: Entry, pass_: Pass, pull: Pull, judged: Judged) -> None:
    """Judge the time since an earlier step. Each pull is early or late by itself; the others of its pass are still to be made."""
    wait, limit = timed_from(fold, pass_, pass_.waits_from), timed_from(fold, pass_, pass_.limited_from)
    if wait is None or limit is None:
        return
    if pass_.at_least_s is not None and seconds_between(wait, entry) < pass_.at_least_s:
        fold.say("early", entry, pull)
    if pass_.at_most_s is not None and seconds_between(limit, entry) > pass_.at_most_s:
        fold.pulls.close_as(pull.id, "late")
        if "late" not in pass_.again_on:
            fold.say("late", entry, pull)
            return
        for other in pass_.pulls:  # the step's own loop loosens all and begins again
            if fold.pulls.is_open(pass_, other):
                fold.pulls.close_as(other.id, "late")
    elif judged.outcome in ("ok", "done", "turned"):
        fold.pulls.close_as(pull.id, "in_time")


def timed_from(fold: FoldState, pass_: Pass, which: WhichEntry) -> Entry | None:
    """The entry from which a time of a pass runs: of those that closed pulls of the step before, the first or the last; None if there
    is none."""
    before = [pull.id for rounds in pass_.after for pass_id in rounds for pull in fold.pulls.by_pass[pass_id].pulls]
    closed_by = fold.readings.closed_by
    entries = sorted((closed_by[pull_id] for pull_id in before if pull_id in closed_by), key=lambda entry: entry.seq)
    return (entries[0] if which == "first" else entries[-1]) if entries else None


def left_unsure(fold: FoldState, kinds: Registry, entry: Entry, planned: PlannedPull) -> None:
    """Someone came back and does not know how far a pull had gone.

    A pull that adds up from swings cannot be continued then: the fastener is loosened, or replaced if it was going into
    yield. Any other pull is made again.
    """
    _, pass_, pull = planned
    if kinds[pass_.kind].adds_up and fold.pulls.is_open(pass_, pull):
        fold.unsure.add(pull.id)
        fold.say("spent" if pull.yields else "unsure", entry, pull, detail="nobody knows how far it was turned" if pull.yields else "")


# what an entry covers -------------------------------------------------------------------------------------------------


def covers_earlier_stages(fold: FoldState, kinds: Registry, entry: Entry, index: int, pull: Pull) -> None:
    """Earlier open stages of a fastener that is now tighter are closed as skipped, back to where it was last loose.

    Args:
        index: of the pull in the plan.
    """
    if pull.fastener is None:
        return
    for earlier_index, pass_, earlier in reversed(fold.pulls.by_fastener[pull.fastener]):
        if earlier_index >= index:
            continue
        if pass_.free:
            return
        if kinds[pass_.kind].tightens and fold.pulls.is_open(pass_, earlier):
            fold.pulls.close_as(earlier.id, "skipped")
            fold.pulls.covered.add(earlier.id)
            fold.say("skipped", entry, earlier)


def pulled_again(fold: FoldState, kinds: Registry, entry: Entry, pass_: Pass, pull: Pull) -> None:
    """Say that a pull was made a second time. On a fastener in yield that uses it up; where the shop allows it, a second
    click is a check.
    """
    if pull.fastener in fold.yielded:
        fold.say("spent", entry, pull)
    else:
        is_check = fold.policy.second_click == "check" and entry.reading is None and not kinds[pass_.kind].adds_up
        fold.say("second_click" if is_check else "twice", entry, pull)


def is_held(fold: FoldState, entry: Entry, pull: Pull) -> bool:
    """Hold an entry back if it was made without having seen another for the same pull, until someone says: one pull, or two."""
    first = fold.first_of(pull.id)
    if first is None or not not_seen(entry, first) or entry.id in fold.remedies.clarified:
        return False
    fold.held[entry.id] = entry
    fold.say("one_or_two", entry, pull)
    return True


def is_measured_after_all(fold: FoldState, entry: Entry) -> None:
    """It was one pull, and the later entry is the one that measured it: what the press said of it is judged again by the reading."""
    _, _, pull = fold.pulls.order[entry.pull or ""]
    fold.reopen(pull)
    fold.pulls.first = (0, 0)


def not_seen(entry: Report, first: Entry) -> bool:
    """Whether a report was made without having seen an earlier entry: by the number that it claimed, never by the clock."""
    return entry.claimed_seq is not None and entry.claimed_seq <= first.seq


# what an entry opens again --------------------------------------------------------------------------------------------


def starts_again(fold: FoldState, kinds: Registry, entry: Entry) -> None:
    """What was loosened comes up through all its stages again, since it was last loose; in a loop, those of the last round.

    Other fasteners of its unit come loose with it, and what was measured on the joint after it is measured again. A
    fastener that was in yield is used up, unless its kind may be used again.
    """
    pulls = fold.pulls
    if entry.fastener is None:
        loose = set(pulls.by_fastener)
    else:
        loose = {label for unit in pulls.plan.units if entry.fastener in unit for label in unit} or {entry.fastener}
    newest = {(pass_.step, pass_.item): pass_.id for _, pass_, pull in pulls.order.values() if pull.id in pulls.outcomes}
    planned = [row for fastener in loose for row in _since_loose(fold, fastener)]
    first = min((index for index, _, pull in planned if pull.id in pulls.outcomes), default=len(pulls.order))
    planned += [row for row in pulls.order.values() if row[2].fastener is None and row[0] > first and _is_of_the_whole(kinds, row[1])]
    if entry.fastener is None:
        planned += _what_time_runs_from(fold, planned)
    for _, pass_, pull in planned:
        if not any(pass_.until_loops) or newest.get((pass_.step, pass_.item)) == pass_.id:
            fold.reopen(pull)
    pulls.first = (0, 0)
    for fastener in sorted(loose):
        fold.remedies.loosened[fastener] = entry.seq
        fold.say("reopened", entry, fastener=fastener)
        in_yield = fold.yielded.get(fastener)
        if entry.kind == "replaced":
            fold.remedies.replaced[fastener] = entry.seq
            fold.yielded.pop(fastener, None)
        elif in_yield is not None and in_yield.once:
            fold.say("spent", entry, fastener=fastener)


def _what_time_runs_from(fold: FoldState, again: Iterable[PlannedPull]) -> list[PlannedPull]:
    """The tasks on the joint from which the time of passes runs that are made again: sealant is put on anew."""
    starts = {pass_id for _, pass_, _ in again if pass_.at_most_s is not None for rounds in pass_.after for pass_id in rounds}
    return [row for row in fold.pulls.order.values() if row[1].id in starts and row[2].fastener is None]


def _is_of_the_whole(kinds: Registry, pass_: Pass) -> bool:
    """Whether a pass says something of the joint as it was left: a measurement, a second person's look."""
    return kinds[pass_.kind].after_the_joint or pass_.by_another


def _since_loose(fold: FoldState, fastener: str) -> list[PlannedPull]:
    """A fastener's pulls since its last planned free loosening that was done."""
    planned = fold.pulls.by_fastener.get(fastener, [])
    freed = [place for place, (_, pass_, pull) in enumerate(planned) if pass_.free and pull.id in fold.pulls.outcomes]
    return planned[freed[-1] + 1 :] if freed else planned


# what an entry answers ------------------------------------------------------------------------------------------------


def good_reading(fold: FoldState, entry: Entry, pass_: Pass, pull: Pull) -> None:
    """A reading in its band answers earlier ones of its step, and of the steps that its condition tests."""
    fold.remedies.good_reading[pass_.step, pass_.item, pull.fastener] = entry.seq
    for step in fold.pulls.steps_tested((*pass_.when, *pull.when), pull.fastener):
        fold.remedies.good_reading[step] = entry.seq


def decided_by_the_lead(fold: FoldState, entry: Entry, pass_: Pass, pull: Pull) -> None:
    """A lead's decision answers verdicts about its fastener; at a stop, about the pulls that the stop's condition tests."""
    fold.say("deviated", entry, pull)
    if pull.fastener is not None:
        fold.remedies.decided_for[pull.fastener] = entry.seq
    for test in (*pass_.when, *pull.when):
        for rounds in test.passes:
            for tested in (each.id for pass_id in rounds for each in fold.pulls.by_pass[pass_id].pulls):
                fold.remedies.decided_pull[tested] = entry.seq
