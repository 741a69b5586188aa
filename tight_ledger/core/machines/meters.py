"""A machine's meters."""

from typing import Literal

from pydantic import Field

from tight_ledger.core.base.models import Model

MeterKind = Literal["km", "miles", "hours"]


class Meter(Model):
    """A reading of a machine's meter. A lower one can be a correction or a new meter."""

    kind: MeterKind
    figure: float = Field(ge=0, le=1e7)
    basis: Literal["reading", "correction", "new_meter"] = "reading"


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
