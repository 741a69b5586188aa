"""Whether a reading is believed: two that agree, otherwise a third and the middle one.

The mean of readings that disagree is never used: of one good reading and one slip it makes a third figure that nobody saw.
"""

import statistics
from collections.abc import Sequence
from typing import Literal

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.rounding import is_above, is_below, nine_digits

WayToRead = Literal["two that agree", "three together"]


def believed(readings: Sequence[float], graduation: float, way: WayToRead = "two that agree") -> float | None:
    """The reading that counts; None while another has to be taken.

    Args:
        readings: in the order in which they were taken, in stored units.
        graduation: of the instrument, in the same unit, above 0.
        way: `two that agree`: two within a graduation count with their mean, else a third is taken and the middle one of the
            three counts. `three together`: the last three lie within a graduation and the middle one counts, else all are
            taken again; how an end play is read.
    """
    if way == "three together":
        newest = readings[-3:]
        apart = len(newest) < 3 or len(readings) % 3 or is_above(max(newest) - min(newest), graduation)
        return None if apart else statistics.median(newest)
    if len(readings) < 2:
        return None
    if not is_above(abs(readings[0] - readings[1]), graduation):
        return nine_digits((readings[0] + readings[1]) / 2)
    return None if len(readings) < 3 else statistics.median(readings[:3])


Conformity = Literal["ok", "at the limit", "low", "high"]


def conformity(reading: float, band: Band, uncertainty: float) -> Conformity:
    """Where a reading lies, given how uncertain it is (ISO 14253-1).

    A reading inside the band as written passes. Nearer to a limit than the uncertainty neither conformity nor its contrary is
    proven: it is taken once more and passes as at the limit, unless the shop asks for proof.

    Args:
        uncertainty: expanded, in the stored unit, 0 or more.
    """
    placed = band.judge(reading)
    if placed != "ok":
        return placed
    near = is_below(reading, band.low + uncertainty) or is_above(reading, band.high - uncertainty)
    return "at the limit" if near else "ok"
