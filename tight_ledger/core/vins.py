"""Vehicle identification numbers: ISO 3779; the check digit is binding in North America only (49 CFR 565), so it warns."""

import re

from vininfo import Vin

from tight_ledger.core.base import Model

_VIN = re.compile(r"^[A-HJ-NPR-Z0-9]{17}$")


class VinReading(Model):
    """What a VIN says by itself."""

    vin: str
    years: tuple[int, ...]
    check_digit_holds: bool
    warning: str = ""


def read_vin(text: str) -> VinReading | None:
    """A VIN read, newest possible year first; None if the text is none: 17 characters, no I, O or Q."""
    said = text.strip().upper()
    if not _VIN.match(said):
        return None
    vin = Vin(said)
    holds = bool(vin.verify_checksum())
    warning = "" if holds else "The check digit does not hold: look at the plate once more. Outside North America it need not."
    return VinReading(vin=said, years=tuple(sorted(vin.years, reverse=True)), check_digit_holds=holds, warning=warning)
