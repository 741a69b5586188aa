"""The one clock of the tests: it starts on a Wednesday morning and goes on with what is done. Nothing here asks the machine."""

import os
from datetime import UTC, datetime, timedelta
from pathlib import Path
from threading import Lock
from uuid import uuid4

ON = "TIGHT_TEST_ON"
"""Names another day and time to start on, in UTC: `./tight test --on 2026-12-31T23:58`."""


def moment(said: str) -> datetime:
    return datetime.fromisoformat(said).replace(tzinfo=UTC)


START = moment(os.environ.get(ON) or "2026-06-10T09:00")
OTHER_DAYS = {
    "the last minutes of a year": moment("2026-12-31T23:58"),
    "the last day of a February": moment("2027-02-28T23:59"),
    "the 28th of a longer February": moment("2028-02-28T23:59"),
    "clocks go forward": moment("2027-03-28T00:59"),
    "clocks go back": moment("2026-10-25T00:59"),
    "a Monday begins": moment("2026-06-14T22:59"),
}
"""Starts for the files that read a date, in UTC; the shop of the demo keeps the time of London."""


class Clock:
    """The clock of a shop and of its tablets, in a file that the shop's programs read."""

    def __init__(self, file: Path, at: datetime = START):
        self.file, self._winding = file, Lock()
        file.parent.mkdir(parents=True, exist_ok=True)
        self.set(at)

    def set(self, at: datetime) -> None:
        new = self.file.with_suffix(f".{uuid4().hex}")  # two shops of one database share a clock
        new.write_text(at.isoformat())
        new.replace(self.file)  # a program that reads it at the same moment gets the old time or the new one

    def now(self) -> datetime:
        return datetime.fromisoformat(self.file.read_text())

    def wind(self, **by: float) -> datetime:
        """Go on by so much; `hours=-2` sets it back."""
        with self._winding:
            self.set(self.now() + timedelta(**by))
            return self.now()
