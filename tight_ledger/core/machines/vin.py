"""Vehicle identification numbers: ISO 3779; the check digit is binding in North America only (49 CFR 565), so it warns."""

import re

from vininfo import Vin

from tight_ledger.core.base.models import Model

_VIN = re.compile(r"^[A-HJ-NPR-Z0-9]{17}$")


NO_YEAR = frozenset("0UZ")
"""Signs that never stand for a model year in the tenth place (49 CFR 565, from memory): such a VIN has no check digit."""


class VinReading(Model):
    """What a VIN says by itself."""

    vin: str
    years: tuple[int, ...]
    check_digit_holds: bool | None
    """None where the VIN is of a kind that has no check digit."""
    warning: str = ""


def read_vin(text: str) -> VinReading | None:
    """A VIN read, newest possible year first; None if the text is none: 17 characters, no I, O or Q."""
    said = text.strip().upper()
    if not _VIN.match(said):
        return None
    vin = Vin(said)
    if said[9] in NO_YEAR:
        said_of = "It names no model year and has no check digit, as VINs from outside North America may: nothing in it can be checked."
        return VinReading(vin=said, years=(), check_digit_holds=None, warning=said_of)
    holds = bool(vin.verify_checksum())
    warning = "" if holds else "The check digit does not hold: look at the plate once more. Outside North America it need not."
    return VinReading(vin=said, years=tuple(sorted(vin.years, reverse=True)), check_digit_holds=holds, warning=warning)
