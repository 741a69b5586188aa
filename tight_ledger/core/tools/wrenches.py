"""A wrench: what it reaches, and the marks at which it can be set."""

import math
from typing import Literal
from uuid import UUID

from pydantic import Field

from tight_ledger.core.base import Invalid, Model
from tight_ledger.core.quantities import Band, TorqueUnit, from_nm, to_nm

Construction = Literal["click", "slipper", "beam", "dial", "electronic", "electronic with angle"]
SET_BEFOREHAND: frozenset[str] = frozenset({"click", "slipper", "electronic", "electronic with angle"})
"""Constructions that are set to a mark; a beam or a dial is watched instead."""
VERIFIED_FROM = 0.20
"""A wrench is verified from this share of its maximum up (ISO 6789-1)."""


class Wrench(Model):
    """A torque wrench with one scale. Lowest, highest and graduations are in the unit of the scale.

    `graduation` is the finest step that it can be set to: the thimble's, or the scale's own. `body_graduation` is the
    step between the lines on the body, where there is a thimble below it.
    """

    id: UUID
    name: str
    drive: str
    unit: TorqueUnit
    lowest: float = Field(gt=0)
    highest: float = Field(gt=0)
    graduation: float = Field(gt=0)
    construction: Construction = "click"
    body_graduation: float | None = Field(default=None, gt=0)
    lever_mm: float | None = Field(default=None, gt=0, le=5_000)
    """From the drive to the middle of the grip."""
    serial: str = Field(default="", max_length=40)
    owner: str = Field(default="", max_length=80)

    @property
    def verified_from(self) -> float:
        """The least figure at which it is verified, in the unit of its scale."""
        return max(self.lowest, VERIFIED_FROM * self.highest)


class Setting(Model):
    """What to set the wrench to, in the unit of its scale, and what that gives at the wrench [N·m]."""

    figure: float
    unit: TorqueUnit
    torque_nm: float


def set_wrench(wrench: Wrench, band: Band, *, aim_nm: float, factor: float = 1.0) -> Setting:
    """The settable mark nearest to the aim among those inside the band.

    Args:
        band: limits at the fastener [N·m].
        aim_nm: the figure to work to at the fastener [N·m].
        factor: setting over torque at the fastener, from what is on the wrench's end.
    Raises:
        Invalid: the wrench's range does not meet the band, or no mark lies inside it.
    """
    low, high, aim = (from_nm(torque * factor, wrench.unit) for torque in (band.low, band.high, aim_nm))
    if low > wrench.highest or high < wrench.lowest:
        way = "ends" if low > wrench.highest else "starts"
        limit = wrench.highest if low > wrench.highest else wrench.lowest
        raise Invalid(
            "wrench",
            f"{wrench.name} {way} at {limit:g} {wrench.unit}; this joint needs {aim:.0f} {wrench.unit}.",
            f"Take a wrench that reaches {aim:.0f} {wrench.unit}.",
        )
    slack = 1e-9
    first = math.ceil((max(low, wrench.lowest) - wrench.lowest) / wrench.graduation - slack)
    last = math.floor((min(high, wrench.highest) - wrench.lowest) / wrench.graduation + slack)
    if first > last:
        raise Invalid(
            "wrench",
            f"{wrench.name} has no mark between {low:.4g} and {high:.4g} {wrench.unit}.",
            "Take a wrench with finer marks.",
        )
    mark = min(max(round((aim - wrench.lowest) / wrench.graduation), first), last)
    figure = wrench.lowest + mark * wrench.graduation
    return Setting(figure=figure, unit=wrench.unit, torque_nm=to_nm(figure, wrench.unit))
