"""How a pull's torque divides between stretching the bolt, its thread and the face under its head.

    T = F (P / 2π + 0.577 μ_thread d2 + 0.5 μ_head D_b)

Valid for 60° threads tightened at an even pace. Source: ISO 16047 and VDI 2230-1 (quoted from memory; VDI prints 0.16 P
and 0.58 d2, which is up to 0.5 % more).
"""

import math
from typing import NamedTuple

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.joints.threads import Thread, tables

FLANK = 1 / (2 * math.cos(math.radians(30)))
"""Of a 60° thread: 0.577."""
LEAST_FRICTION, MOST_FRICTION = 0.02, 0.6


class FrictionRange(NamedTuple):
    """Friction as it is published: from, to."""

    name: str
    low: float
    high: float

    @property
    def mid(self) -> float:
        """The middle of the range."""
        return (self.low + self.high) / 2


class TorqueParts(NamedTuple):
    """A torque, part by part [N·m]."""

    stretch_nm: float
    thread_nm: float
    head_nm: float

    @property
    def whole_nm(self) -> float:
        """The sum [N·m]."""
        return self.stretch_nm + self.thread_nm + self.head_nm


def lubricants() -> tuple[FrictionRange, ...]:
    """The lubricants for which a range of friction is published, the most slippery first."""
    return tuple(
        FrictionRange(name, each["low"], each["high"]) for name, each in tables()["lubricants"].items() if not name.startswith("_")
    )


def lubricant(name: str) -> FrictionRange:
    """A lubricant by its name.

    Raises:
        Invalid: no friction is published for it.
    """
    known = {each.name: each for each in lubricants()}
    if name not in known:
        raise Invalid("lubricant", f"No friction is published for “{name}”.", f"It can be {', '.join(known)}.")
    return known[name]


def torque_parts(*, clamp_n: float, thread: Thread, thread_friction: float, head_friction: float, head_diameter_mm: float) -> TorqueParts:
    """The torque that tightens a bolt to a clamp load.

    Args:
        clamp_n: clamp load [N], 0 or more.
        thread_friction: coefficient in the thread, 0.02 to 0.6.
        head_friction: coefficient under the head, 0.02 to 0.6.
        head_diameter_mm: diameter at which the friction under the head acts [mm], above 0.
    Raises:
        Invalid: an argument is out of range.
    """
    known = all(LEAST_FRICTION <= each <= MOST_FRICTION for each in (thread_friction, head_friction))
    if not (known and clamp_n >= 0 and head_diameter_mm > 0):  # this way round, NaN is refused too
        raise Invalid("friction", "Friction lies between 0.02 and 0.6; load and diameter are not below 0.", "Look at them once more.")
    return TorqueParts(
        stretch_nm=clamp_n * thread.pitch_mm / (2 * math.pi) / 1_000,
        thread_nm=clamp_n * FLANK * thread.pitch_diameter_mm * thread_friction / 1_000,
        head_nm=clamp_n * 0.5 * head_diameter_mm * head_friction / 1_000,
    )


def loosening_nm(parts: TorqueParts) -> float:
    """What loosens it at the same friction: the bolt's own stretch now helps [N·m]."""
    return parts.thread_nm + parts.head_nm - parts.stretch_nm


def friction_of(*, torque_nm: float, clamp_n: float, thread: Thread, head_diameter_mm: float) -> float:
    """The friction that a torque and a clamp load show, the same in thread and under the head (ISO 16047).

    Args:
        torque_nm: [N·m], above 0.
        clamp_n: [N], above 0.
        head_diameter_mm: diameter at which the friction under the head acts [mm], above 0.
    Raises:
        Invalid: an argument is not above 0.
    """
    if not (torque_nm > 0 and clamp_n > 0 and head_diameter_mm > 0):
        raise Invalid("torque_nm", "Torque, clamp load and diameter lie above 0.", "Look at them once more.")
    per_n = torque_nm * 1_000 / clamp_n - thread.pitch_mm / (2 * math.pi)
    return per_n / (FLANK * thread.pitch_diameter_mm + 0.5 * head_diameter_mm)
