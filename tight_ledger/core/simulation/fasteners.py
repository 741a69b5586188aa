"""A simulated fastener under a wrench: torque over angle through run-down, snug, elastic and yield.

A model for trying things out, not for judging a joint: the slope is straight in the elastic part and falls off
exponentially beyond yield (common practice, no source). Friction scatters from fastener to fastener, by a seed.
"""

import math
import random
from dataclasses import dataclass, field

RUN_DOWN_NM = 0.5


@dataclass(slots=True)
class SimulatedFastener:
    """One fastener. Angles in degrees from where the thread takes hold, torques in N·m."""

    snug_deg: float = 40.0
    """How far it runs down before its seat meets."""
    rate_nm_per_deg: float = 1.2
    yield_nm: float = 1e9
    friction: float = 1.0
    """Its own friction over the average: it scales the torque at any angle."""
    angle_deg: float = 0.0

    def torque_at(self, angle_deg: float) -> float:
        """The torque that turns it on at an angle [N·m]."""
        beyond = angle_deg - self.snug_deg
        if beyond <= 0:
            return RUN_DOWN_NM
        elastic = RUN_DOWN_NM + self.rate_nm_per_deg * beyond
        if elastic <= self.yield_nm:
            return elastic * self.friction
        over = elastic - self.yield_nm
        return (self.yield_nm + 0.12 * self.yield_nm * (1 - math.exp(-over / (0.3 * self.yield_nm)))) * self.friction

    def stands_at(self) -> float:
        """The torque that it holds now [N·m]."""
        return self.torque_at(self.angle_deg)


@dataclass(slots=True)
class Joint:
    """Fasteners by label, each with friction of its own, always the same for a seed."""

    seed: int = 1
    final_nm: float = 100.0
    yields: bool = False
    scatter: float = 0.06
    """Standard deviation of the friction, as a share. VDI 2230 has about this for a wrench and known friction (from memory)."""
    fasteners: dict[str, SimulatedFastener] = field(default_factory=dict)

    def fastener(self, label: str) -> SimulatedFastener:
        """The fastener of a label."""
        if label not in self.fasteners:
            dice = random.Random(f"{self.seed}/{label}")
            self.fasteners[label] = SimulatedFastener(
                snug_deg=dice.uniform(25, 60), rate_nm_per_deg=self.final_nm / 90, friction=max(dice.gauss(1, self.scatter), 0.7),
                yield_nm=self.final_nm * 1.15 if self.yields else 1e9,
            )  # fmt: skip
        return self.fasteners[label]
