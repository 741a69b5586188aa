"""The line through what was tried: how a reading answers to a setting."""

from collections.abc import Sequence
from typing import NamedTuple

from tight_ledger.core.adjust.proposals import Try


class Line(NamedTuple):
    """A straight line, and where it was seen."""

    slope: float
    """Reading by setting."""
    at: float
    reading: float
    low: float
    high: float
    """The settings between which it was seen."""

    def reads(self, setting: float) -> float:
        """The reading to be expected at a setting."""
        return self.reading + self.slope * (setting - self.at)

    def setting_for(self, reading: float) -> float:
        """The setting at which a reading is to be expected."""
        return self.at + (reading - self.reading) / self.slope

    def was_seen(self, setting: float) -> bool:
        """Whether a setting lies between those that were tried."""
        return self.low <= setting <= self.high


def line_through(tries: Sequence[Try], middle: float) -> Line | None:
    """The line through the two tries that say most about the middle of the band: those on either side of it that are nearest,
    else the two that are nearest. None with fewer than two settings, or if the reading did not change.
    """
    newest = {each.at: each for each in tries}
    nearest = sorted(newest.values(), key=lambda each: abs(each.reading - middle))
    if len(nearest) < 2:
        return None
    first = nearest[0]
    across = [each for each in nearest[1:] if (each.reading - middle) * (first.reading - middle) <= 0]
    second = across[0] if across else nearest[1]
    slope = (second.reading - first.reading) / (second.at - first.at)
    if slope == 0:
        return None
    return Line(slope, first.at, first.reading, min(first.at, second.at), max(first.at, second.at))
