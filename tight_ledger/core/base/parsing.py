"""Torques, angles and measured bands as people write them.

A figure keeps its wording and its unit. What can be read in two ways is refused with the two readings named.
"""

import re
import unicodedata
from dataclasses import dataclass
from functools import cache
from typing import Generic, Literal, NamedTuple, NoReturn, TypeVar

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.rounding import nine_digits
from tight_ledger.core.base.units import (
    MOST_TORQUE_NM,
    NM_PER_UNIT,
    LengthUnit,
    Quantity,
    ReadingUnit,
    TorqueUnit,
    from_nm,
    to_nm,
    to_stored,
)

SINGLE_FIGURE_TOLERANCE = 0.04
"""A figure written without a range gets the wrench's own permissible deviation (ISO 6789-1: ±4 %)."""
ANGLE_TOLERANCE_DEG = 5.0
"""An angle written without a range. Common practice, no source."""
MOST_DEG = 720.0
MOST_MM = 1e6
DEG_PER_TURN = 360.0

_GAP = r"[\W_]{0,3}"
_POUND, _INCH, _FOOT = r"(?:lbs?f?|lbfs?|pounds?)", r"in(?:ch(?:es)?)?", r"(?:ft|foot|feet)"
_OUNCE, _KILO, _METRE = r"(?:ozf?|ounces?)", r"(?:kgf?|kp)", r"met(?:er|re)s?"
_TORQUE_SPELLINGS: tuple[tuple[str, TorqueUnit], ...] = (
    (rf"da\s?n{_GAP}m", "daN·m"),
    (rf"n{_GAP}m|newton{_GAP}{_METRE}", "N·m"),
    (rf"{_OUNCE}{_GAP}{_INCH}|{_INCH}{_GAP}{_OUNCE}", "ozf·in"),
    (rf"{_POUND}{_GAP}{_INCH}|{_INCH}{_GAP}{_POUND}", "lbf·in"),
    (rf"{_POUND}{_GAP}{_FOOT}|{_FOOT}{_GAP}{_POUND}", "lbf·ft"),
    (rf"{_KILO}{_GAP}cm|cm{_GAP}{_KILO}", "kgf·cm"),
    (rf"{_KILO}{_GAP}m|m{_GAP}{_KILO}", "kgf·m"),
)
_LENGTH_SPELLINGS: tuple[tuple[str, LengthUnit], ...] = (
    (r"mm|millimet(?:er|re)s?", "mm"),
    (r"[µμ]m|um|micron(?:s)?|micromet(?:er|re)s?", "µm"),
    (r"thou|thousandths?|mils?", "thou"),
    (r"in(?:ch(?:es)?)?|[\"″”]", "in"),
)


Unit = TypeVar("Unit", bound=str)
Spellings = tuple[tuple[str, Unit], ...]


class Typed(NamedTuple):
    """A typed figure: a torque, and the angles that come after it."""

    torque: Band
    angles: tuple[Band, ...]


def plain(text: str) -> str:
    """Typed text with plain spaces, minus signs and fractions instead of those of a word processor.

    `13½` is 13.5; `½` is 0.5.
    """

    def decimal(match: re.Match[str]) -> str:
        return f"{int(match[1] or 0) + unicodedata.numeric(match[2]):g}"

    text = re.sub(r"(\d*)\s*([¼½¾⅐-⅞])", decimal, text)
    text = re.sub(r"[\u00a0\u2000-\u200a\u202f]", " ", text)
    return re.sub(r"[−‐‑‒]", "-", text)


# pieces ---------------------------------------------------------------------------------------------------------------

_FIGURE = r"\d+(?:[.,]\d+)?(?:e[+-]?\d+)?|nan|inf(?:inity)?"
_PLUS_MINUS = r"±|\+\s?/\s?-|\+-"
_MOST = r"at most|no more than|not (?:more than|over)|up to|max(?:imum)?\.?|≤|<=|<"
_LEAST = r"at least|no less than|not (?:less than|under)|min(?:imum)?\.?|≥|>=|>"
_SEPARATOR = re.compile(r"\s*(?:[()/=;,]|\bor\b)[\s(]*|\s*\.?\s*$")


