"""A band to be met, and what an instrument showed."""

from typing import Literal

from pydantic import Field, model_validator

from tight_ledger.core.base.models import Model
from tight_ledger.core.base.rounding import Computed, is_above, is_below, nine_digits
from tight_ledger.core.base.units import MM_PER_UNIT, MOST_TORQUE_NM, N_PER_UNIT, NewtonMetre, Quantity, ReadingUnit, to_stored

Placed = Literal["low", "ok", "high"]
Aim = Literal["low", "middle", "high"]


class Band(Model):
    """Low to high, in the unit in which the quantity is stored (N·m, °, mm)."""

    quantity: Quantity
    low: Computed
    high: Computed
    target: Computed | None = None
    written: str = ""
    unit: ReadingUnit | None = None
    """The unit in which it was written; shown first."""

    @model_validator(mode="after")
    def _in_order(self) -> "Band":
        if self.low > self.high:
            raise ValueError(f"the low limit {self.low:g} lies above the high limit {self.high:g}; swap them")
        if self.quantity == "torque" and not 0 < self.low <= self.high <= MOST_TORQUE_NM:
            raise ValueError(f"a torque lies above 0 and at most {MOST_TORQUE_NM:g} N·m")
        if self.target is not None and not self.low <= self.target <= self.high:
            raise ValueError(f"the target {self.target:g} lies outside {self.low:g} to {self.high:g}")
        return self

    @property
    def limits_are_typed(self) -> bool:
        """Whether both limits were typed; for a single figure they are computed."""
        return bool(self.written) and self.target is None

    def judge(self, figure: float) -> Placed:
        """Where a figure in stored units lies; the limits belong to the band."""
        return "low" if is_below(figure, self.low) else "high" if is_above(figure, self.high) else "ok"

    def scaled(self, share: float, *, at_least: float) -> "Band":
        """This band times `share`, at least ± `at_least` (a fraction of its middle) wide."""
        low, high = self.low * share, self.high * share
        middle = (low + high) / 2
        return Band(
            quantity=self.quantity,
            low=min(low, middle * (1 - at_least)),
            high=max(high, middle * (1 + at_least)),
            target=None if self.target is None else self.target * share,
            unit=self.unit,
        )

    def widened(self, by: float) -> "Band":
        """This band with `by` more on either side, in its own unit."""
        return self.model_copy(update={"low": nine_digits(self.low - by), "high": nine_digits(self.high + by), "written": ""})

    def aim(self, figure_in_range: Aim = "middle") -> float:
        """The figure to work to: the author's target, else the choice within the range."""
        if self.target is not None:
            return self.target
        return {"low": self.low, "middle": nine_digits((self.low + self.high) / 2), "high": self.high}[figure_in_range]


class Reading(Model):
    """What an instrument showed, in its own unit. Zero is allowed, as for an end play."""

    figure: float = Field(ge=0, le=1e6)
    unit: ReadingUnit
    where: Literal["wrench", "gauge"] = "wrench"
    radius_mm: float | None = Field(default=None, ge=1, le=5_000)
    """Of a force, where it pulls; of a play at a gear, where the tip stands. From the middle of the shaft."""

    @model_validator(mode="after")
    def _force_has_radius(self) -> "Reading":
        if self.unit in N_PER_UNIT and self.radius_mm is None:
            raise ValueError(f"a reading in {self.unit} is a force; say at which radius it pulls (radius_mm)")
        return self

    @property
    def quantity(self) -> Literal["torque", "angle", "length"]:
        """What it is a reading of; a drag is a torque."""
        return "angle" if self.unit == "°" else "length" if self.unit in MM_PER_UNIT else "torque"

    @property
    def stored(self) -> float:
        """The reading in the unit in which its quantity is stored: N·m, °, mm."""
        return to_stored(self.figure, self.unit, self.radius_mm if self.radius_mm is not None else 1_000.0)

    @property
    def torque_nm(self) -> NewtonMetre:
        """A torque in N·m, at the instrument."""
        return NewtonMetre(self.stored)
