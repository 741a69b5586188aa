"""Days and moments as a shop writes them: by its clock, in its language (Unicode CLDR, through `babel`)."""

from datetime import date, datetime
from typing import Protocol
from zoneinfo import ZoneInfo

from babel.dates import format_date, format_datetime

from tight_ledger.core.base.settings import Dates


class Dated(Protocol):
    """A shop, or what carries its clock and its way to write dates."""

    @property
    def time_zone(self) -> str: ...

    @property
    def dates(self) -> Dates: ...


def _locale(of: Dated) -> str:
    return of.dates.replace("-", "_")


def day_words(of: Dated, at: datetime | date) -> str:
    """`5 Mar 2026`; of a moment, its day by the shop's clock."""
    day = at.astimezone(ZoneInfo(of.time_zone)) if isinstance(at, datetime) else at
    return str(format_date(day, "medium", locale=_locale(of)))


def moment_words(of: Dated, at: datetime) -> str:
    """`5 Mar 2026, 14:03:22` by the shop's clock."""
    return str(format_datetime(at.astimezone(ZoneInfo(of.time_zone)), "medium", locale=_locale(of)))