@dataclass(frozen=True, slots=True)
class _Piece(Generic[Unit]):
    """A figure or a range with its unit, as it was read: figures as typed, `second` after a dash or a plus-minus."""

    first: str
    second: str
    plus_minus: bool
    percent: bool
    limit: Literal["", "most", "least"]
    """Whether it is only the highest or the lowest that may be."""
    unit: Unit | None


@cache
def _piece_pattern(spellings: Spellings[Unit]) -> re.Pattern[str]:
    unit = rf"(?:{'|'.join(pattern for pattern, _ in spellings)})(?![a-z])"
    return re.compile(
        rf"(?:(?P<most>{_MOST})|(?P<least>{_LEAST}))?\s*(?P<first>{_FIGURE})\s*(?P<unit>{unit})?\s*"
        rf"(?:(?P<sign>{_PLUS_MINUS}|[–—-]|\bto\b|\.{{2,3}}|…)\s*(?P<second>{_FIGURE}))?\s*(?P<percent>%)?\s*(?P<after>{unit})?"
        r"\s*(?:(?P<most_after>max(?:imum)?\b\.?)|(?P<least_after>min(?:imum)?\b\.?))?"
    )


def _pieces(text: str, spellings: Spellings[Unit]) -> list[_Piece[Unit]]:
    """The figures of a text with their units; none if it is something else."""
    said, at, found = text.casefold().strip(), 0, list[_Piece[Unit]]()
    while at < len(said):
        match = _piece_pattern(spellings).match(said, at)
        end = _SEPARATOR.match(said, match.end()) if match is not None else None
        if match is None or end is None:
            return []
        units = {_unit(match[name], spellings) for name in ("unit", "after") if match[name]}
        if len(units) > 1:
            return []
        found.append(
            _Piece(
                first=match["first"], second=match["second"] or "", percent=bool(match["percent"]),
                limit="most" if match["most"] or match["most_after"] else "least" if match["least"] or match["least_after"] else "",
                plus_minus=bool(match["sign"] and re.fullmatch(_PLUS_MINUS, match["sign"])), unit=next(iter(units), None),
            )
        )  # fmt: skip
        at = end.end()
    return found


def _unit(text: str, spellings: Spellings[Unit]) -> Unit | None:
    return next((unit for pattern, unit in spellings if re.fullmatch(pattern, text.rstrip("."))), None)


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _require_readable(field: str, text: str, marks: str, most: float) -> None:
    """Refuse a figure whose point or comma may stand between thousands.

    Args:
        field: what to name in the refusal.
        marks: which signs are in doubt.
        most: a reading in thousands beyond this is none.
    """
    for match in re.finditer(rf"(?<![\d.,])([1-9]\d{{0,2}})[{marks}](\d{{3}})(?!\d)", text):
        thousands, part = int(match[1] + match[2]), f"{match[1]}.{match[2]}".rstrip("0").rstrip(".")
        if thousands <= most:
            raise Invalid(
                field, f"“{text.strip()}” can be read two ways.", f"Write {thousands}, or {part}, without a sign between thousands."
            )


# torque ---------------------------------------------------------------------------------------------------------------


def parse_unit(text: str) -> TorqueUnit:
    """The torque unit that a person's spelling means: `Nm`, `ft lb`, `in-lb`, `kgm` …

    Raises:
        Invalid: no unit, or none that is a torque.
    """
    unit = _unit(text.casefold().strip(), _TORQUE_SPELLINGS)
    if unit is None:
        fault = f"“{text}” is not a torque unit." if text.strip() else "The torque has no unit."
        raise Invalid("torque", fault, "Write N·m, lbf·ft, lbf·in or kgf·m after the figure.")
    return unit


def parse_torque(text: str) -> Band:
    """A typed torque as a band in N·m that keeps its wording.

    `565–605 N·m`, `430 ft lb`, `110 ± 5 Nm`, `110 ± 5 % Nm`, `30 Nm – 35 Nm`; a decimal comma is understood. Two units
    may be given, `80 lbf·ft (108 N·m)`: the first counts, the second is held against it.

    Raises:
        Invalid: no figure, no unit, not a number, not above 0, beyond the trade, or two units that contradict.
    """
    said = plain(text)
    pieces = _pieces(said, _TORQUE_SPELLINGS)
    if not pieces:
        _require_known_unit(said)
        raise Invalid("torque", f"“{text}” is not a torque.", "Write a figure or a range with its unit: 565–605 N·m.")
    for piece in pieces:
        if piece.unit is None:
            raise Invalid("torque", "The torque has no unit.", "Write N·m, lbf·ft, lbf·in or kgf·m after the figure.")
        if piece.percent and not piece.plus_minus:
            raise Invalid("torque", f"“{text}” mixes a share and a unit.", "Write 30 % alone, or the figure with its unit.")
        _require_readable("torque", said, ".,", MOST_TORQUE_NM / NM_PER_UNIT[piece.unit])
    if any(piece.limit for piece in pieces):
        return _aimed_within(pieces, text)
    band = _torque(pieces[0], text)
    for other in pieces[1:]:
        _require_agreement(pieces[0], other, text)
        if other.second and not pieces[0].second:
            band = _spread_as(band, _torque(other, text))
    return band


