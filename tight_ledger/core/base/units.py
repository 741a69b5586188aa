"""Units of torque and length, and their exact sizes.

Stored are N·m, degrees and mm. The factors are exact by definition: lbf = 4.4482216152605 N, ft = 0.3048 m,
g0 = 9.80665 m/s² (NIST SP 811; see docs/sources.md).
"""

import itertools
from typing import Literal, NewType, get_args

from tight_ledger.core.base.rounding import nine_digits

NewtonMetre = NewType("NewtonMetre", float)
TorqueUnit = Literal["N·m", "lbf·ft", "lbf·in", "kgf·m", "ozf·in", "kgf·cm", "daN·m"]
LengthUnit = Literal["mm", "µm", "thou", "in"]
ForceUnit = Literal["N", "lbf", "kgf"]
"""What a spring scale shows; with the radius at which it pulls that is a torque."""
ReadingUnit = TorqueUnit | Literal["°"] | LengthUnit | ForceUnit
Quantity = Literal["torque", "angle", "length", "drag"]

LENGTH_UNITS: tuple[LengthUnit, ...] = get_args(LengthUnit)
TORQUE_UNITS: tuple[TorqueUnit, ...] = get_args(TorqueUnit)
USUAL_UNITS: tuple[TorqueUnit, ...] = ("N·m", "lbf·ft", "lbf·in", "kgf·m")
"""The units in which a sheet shows every torque."""

LBF_N = 4.4482216152605
FOOT_M = 0.3048
STANDARD_GRAVITY = 9.80665
NM_PER_UNIT: dict[str, float] = {
    "N·m": 1.0,
    "lbf·ft": LBF_N * FOOT_M,
    "lbf·in": LBF_N * FOOT_M / 12,
    "ozf·in": LBF_N * FOOT_M / 192,
    "kgf·m": STANDARD_GRAVITY,
    "kgf·cm": STANDARD_GRAVITY / 100,
    "daN·m": 10.0,
}
"""The size of each unit of torque [N·m]."""
MM_PER_UNIT: dict[str, float] = {"mm": 1.0, "µm": 0.001, "thou": 0.0254, "in": 25.4}
"""The size of each unit of length [mm]."""
N_PER_UNIT: dict[str, float] = {"N": 1.0, "lbf": LBF_N, "kgf": STANDARD_GRAVITY}
"""The size of each unit of force [N]."""
STORED_PER_UNIT: dict[str, float] = {"°": 1.0} | NM_PER_UNIT | MM_PER_UNIT | N_PER_UNIT
"""The size of each unit, in the unit in which its quantity is stored; of a force, in N at a radius of one metre."""
STORED_UNIT: dict[Quantity, ReadingUnit] = {"torque": "N·m", "drag": "N·m", "angle": "°", "length": "mm"}

MOST_TORQUE_NM = 50_000.0
"""Largest torque that is accepted [N·m]: more than a person pulls with a wrench."""


def to_stored(figure: float, unit: ReadingUnit, radius_mm: float = 1_000.0) -> float:
    """A figure in `unit` in the unit in which its quantity is stored: N·m, ° or mm.

    Args:
        radius_mm: of a force, from the middle of the shaft to where it pulls, at a right angle: force times radius.
    """
    lever_m = radius_mm / 1_000 if unit in N_PER_UNIT else 1.0
    return nine_digits(figure * STORED_PER_UNIT[unit] * lever_m)


def from_stored(figure: float, unit: ReadingUnit) -> float:
    """A stored figure [N·m, ° or mm] as a figure in `unit`."""
    return nine_digits(figure / STORED_PER_UNIT[unit])


def to_nm(figure: float, unit: TorqueUnit) -> NewtonMetre:
    """A torque figure in `unit` as N·m."""
    return NewtonMetre(to_stored(figure, unit))


def from_nm(torque_nm: float, unit: TorqueUnit) -> float:
    """A torque in N·m as a figure in `unit`."""
    return from_stored(torque_nm, unit)


def ratios(per_unit: dict[str, float], units: tuple[str, ...]) -> tuple[tuple[float, str, str], ...]:
    """Every ratio above 1 between two units, with the slip that makes a figure too small by it, and too large.

    `lbf·ft taken for lbf·in` is too small, `lbf·in taken for lbf·ft` too large.
    """
    pairs = itertools.combinations(sorted(units, key=per_unit.__getitem__, reverse=True), 2)
    return tuple((per_unit[large] / per_unit[small], f"{large} taken for {small}", f"{small} taken for {large}") for large, small in pairs)
