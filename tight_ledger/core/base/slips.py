"""Figures that were probably typed in another unit, or with a digit too many or too few.

A slip only questions a figure; it never changes or refuses it. Most pulls that stop short lie between a third and all
of the figure, and of all slips of units only lbf·ft read as N·m falls there: that slip is looked for close to the
figure, the others anywhere in the band.
"""

from collections.abc import Iterator

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.units import LENGTH_UNITS, MM_PER_UNIT, NM_PER_UNIT, USUAL_UNITS, ReadingUnit, from_stored, ratios, to_stored

Ratio = tuple[float, str, str]
"""A ratio, and what explains a figure that is too small by it, or too large."""
_DIGITS: tuple[Ratio, ...] = tuple(
    (ratio, said, said) for ratio, said in ((10.0, "a slipped decimal point"), (100.0, "a decimal point slipped by two"))
)
TORQUE_RATIOS: tuple[Ratio, ...] = (*ratios(NM_PER_UNIT, USUAL_UNITS), *_DIGITS)
"""Every ratio between two units that people use, and the decimal point."""
LENGTH_RATIOS: tuple[Ratio, ...] = (*ratios(MM_PER_UNIT, LENGTH_UNITS), *_DIGITS)

NEAR_ONE = 1.5
"""A ratio below this is looked for close to the figure only."""
NEAR = 0.025
"""Tolerance for such ratios, as a share of the figure. Common practice, no source: chosen so that few honest readings are asked about."""
SLACK = 0.03
"""How far beyond the band a converted figure may lie, as a share of its limits."""
FAR_ABOVE, FAR_BELOW = 1.5, 0.2
"""A torque beyond these shares of its limits is asked about. Common practice, no source."""
FAR_ABOVE_MEASURED = 5.0
"""A measurement beyond this many times its upper limit is asked about. Common practice, no source."""


def slips(figure: float, band: Band) -> tuple[str, ...]:
    """What would explain a figure outside its band; nothing for one inside.

    Args:
        figure: in the unit in which the band's quantity is stored: at the fastener [N·m], or a length [mm].
    """
    if band.judge(figure) == "ok" or figure <= 0:
        return ()
    if band.low <= 0 and not is_far_off(figure, band):
        return ()  # of a band that begins at nothing every larger figure is some slip of one inside
    known = LENGTH_RATIOS if band.quantity == "length" else TORQUE_RATIOS
    found = [small for ratio, small, _ in known if _fits(figure * ratio, band, ratio)]
    found += [large for ratio, _, large in known if _fits(figure / ratio, band, ratio)]
    if not found and is_far_off(figure, band):
        found = list(_digit_slips(figure, band))
    return tuple(dict.fromkeys(found))


def is_far_off(figure: float, band: Band) -> bool:
    """Whether a figure lies so far outside its band that it is probably wrong."""
    if band.quantity == "torque":
        return figure > band.high * FAR_ABOVE or figure < band.low * FAR_BELOW
    return figure > band.high * FAR_ABOVE_MEASURED


def _fits(figure: float, band: Band, ratio: float) -> bool:
    if ratio < NEAR_ONE:
        aim = band.aim()
        return abs(figure - aim) <= NEAR * aim
    return band.low * (1 - SLACK) <= figure <= band.high * (1 + SLACK)


def _digit_slips(figure: float, band: Band) -> Iterator[str]:
    """Whether a digit was typed twice or left out, in any unit that the figure can have."""
    units: tuple[ReadingUnit, ...] = LENGTH_UNITS if band.quantity == "length" else USUAL_UNITS
    for unit in units:
        text = f"{from_stored(figure, unit):.6g}"
        if not text.replace(".", "").isdigit() or len(text) > 5:
            continue
        doubled = (text[:n] + text[n + 1 :] for n in range(1, len(text)) if text[n] == text[n - 1])
        dropped = (text[:n] + digit + text[n:] for n in range(len(text) + 1) for digit in "0123456789")
        if any(band.judge(to_stored(float(figure), unit)) == "ok" for figure in doubled):
            yield "a digit typed twice"
        elif any(band.judge(to_stored(float(figure), unit)) == "ok" for figure in dropped):
            yield "a digit left out"