def _aimed_within(pieces: list[_Piece[TorqueUnit]], text: str) -> Band:
    """A figure to aim at with a limit behind it: `105 N·m, max 110 N·m`. A limit alone does not say what to pull to.

    Raises:
        Invalid: nothing to aim at, or it lies beyond its limit.
    """
    aim, *limits = pieces
    if aim.limit or len(limits) != 1 or not limits[0].limit or limits[0].second or (aim.second and not aim.plus_minus):
        side = "most" if pieces[0].limit == "most" else "least"
        fault = f"“{text.strip()}” says the {side}, not what to pull to."
        raise Invalid("torque", fault, "Write the figure to aim at before it: 105 N·m, max 110 N·m.")
    band = _torque(aim, text)
    assert limits[0].unit is not None
    limit_nm, target = to_nm(_number(limits[0].first), limits[0].unit), band.aim()
    low, high = (band.low, limit_nm) if limits[0].limit == "most" else (limit_nm, band.high)
    if not low <= target <= high:
        raise Invalid("torque", f"In “{text.strip()}” the figure to aim at lies beyond its limit.", "Look at both figures once more.")
    return band.model_copy(update={"low": low, "high": high})


def _spread_as(band: Band, other: Band) -> Band:
    """A figure with the tolerance that stands with its other unit: `74 lbf·ft (100 N·m ± 10 %)`."""
    target = other.aim()
    return band.model_copy(update={"low": band.aim() * other.low / target, "high": band.aim() * other.high / target})


def _require_known_unit(said: str) -> None:
    """Refuse a text in which only the unit is wrong, and name the unit."""
    match = re.match(r"^[\s\d.,e±–—%+-]*\d\s*%?\s*(?P<unit>[a-z].*)?$", said.strip(), re.IGNORECASE)
    if match is not None and re.match(r"^[\s+-]*(?:\d)", said):
        _require_positive(said)
        parse_unit(match["unit"] or "")


def _require_positive(said: str) -> None:
    if re.match(r"^\s*-", said):
        raise Invalid("torque", f"“{said.strip()}” is not a torque that is pulled.", f"It lies above 0 and at most {MOST_TORQUE_NM:g} N·m.")


def _torque(piece: _Piece[TorqueUnit], text: str) -> Band:
    assert piece.unit is not None
    unit, low = piece.unit, _number(piece.first)
    second = _number(piece.second) if piece.second else None
    target: float | None = low
    if second is None:
        spread = low * SINGLE_FIGURE_TOLERANCE
        low, high = low - spread, low + spread
    elif piece.plus_minus:
        spread = low * second / 100 if piece.percent else second
        low, high = low - spread, low + spread
    else:
        high, target = second, None
    most = MOST_TORQUE_NM / NM_PER_UNIT[unit]
    if not (low > 0 and high <= most):  # this way round, NaN is refused too
        raise Invalid("torque", f"“{text}” is not a torque that is pulled.", f"It lies above 0 and at most {most:.0f} {unit}.")
    if low > high:
        raise Invalid("torque", f"In “{text}” the low figure lies above the high one.", "Swap them.")
    return Band(
        quantity="torque", low=to_nm(low, unit), high=to_nm(high, unit), target=None if target is None else to_nm(target, unit),
        written=text.strip(), unit=unit,
    )  # fmt: skip


