"""What a drop or a failed check puts in doubt: since when, and what the pulls of that time probably gave."""

from collections.abc import Sequence
from datetime import datetime
from typing import Literal

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.display import show, show_band
from tight_ledger.core.base.models import Model
from tight_ledger.core.records.notes import Note
from tight_ledger.core.tools.calibrations import Calibration


class Window(Model):
    """A time in which nobody can say that a tool was right: from the last good check to what put it in doubt."""

    since: datetime | None
    until: datetime | None
    """None while it lasts."""
    why: str
    found: Calibration | None = None
    """The check that says how far off it was."""


def in_doubt(notes: Sequence[Note]) -> Window | None:
    """The newest such time; None if there is none, or if a check found the tool good as it was.

    While a tool is set aside, a check that finds it good takes no run out of doubt before a lead has cleared the tool.

    Args:
        notes: the tool's stream, by seq.
    """
    good: datetime | None = None
    window: Window | None = None
    found_good: datetime | None = None
    for note in notes:
        found = note.calibration
        if note.kind == "added" and good is None:
            good = note.at_server
        elif note.kind == "quarantined":
            window, found_good = Window(since=good, until=None, why=note.text or ""), None
        elif note.kind == "cleared" and window is not None and window.until is None:
            absolved = found_good is not None and window.found is None
            good, window = found_good or good, None if absolved else window.model_copy(update={"until": note.at_server})
        elif found is not None and found.good_as_found and window is not None and window.until is None:
            found_good = note.at_server
        elif found is not None and found.good_as_found:
            good, window = note.at_server, None
        elif found is not None:
            until = note.at_server if found.good else None
            window = Window(since=good, until=until, why="found out of tolerance", found=found)
            good = note.at_server if found.good else good
    return window


class Doubt(Model):
    """What a pull probably gave, when a check found the wrench off."""

    probable_nm: float
    outcome: Literal["low", "ok", "high"]
    words: str


def doubt(found: Calibration, set_to: float, gives_nm: float, band: Band) -> Doubt:
    """What a pull probably gave at the fastener: the deviation found, taken between the points of the check.

    Args:
        found: the check, with its readings as found.
        set_to: what the wrench was set to or showed, in the unit of its scale.
        gives_nm: what that would be at the fastener with a true wrench [N·m].
        band: what was asked for [N·m].
    """
    probable_nm = gives_nm / (1 + found.deviation_at(set_to) / 100)
    outcome = band.judge(probable_nm)
    said = {"low": "below", "ok": "inside", "high": "above"}[outcome]
    asked = show_band(band, "N·m")
    words = f"probably {show(probable_nm, 'N·m').figure} N·m, {said} {asked.low}–{asked.high}"
    return Doubt(probable_nm=probable_nm, outcome=outcome, words=words)
