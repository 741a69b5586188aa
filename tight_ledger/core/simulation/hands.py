"""A hand on a simulated wrench: it holds, it lets go; slow, fast, jerky, it slips, it clicks twice."""

import random
from dataclasses import dataclass, field
from typing import Literal

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.simulation.fasteners import SimulatedFastener

Manner = Literal["slow", "steady", "fast", "jerky"]
SPEED_DEG_S: dict[Manner, float] = {"slow": 12, "steady": 30, "fast": 80, "jerky": 35}


def require_manner(text: str) -> Manner:
    """How somebody pulls.

    Raises:
        Invalid: in none of the ways that are known.
    """
    for manner in SPEED_DEG_S:
        if manner == text:
            return manner
    raise Invalid("manner", f"Nobody pulls “{text}”.", f"It can be {', '.join(SPEED_DEG_S)}.")


TOLD_EVERY_DEG = 1.0
"""A curve has a point for each degree."""


@dataclass(frozen=True, slots=True)
class PullTarget:
    """What the wrench was told: pull until a torque, or turn by an angle."""

    kind: Literal["torque", "angle", "check"]
    torque_nm: float | None = None
    angle_deg: float | None = None


@dataclass(frozen=True, slots=True)
class ShownNow:
    """What a wrench shows while it is held."""

    torque_nm: float
    angle_deg: float


@dataclass(frozen=True, slots=True)
class Pulled:
    """What a wrench tells when it was let go: the peak, how far it went, the curve from degree to degree."""

    torque_nm: float
    angle_deg: float
    curve: tuple[tuple[float, float], ...]


@dataclass(slots=True)
class WrenchInHand:
    """A torque-angle wrench in a hand, on one fastener after the other."""

    manner: Manner = "steady"
    seed: int = 1
    noise: float = 0.004
    _dice: random.Random = field(init=False)
    _curve: list[tuple[float, float]] = field(default_factory=list)
    _from_deg: float = 0.0
    _turned_deg: float = 0.0
    _peak_nm: float = 0.0

    def __post_init__(self) -> None:
        self._dice = random.Random(self.seed)

    def hold(self, fastener: SimulatedFastener, seconds: float, target: PullTarget) -> ShownNow:
        """Pull on for a while; the fastener turns once what it holds is overcome."""
        if not self._curve:
            self._from_deg = fastener.angle_deg
        speed = SPEED_DEG_S[self.manner] * (self._dice.uniform(0.1, 2.2) if self.manner == "jerky" else 1)
        near = target.torque_nm is not None and fastener.stands_at() > 0.85 * target.torque_nm
        fastener.angle_deg += speed * seconds * (0.25 if near and self.manner != "fast" else 1)
        torque_nm = fastener.stands_at() * (1 + self._dice.gauss(0, self.noise))
        self._turned_deg = fastener.angle_deg - self._from_deg
        self._peak_nm = max(self._peak_nm, torque_nm)
        if not self._curve or self._turned_deg - self._curve[-1][0] >= TOLD_EVERY_DEG:
            self._curve.append((round(self._turned_deg, 2), round(torque_nm, 2)))
        return ShownNow(torque_nm=torque_nm, angle_deg=self._turned_deg)

    def is_reached(self, target: PullTarget) -> bool:
        """Whether the target is met: here a hand lets go."""
        if target.kind == "angle":
            return target.angle_deg is not None and self._turned_deg >= target.angle_deg
        return target.torque_nm is not None and self._peak_nm >= target.torque_nm

    def let_go(self) -> Pulled | None:
        """The end of a pull; None if nothing was held."""
        if not self._curve:
            return None
        curve = (*self._curve, (round(self._turned_deg, 2), round(self._peak_nm, 2)))
        told = Pulled(torque_nm=self._peak_nm, angle_deg=self._turned_deg, curve=curve)
        self._curve, self._turned_deg, self._peak_nm = [], 0.0, 0.0
        return told


def pull(
    wrench: WrenchInHand, fastener: SimulatedFastener, target: PullTarget, step_s: float = 0.02, most_s: float = 60.0
) -> Pulled | None:
    """A whole pull by a hand that lets go at the target.

    Args:
        step_s: the simulation's step.
        most_s: it gives up after this.
    """
    for _ in range(int(most_s / step_s)):
        wrench.hold(fastener, step_s, target)
        if wrench.is_reached(target):
            break
    return wrench.let_go()
