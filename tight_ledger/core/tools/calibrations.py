"""A check of a wrench against a standard: readings as found and as left, and whether they pass."""

import itertools
import statistics
from typing import Literal, Protocol
from uuid import UUID

from pydantic import Field, model_validator

from tight_ledger.core.base.models import Model

SHARES: tuple[int, ...] = (20, 60, 100)
"""Of the highest mark, in per cent (ISO 6789-1)."""


class Point(Model):
    """One place on the scale. The figures are what the standard showed, in the unit of the wrench's scale."""

    share: Literal[20, 60, 100]
    shown: float = Field(gt=0)
    """What the wrench was set to, or showed."""
    found: tuple[float, ...] = Field(min_length=1, max_length=25)
    left: tuple[float, ...] = Field(default=(), max_length=25)
    """After adjustment; empty if nothing was adjusted."""


def deviation_percent(shown: float, true: float) -> float:
    """(shown − true) / true, in per cent: above 0 the wrench shows more than it gives.

    Args:
        shown: what it was set to.
        true: what the standard measured, above 0, in the same unit.
    """
    return (shown - true) / true * 100


class Calibration(Model):
    """A check. `permissible_percent` is what was allowed when it was made."""

    points: tuple[Point, ...]
    permissible_percent: float = Field(gt=0, le=20)
    by: str = Field(min_length=1, max_length=120)
    certificate: str = Field(default="", max_length=80)
    """The number on the paper."""
    attachment: UUID | None = None
    """The paper itself."""

    @model_validator(mode="after")
    def _whole(self) -> "Calibration":
        if tuple(point.share for point in self.points) != SHARES:
            raise ValueError("a check has readings at 20, 60 and 100 %, in this sequence")
        if any(reading <= 0 for point in self.points for reading in (*point.found, *point.left)):
            raise ValueError("a reading lies above 0")
        return self

    @property
    def good_as_found(self) -> bool:
        """Whether every reading as found lies within what is permissible."""
        return all(self._passes(point.shown, point.found) for point in self.points)

    @property
    def good(self) -> bool:
        """Whether it is right now: as left, where it was adjusted, else as found."""
        return all(self._passes(point.shown, point.left or point.found) for point in self.points)

    def _passes(self, shown: float, readings: tuple[float, ...]) -> bool:
        return all(abs(deviation_percent(shown, true)) <= self.permissible_percent + 1e-9 for true in readings)

    def deviation_at(self, figure: float) -> float:
        """The mean deviation as found at a place on the scale [%], straight between the points, level beyond them."""
        known = [(point.shown, statistics.fmean(deviation_percent(point.shown, true) for true in point.found)) for point in self.points]
        if figure <= known[0][0]:
            return known[0][1]
        for (low, at_low), (high, at_high) in itertools.pairwise(known):
            if figure <= high:
                return at_low + (at_high - at_low) * (figure - low) / (high - low)
        return known[-1][1]


class Checkable(Protocol):
    """Something with a scale that is held against a standard."""

    @property
    def lowest(self) -> float: ...

    @property
    def highest(self) -> float: ...

    @property
    def graduation(self) -> float: ...

    @property
    def permissible_percent(self) -> float: ...


def points_of(tool: Checkable) -> tuple[float, ...]:
    """Where on its scale a tool is checked: the marks nearest to 20, 60 and 100 %, none below the lowest."""
    last = int((tool.highest - tool.lowest) / tool.graduation + 1e-9)
    steps = (round((max(share / 100 * tool.highest, tool.lowest) - tool.lowest) / tool.graduation) for share in SHARES)
    return tuple(round(tool.lowest + min(step, last) * tool.graduation, 9) for step in steps)
