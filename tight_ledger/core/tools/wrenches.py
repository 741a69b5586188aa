"""A wrench: what it reaches, and the marks at which it can be set."""

import math
from typing import Literal, Self
from uuid import UUID

from pydantic import Field, model_validator

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.rounding import SAME, Computed
from tight_ledger.core.base.units import MOST_TORQUE_NM, TorqueUnit, from_nm, to_nm

Construction = Literal["click", "slipper", "beam", "dial", "electronic", "electronic with angle"]
SET_BEFOREHAND: frozenset[str] = frozenset({"click", "slipper", "electronic", "electronic with angle"})
"""Constructions that are set to a mark; a beam or a dial is watched instead."""
Face = Literal["upper edge", "lower edge", "staggered", "window"]
"""How a set scale is read: the thimble's edge against the upper or the lower edge of a line; numbers left and right of
the body's centre line in turn; or a number in a window."""
SMALL_NM = 10.0
SLACK = 1e-6
"""A share of a step between two marks that rounding can explain."""
VERIFIED_FROM = 0.20
"""A wrench is verified from this share of its maximum up (ISO 6789-1)."""


class ScaleSide(Model):
    """One scale of a wrench, in its own unit.

    `graduation` is the finest step that it can be set to: the thimble's, or the scale's own. `body_graduation` is the
    step between the lines on the body, where there is a thimble below it.
    """

    unit: TorqueUnit
    lowest: float = Field(ge=0.001, le=1_000_000)
    highest: float = Field(ge=0.001, le=1_000_000)
    graduation: float = Field(ge=0.001, le=1_000_000)
    body_graduation: float | None = Field(default=None, ge=0.001, le=1_000_000)

    @model_validator(mode="after")
    def _is_a_scale(self) -> Self:
        if not self.lowest < self.highest or self.graduation > self.highest - self.lowest:
            raise ValueError("the marks of a scale run from the lowest to the highest, at least one step apart")
        return self


class Wrench(ScaleSide):
    """A torque wrench. Its scale is the one that it is read by; a wrench with two has the other as `second`."""

    kind: Literal["wrench"] = "wrench"
    id: UUID
    name: str = Field(min_length=1, max_length=80)
    drive: str
    construction: Construction = "click"
    face: Face = "upper edge"
    second: ScaleSide | None = None
    """The other side's scale, in another unit."""
    tightens: Literal["both ways", "clockwise"] = "both ways"
    """The way in which it measures; most ratchets that turn both ways click one way only."""
    lever_mm: float | None = Field(default=None, gt=0, le=5_000)
    """From the drive to the middle of the grip."""
    accuracy_percent: float | None = Field(default=None, gt=0, le=20)
    """Its maker's own deviation, if closer than the standard's."""
    serial: str = Field(default="", max_length=40)
    owner: str = Field(default="", max_length=80)

    @property
    def verified_from(self) -> float:
        """The least figure at which it is verified, in the unit of its scale."""
        return max(self.lowest, VERIFIED_FROM * self.highest)

    @property
    def has_spring(self) -> bool:
        """Whether it is put away at its lowest mark."""
        return self.construction in ("click", "slipper")

    @property
    def permissible_percent(self) -> float:
        """How far it may be off: ±4 %, or ±6 % if its maximum is 10 N·m or less (ISO 6789-1, from memory)."""
        if self.accuracy_percent is not None:
            return self.accuracy_percent
        return 6.0 if to_nm(self.highest, self.unit) <= SMALL_NM else 4.0

    def sides(self) -> tuple["Wrench", ...]:
        """The wrench as read by each of its scales."""
        if self.second is None:
            return (self,)
        here = {name: getattr(self, name) for name in ScaleSide.model_fields}
        second = {name: getattr(self.second, name) for name in ScaleSide.model_fields}
        return self, self.model_copy(update=second | {"second": ScaleSide(**here)})

    def read_in(self, unit: TorqueUnit | None) -> "Wrench":
        """The wrench as read by its scale in a unit.

        Raises:
            Invalid: it has none in this unit.
        """
        for side in self.sides():
            if unit is None or side.unit == unit:
                return side
        raise Invalid("unit", f"{self.name} has no scale in {unit}.", f"It has {' and '.join(side.unit for side in self.sides())}.")


ANY_WRENCH = Wrench(id=UUID(int=0), name="any wrench", drive="", unit="N·m", lowest=0.001, highest=MOST_TORQUE_NM, graduation=0.001)
"""For plans that are only looked at: it can be set to anything."""


class Setting(Model):
    """What to set the wrench to, in the unit of its scale, and what that gives at the wrench [N·m]."""

    figure: Computed
    unit: TorqueUnit
    torque_nm: Computed

    @property
    def shown_nm(self) -> float:
        """What the scale's figure means [N·m]; what was sealed beside it is not believed."""
        return to_nm(self.figure, self.unit)


def set_wrench(wrench: Wrench, band: Band, *, aim_nm: float, factor: float = 1.0, allowance_nm: float = 0.0) -> Setting:
    """The settable mark nearest to the aim among those inside the band; of two as near, the lower.

    Args:
        band: limits at the fastener [N·m].
        aim_nm: the figure to work to at the fastener [N·m].
        factor: setting over torque at the fastener, from what is on the wrench's end.
        allowance_nm: what the shop adds for an extension [N·m at the wrench].
    Raises:
        Invalid: the wrench's range does not meet the band, or no mark lies inside it.
    """
    low, high, aim = (from_nm(torque * factor + allowance_nm, wrench.unit) for torque in (band.low, band.high, aim_nm))
    if low > wrench.highest or high < wrench.lowest:
        way = "ends" if low > wrench.highest else "starts"
        limit = wrench.highest if low > wrench.highest else wrench.lowest
        raise Invalid(
            "wrench",
            f"{wrench.name} {way} at {limit:g} {wrench.unit}; this joint needs {aim:.0f} {wrench.unit}.",
            f"Take a wrench that reaches {aim:.0f} {wrench.unit}.",
        )
    first = math.ceil((max(low * (1 - SAME), wrench.lowest) - wrench.lowest) / wrench.graduation - SLACK)
    last = math.floor((min(high * (1 + SAME), wrench.highest) - wrench.lowest) / wrench.graduation + SLACK)
    if first > last:
        raise Invalid(
            "wrench",
            f"{wrench.name} has no mark between {low:.4g} and {high:.4g} {wrench.unit}.",
            "Take a wrench with finer marks.",
        )
    nearest = math.ceil((aim - wrench.lowest) / wrench.graduation - 0.5 - SLACK)  # of two marks as near, the lower
    figure = wrench.lowest + min(max(nearest, first), last) * wrench.graduation
    return Setting(figure=figure, unit=wrench.unit, torque_nm=to_nm(figure, wrench.unit))
