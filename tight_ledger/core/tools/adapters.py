"""What goes on a wrench's end, and what it does to the setting and to an angle.

A crowfoot lengthens or shortens the lever; a straight rigid extension changes no torque but winds up; a universal
joint makes the torque swing; a tilted handle gives only part of itself. Sources: lever arithmetic (derived); torsion of
a shaft, Shigley, Mechanical Engineering Design, 3-12 (quoted from memory); a square's torsion constant 0.1406 a⁴, Roark
(quoted from memory).
"""

import math
from typing import Annotated, Literal

from pydantic import Field, ValidationError

from tight_ledger.core.base import Invalid, Model

SHEAR_MODULUS_MPA = 79_300.0
"""Steel. Common practice, no source."""
LEVER_LEFT = 0.05
"""A folded crowfoot must leave at least this share of the lever."""

Drive = Literal["1/4 in", "3/8 in", "1/2 in", "3/4 in", "1 in", "1 1/2 in"]
SQUARE_LIMIT_NM: dict[Drive, float] = {"1/4 in": 30, "3/8 in": 135, "1/2 in": 340, "3/4 in": 1_000, "1 in": 2_000, "1 1/2 in": 6_000}
"""The most that a square is pulled to by hand. Common practice, no source; a tool's own limit comes first."""


class Crowfoot(Model):
    """An open or ring end beside the drive.

    `length_mm` runs from the drive's centre to the fastener's; `angle_deg` is measured from the handle's axis produced
    beyond the drive: 0 straight on, 90 square to the handle, 180 folded back.
    """

    kind: Literal["crowfoot"]
    name: str = "crowfoot"
    drive: Drive
    length_mm: float = Field(gt=0, le=500)
    angle_deg: float = Field(default=0, ge=-180, le=180)
    limit_nm: float | None = Field(default=None, gt=0)


def on_the_end(drive: str, length_mm: float | None, angle_deg: float) -> tuple["Adapter", ...]:
    """A crowfoot on a wrench's square; nothing without a length.

    Raises:
        Invalid: the square is none that is known, or the length or the angle is out of range.
    """
    if length_mm is None:
        return ()
    if drive not in SQUARE_LIMIT_NM:
        raise Invalid("drive", f"What a square of “{drive}” takes is not known.", f"It can be {', '.join(SQUARE_LIMIT_NM)}.")
    try:
        return (Crowfoot(kind="crowfoot", drive=drive, length_mm=length_mm, angle_deg=angle_deg),)
    except ValidationError as error:
        raise Invalid("crowfoot_mm", f"A crowfoot of {length_mm:g} mm at {angle_deg:g}° is none.", "0 to 500 mm, -180 to 180°.") from error


class Extension(Model):
    """A straight rigid extension of round or square section."""

    kind: Literal["extension"]
    name: str = "extension"
    drive: Drive
    length_mm: float = Field(gt=0, le=3_000)
    across_mm: float = Field(gt=0, le=100)
    section: Literal["round", "square"] = "round"
    limit_nm: float | None = Field(default=None, gt=0)


class DriveAdapter(Model):
    """From one square to another: it changes no torque, the smaller square is the limit."""

    kind: Literal["step"]
    name: str = "drive adapter"
    drive: Drive
    to: Drive
    limit_nm: float | None = Field(default=None, gt=0)


class Universal(Model):
    """A universal joint at an angle: what comes out swings twice a turn."""

    kind: Literal["universal"]
    name: str = "universal joint"
    drive: Drive
    bend_deg: float = Field(ge=0, lt=90)
    limit_nm: float | None = Field(default=None, gt=0)


class Socket(Model):
    """A socket, keyed or splined where it says so."""

    kind: Literal["socket"]
    name: str = "socket"
    drive: Drive
    limit_nm: float | None = Field(default=None, gt=0)


Adapter = Annotated[Crowfoot | Extension | DriveAdapter | Universal | Socket, Field(discriminator="kind")]


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


def tilt_share(tilt_deg: float) -> float:
    """What a wrench gives that is tilted out of the plane of rotation: T · cos(tilt).

    Args:
        tilt_deg: 0 to below 90.
    """
    return math.cos(math.radians(tilt_deg))


