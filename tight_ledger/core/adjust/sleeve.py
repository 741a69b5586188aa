"""A crush sleeve: crept up by angle to the rotating drag. Too far means a new sleeve, never backing off.

The drag rises late and steeply, and two noisy readings can show no slope at all. So the slope is bounded from above and below,
and no step is larger than the last.
"""

import itertools
import math
from typing import Literal

from pydantic import Field

from tight_ledger.core.adjust.proposals import AdjustFigures, Proposal, Try, last
from tight_ledger.core.base.policy import PinionSchool

TAKE_UP_SHARE = 0.7
"""Of the play, that is taken up in one go. Common practice, no source."""
MARGIN = 1.3
"""By how much a learned slope may be too small."""


class SleeveFigures(AdjustFigures):
    """A setting is an angle of the nut [°], a reading the rotating drag [N·m]; `band` for new bearings or for used ones."""

    by: Literal["sleeve"]
    school: PinionSchool | None = "a new crush sleeve"
    steepest_nm_per_deg: float = Field(default=0.25, gt=0, le=10)
    """The most by which the drag can rise in a degree, as the spec says, else cautious. Common practice, no source."""
    flattest_nm_per_deg: float = Field(default=0.02, gt=0, le=10)
    largest_deg: float = Field(default=20.0, gt=0, le=90)
    smallest_deg: float = Field(default=2.0, gt=0, le=30)
    """That a nut can be turned with a long bar."""


def is_too_narrow(figures: SleeveFigures) -> bool:
    """Whether the band is narrower than a nut can be turned."""
    return figures.width < figures.smallest_deg * figures.steepest_nm_per_deg


def advise(figures: SleeveFigures, tries: tuple[Try, ...]) -> Proposal:
    """The next small turn.

    Args:
        tries: oldest first; at the angles reached so far, without play.
    """
    now = last(tries)
    placed = figures.band.judge(now.reading)
    if placed == "high":
        return Proposal(
            do="replace", say="Over the band: a new sleeve. Never back off.",
            why="A sleeve that is crushed too far holds nothing when the nut is turned back.",
        )  # fmt: skip
    if placed == "ok":
        return Proposal(do="accept", say=f"{now.reading:.3g} N·m lies in the band: stop here.", to=now.at)
    steep = _steepest(figures, tries)
    aim = figures.middle
    room = (aim - now.reading) / steep
    before = tries[-1].at - tries[-2].at if len(tries) > 1 else figures.largest_deg
    degrees = min(room, before if before > 0 else figures.largest_deg, figures.largest_deg)
    degrees = float(max(math.floor(degrees), figures.smallest_deg))  # as it is said, and never further
    expect = (now.reading + figures.flattest_nm_per_deg * degrees, now.reading + steep * degrees)
    why = "No step is larger than the last; it may rise at any moment."
    if is_too_narrow(figures):
        why = "The band is narrower than a nut can be turned: creep, and read after every touch of the bar."
    return Proposal(
        do="move", by=degrees, to=now.at + degrees, expect_low=expect[0], expect_high=expect[1], expect=sum(expect) / 2,
        say=f"Creep on by {degrees:g}°, turn the pinion, and read again.", why=why,
    )  # fmt: skip


def _steepest(figures: SleeveFigures, tries: tuple[Try, ...]) -> float:
    """The rise to reckon with: the spec's bound, or a lower one once the drag has been seen to rise over several readings."""
    seen = [
        (later.reading - earlier.reading) / (later.at - earlier.at) for earlier, later in itertools.pairwise(tries) if later.at > earlier.at
    ]
    rising = [slope for slope in seen if slope > figures.flattest_nm_per_deg]
    if len(rising) < 2:
        return figures.steepest_nm_per_deg
    learned = MARGIN * max(rising[-2:])
    return min(figures.steepest_nm_per_deg, max(learned, figures.flattest_nm_per_deg))


class TakeUpFigures(AdjustFigures):
    """Before the drag rises: a setting is an angle of the nut [°], a reading the play that is left [mm]."""

    by: Literal["take-up"]
    pitch_mm: float = Field(gt=0, le=10)
    largest_deg: float = Field(default=90.0, gt=0, le=360)


def take_up(figures: TakeUpFigures, tries: tuple[Try, ...]) -> Proposal:
    """How far the nut goes while there is play: a share of play ÷ pitch of a turn, never as far as would take all of it."""
    now = last(tries)
    if figures.band.judge(now.reading) != "high":
        return Proposal(do="accept", say="No play is left: from here on by the drag.", to=now.at)
    whole_deg = now.reading / figures.pitch_mm * 360
    degrees = float(max(math.floor(min(TAKE_UP_SHARE * whole_deg, figures.largest_deg)), 1))
    left = now.reading - degrees / 360 * figures.pitch_mm
    return Proposal(
        do="move", by=degrees, to=now.at + degrees, expect=left, say=f"Turn on by {degrees:g}°, and read the play again.",
        why=f"The play is {whole_deg:.0f}° of the nut at the most; {TAKE_UP_SHARE:.0%} of that cannot crush the sleeve too far.",
    )  # fmt: skip
