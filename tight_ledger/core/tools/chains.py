"""A chain of things on a wrench's end: what they do together to the setting, the angle, the limits.

Torque is followed from the wrench outward. A multiplier makes it larger and turns slower, so what stands before it
bears less and winds up at the handle's side, what stands after it bears all of it. A crowfoot changes it by its lever: the
square behind it sees the wrench's setting, more than the fastener gets when the crowfoot points back at the handle.
"""

import math

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.tools.adapters import (
    SQUARE_LIMIT_NM,
    Adapter,
    Crowfoot,
    DriveAdapter,
    Extension,
    Multiplier,
    Universal,
    crowfoot_factor,
    tilt_share,
    universal_swing,
    windup_deg,
)
from tight_ledger.core.tools.multipliers import HAND_CAUTION, WINDBACK_CAUTION

MOST_SWING = 0.04
"""A universal joint that swings more than a wrench's own deviation (ISO 6789-1: ±4 %) is refused."""


class Chain(Model):
    """What a chain of adapters does, and what is said about it."""

    factor: float = 1.0
    """Setting over torque at the fastener."""
    extension_mm: float = 0.0
    windup_deg_per_nm: float = 0.0
    """Windup at the handle for each N·m at the fastener [°/N·m]."""
    handle_turns: float = 1.0
    """How many times the handle goes round for each turn of the fastener."""
    limit_nm: float | None = None
    """At the fastener."""
    limited_by: str = ""
    notes: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()


def adapter_words(adapters: tuple[Adapter, ...], factor: float, tilt_deg: float = 0) -> str:
    """`crowfoot 50 mm at 0°: setting × 0.8889`; empty with nothing on the end and no tilt."""
    named = [
        f"{adapter.name} {adapter.length_mm:g} mm at {adapter.angle_deg:g}°" if isinstance(adapter, Crowfoot) else adapter.name
        for adapter in adapters
    ]
    named += [f"tilted {tilt_deg:g}°"] if tilt_deg else []
    return f"{', '.join(named)}: setting × {factor:.4f}" if named else ""


def chain(drive: str, lever_mm: float | None, adapters: tuple[Adapter, ...], tilt_deg: float = 0) -> Chain:
    """What adapters on a wrench do together, in the sequence in which they are put on.

    Args:
        drive: the wrench's square.
        lever_mm: from the drive to the middle of the grip [mm]; needed as soon as there is a crowfoot.
        adapters: from the wrench outward.
        tilt_deg: how far the handle is tilted out of the plane of rotation, 0 to 30.
    Raises:
        Invalid: a square that does not fit, a crowfoot and no lever, two crowfeet, a crowfoot behind a multiplier, or a
            universal joint that swings too far.
    """
    at, share, notes, cautions = drive, tilt_share(tilt_deg), list[str](), list[str]()
    bent: list[Universal] = []
    passed, gain, turns, windup, extension_mm, crowfeet = 1.0, 1.0, 1.0, 0.0, 0.0, 0
    squares = [(SQUARE_LIMIT_NM[drive], passed, f"the square of {drive}")] if drive in SQUARE_LIMIT_NM else []
    own: list[tuple[float, float, str]] = []
    if tilt_deg:
        notes.append(f"Tilted by {tilt_deg:g}° the wrench gives {share:.1%} of what it shows.")
    for adapter in adapters:
        if adapter.drive != at:
            raise Invalid(
                "adapters", f"The {adapter.name} has a square of {adapter.drive}; what it goes on has {at}.", "Put a step between."
            )
        squares.append((SQUARE_LIMIT_NM[adapter.drive], passed, f"the square of {adapter.drive}"))
        if isinstance(adapter, Multiplier):
            gain *= adapter.ratio * adapter.efficiency
            turns *= adapter.ratio
            passed /= adapter.ratio * adapter.efficiency
            cautions += [HAND_CAUTION, *([] if adapter.anti_windback else [WINDBACK_CAUTION])]
            notes.append(f"The handle goes round {adapter.ratio:g} times for each turn of the fastener.")
        if isinstance(adapter, DriveAdapter | Multiplier):
            at = adapter.to
            squares.append((SQUARE_LIMIT_NM[adapter.to], passed, f"the square of {adapter.to}"))
        if isinstance(adapter, Crowfoot):
            if gain > 1:
                raise Invalid("adapters", "Behind a multiplier a crowfoot has no lever of its own.", "Put a socket there.")
            crowfeet += 1
            if crowfeet > 1:
                raise Invalid("adapters", "Two crowfeet on one wrench cannot be reckoned with.", "Use one.")
            passed *= _crowfoot(adapter, lever_mm, notes)
        elif isinstance(adapter, Extension):
            extension_mm += adapter.length_mm
            twist = windup_deg(torque_nm=1, length_mm=adapter.length_mm, across_mm=adapter.across_mm, section=adapter.section)
            windup += twist * turns * gain
            notes.append(f"The {adapter.name} changes no torque; it winds up, which matters for an angle.")
        elif isinstance(adapter, Universal):
            bent.append(adapter)
        if adapter.limit_nm is not None:
            own.append((adapter.limit_nm, passed, f"the {adapter.name}"))
    _universals(bent, notes)
    # A square sees the setting less what stands before it; tilted, it is held against the whole setting, which is more.
    # What an adapter bears is what it delivers.
    at_fastener = [(limit * seen * share / passed, said) for limit, seen, said in squares]
    at_fastener += [(limit * seen / passed, said) for limit, seen, said in own]
    limit = min(at_fastener, default=None)
    return Chain(
        factor=passed / share, extension_mm=extension_mm, handle_turns=turns,
        windup_deg_per_nm=windup / gain,  # at each extension the torque is its gain / the last
        limit_nm=limit[0] if limit else None, limited_by=limit[1] if limit else "", notes=tuple(notes), cautions=tuple(cautions),
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


def _universals(bent: list[Universal], notes: list[str]) -> None:
    """Two joints add up: at worst both swing the same way at once."""
    least = math.prod(universal_swing(joint.bend_deg)[0] for joint in bent)
    most = 1 / least
    named = " and ".join(f"the {joint.name} at {joint.bend_deg:g}°" for joint in bent if joint.bend_deg)
    if most - 1 > MOST_SWING:
        raise Invalid(
            "adapters", f"{named[0].upper()}{named[1:]} give{'' if len(bent) > 1 else 's'} {least:.0%} to {most:.0%} of the pull.",
            "Straighten it, or take an extension.",
        )  # fmt: skip
    if named:
        notes.append(f"{named[0].upper()}{named[1:]} give{'' if len(bent) > 1 else 's'} {least:.1%} to {most:.1%} of the pull.")
