"""What measures: indicators, micrometers, scales, gauges. What each can read, and which suits a band best."""

from collections.abc import Collection, Iterable
from typing import Literal
from uuid import UUID

from pydantic import Field

from tight_ledger.core.base.bands import Band, Reading
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.rounding import nine_digits
from tight_ledger.core.base.units import N_PER_UNIT, Quantity, to_stored
from tight_ledger.core.tools.dials import Fineness, Rank, fineness, to_needle

GaugeKind = Literal[
    "angle gauge", "dial indicator", "digital indicator", "micrometer", "caliper", "stretch gauge", "rotating-drag gauge",
    "beam drag wrench", "dial drag wrench", "spring scale", "feeler gauges",
]  # fmt: skip
GaugeUnit = Literal["°", "mm", "in", "thou", "N·m", "lbf·in", "ozf·in", "N", "lbf", "kgf"]
GaugeStanding = Literal["good", "no check on file", "soon", "due", "quarantined"]

_LENGTH: frozenset[Quantity] = frozenset({"length"})
_DRAG: frozenset[Quantity] = frozenset({"drag", "torque"})
READS: dict[GaugeKind, frozenset[Quantity]] = {
    "angle gauge": frozenset({"angle"}), "dial indicator": _LENGTH, "digital indicator": _LENGTH, "micrometer": _LENGTH, "caliper": _LENGTH,
    "stretch gauge": _LENGTH, "feeler gauges": _LENGTH, "rotating-drag gauge": _DRAG, "beam drag wrench": _DRAG,
    "dial drag wrench": _DRAG, "spring scale": _DRAG,
}  # fmt: skip
"""The quantities that each kind of gauge can read."""
ROOT_12 = 12**0.5
"""A reading lies anywhere within its graduation; the standard deviation of that is the graduation by √12 (GUM)."""

USUAL_RADIUS_MM = 50.0
"""Radius of the string on a spring scale, assumed until the mechanic types it. Common practice, no source."""


class Gauge(Model):
    """Something that measures, in the unit of its own scale."""

    kind: Literal["gauge"]
    id: UUID
    name: str = Field(min_length=1, max_length=80)
    what: GaugeKind
    unit: GaugeUnit
    highest: float = Field(ge=0.001, le=1_000_000)
    graduation: float = Field(ge=0.0001, le=1_000_000)
    divisions: int | None = Field(default=None, ge=10, le=1_000)
    """Marks in one revolution of the needle; None without a dial."""
    uncertainty: float | None = Field(default=None, gt=0, le=1_000_000)
    """Expanded, as its certificate says, in its own unit. Without it what reading its scale alone leaves uncertain counts."""
    accuracy_percent: float = Field(default=2.0, gt=0, le=20)
    serial: str = Field(default="", max_length=40)
    owner: str = Field(default="", max_length=80)

    @property
    def lowest(self) -> float:
        """A gauge begins at nought."""
        return 0.0

    @property
    def permissible_percent(self) -> float:
        """How far it may be off: what its maker says, or 2 % (common practice, no source)."""
        return self.accuracy_percent

    @property
    def needs_radius(self) -> bool:
        """Whether it reads a force: with the radius at which it pulls that is a torque."""
        return self.unit in N_PER_UNIT

    def stored(self, figure: float, radius_mm: float | None) -> float:
        """A figure of its scale in the stored unit of what it measures.

        Args:
            radius_mm: from the middle of the shaft to where the string runs, for a gauge that reads a force.
        """
        return to_stored(figure, self.unit, radius_mm if radius_mm is not None else USUAL_RADIUS_MM)

    def uncertainty_of(self, reading: Reading) -> float:
        """Expanded uncertainty of a reading in the stored unit, k = 2."""
        own = self.uncertainty if self.uncertainty is not None else 2 * self.graduation / ROOT_12
        return self.stored(own, reading.radius_mm)


class GaugeNow(Model):
    """A gauge with how it stands."""

    gauge: Gauge
    standing: GaugeStanding
    words: str = ""
    """How it stands, in a sentence."""


class RankedGauge(Model):
    """A gauge for a reading: how it suits, and what speaks against it."""

    id: UUID
    name: str
    unit: GaugeUnit
    graduation: float
    divisions: int | None
    needs_radius: bool
    low: float
    high: float
    """The band in its own unit, and on its dial."""
    needle: str
    """`from mark 4 to mark 11`; empty without a dial, or for a force whose radius is not known yet."""
    rank: Rank
    words: str


def rank_gauges(
    gauges: Iterable[GaugeNow], band: Band, radius_mm: float | None = None, kinds: Collection[GaugeKind] | None = None
) -> tuple[RankedGauge, ...]:
    """The gauges that read a band's quantity, the most suitable first; one that is due, set aside or too coarse is refused.

    Args:
        radius_mm: at which a force is pulled, if that is known already.
        kinds: of gauge that can be used there; None for any that reads the quantity.
    """
    able = (now for now in gauges if band.quantity in READS[now.gauge.what] and (kinds is None or now.gauge.what in kinds))
    ranked = [_ranked(now, band, radius_mm) for now in able]
    places: dict[Rank, int] = {"good": 0, "coarse": 1, "refused": 2}
    return tuple(sorted(ranked, key=lambda each: (places[each.rank], each.name)))


def _needle_words(gauge: Gauge, low: float, high: float) -> str:
    """A band as the dial shows it: `from mark 4 to mark 11`, `from 1 turn and mark 13 to …`."""
    if gauge.divisions is None:
        return ""
    ends = []
    for figure in (low, high):
        seen = to_needle(figure, gauge.graduation, gauge.divisions)
        turns = f"{seen.turns} turn{'s' if seen.turns > 1 else ''} and " if seen.turns else ""
        ends.append(f"{turns}mark {seen.marks:.3g}")
    return f"from {ends[0]} to {ends[1]}"


def _ranked(now: GaugeNow, band: Band, radius_mm: float | None) -> RankedGauge:
    gauge, radius = now.gauge, radius_mm if radius_mm is not None else USUAL_RADIUS_MM
    found = fineness(gauge.graduation, gauge.highest, gauge.unit, band, radius)
    if now.standing in ("due", "quarantined"):
        found = Fineness("refused", found.parts, now.words)
    low, high = (nine_digits(limit / gauge.stored(1.0, radius)) for limit in (band.low, band.high))
    return RankedGauge(
        id=gauge.id, name=gauge.name, unit=gauge.unit, graduation=gauge.graduation, divisions=gauge.divisions,
        needs_radius=gauge.needs_radius, low=low, high=high, needle=_needle_words(gauge, low, high), rank=found.rank, words=found.words,
    )  # fmt: skip
