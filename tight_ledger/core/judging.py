"""What an entry makes of its pull: the outcome by kind of step, the value where there is one, what is odd about it."""

from __future__ import annotations

import statistics
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from tight_ledger.core.bands import Band
from tight_ledger.core.entries import Entry
from tight_ledger.core.plans import Pass, Pick, Pull, Rung
from tight_ledger.core.slips import slips
from tight_ledger.core.verdicts import Code

if TYPE_CHECKING:
    from tight_ledger.core.folding import Fold

MOVED_DEG = 2.0
"""A nut that turns further than this in a check has turned. Common practice, no source."""
OPEN = "open"
"""Not an outcome: the pull stays open."""


@dataclass(slots=True)
class Progress:
    """What has gathered on a pull that is not closed by one entry: swings of an angle, readings of a measurement."""

    degrees: float = 0.0
    readings: list[float] = field(default_factory=list)
    last: Entry | None = None


@dataclass(slots=True)
class Judged:
    """An outcome, its value in stored units, and what is odd."""

    outcome: str
    value: float | None = None
    odd: tuple[Code, ...] = ()


def picked(fold: Fold, pull: Pull, entry: Entry | None = None) -> Rung | None:
    """The rung that counts for a pull: the one that the entry names, or the one that the plan picks. None if not known yet."""
    if not pull.rungs:
        return None
    if entry is not None and entry.rung is not None:
        return next((rung for rung in pull.rungs if rung.key == entry.rung), None)
    if pull.pick is None:
        return pull.rungs[0]
    return _ROWS[pull.pick.how](fold, pull, pull.pick)


def _used(fold: Fold, pick: Pick) -> str | None:
    """The rung last used in the passes that a pick looks at."""
    found = [
        fold.rungs[pull.id]
        for rounds in pick.passes
        for pass_id in rounds
        for pull in fold.by_pass[pass_id].pulls
        if pull.id in fold.rungs and pick.fastener in (None, pull.fastener)
    ]
    return found[-1] if found else None


def _next(fold: Fold, pull: Pull, pick: Pick) -> Rung | None:
    used = _used(fold, pick)
    keys = [rung.key for rung in pull.rungs]
    return pull.rungs[min(keys.index(used) + 1, len(keys) - 1)] if used in keys else pull.rungs[0]


def _same(fold: Fold, pull: Pull, pick: Pick) -> Rung | None:
    used = _used(fold, pick)
    return next((rung for rung in pull.rungs if rung.key == used), None)


def _range(fold: Fold, pull: Pull, pick: Pick) -> Rung | None:
    value = last_value(fold, pick.passes, pick.fastener)
    if value is None:
        return None
    return next((r for r in pull.rungs if r.low is not None and r.high is not None and r.low <= value < r.high), None)


_ROWS: dict[str, Callable[[Fold, Pull, Pick], Rung | None]] = {"next": _next, "same": _same, "range": _range}


def last_value(fold: Fold, passes: tuple[tuple[str, ...], ...], fastener: str | None) -> float | None:
    """The value last read in some passes."""
    found = [
        fold.values[pull.id]
        for rounds in passes
        for pass_id in rounds
        for pull in fold.by_pass[pass_id].pulls
        if pull.id in fold.values and (fastener is None or pull.fastener in (None, fastener))
    ]
    return found[-1] if found else None


def judge(fold: Fold, entry: Entry, one: Pass, pull: Pull) -> Judged:
    """What an entry makes of a pull that is open."""
    if entry.kind == "deviated":
        return Judged(entry.option or "deviated")
    return _KINDS[one.kind](fold, entry, one, pull)


def _torque(fold: Fold, entry: Entry, one: Pass, pull: Pull) -> Judged:
    rung = picked(fold, pull, entry)
    if pull.rungs and rung is None:
        return Judged("ok", odd=("no_figure_yet",))
    if rung is not None:
        fold.rungs[pull.id] = rung.key
    band = rung.band if rung is not None else pull.band
    odd: list[Code] = []
    if pull.watch is not None and entry.turned is not None and pull.watch.judge(entry.turned.stored) != "ok":
        odd.append("watch")
    shown = entry.reading or entry.setting
    if band is None or shown is None:
        return Judged("ok", odd=tuple(odd))
    torque_nm = pull.at_fastener(shown.torque_nm)
    if entry.how == "wire" and slips(torque_nm, band):
        odd.append("implausible")
    return Judged(band.judge(torque_nm), torque_nm, tuple(odd))


def _check(fold: Fold, entry: Entry, one: Pass, pull: Pull) -> Judged:
    return Judged("moved" if entry.moved else "still")