def adapter_words(adapters: tuple[Adapter, ...], factor: float) -> str:
    """`crowfoot 50 mm at 0°: setting × 0.8889`; empty without adapters."""
    named = [f"{one.name} {one.length_mm:g} mm at {one.angle_deg:g}°" if isinstance(one, Crowfoot) else one.name for one in adapters]
    return f"{', '.join(named)}: setting × {factor:.4f}" if named else ""


MOST_SWING = 0.04
"""A universal joint that swings more than a wrench's own deviation (ISO 6789-1: ±4 %) is refused."""


class Chain(Model):
    """What a chain of adapters does, and what is said about it."""

    factor: float
    windup_deg_per_nm: float
    limit_nm: float | None
    limited_by: str = ""
    notes: tuple[str, ...] = ()


def chain(drive: str, lever_mm: float | None, adapters: tuple[Adapter, ...]) -> Chain:
    """What adapters on a wrench do together, in the sequence in which they are put on.

    Args:
        drive: the wrench's square.
        lever_mm: from the drive to the middle of the grip [mm]; needed as soon as there is a crowfoot.
        adapters: from the wrench outward.
    Raises:
        Invalid: a square that does not fit, a crowfoot and no lever, two crowfeet, or a universal joint that swings too far.
    """
    at, factor, windup, notes = drive, 1.0, 0.0, list[str]()
    limits: list[tuple[float, str]] = []
    for adapter in adapters:
        if adapter.drive != at:
            raise Invalid(
                "adapters", f"The {adapter.name} has a square of {adapter.drive}; what it goes on has {at}.", "Put a step between."
            )
        limits.append((SQUARE_LIMIT_NM[adapter.drive], f"the square of {adapter.drive}"))
        if adapter.limit_nm is not None:
            limits.append((adapter.limit_nm, f"the {adapter.name}"))
        if isinstance(adapter, DriveAdapter):
            at = adapter.to
            limits.append((SQUARE_LIMIT_NM[adapter.to], f"the square of {adapter.to}"))
        elif isinstance(adapter, Crowfoot):
            if factor != 1.0:
                raise Invalid("adapters", "Two crowfeet on one wrench cannot be reckoned with.", "Use one.")
            factor = _crowfoot(adapter, lever_mm, notes)
        elif isinstance(adapter, Extension):
            windup += windup_deg(torque_nm=1, length_mm=adapter.length_mm, across_mm=adapter.across_mm, section=adapter.section)
            notes.append(f"The {adapter.name} changes no torque; it winds up, which matters for an angle.")
        elif isinstance(adapter, Universal):
            least, most = universal_swing(adapter.bend_deg)
            if most - 1 > MOST_SWING:
                raise Invalid(
                    "adapters", f"Bent by {adapter.bend_deg:g}°, the {adapter.name} gives {least:.0%} to {most:.0%} of the pull.",
                    "Straighten it, or take an extension.",
                )  # fmt: skip
            notes.append(f"The {adapter.name} gives {least:.1%} to {most:.1%} of the pull.")
    limit = min(limits, default=None)
    return Chain(
        factor=factor, windup_deg_per_nm=windup, limit_nm=limit[0] if limit else None, limited_by=limit[1] if limit else "",
        notes=tuple(notes),
    )  # fmt: skip


def _crowfoot(adapter: Crowfoot, lever_mm: float | None, notes: list[str]) -> float:
    if lever_mm is None:
        raise Invalid("lever_mm", "The length of this wrench's handle is not known.", "Measure from the drive to the middle of the grip.")
    found = crowfoot_factor(lever_mm=lever_mm, length_mm=adapter.length_mm, angle_deg=adapter.angle_deg)
    if abs(found - 1) < 5e-4:
        notes.append(f"Square to the handle the {adapter.name} changes nothing.")
    else:
        way = "lower" if found < 1 else "higher"
        notes.append(
            f"The {adapter.name} asks for a {way} setting: × {found:.4f}. Hold the grip in its middle: the lever counts from there."
        )
    return found
