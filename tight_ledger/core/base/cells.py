"""Cells of a table: lists, pairs and figures in short forms that a person can type, and in JSON.

A writer uses the short form only if reading it gives the same value back.
"""

import json
import re
from collections.abc import Callable, Iterable, Mapping
from typing import Any, TypeVar

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.parsing import parse_angle, parse_measured, parse_torque, plain

BETWEEN = " | "
"""Between the items of a list."""
RISKY = ("=", "+", "-", "@", "\t", "\r", "\n")
"""With one of these begins what a spreadsheet takes for a formula."""
T = TypeVar("T")


def listed(text: str) -> list[str]:
    """The items of a cell."""
    return [part.strip() for part in text.split("|") if part.strip()]


def is_json(text: str) -> bool:
    """Whether a cell holds the JSON form."""
    return text[:1] in ("{", "[")


def from_json(text: str, column: str) -> Any:
    """The value of a JSON form.

    Raises:
        Invalid: it is not JSON.
    """
    try:
        return json.loads(text, parse_constant=_no_constant)
    except (ValueError, RecursionError) as error:
        raise Invalid(column, f"“{text[:40]}” is not JSON.", "Give the short form, or JSON as the export writes it.") from error


def _no_constant(name: str) -> float:
    raise ValueError(f"{name} is no figure")


def to_json(value: object) -> str:
    """The JSON form."""
    return json.dumps(value, ensure_ascii=False, separators=(",", ":"), sort_keys=True)


def written(value: T, short: Callable[[T], str], read: Callable[[str], T], dump: Callable[[T], object]) -> str:
    """The short form if reading it gives the same value, else JSON."""
    try:
        text = short(value)
        if not is_json(text) and text == text.strip() and read(text) == value:
            return text
    except (Invalid, ValueError, KeyError, IndexError):
        pass
    return to_json(dump(value))


# lists and pairs ------------------------------------------------------------------------------------------------------


def read_texts(text: str, column: str) -> list[str]:
    """`rear | front`."""
    if is_json(text):
        return [str(item) for item in from_json(text, column)]
    return listed(text)


def write_texts(items: Iterable[str]) -> str:
    """The items of a list."""
    return written(list(items), BETWEEN.join, lambda text: read_texts(text, ""), list)


def read_pairs(text: str, column: str) -> dict[str, str]:
    """`bearing = press-in | driven = yes`.

    Raises:
        Invalid: an item without an equals sign.
    """
    if is_json(text):
        found = from_json(text, column)
        return {str(k): str(v) for k, v in found.items()} if isinstance(found, dict) else {}
    pairs = [item.partition("=") for item in listed(text)]
    if odd := [name for name, sign, _ in pairs if not sign]:
        raise Invalid(column, f"“{odd[0].strip()}” says nothing.", "Write name = value, and | between two: bearing = press-in.")
    return {name.strip(): value.strip() for name, _, value in pairs}


def write_pairs(pairs: Mapping[str, str]) -> str:
    """Names and values."""
    return written(dict(pairs), lambda v: BETWEEN.join(f"{k} = {x}" for k, x in v.items()), lambda text: read_pairs(text, ""), dict)


# figures --------------------------------------------------------------------------------------------------------------

PARSERS: dict[str, Callable[[str], Band]] = {"torque": parse_torque, "angle": parse_angle, "measured": parse_measured}
_SELECTED = re.compile(r"^(?:no\.\s*)?(?P<of>[^\s]+)\s+(?P<figure>(?:at most|max|≤|\d).*\D.*)$")


def read_figures(text: str, sort: str, unit: str, column: str) -> Band | dict[str, Band] | Any:
    """One band, or one per kind, group or label: `33–37 N·m`, `long 33–37 N·m | m8 8–10 N·m`; the JSON form as it stands.

    Args:
        sort: torque, angle or measured.
        unit: what stands in the column's heading; taken where the cell has none.
    Raises:
        Invalid: it is no such figure, or no unit is known.
    """
    if is_json(text):
        return from_json(text, column)
    parse = PARSERS[sort]
    items = listed(text)
    if len(items) == 1 and not _named(items[0]):
        return _band(parse, items[0], unit, column)
    found = {}
    for item in items:
        match = _SELECTED.match(item)
        if match is None:
            raise Invalid(column, f"“{item}” does not say for which fasteners.", "Write kind, group or number first: long 33–37 N·m.")
        found[match["of"]] = _band(parse, match["figure"], unit, column)
    return found


def _named(item: str) -> bool:
    return re.match(r"^(at most|max\.?|≤|<=|[\d½¼¾.,])", plain(item), re.IGNORECASE) is None


def _band(parse: Callable[[str], Band], text: str, unit: str, column: str) -> Band:
    said = f"{text} {unit}" if unit and not re.search(r"[a-zµ°\"]{1,}", re.sub(r"at most|max|to", "", text.casefold())) else text
    try:
        return parse(said)
    except Invalid as error:
        raise Invalid(column, error.fault, error.remedy) from error


def _typed(band: Band) -> str:
    if not band.written:
        raise ValueError("never typed")
    return band.written


def write_figures(figures: Band | Mapping[str, Band], sort: str) -> str:
    """As typed, where that gives the same band."""

    def short(value: Band | Mapping[str, Band]) -> str:
        if isinstance(value, Band):
            return _typed(value)
        return BETWEEN.join(f"{name} {_typed(band)}" for name, band in value.items())

    def dump(value: Any) -> object:
        return (
            value.model_dump(mode="json", exclude_defaults=True)
            if isinstance(value, Band)
            else {name: band.model_dump(mode="json", exclude_defaults=True) for name, band in value.items()}
        )

    return written(figures, short, lambda text: read_figures(text, sort, "", ""), dump)


def is_read_back(band: Band, sort: str) -> bool:
    """Whether a band was typed, and reading what was typed gives the same band again."""
    try:
        return bool(band.written) and read_figures(band.written, sort, "", "figure") == band
    except Invalid:
        return False


def harmless(text: str) -> str:
    """A cell that no spreadsheet takes for a formula: one that looks like it gets an apostrophe."""
    return f"'{text}" if text.startswith(RISKY) else text