def _angle(fold: Fold, entry: Entry, one: Pass, pull: Pull) -> Judged:
    odd: list[Code] = []
    if pull.watch is not None and entry.end_torque is not None and pull.watch.judge(pull.at_fastener(entry.end_torque.torque_nm)) != "ok":
        odd.append("watch")
    progress = fold.progress.setdefault(pull.id, Progress())
    if progress.last is not None and fold.seconds_between(progress.last, entry) > fold.policy.longest_pause_s:
        odd.append("long_pause")
    progress.last = entry
    if entry.reading is None:
        return Judged("by_eye" if entry.how == "eye" else "ok", odd=tuple(odd))
    by_eye = entry.how == "eye"
    turned = max(entry.reading.stored - (0.0 if by_eye else pull.windup_deg), 0.0)
    progress.degrees = turned if entry.counts == "total" else progress.degrees + turned
    assert pull.band is not None
    wider = fold.policy.by_eye_deg if by_eye else 0.0
    done = progress.degrees
    outcome = "low" if done < pull.band.low - wider - 1e-9 else "high" if done > pull.band.high + wider + 1e-9 else "ok"
    if outcome == "high" and pull.yields:
        odd.append("spent")
    return Judged("by_eye" if by_eye and outcome == "ok" else outcome, done, tuple(odd))


def _turns(fold: Fold, entry: Entry, one: Pass, pull: Pull) -> Judged:
    return Judged("seated" if entry.option == "seated" else "turned")


def _loosen(fold: Fold, entry: Entry, one: Pass, pull: Pull) -> Judged:
    return Judged("loose")


def _align(fold: Fold, entry: Entry, one: Pass, pull: Pull) -> Judged:
    too_far = entry.reading is not None and one.amount is not None and entry.reading.stored > one.amount + 1e-9
    return Judged("high" if too_far or entry.option == "high" else "aligned", entry.reading.stored if entry.reading is not None else None)


def _rotate(fold: Fold, entry: Entry, one: Pass, pull: Pull) -> Judged:
    return Judged("turned")


def _measure(fold: Fold, entry: Entry, one: Pass, pull: Pull) -> Judged:
    if entry.reading is None:
        return Judged(OPEN)
    progress = fold.progress.setdefault(pull.id, Progress())
    progress.readings.append(entry.reading.stored)
    if len(progress.readings) < one.readings:
        return Judged(OPEN)
    value = _TAKES[one.take](progress.readings)
    if one.plus is not None:
        value += last_value(fold, one.plus.passes, one.plus.fastener) or 0.0
    if pull.band is None:
        return Judged("ok", value)
    worst = [_judge(pull.band, reading) for reading in progress.readings] if one.take == "each" else [_judge(pull.band, value)]
    return Judged("high" if "high" in worst else "low" if "low" in worst else "ok", value)


def _judge(band: Band, figure: float) -> str:
    """A limit that was typed is met, whatever the sum of floats."""
    return "low" if figure < band.low - 1e-9 else "high" if figure > band.high + 1e-9 else "ok"


_TAKES: dict[str, Callable[[list[float]], float]] = {
    "each": lambda readings: readings[-1],
    "mean": statistics.fmean,
    "max": max,
    "spread": lambda readings: max(readings) - min(readings),
}


def _do(fold: Fold, entry: Entry, one: Pass, pull: Pull) -> Judged:
    value = proposed_value(fold, one)
    return Judged(entry.option or (one.options[0].key if len(one.options) == 1 else "done"), value)


def proposed_value(fold: Fold, one: Pass) -> float | None:
    """const + Σ coefficient × reading; None while a reading is missing or nothing is reckoned."""
    if not one.by:
        return None
    total = one.const
    for name, passes in one.by.items():
        value = last_value(fold, passes, None)
        if value is None:
            return None
        total += one.coef[name] * value
    return total


def proposed_option(fold: Fold, one: Pass) -> str:
    """The option whose range holds the value; empty if none does."""
    value = proposed_value(fold, one)
    if value is None:
        return ""
    fits = (
        option.key for option in one.options if (option.low is None or option.low <= value) and (option.high is None or value < option.high)
    )
    return next(fits, "")


_KINDS: dict[str, Callable[[Fold, Entry, Pass, Pull], Judged]] = {
    "torque": _torque, "check": _check, "angle": _angle, "turns": _turns, "loosen": _loosen, "align": _align, "rotate": _rotate,
    "measure": _measure, "do": _do, "stop": _do,
}  # fmt: skip
