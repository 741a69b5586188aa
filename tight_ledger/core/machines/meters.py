"""A machine's meters."""

from collections.abc import Iterable
from datetime import datetime
from typing import Literal

from pydantic import Field

from tight_ledger.core.base.models import Model

MeterKind = Literal["km", "miles", "hours"]


class Meter(Model):
    """A reading of a machine's meter. A lower one can be a correction or a new meter."""

    kind: MeterKind
    figure: float = Field(ge=0, le=1e7)
    basis: Literal["reading", "correction", "new_meter"] = "reading"


class MeterJump(Model):
    """A meter was put right, or exchanged: it stands elsewhere, and nothing has run."""

    kind: MeterKind
    by: float
    at: datetime
    of: datetime | None = None
    """Of a correction: when the reading was taken that was wrong. What was read before it is not concerned."""

    def concerns(self, read_at: datetime) -> bool:
        """Whether it lies between a reading that was taken at a moment and now."""
        return read_at < self.at and (self.of is None or self.of <= read_at)


def jumps_of(readings: Iterable[tuple[datetime, Meter]]) -> tuple[MeterJump, ...]:
    """By how much each meter was set.

    Args:
        readings: of one machine, in the order of time.
    """
    last: dict[str, tuple[datetime | None, Meter]] = {}  # with when it was read; of a correction, when what it corrects was read
    found = []
    for at, meter in readings:
        of: datetime | None = at
        if meter.kind in last and meter.basis != "reading":
            before_at, before = last[meter.kind]
            of = before_at if meter.basis == "correction" else None
            found.append(MeterJump(kind=meter.kind, by=meter.figure - before.figure, at=at, of=of))
        last[meter.kind] = (of, meter)
    return tuple(found)


def meter_warning(before: Meter | None, now: Meter) -> str:
    """What is odd about a reading, in words; empty if nothing is. It never blocks the work."""
    if before is None or now.basis != "reading":
        return ""
    if now.figure < before.figure:
        return (
            f"{now.figure:g} {now.kind} is below the last reading of {before.figure:g}. "
            "Say whether that one was wrong or the meter is new; the work goes on either way."
        )
    limit = {"km": 5_000, "miles": 3_000, "hours": 500}[now.kind]
    if now.figure - before.figure > 10 * limit:
        return f"{now.figure:g} {now.kind} is far above the last reading of {before.figure:g}. Look once more."
    return ""
