"""What an entry makes of its pull: the outcome by kind of step, the value where there is one, what is odd about it.

A pull is closed only by something that can be judged: a reading, or a press that tells what the wrench was set to.
"""

import math
import statistics
from collections.abc import Callable
from dataclasses import dataclass

from tight_ledger.core.base.rounding import is_above, is_below, nine_digits
from tight_ledger.core.base.slips import is_far_off
from tight_ledger.core.kinds.fold_state import FoldState, Progress
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Pick, Pull, Rung
from tight_ledger.core.records.verdicts import Code

MOVED_DEG = 2.0
"""A fastener that turns further than this in a check has turned. Common practice, no source."""
OPEN = "open"
"""Not an outcome: the pull stays open."""


@dataclass(slots=True)
class Judged:
    """An outcome, its value in stored units, and what is odd."""

    outcome: str
    value: float | None = None
    odd: tuple[Code, ...] = ()


def picked(fold: FoldState, pull: Pull, entry: Entry | None = None) -> Rung | None:
    """The rung that counts for a pull: the one that the entry names, or the one that the plan picks. None if not known yet."""
    if not pull.rungs:
        return None
    if entry is not None and entry.rung is not None:
        return next((rung for rung in pull.rungs if rung.key == entry.rung), None)
    if pull.pick is None:
        return pull.rungs[0]
    return _ROWS[pull.pick.how](fold, pull, pull.pick)


def _next(fold: FoldState, pull: Pull, pick: Pick) -> Rung | None:
    used = fold.rung_used(pick.passes, pick.fastener)
    keys = [rung.key for rung in pull.rungs]
    return pull.rungs[min(keys.index(used) + 1, len(keys) - 1)] if used in keys else pull.rungs[0]


def _same(fold: FoldState, pull: Pull, pick: Pick) -> Rung | None:
    used = fold.rung_used(pick.passes, pick.fastener)
    return next((rung for rung in pull.rungs if rung.key == used), None)


def _range(fold: FoldState, pull: Pull, pick: Pick) -> Rung | None:
    value = fold.last_value(pick.passes, pick.fastener)
    rows = [(rung.low, rung.high) for rung in pull.rungs]
    place = row_of(value, rows) if value is not None else None
    return pull.rungs[place] if place is not None else None


_ROWS: dict[str, Callable[[FoldState, Pull, Pick], Rung | None]] = {"next": _next, "same": _same, "range": _range}


def row_of(value: float, rows: list[tuple[float | None, float | None]]) -> int | None:
    """The first of some rows, each from its low to its high limit, that holds a value; both limits belong to a row.

    A limit that two rows share belongs to the upper row.
    """
    fits = [
        place
        for place, (low, high) in enumerate(rows)
        if (low is None or not is_below(value, low)) and (high is None or not is_above(value, high))
    ]
    begins = (place for place in fits if (low := rows[place][0]) is not None and not is_above(value, low))
    return next(begins, fits[0]) if fits else None


