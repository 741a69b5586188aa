"""How a tool stands: when it is due, what its checks found, what sets it aside.

Due after so many months or pulls, whichever comes first; a check at 20, 60 and 100 % of the highest mark, several
readings at each; the deviation is (shown − true) / true (ISO 6789-1:2017, from memory).
"""

import calendar
from collections.abc import Iterable, Sequence
from datetime import date, datetime, timedelta
from typing import Literal

from pydantic import Field

from tight_ledger.core.base.display import written_day
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.records.notes import Note
from tight_ledger.core.tools.calibrations import Calibration

ToolStanding = Literal["good", "no check on file", "soon", "due", "quarantined"]
SOON_MONTHS = 1
SOON_SHARE = 0.9
RATE_DAYS = 60
"""Number of days whose use the forecast is based on. Common practice, no source."""


class Use(Model):
    """What the ledger knows of a tool's pulls."""

    since_check: int = 0
    lately: int = 0
    """In the last 60 days, or since it came if that is less."""
    lately_days: float = Field(default=RATE_DAYS, gt=0)


class Care(Model):
    """How a tool stands."""

    standing: ToolStanding
    words: str
    last_good: datetime | None = None
    """When it was last known to be right: its last check passed, or else the day it came."""
    checked: bool = False
    pulls_since: int = 0
    due_on: date | None = None
    quarantined_for: str = ""


def after_months(start: date, months: int) -> date:
    """The same day so many months on; the month's last day where there is none."""
    year, month = divmod(start.month - 1 + months, 12)
    year, month = start.year + year, month + 1
    return date(year, month, min(start.day, calendar.monthrange(year, month)[1]))


def last_good(notes: Iterable[Note]) -> tuple[datetime | None, bool]:
    """When a tool was last known to be right, and whether a check says so; its arrival counts until the first check."""
    found: tuple[datetime | None, bool] = (None, False)
    for note in notes:
        if (note.kind == "added" and found[0] is None) or (note.calibration is not None and note.calibration.good):
            found = (note.at_server, note.calibration is not None)
    return found


def quarantine(notes: Iterable[Note]) -> Note | None:
    """What a tool is set aside for, a mishap or a check that it failed; None if it is not.

    Only a lead's word lifts it. A check that passes tells the lead more, and lifts nothing: what somebody typed is no proof.
    """
    found: Note | None = None
    for note in notes:
        if note.kind == "quarantined" or (note.calibration is not None and not note.calibration.good):
            found = note
        elif note.kind == "cleared":
            found = None
    return found


def newest_check(notes: Iterable[Note]) -> Calibration | None:
    """The newest check of a tool; None without any."""
    return next(reversed([note.calibration for note in notes if note.calibration is not None]), None)


def care(notes: Sequence[Note], use: Use, policy: Policy, today: date) -> Care:
    """How a tool stands today, and when it is due at the rate of its use.

    Args:
        notes: its stream.
        use: its pulls, as the ledger has them.
    """
    since, checked = last_good(notes)
    aside = quarantine(notes)
    common = {"last_good": since, "checked": checked, "pulls_since": use.since_check}
    if aside is not None:
        why = aside.text or "a check failed"
        passed = any(note.seq > aside.seq and note.calibration is not None and note.calibration.good for note in notes)
        waits = "; it has passed a check since, a lead says whether it may be used again" if passed else ""
        said = "Its last check failed" if aside.calibration is not None else f"Set aside: {why}"
        return Care(standing="quarantined", words=f"{said}{waits}.", quarantined_for=why, **common)
    if since is None or not checked:
        return Care(standing="no check on file", words="No check on file: nobody knows how far off it is.", **common)
    by_month, by_pull = after_months(since.date(), policy.due_months), _by_pulls(use, policy, today)
    due_on = min(by_month, by_pull) if by_pull is not None else by_month
    standing, words = _due(use, policy, today, by_month, due_on)
    return Care(standing=standing, words=words, due_on=due_on, **common)


def _by_pulls(use: Use, policy: Policy, today: date) -> date | None:
    """When the pulls run out at the rate of late; None if it is not used."""
    left = policy.due_pulls - use.since_check
    if left <= 0:
        return today
    if use.lately == 0:
        return None
    days = min(left / (use.lately / use.lately_days), 40_000)
    return today + timedelta(days=days)


def _due(use: Use, policy: Policy, today: date, by_month: date, due_on: date) -> tuple[ToolStanding, str]:
    if use.since_check >= policy.due_pulls:
        return "due", f"Due: {use.since_check:,} pulls since its last check; {policy.due_pulls:,} are allowed."
    if by_month <= today:
        return "due", f"Due since {written_day(by_month)}: {policy.due_months} months after its last check."
    why = "by its pulls, at this rate" if due_on < by_month else f"{policy.due_months} months after its last check"
    near = today >= after_months(due_on, -SOON_MONTHS) or use.since_check >= SOON_SHARE * policy.due_pulls
    return ("soon" if near else "good"), f"Due about {written_day(due_on)}, {why}."
