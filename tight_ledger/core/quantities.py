"""Torque as written, as shown and as stored; bands.

Stored in N·m. Factors come from pint, whose lbf, ft and g0 are exact by definition.
"""

import math
import re
import unicodedata
from typing import Literal, NewType, get_args

import pint
from pydantic import Field, model_validator

from tight_ledger.core.base import Invalid, Model

NewtonMetre = NewType("NewtonMetre", float)
TorqueUnit = Literal["N·m", "lbf·ft", "lbf·in", "kgf·m"]
Quantity = Literal["torque", "angle", "length", "drag"]

TORQUE_UNITS: tuple[TorqueUnit, ...] = get_args(TorqueUnit)
_PINT_NAMES = {"N·m": "N*m", "lbf·ft": "lbf*ft", "lbf·in": "lbf*inch", "kgf·m": "kgf*m"}
_registry: pint.UnitRegistry[float] = pint.UnitRegistry()
NM_PER_UNIT: dict[str, float] = {unit: float(_registry.Quantity(1.0, name).to("N*m").magnitude) for unit, name in _PINT_NAMES.items()}
"""One of each unit in N·m."""

MOST_TORQUE_NM = 50_000.0
"""Nothing in this trade is tightened beyond this by a person with a wrench."""

SINGLE_FIGURE_TOLERANCE = 0.04
"""A figure written without a range gets the wrench's own permissible deviation (ISO 6789-1: ±4 %)."""

_SPELLINGS: tuple[tuple[str, TorqueUnit], ...] = (
    (r"n\W*m|newton\W*met(?:er|re)s?", "N·m"),
    (r"(?:lbf?|pounds?)\W*(?:in|inch(?:es)?)|in(?:ch)?\W*(?:lbf?s?|pounds?)", "lbf·in"),
    (r"(?:lbf?|pounds?)\W*(?:ft|foot|feet)|(?:ft|foot|feet)\W*(?:lbf?s?|pounds?)", "lbf·ft"),
    (r"(?:kgf?|kp|mkg)\W*m|m\W*kg", "kgf·m"),
)
_FIGURE = r"[+-]?\d+(?:[.,]\d+)?(?:e[+-]?\d+)?|nan|inf(?:inity)?"
_TYPED = re.compile(
    rf"^\s*(?P<low>{_FIGURE})\s*(?:(?:–|—|-|\bto\b|±)\s*(?P<high>{_FIGURE}))?\s*(?P<percent>%)?\s*(?P<unit>[a-z].*?)?[\s.]*$",
    re.IGNORECASE,
)


class Band(Model):
    """Low to high, in the unit in which the quantity is stored (N·m, °, mm)."""

    quantity: Quantity
    low: float
    high: float
    target: float | None = None
    written: str = ""

    @model_validator(mode="after")
    def _in_order(self) -> "Band":
        if self.low > self.high:
            raise ValueError(f"the low limit {self.low:g} lies above the high limit {self.high:g}; swap them")
        if self.quantity == "torque" and not 0 < self.low <= self.high <= MOST_TORQUE_NM:
            raise ValueError(f"a torque lies above 0 and at most {MOST_TORQUE_NM:g} N·m")
        if self.target is not None and not self.low <= self.target <= self.high:
            raise ValueError(f"the target {self.target:g} lies outside {self.low:g} to {self.high:g}")
        return self

    def judge(self, figure: float) -> Literal["low", "ok", "high"]:
        """Where a figure in stored units lies; the limits belong to the band."""
        return "low" if figure < self.low else "high" if figure > self.high else "ok"

    def scaled(self, share: float, *, at_least: float) -> "Band":
        """This band times `share`, not narrower than ± `at_least` (a fraction) about its middle."""
        low, high = self.low * share, self.high * share
        middle = (low + high) / 2
        target = None if self.target is None else self.target * share
        return Band(
            quantity=self.quantity,
            low=min(low, middle * (1 - at_least)),
            high=max(high, middle * (1 + at_least)),
            target=target,
        )

    def aim(self, figure_in_range: Literal["low", "middle", "high"]) -> float:
        """The figure to work to: the author's target, else the shop's choice within the range."""
        if self.target is not None:
            return self.target
        return {"low": self.low, "middle": (self.low + self.high) / 2, "high": self.high}[figure_in_range]


