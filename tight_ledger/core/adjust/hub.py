"""A hub bearing that is set by the positions of its nut's lock: only the dial decides.

Nut travel is not end play: while the bearing is in preload the nut moves and the dial does not. A reading of about nothing
may therefore be any amount of preload. Practice after TMC RP 618 (from memory) and common practice.
"""

import math
from typing import Literal

from pydantic import Field

from tight_ledger.core.adjust.proposals import AdjustFigures, Proposal, Try, last
from tight_ledger.core.base.rounding import is_above, is_below

NOTHING_GRADUATIONS = 1.0
"""A reading of so many graduations or less may be preload."""
CLEAR_GRADUATIONS = 1.5
"""A rise of more than so many graduations is seen."""
IMPOSSIBLE_GRADUATIONS = 3
"""So many graduations of scatter and slip do not explain a change."""
FOLLOWS_SHARE = 0.35
"""Of the thread's travel: play that follows the nut by less is the give of the parts."""


class HubFigures(AdjustFigures):
    """Of a hub nut that locks in positions; a setting is a number of positions back from the first reading."""

    by: Literal["hub"]
    pitch_mm: float = Field(gt=0, le=10)
    positions: int = Field(ge=1, le=120)
    """Number of lock positions in one turn."""

    @property
    def travel_mm(self) -> float:
        """The most that end play can change by one position."""
        return self.pitch_mm / self.positions


def advise(figures: HubFigures, tries: tuple[Try, ...]) -> Proposal:
    """The next number of positions; looser is more.

    Args:
        tries: oldest first; the readings less the hub's own give under a pull.
    """
    now, travel, band = last(tries), figures.travel_mm, figures.band
    if len(tries) == 1 and is_above(travel, 2 * figures.width):
        warning = f"One position moves the nut by {travel:.3f} mm; the band is {figures.width:.3f} mm wide: it may fall on no position."
    else:
        warning = ""
    if _is_impossible(figures, tries):
        return Proposal(
            do="move", by=0, to=now.at, expect=now.reading,
            say="The play changed by more than the nut can move it: turn the hub to and fro, and read again.",
            why=f"One position moves the nut by {travel:.3f} mm. One of the two readings was not right, or the positions were miscounted.",
        )  # fmt: skip
    if now.reading <= NOTHING_GRADUATIONS * figures.graduation:
        return _out_of_preload(figures, tries, warning)
    if is_above(now.reading, band.high):
        return _closer(figures, tries, now, warning)
    if is_below(now.reading, band.low):
        positions = max(1, round((figures.middle - now.reading) / _rise(figures, tries)))
        return _loosen(figures, now, positions, "The play is less than the band.", warning)
    if not _seen_to_follow(figures, tries):
        return _loosen(figures, now, 1, "In the band, but the play was not seen to follow the nut: it may be preload.", warning)
    return Proposal(do="accept", say=f"{now.reading:.3f} mm lies in the band, and the play follows the nut: lock it here.", to=now.at)


def _is_impossible(figures: HubFigures, tries: tuple[Try, ...]) -> bool:
    """Whether the play changed between the last two readings by more than the thread's travel and the dial explain."""
    if len(tries) < 2 or tries[-1].at == tries[-2].at:
        return False
    moved, changed = tries[-1].at - tries[-2].at, tries[-1].reading - tries[-2].reading
    most = abs(moved) * figures.travel_mm + IMPOSSIBLE_GRADUATIONS * figures.graduation
    return abs(changed) > most or (changed * moved < 0 and abs(changed) > IMPOSSIBLE_GRADUATIONS * figures.graduation)


def _rise(figures: HubFigures, tries: tuple[Try, ...]) -> float:
    """How much the play changes by one position: from readings well above the graduation, at most the thread's own travel."""
    clear = [each for each in tries if each.reading > 2 * figures.graduation]
    low, high = min(clear, key=lambda each: each.at, default=None), max(clear, key=lambda each: each.at, default=None)
    if low is None or high is None or high.at == low.at:
        return figures.travel_mm
    learned = (high.reading - low.reading) / (high.at - low.at)
    return min(figures.travel_mm, max(learned, FOLLOWS_SHARE * figures.travel_mm))


def _seen_to_follow(figures: HubFigures, tries: tuple[Try, ...]) -> bool:
    """Whether the play rose with the nut, from a tighter position to the present one or from it to a looser one."""
    now = tries[-1]
    for other in tries[:-1]:
        moved, rise = now.at - other.at, now.reading - other.reading
        if moved < 0:
            moved, rise = -moved, -rise
        if moved > 0 and rise >= max(CLEAR_GRADUATIONS * figures.graduation, FOLLOWS_SHARE * figures.travel_mm):
            return True
    return False


def _out_of_preload(figures: HubFigures, tries: tuple[Try, ...], warning: str) -> Proposal:
    tight = 0
    for each in reversed(tries):
        if each.reading > NOTHING_GRADUATIONS * figures.graduation:
            break
        tight += 1
    if any(each.at > tries[-1].at and is_above(each.reading, figures.band.high) for each in tries):
        looser = min(each.at for each in tries if each.at > tries[-1].at and is_above(each.reading, figures.band.high))
        if looser - tries[-1].at <= 1:
            return _no_position(figures)
        return _loosen(figures, tries[-1], 1, "It is tight here and too loose further back.", warning)
    most = max(1, math.floor(figures.band.high / figures.travel_mm))
    positions = min(most + tight - 1, max(1, figures.positions // 4))
    return _loosen(figures, tries[-1], positions, "A reading of about nothing may be any amount of preload.", warning)


def _closer(figures: HubFigures, tries: tuple[Try, ...], now: Try, warning: str) -> Proposal:
    """Tighten only as far as the reading stays out of preload even if all of the thread's travel becomes play."""
    travel, band = figures.travel_mm, figures.band
    wanted = round((now.reading - figures.middle) / _rise(figures, tries))
    safe = math.floor((now.reading - band.low) / travel + 1e-9)
    positions = min(max(wanted, 1), safe)
    tighter = [each for each in tries if each.at < now.at and is_below(each.reading, band.low)]
    if positions < 1 or (tighter and now.at - positions <= max(each.at for each in tighter)):
        return _no_position(figures)
    expect, least = now.reading - positions * _rise(figures, tries), now.reading - positions * travel
    return Proposal(
        do="move", by=-positions, to=now.at - positions, expect=expect, expect_low=least, expect_high=now.reading,
        say=f"Tighten by {_count(positions)}: it should read about {expect:.3f} mm.",
        why=" ".join(part for part in ("The play is more than the band.", warning) if part),
    )  # fmt: skip


def _loosen(figures: HubFigures, now: Try, positions: int, why: str, warning: str) -> Proposal:
    expect = now.reading + positions * figures.travel_mm
    return Proposal(
        do="move", by=positions, to=now.at + positions, expect=expect, expect_low=now.reading, expect_high=expect,
        say=f"Loosen by {_count(positions)}, turn the hub to and fro, and read again.",
        why=" ".join(part for part in (why, warning) if part),
    )  # fmt: skip


def _no_position(figures: HubFigures) -> Proposal:
    return Proposal(
        do="stop", say="No lock position falls in the band.",
        why=f"One position moves the nut by {figures.travel_mm:.3f} mm; use a lock with more positions, or as the manual says.",
    )  # fmt: skip


def _count(positions: int) -> str:
    return "1 position" if positions == 1 else f"{positions} positions"
