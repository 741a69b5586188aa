"""What goes on a wrench's end, each thing by itself, and what it does to a setting or to an angle.

A crowfoot lengthens or shortens the lever; a straight rigid extension changes no torque but winds up; a universal
joint makes the torque swing; a tilted handle gives only part of itself. Sources: lever arithmetic (derived); torsion of
a shaft, Shigley, Mechanical Engineering Design, 3-12 (quoted from memory); a square's torsion constant 0.1406 a⁴, Roark
(quoted from memory).
"""

import math
from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model

SHEAR_MODULUS_MPA = 79_300.0
"""Steel. Common practice, no source."""
LEVER_LEFT = 0.05
"""A folded crowfoot must leave at least this share of the lever."""

Drive = Literal["1/4 in", "3/8 in", "1/2 in", "3/4 in", "1 in", "1 1/2 in"]
SQUARE_LIMIT_NM: dict[str, float] = {"1/4 in": 30, "3/8 in": 135, "1/2 in": 340, "3/4 in": 1_000, "1 in": 2_000, "1 1/2 in": 6_000}
"""The most that a square is pulled to by hand. Common practice, no source; a tool's own limit comes first."""


class OnTheEnd(Model):
    """What everything has that goes on a wrench's end. One that is in the crib has an id."""

    id: UUID | None = None
    drive: Drive
    """The square that it goes on."""
    limit_nm: float | None = Field(default=None, gt=0)
    serial: str = Field(default="", max_length=40)
    owner: str = Field(default="", max_length=80)


class Crowfoot(OnTheEnd):
    """An open or ring end beside the drive.

    `length_mm` runs from the drive's centre to the fastener's; `angle_deg` is measured from the handle's axis produced
    beyond the drive: 0 straight on, 90 square to the handle, 180 folded back.
    """

    kind: Literal["crowfoot"]
    name: str = "crowfoot"
    length_mm: float = Field(gt=0, le=500)
    angle_deg: float = Field(default=0, ge=-180, le=180)


class Extension(OnTheEnd):
    """A straight rigid extension of round or square section."""

    kind: Literal["extension"]
    name: str = "extension"
    length_mm: float = Field(gt=0, le=3_000)
    across_mm: float = Field(gt=0, le=100)
    section: Literal["round", "square"] = "round"


class DriveAdapter(OnTheEnd):
    """From one square to another: it changes no torque, the smaller square is the limit."""

    kind: Literal["step"]
    name: str = "drive adapter"
    to: Drive


class Universal(OnTheEnd):
    """A universal joint at an angle: what comes out swings twice a turn."""

    kind: Literal["universal"]
    name: str = "universal joint"
    bend_deg: float = Field(default=0, ge=0, lt=90)


class Socket(OnTheEnd):
    """A socket: plain, keyed to a slotted nut, or splined."""

    kind: Literal["socket"]
    name: str = "socket"
    fits: str = Field(default="", max_length=40)


class Multiplier(OnTheEnd):
    """A geared multiplier. `ratio` is by its teeth; `efficiency` by its maker's sheet; `limit_nm` what its anvil bears."""

    kind: Literal["multiplier"]
    name: str = "multiplier"
    to: Drive
    ratio: float = Field(gt=1, le=200)
    efficiency: float = Field(default=0.9, gt=0.3, le=1)
    anti_windback: bool = False


Adapter = Annotated[Crowfoot | Extension | DriveAdapter | Universal | Socket | Multiplier, Field(discriminator="kind")]


def crowfoot_factor(*, lever_mm: float, length_mm: float, angle_deg: float) -> float:
    """Setting over torque at the fastener: L / (L + E cos θ).

    Args:
        lever_mm: from the drive to the middle of the grip [mm], above 0.
        length_mm: from the drive to the fastener [mm], 0 or more.
        angle_deg: from the handle's axis produced beyond the drive; 90 changes nothing, 180 is folded back.
    Raises:
        Invalid: the lever is not above 0, or the crowfoot folds back over nearly all of it.
    """
    if not (lever_mm > 0 and length_mm >= 0):  # this way round, NaN is refused too
        raise Invalid("lever_mm", f"A lever of {lever_mm:g} mm is none.", "Measure from the drive to the middle of the grip.")
    reach_mm = lever_mm + length_mm * math.cos(math.radians(angle_deg))
    if reach_mm < lever_mm * LEVER_LEFT:
        raise Invalid("angle_deg", "Folded back, this crowfoot leaves no lever.", "Turn it toward square, or take a shorter one.")
    return lever_mm / reach_mm


def windup_deg(*, torque_nm: float, length_mm: float, across_mm: float, section: Literal["round", "square"]) -> float:
    """How far an extension twists: T L / (G J).

    Args:
        torque_nm: [N·m], 0 or more.
        length_mm: free length [mm].
        across_mm: diameter, or side of the square [mm], above 0.
    """
    polar_mm4 = math.pi * across_mm**4 / 32 if section == "round" else 0.1406 * across_mm**4
    return math.degrees(torque_nm * 1_000 * length_mm / (SHEAR_MODULUS_MPA * polar_mm4))


def universal_swing(bend_deg: float) -> tuple[float, float]:
    """The least and the most that comes out of a universal joint, as shares of what goes in: cos β and 1/cos β.

    Args:
        bend_deg: 0 to below 90.
    Raises:
        Invalid: out of range.
    """
    if not 0 <= bend_deg < 90:
        raise Invalid("bend_deg", f"A joint bent by {bend_deg:g}° turns nothing.", "Give 0 to below 90°.")
    cosine = math.cos(math.radians(bend_deg))
    return cosine, 1 / cosine


MOST_TILT_DEG = 30.0


def tilt_share(tilt_deg: float) -> float:
    """What a wrench gives that is tilted out of the plane of rotation: T · cos(tilt).

    Args:
        tilt_deg: 0 to 30; beyond that the socket rides on the nut's edges.
    Raises:
        Invalid: out of range.
    """
    if not 0 <= tilt_deg <= MOST_TILT_DEG:
        raise Invalid(
            "tilt_deg", f"Tilted by {tilt_deg:g}°, the socket does not sit.", f"Keep to {MOST_TILT_DEG:g}°, or find another way in."
        )
    return math.cos(math.radians(tilt_deg))