LengthUnit = Literal["mm", "µm", "thou", "in"]
ReadingUnit = TorqueUnit | Literal["°"] | LengthUnit


class Reading(Model):
    """What an instrument showed, in the unit that it showed. An end play can be nought."""

    figure: float = Field(ge=0, le=1e6)
    unit: ReadingUnit
    where: Literal["wrench", "gauge"] = "wrench"

    @property
    def quantity(self) -> Literal["torque", "angle", "length"]:
        """What it is a reading of; a drag is a torque."""
        return "angle" if self.unit == "°" else "length" if self.unit in MM_PER_UNIT else "torque"

    @property
    def stored(self) -> float:
        """The reading in the unit in which its quantity is stored: N·m, °, mm."""
        if self.unit == "°":
            return self.figure
        return self.figure * (MM_PER_UNIT if self.unit in MM_PER_UNIT else NM_PER_UNIT)[self.unit]

    @property
    def torque_nm(self) -> NewtonMetre:
        """A torque in N·m, at the instrument."""
        return NewtonMetre(self.stored)


class Shown(Model):
    """A figure as a person reads it: digits and unit."""

    figure: str
    unit: str
    low: str = ""
    high: str = ""


def to_nm(figure: float, unit: TorqueUnit) -> NewtonMetre:
    """A torque figure in `unit` as N·m."""
    return NewtonMetre(figure * NM_PER_UNIT[unit])


def from_nm(torque_nm: float, unit: TorqueUnit) -> float:
    """A torque in N·m as a figure in `unit`."""
    return torque_nm / NM_PER_UNIT[unit]


def _step(figure: float) -> float:
    """The last place worth showing: three significant digits, whole numbers from 100 up."""
    return 10.0 ** min(0, math.floor(math.log10(figure)) - 2)


def _digits(figure: float, step: float) -> str:
    return f"{figure:.{max(0, -round(math.log10(step)))}f}"


def show(torque_nm: float, unit: TorqueUnit) -> Shown:
    """A torque without invented precision: 80 lbf·ft shows as 108 N·m.

    Args:
        torque_nm: the torque [N·m], above 0.
    """
    figure = from_nm(torque_nm, unit)
    return Shown(figure=_digits(figure, _step(figure)), unit=unit)


def show_band(band: Band, unit: TorqueUnit, aim_nm: float) -> Shown:
    """The figure to work to, with the limits rounded inward.

    Args:
        band: limits [N·m].
        aim_nm: the figure to work to [N·m].
    """
    low, high = from_nm(band.low, unit), from_nm(band.high, unit)
    step = _step(low)
    slack = 1e-9  # a limit that is exactly on a step stays there
    while math.ceil(low / step - slack) > math.floor(high / step + slack):
        step /= 10
    return Shown(
        figure=show(aim_nm, unit).figure,
        unit=unit,
        low=_digits(math.ceil(low / step - slack) * step, step),
        high=_digits(math.floor(high / step + slack) * step, step),
    )


_STORED_UNIT: dict[str, str] = {"angle": "°", "length": "mm", "drag": "N·m"}


def show_measured(band: Band) -> Shown:
    """A band of an angle, a length or a drag in the unit in which it is stored; the limits are not rounded.

    Args:
        band: no torque.
    """
    figure = band.target if band.target is not None else band.high if band.low == 0 else (band.low + band.high) / 2
    return Shown(figure=f"{figure:.6g}", unit=_STORED_UNIT[band.quantity], low=f"{band.low:.6g}", high=f"{band.high:.6g}")


