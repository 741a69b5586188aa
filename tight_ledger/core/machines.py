"""Machines, where on them a joint sits, and their meters."""

from typing import Literal
from uuid import UUID

from pydantic import Field

from tight_ledger.core.base import Model

MeterKind = Literal["km", "miles", "hours"]
Side = Literal["left", "right"]


class Machine(Model):
    """One particular vehicle or piece of equipment."""

    id: UUID
    fleet_number: str = Field(min_length=1, max_length=40)
    maker: str = Field(min_length=1, max_length=80)
    model: str = Field(min_length=1, max_length=80)
    what: str = Field(default="", max_length=80)
    serial: str = Field(default="", max_length=40)
    vin: str = Field(default="", pattern=r"^([A-HJ-NPR-Z0-9]{17})?$")
    registration: str = Field(default="", max_length=16)
    meters: tuple[MeterKind, ...] = ()
    year: int | None = Field(default=None, ge=1900, le=2100)
    axle_loads_kg: dict[str, float] = {}
    """By axle: `rear`: 9600."""
    variant: dict[str, str] = {}
    """What is known about this machine beyond its model: `bearing`: `press-in`. Found out once, kept."""


class Position(Model):
    """Where on the machine; runs, follow-ups and history key on machine and position."""

    axle: str = Field(default="", max_length=40)
    side: Side | None = None
    place: str = Field(default="", max_length=40)

    @property
    def key(self) -> str:
        """A stable key, `rear/left/outer`; parts that do not apply stay empty."""
        return f"{self.axle}/{self.side or ''}/{self.place}"

    @property
    def words(self) -> str:
        """As a mechanic says it: `rear left, outer`."""
        near = " ".join(part for part in (self.axle, self.side) if part)
        return ", ".join(part for part in (near, self.place) if part)


class Positions(Model):
    """The positions at which a joint occurs; an empty part does not apply."""

    axles: tuple[str, ...] = ()
    sides: tuple[Side, ...] = ()
    places: tuple[str, ...] = ()

    def holds(self, position: Position) -> bool:
        """Whether the position is one of these, every part given that applies."""
        return (
            (position.axle in self.axles if self.axles else not position.axle)
            and (position.side in self.sides if self.sides else position.side is None)
            and (position.place in self.places if self.places else not position.place)
        )

    @property
    def words(self) -> str:
        """All of them: `rear · left or right`."""
        return " · ".join(" or ".join(part) for part in (self.axles, self.sides, self.places) if part)


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