def _require_agreement(first: _Piece[TorqueUnit], other: _Piece[TorqueUnit], text: str) -> None:
    """Two units of one figure say the same, as far as their last digits tell: the figure, and its limits if both give them.

    Raises:
        Invalid: they contradict, or one is a range and the other a single figure.
    """
    ranges = [bool(piece.second) and not piece.plus_minus for piece in (first, other)]
    singles = [not piece.second for piece in (first, other)]
    if (ranges[0] and singles[1]) or (singles[0] and ranges[1]):
        raise Invalid("torque", f"“{text}” gives one figure and one range.", "Give the same in both units, or in one unit only.")
    both = not any(singles)
    said, meant = (_limits_nm(piece) if both else [_figure_nm(piece)] for piece in (first, other))
    for (low, high), (other_low, other_high) in zip(said, meant, strict=True):
        if high < other_low or other_high < low:
            assert first.unit is not None
            assert other.unit is not None
            written, seen, wanted = (
                from_nm((a + b) / 2, unit)
                for (a, b), unit in (
                    ((other_low, other_high), other.unit),
                    ((other_low, other_high), first.unit),
                    ((low, high), first.unit),
                )
            )
            differs = f"{written:.4g} {other.unit} is {seen:.4g} {first.unit}, not {wanted:.4g} {first.unit}"
            raise Invalid("torque", f"“{text}” contradicts itself: {differs}.", "Look at the document once more.")


def _figure_nm(piece: _Piece[TorqueUnit]) -> tuple[float, float]:
    """Between what its first figure can lie [N·m]: half of its last digit either way."""
    assert piece.unit is not None
    half = _half_digit(piece.first)
    return to_nm(_number(piece.first) - half, piece.unit), to_nm(_number(piece.first) + half, piece.unit)


def _limits_nm(piece: _Piece[TorqueUnit]) -> list[tuple[float, float]]:
    """Between what its lower and its upper limit can lie [N·m], as far as the last digits of both figures tell."""
    assert piece.unit is not None
    first, second = _number(piece.first), _number(piece.second)
    half, second_half = _half_digit(piece.first), _half_digit(piece.second)
    if not piece.plus_minus:
        spans = [(first, half), (second, second_half)]
    elif piece.percent:
        slack = half * (1 + second / 100) + first * second_half / 100
        spans = [(first * (1 - second / 100), slack), (first * (1 + second / 100), slack)]
    else:
        spans = [(first - second, half + second_half), (first + second, half + second_half)]
    return [(to_nm(limit - slack, piece.unit), to_nm(limit + slack, piece.unit)) for limit, slack in spans]


def _half_digit(text: str) -> float:
    """Half of the last digit of a written figure."""
    return 0.5 * 10.0 ** -len(text.replace(",", ".").partition(".")[2])


def parse_figure(text: str) -> Typed:
    """A typed figure: a torque, and the angles after it: `85-95 ft lb + 90°`, `20 N·m then 90 then 90`.

    Raises:
        Invalid: see `parse_torque` and `parse_angle`.
    """
    said = re.sub(r"\+\s?/?\s?-", "±", plain(text))
    torque, *angles = re.split(r"\s*(?:\+|→|->|\bthen\b|\band\b)\s*", said.strip())
    return Typed(parse_torque(torque), tuple(parse_angle(angle, bare=True) for angle in angles))


# angle ----------------------------------------------------------------------------------------------------------------

_TURN = r"(?:turns?|rev(?:olution)?s?)"
_ANGLE = re.compile(
    r"^(?P<first>\d+/\d+|\d+(?:[.,]\d+)?)\s*(?:°|deg(?:rees?)?)?\s*"
    r"(?:(?P<sign>–|—|-|\bto\b|±|\+/-|\+-)\s*(?P<second>\d+/\d+|\d+(?:[.,]\d+)?)\s*)?"
    rf"(?P<unit>°|deg(?:rees?)?|(?:of\s+)?(?:a\s+)?{_TURN})?\.?$",
    re.IGNORECASE,
)