def plain(text: str) -> str:
    """Typed text without what a word processor made of it: odd spaces and minus signs, and fractions as one sign.

    `13½` is 13.5; `½` is 0.5.
    """

    def decimal(match: re.Match[str]) -> str:
        return f"{int(match[1] or 0) + unicodedata.numeric(match[2]):g}"

    text = re.sub(r"(\d*)\s*([¼½¾⅐-⅞])", decimal, text)
    return re.sub(r"[\u00a0\u2000-\u200a\u202f]", " ", text).replace("−", "-").replace("‐", "-").replace("‑", "-").replace("‒", "-")


def parse_unit(text: str) -> TorqueUnit:
    """The torque unit that a person's spelling means: `Nm`, `ft lb`, `in-lb`, `kgm` …

    Raises:
        Invalid: no unit, or none that is a torque.
    """
    for pattern, unit in _SPELLINGS:
        if re.fullmatch(pattern, text.strip().lower()):
            return unit
    raise Invalid(
        "torque",
        f"“{text}” is not a torque unit." if text.strip() else "The torque has no unit.",
        "Write N·m, lbf·ft, lbf·in or kgf·m after the figure.",
    )


def parse_torque(text: str) -> Band:
    """A typed torque as a band in N·m that keeps its wording.

    `565–605 N·m`, `430 ft lb`, `110 ± 5 Nm`, `110 ± 5 % Nm`; a decimal comma is understood.

    Raises:
        Invalid: no figure, no unit, not a number, not above 0, or beyond the trade.
    """
    match = _TYPED.match(plain(text))
    if match is None:
        raise Invalid("torque", f"“{text}” is not a torque.", "Write a figure or a range with its unit: 565–605 N·m.")
    unit = parse_unit(match["unit"] or "")
    if re.search(r"(?<![\d.,])[1-9]\d{0,2},\d{3}(?!\d)", text):
        raise Invalid("torque", f"“{text}” can be read two ways.", "Write 1000, or 1.5, without a comma.")
    low = float(match["low"].replace(",", "."))
    second = float(match["high"].replace(",", ".")) if match["high"] else None
    if second is None:
        spread, target = low * SINGLE_FIGURE_TOLERANCE, low
        low, high = low - spread, low + spread
    elif "±" in text:
        spread, target = (low * second / 100 if match["percent"] else second), low
        low, high = low - spread, low + spread
    else:
        high, target = second, None
    most = MOST_TORQUE_NM / NM_PER_UNIT[unit]
    if not (low > 0 and high <= most):  # this way round, NaN is refused too
        raise Invalid("torque", f"“{text}” is not a torque that is pulled.", f"It lies above 0 and at most {most:.0f} {unit}.")
    if low > high:
        raise Invalid("torque", f"In “{text}” the low figure lies above the high one.", "Swap them.")
    return Band(
        quantity="torque",
        low=to_nm(low, unit),
        high=to_nm(high, unit),
        target=None if target is None else to_nm(target, unit),
        written=text.strip(),
    )


ANGLE_TOLERANCE_DEG = 5.0
"""An angle written without a range. Common practice, no source."""
_ANGLE = re.compile(r"^\s*(\d+(?:[.,]\d+)?)\s*°?\s*(?:(–|—|-|\bto\b|±)\s*(\d+(?:[.,]\d+)?)\s*)?(?:°|deg(?:rees?)?)\s*$", re.IGNORECASE)


def parse_angle(text: str) -> Band:
    """A typed angle as a band in degrees: `90°`, `85–95°`, `120 ± 5 deg`.

    Raises:
        Invalid: no angle, or one outside 0 to 720°.
    """
    match = _ANGLE.match(plain(text))
    if match is None:
        raise Invalid("torque", f"“{text.strip()}” is not an angle.", "Write 90° or 85–95° after the plus.")
    first = float(match[1].replace(",", "."))
    second = float(match[3].replace(",", ".")) if match[3] else None
    if second is None or match[2] == "±":
        spread = ANGLE_TOLERANCE_DEG if second is None else second
        low, high, target = first - spread, first + spread, first
    else:
        low, high, target = first, second, None
    if not 0 < low <= high <= 720:
        raise Invalid("torque", f"“{text.strip()}” is not an angle that is turned.", "It lies above 0 and at most 720°, low figure first.")
    return Band(quantity="angle", low=low, high=high, target=target, written=text.strip())