def judge(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> Judged:
    """What an entry makes of a pull that is open."""
    if entry.kind == "deviated":
        figure = pull.band is not None or bool(pull.rungs)
        return Judged(entry.option or "deviated", odd=("not_judged",) if figure else ())
    return _KINDS[one.kind](fold, entry, one, pull)


def _pulled_to(fold: FoldState, entry: Entry, pull: Pull, rung: Rung | None) -> tuple[float | None, Code]:
    """The torque at the fastener [N·m], by what was read or by what the wrench was set to; else why it is not known."""
    if entry.reading is not None:
        return pull.at_fastener(entry.reading.torque_nm), "no_figure"
    if entry.how != "click":
        return None, "no_figure"
    setting = entry.setting
    if setting is None and pull.is_set:
        tool = entry.tools[0] if entry.tools else pull.tool
        setting = fold.set_to.get(tool) if tool is not None else None
        if setting is None:
            return None, "not_set"
    setting = setting or fold.planned_setting(pull, rung)
    return (pull.at_fastener(setting.torque_nm) if setting is not None else None), "no_figure"


def _torque(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> Judged:
    rung = picked(fold, pull, entry)
    band = pull.band if not pull.rungs else rung.band if rung is not None else None
    torque_nm, why = _pulled_to(fold, entry, pull, rung)
    odd: list[Code] = []
    if pull.watch is not None and entry.turned is not None and pull.watch.judge(entry.turned.stored) != "ok":
        odd.append("watch")
    if band is None or torque_nm is None:
        return Judged(OPEN, odd=(*odd, "no_figure" if band is None else why))
    if rung is not None:
        fold.rungs[pull.id] = rung.key
    if entry.how == "wire" and is_far_off(torque_nm, band):
        odd.append("implausible")
    return Judged(band.judge(torque_nm), torque_nm, tuple(odd))


def _check(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> Judged:
    torque_nm, why = _pulled_to(fold, entry, pull, None)
    moved = has_moved(entry, pull)
    if torque_nm is None or moved is None:
        return Judged(OPEN, odd=(why if torque_nm is None else "no_figure",))
    placed = pull.band.judge(torque_nm) if pull.band is not None else "ok"
    if placed == "low":
        return Judged(OPEN, odd=("check_low",))
    return Judged("moved" if moved else "still", torque_nm, ("high",) if placed == "high" else ())


def has_moved(entry: Entry, pull: Pull) -> bool | None:
    """Whether a fastener turned in a check: by the degrees that a wrench told, less its windup, else by the person's word."""
    return entry.moved if entry.turned is None else is_above(entry.turned.stored - pull.windup_deg, MOVED_DEG)


def _angle(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> Judged:
    odd: list[Code] = []
    if pull.watch is not None and entry.end_torque is not None and pull.watch.judge(pull.at_fastener(entry.end_torque.torque_nm)) != "ok":
        odd.append("watch")
    band, by_eye = pull.band, entry.how == "eye"
    if band is None or (entry.reading is None and not by_eye and entry.how != "gauge"):
        return Judged(OPEN, odd=(*odd, "no_figure"))
    progress = fold.progress.setdefault(pull.id, Progress())
    if progress.last is not None and fold.seconds_between(progress.last, entry) > fold.policy.longest_pause_s:
        odd.append("long_pause")
    progress.last = entry
    if entry.reading is None:  # turned to the mark, which stands at the figure
        progress.degrees = band.aim()
    else:
        turned = max(entry.reading.stored - (0.0 if by_eye else pull.windup_deg), 0.0)
        progress.degrees = nine_digits(turned if entry.counts == "total" else math.fsum((progress.degrees, turned)))
    outcome = (band.widened(fold.policy.by_eye_deg) if by_eye else band).judge(progress.degrees)
    return Judged("by_eye" if by_eye and outcome == "ok" else outcome, progress.degrees, tuple(odd))


def _turns(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> Judged:
    return Judged("seated" if entry.option == "seated" else "turned")


def _loosen(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> Judged:
    return Judged("loose")


def _align(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> Judged:
    too_far = entry.reading is not None and one.amount is not None and is_above(entry.reading.stored, one.amount)
    return Judged("high" if too_far or entry.option == "high" else "aligned", entry.reading.stored if entry.reading is not None else None)


def _rotate(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> Judged:
    return Judged("turned")


def _measure(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> Judged:
    if entry.reading is None:
        return Judged(OPEN, odd=("no_figure",))
    offset = _offset(fold, one, pull)
    if offset is None:
        return Judged(OPEN, odd=("no_figure",))
    progress = fold.progress.setdefault(pull.id, Progress())
    progress.readings.append(nine_digits(entry.reading.stored + offset))
    if len(progress.readings) < one.readings:
        return Judged(OPEN)
    value = nine_digits(_TAKES[one.take](progress.readings))
    if pull.band is None:
        return Judged("ok", value)
    worst = {pull.band.judge(reading) for reading in progress.readings} if one.take == "each" else {pull.band.judge(value)}
    return Judged("high" if "high" in worst else "low" if "low" in worst else "ok", value)


def _offset(fold: FoldState, one: Pass, pull: Pull) -> float | None:
    """What is added to each reading: what an earlier step read, less what the gauge showed at nought. None if not read."""
    total = 0.0
    for pick, sign in ((one.plus, 1), (one.less, -1)):
        if pick is not None:
            value = fold.last_value(pick.passes, pull.fastener)
            if value is None:
                return None
            total += sign * value
    return total


_TAKES: dict[str, Callable[[list[float]], float]] = {
    "each": lambda readings: readings[-1],
    "mean": statistics.fmean,
    "max": max,
    "spread": lambda readings: max(readings) - min(readings),
}


def _do(fold: FoldState, entry: Entry, one: Pass, pull: Pull) -> Judged:
    value = proposed_value(fold, one)
    return Judged(entry.option or (one.options[0].key if len(one.options) == 1 else "done"), value)


def proposed_value(fold: FoldState, one: Pass) -> float | None:
    """const + Σ coefficient × reading; None while a reading is missing or nothing is computed."""
    if not one.by:
        return None
    parts = [one.const]
    for name, passes in one.by.items():
        value = fold.last_value(passes, None)
        if value is None:
            return None
        parts.append(one.coef[name] * value)
    return nine_digits(math.fsum(parts))


def proposed_option(fold: FoldState, one: Pass) -> str:
    """The option whose range holds the value; empty if none does."""
    value = proposed_value(fold, one)
    ranged = [option for option in one.options if option.low is not None or option.high is not None]
    place = row_of(value, [(option.low, option.high) for option in ranged]) if value is not None else None
    return ranged[place].key if place is not None else ""


def means(one: Pass, outcome: str) -> str:
    """What a measurement outside its band means: `end play: too loose`."""
    said = {"low": one.low_means or "below its band", "high": one.high_means or "above its band"}[outcome]
    return "no slot within the limit" if one.kind == "align" else f"{one.what}: {said}"


_KINDS: dict[str, Callable[[FoldState, Entry, Pass, Pull], Judged]] = {
    "torque": _torque, "check": _check, "angle": _angle, "turns": _turns, "loosen": _loosen, "align": _align, "rotate": _rotate,
    "measure": _measure, "do": _do, "stop": _do,
}  # fmt: skip
