"""Figures as a person reads them: no more digits than are known, and limits rounded to the inside of the band."""

import math
from datetime import date

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.rounding import SAME, is_above, is_below
from tight_ledger.core.base.units import STORED_UNIT, ReadingUnit, TorqueUnit, from_nm, from_stored


class Shown(Model):
    """A figure as a person reads it: digits and unit, with limits where there are any."""

    figure: str
    unit: str
    low: str = ""
    high: str = ""

    @property
    def limits(self) -> str:
        """`565–605 N·m`, `85–95°`."""
        return f"{self.low}–{self.high}{gap(self.unit)}{self.unit}"


def gap(unit: str) -> str:
    """The space between a figure and its unit; none before a degree sign."""
    return "" if unit == "°" else "\u00a0"


def written_day(on: date) -> str:
    """`5 Mar 2026`."""
    return f"{on.day} {on:%b %Y}"


def span(time_s: float) -> str:
    """A time as it is said: in its largest unit of which it holds two.

    Args:
        time_s: [s]; whether it is forward or back is not said.
    """
    whole = abs(round(time_s))
    units = (("years", 31_556_952), ("days", 86_400), ("h", 3_600), ("min", 60))
    name, size = next(((name, size) for name, size in units if whole >= 2 * size), ("s", 1))
    return f"{whole // size}\u00a0{name}"


def _step(figure: float) -> float:
    """The step of the last digit that is shown: three significant digits, whole numbers from 100."""
    return 10.0 ** min(0, math.floor(math.log10(figure)) - 2) if figure > 0 else 1.0


def _text(figure: float, step: float) -> str:
    return f"{figure:.{max(0, -round(math.log10(step)))}f}"


def show(torque_nm: float, unit: TorqueUnit) -> Shown:
    """A torque without invented precision: 80 lbf·ft shows as 108 N·m.

    Args:
        torque_nm: the torque [N·m], above 0.
    """
    figure = from_nm(torque_nm, unit)
    return Shown(figure=_text(figure, _step(figure)), unit=unit)


def show_mark(figure: float, unit: str) -> Shown:
    """A figure that is shown as it is: a mark on a scale, a reading."""
    return Shown(figure=f"{figure:.9g}", unit=unit)


def show_band(band: Band, unit: ReadingUnit | None = None, aim: float | None = None, mark: float | None = None) -> Shown:
    """The figure to work to, with the limits rounded inward so that each limit as shown lies inside the band.

    Limits that somebody typed are shown as typed in the unit in which they were written. The figure lies within the
    limits that are shown with it.

    Args:
        unit: the unit to show it in; by default the one in which it was written, else the stored one.
        aim: the figure to work to, in the stored unit; by default the band's own.
        mark: a mark on a scale in `unit`, inside the band, in place of the aim.
    """
    unit = unit or band.unit or STORED_UNIT[band.quantity]
    low, high = from_stored(band.low, unit), from_stored(band.high, unit)
    wanted = mark if mark is not None else from_stored(band.aim() if aim is None else aim, unit)
    exact = unit == band.unit and band.limits_are_typed
    step = 1.0 if exact else _step(low or high)
    while True:
        first, last = _inward(low, high, step)
        fits = first <= last and (mark is None or not (is_below(mark, first * step) or is_above(mark, last * step)))
        as_typed = math.isclose(first * step, low, rel_tol=SAME) and math.isclose(last * step, high, rel_tol=SAME)
        if step <= SAME * high or (fits and (as_typed or not exact)):
            break
        step /= 10
    shown_low, shown_high = first * step, last * step
    if mark is not None:
        figure = f"{mark:.9g}"
    else:
        nearest = round(wanted / _step(wanted)) * _step(wanted)
        within = not (is_below(nearest, shown_low) or is_above(nearest, shown_high))
        figure = _text(nearest, _step(wanted)) if within else _text(shown_low if nearest < shown_low else shown_high, step)
    return Shown(figure=figure, unit=unit, low=_text(shown_low, step), high=_text(shown_high, step))


def _inward(low: float, high: float, step: float) -> tuple[int, int]:
    """The first and the last step inside; a limit that is on a step but for rounding stays there."""
    return math.ceil(low / step * (1 - SAME)), math.floor(high / step * (1 + SAME))


def units_for(band: Band) -> tuple[ReadingUnit, ...]:
    """The units in which a band of something measured is read, the one in which it was written first."""
    usual: dict[str, tuple[ReadingUnit, ...]] = {
        "torque": ("N·m", "lbf·in", "lbf·ft"), "drag": ("N·m", "lbf·in", "lbf·ft"), "length": ("mm", "thou", "in"), "angle": ("°",),
    }  # fmt: skip
    return tuple(dict.fromkeys((*([band.unit] if band.unit is not None else ()), *usual[band.quantity])))
