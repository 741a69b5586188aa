"""Indicators and other gauges: whether one is fine enough for a band, and its dial read both ways."""

import math
from typing import Literal, NamedTuple

from pydantic import Field

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.rounding import is_above, nine_digits
from tight_ledger.core.base.units import ReadingUnit, to_stored

GOOD_PARTS, FEWEST_PARTS = 10, 4
"""Into how many graduations a band is divided: ten is good, four the least. Common practice, no source."""


Rank = Literal["good", "coarse", "refused"]


class Fineness(NamedTuple):
    """How a gauge stands to a band."""

    rank: Rank
    parts: float
    """How many of its graduations the band is wide."""
    words: str


def fineness(graduation: float, highest: float, unit: ReadingUnit, band: Band, radius_mm: float = 1_000.0) -> Fineness:
    """Whether a gauge can judge a band.

    Args:
        graduation, highest: of the gauge, in its own unit, above 0.
        radius_mm: at which it pulls, of a gauge that reads a force.
    """
    width, step = band.high - band.low, to_stored(graduation, unit, radius_mm)
    parts = nine_digits(width / step)
    if is_above(band.high, to_stored(highest, unit, radius_mm)):
        most = band.high / to_stored(1.0, unit, radius_mm)
        return Fineness("refused", parts, f"It ends at {highest:g} {unit}; the band goes to {most:.4g} {unit}.")
    shown = f"The band is {parts:.3g} of its graduations wide"
    if is_above(FEWEST_PARTS, parts):
        return Fineness("refused", parts, f"{shown}; at least {FEWEST_PARTS} are needed.")
    if is_above(GOOD_PARTS, parts):
        return Fineness("coarse", parts, f"{shown}; {GOOD_PARTS} would be better.")
    return Fineness("good", parts, f"{shown}.")


class SeenNeedle(Model):
    """What somebody says that they see on a dial."""

    turns: int = Field(default=0, ge=0, le=1_000)
    marks: float = Field(ge=0, le=1_000)
    radius_mm: float | None = Field(default=None, ge=1, le=5_000)
    """As of a reading: where a force pulls, or where a tip stands on a gear."""


class Needle(NamedTuple):
    """What one sees on a dial."""

    turns: int
    """Whole revolutions, by the small hand."""
    marks: float
    """Where the needle stands beyond them, in graduations from nought."""
    inward: bool
    """Whether it went below nought: the plunger came out further than at zero."""


def to_needle(figure: float, graduation: float, divisions: int) -> Needle:
    """From a figure to the needle: 1.13 mm on a dial of 100 marks of 0.01 mm is one turn and 13.

    Args:
        figure: in the dial's unit; below 0 it goes backwards.
        graduation: above 0, in the same unit.
        divisions: marks of one revolution, 10 to 1000.
    """
    marks = nine_digits(abs(figure) / graduation)
    turns = math.floor(marks / divisions + 1e-9)
    return Needle(turns=turns, marks=max(0.0, nine_digits(marks - turns * divisions)), inward=figure < 0)


def from_needle(seen: Needle, graduation: float, divisions: int) -> float:
    """From what one sees to the figure.

    Raises:
        Invalid: more marks than the dial has, or less than none.
    """
    if not 0 <= seen.marks < divisions or seen.turns < 0:
        raise Invalid("marks", f"{seen.marks:g} is not on this dial.", f"One revolution has the marks 0 to {divisions - 1}.")
    figure = nine_digits((seen.turns * divisions + seen.marks) * graduation)
    return -figure if seen.inward else figure
