"""Moments that a device tells: with a zone, and in the years in which anybody uses this."""

from datetime import UTC, datetime
from typing import Annotated

from pydantic import AfterValidator, AwareDatetime

FIRST, LAST = datetime(2000, 1, 1, tzinfo=UTC), datetime(2100, 1, 1, tzinfo=UTC)


def _in_use(at: datetime) -> datetime:
    if not FIRST <= at < LAST:
        raise ValueError("a moment lies between the years 2000 and 2100: set the device's clock")
    return at


DeviceTime = Annotated[AwareDatetime, AfterValidator(_in_use)]
"""A moment by a device's clock."""