def parse_angle(text: str, *, bare: bool = False) -> Band:
    """A typed angle as a band in degrees: `90°`, `85–95°`, `120 ± 5 deg`, `1/4 turn`.

    Args:
        bare: whether a figure without a unit is one of degrees, as after a torque and “then”.
    Raises:
        Invalid: no angle, or one outside 0 to 720°.
    """
    said = plain(text).replace("º", "°").strip()
    match = _ANGLE.match(said)
    turns = bool(match and match["unit"] and re.search(_TURN, match["unit"], re.IGNORECASE))
    has_unit = bool(match and (match["unit"] or "°" in said or "deg" in said.casefold()))
    if match is None or not (has_unit or bare) or ("/" in match["first"] and not turns):
        raise Invalid("torque", f"“{text.strip()}” is not an angle.", "Write 90°, 85–95° or 1/4 turn after the torque.")
    per_unit = DEG_PER_TURN if turns else 1.0
    first = _share(match["first"]) * per_unit
    second = _share(match["second"]) * per_unit if match["second"] else None
    if second is None or match["sign"] in ("±", "+/-", "+-"):
        spread = ANGLE_TOLERANCE_DEG if second is None else second
        low, high, target = first - spread, first + spread, first
    else:
        low, high, target = first, second, None
    if not 0 < low <= high <= MOST_DEG:
        _refuse_angle(text.strip(), first, second)
    written = text.strip() if has_unit else f"{text.strip()}°"
    return Band(quantity="angle", low=low, high=high, target=target, written=written, unit="°")


def _refuse_angle(text: str, first_deg: float, second_deg: float | None) -> NoReturn:
    """Say what is wrong with an angle whose band is none; `second_deg` is None if the usual tolerance was added."""
    usual = ANGLE_TOLERANCE_DEG
    if second_deg is None and 0 < first_deg <= MOST_DEG:
        limits = f"{first_deg / 2:g}–{first_deg * 1.5:g}°" if first_deg <= usual else f"{MOST_DEG - 2 * usual:g}–{MOST_DEG:g}°"
        fault = f"“{text}” with the usual ± {usual:g}° goes {'down to 0' if first_deg <= usual else f'beyond {MOST_DEG:g}'}°."
        raise Invalid("torque", fault, f"Write its own limits, as {limits}.")
    if max(first_deg, second_deg or 0) > MOST_DEG:
        raise Invalid("torque", f"“{text}” is more than {MOST_DEG:g}°.", "Make whole turns a step of their own.")
    raise Invalid("torque", f"“{text}” is not an angle that is turned.", "Both limits lie above 0°, the low one first.")


def _share(text: str) -> float:
    above, _, below = text.partition("/")
    if below and int(below) == 0:
        raise Invalid("torque", f"“{text}” divides by nought.", "Look at the fraction.")
    return _number(above) / _number(below) if below else _number(text)


# measured -------------------------------------------------------------------------------------------------------------


def parse_measured(text: str) -> Band:
    """A typed band of something measured: a length in mm, or a rotating drag in N·m.

    `0.04–0.11 mm`, `1–5 thou`, `0.001–0.005 in`, `at most 0.05 mm`, `0.15 ± 0.02 mm`, `at most 12 lbf·in`.

    Raises:
        Invalid: no band, no unit, or the low figure above the high one.
    """
    said = plain(text)
    _require_readable("band", said, ",", MOST_MM)
    lengths = _pieces(said, _LENGTH_SPELLINGS)
    if len(lengths) == 1 and lengths[0].unit is not None:
        return _measured(lengths[0], lengths[0].unit, "length", text)
    torques = _pieces(said, _TORQUE_SPELLINGS)
    if len(torques) == 1 and torques[0].unit is not None:
        return _measured(torques[0], torques[0].unit, "drag", text)
    raise _no_band(text)


def _no_band(text: str) -> Invalid:
    return Invalid("band", f"“{text}” is not a band.", "Write both limits, or the most, with a unit: 0.04–0.11 mm, at most 12 lbf·in.")


def _measured(piece: _Piece[Unit], unit: ReadingUnit, quantity: Quantity, text: str) -> Band:
    if (piece.limit == "most") == bool(piece.second) or piece.limit == "least" or piece.percent:
        raise _no_band(text)
    first, second = _number(piece.first), _number(piece.second) if piece.second else 0.0
    low, high, target = (0.0, first, None) if piece.limit == "most" else (first, second, None)
    if piece.plus_minus:
        low, high, target = first - second, first + second, to_stored(first, unit)
    if not 0 <= low <= high:
        raise Invalid("band", f"In “{text}” the low figure lies above the high one, or below nought.", "Look at both limits.")
    return Band(
        quantity=quantity, low=to_stored(nine_digits(low), unit), high=to_stored(nine_digits(high), unit), target=target,
        written=text.strip(), unit=unit,
    )  # fmt: skip