def parse_figure(text: str) -> tuple[Band, Band | None]:
    """A typed figure: a torque, and the angle after it if there is one: `85-95 ft lb + 90°`.

    Raises:
        Invalid: see `parse_torque` and `parse_angle`.
    """
    torque, plus, angle = text.partition("+")
    return parse_torque(torque), parse_angle(angle) if plus else None


MM_PER_UNIT: dict[str, float] = {
    spelling: float(_registry.Quantity(1.0, name).to("mm").magnitude)
    for spelling, name in (("mm", "mm"), ("µm", "micrometer"), ("um", "micrometer"), ("thou", "thou"), ("in", "inch"))
}
"""One of each unit of length in mm."""
_MEASURED = re.compile(
    r"^\s*(?P<most>at most|max\.?|≤|<=)?\s*(?P<low>\d+(?:[.,]\d+)?)\s*(?:(?:–|—|-|\bto\b)\s*(?P<high>\d+(?:[.,]\d+)?))?"
    r"\s*(?P<unit>\D*?)\s*$",
    re.IGNORECASE,
)


def parse_measured(text: str) -> Band:
    """A typed band of something measured: a length in mm, or a rotating drag in N·m.

    `0.04–0.11 mm`, `1–5 thou`, `at most 0.05 mm`, `2.3–3.1 N·m`, `at most 12 lbf·in`.

    Raises:
        Invalid: no band, no unit, or the low figure above the high one.
    """
    match = _MEASURED.match(plain(text))
    if match is None or (match["most"] is None) == (match["high"] is None):
        raise Invalid("band", f"“{text}” is not a band.", "Write both limits, or the most, with a unit: 0.04–0.11 mm, at most 12 lbf·in.")
    factor = MM_PER_UNIT.get(match["unit"].casefold())
    quantity: Quantity = "drag" if factor is None else "length"
    if factor is None:
        factor = NM_PER_UNIT[parse_unit(match["unit"])]
    low = 0.0 if match["most"] else float(match["low"].replace(",", "."))
    high = float((match["low"] if match["most"] else match["high"]).replace(",", "."))
    if low > high:
        raise Invalid("band", f"In “{text}” the low figure lies above the high one.", "Swap them.")
    return Band(quantity=quantity, low=low * factor, high=high * factor, written=text.strip())


SLIPS: tuple[tuple[float, str], ...] = (
    (NM_PER_UNIT["lbf·ft"], "N·m against lbf·ft"),
    (12.0, "lbf·ft against lbf·in"),
    (NM_PER_UNIT["kgf·m"], "kgf·m against N·m"),
    (10.0, "a slipped decimal point"),
)


LENGTH_SLIPS: tuple[tuple[float, str], ...] = (
    (MM_PER_UNIT["in"], "mm against in"),
    (1 / MM_PER_UNIT["thou"], "mm against thou"),
    (1_000.0, "mm against µm"),
    (10.0, "a slipped decimal point"),
)


def unit_slips(figure: float, band: Band) -> tuple[str, ...]:
    """What would explain a reading outside its band: each slip that would bring it to the band, within 3 %.

    Args:
        figure: in the unit in which the band's quantity is stored: at the fastener [N·m], or a length [mm].
    """
    if band.judge(figure) == "ok":
        return ()
    slips = LENGTH_SLIPS if band.quantity == "length" else SLIPS
    return tuple(
        name for ratio, name in slips if any(band.low * 0.97 <= figure * factor <= band.high * 1.03 for factor in (ratio, 1 / ratio))
    )
