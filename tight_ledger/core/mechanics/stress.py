"""What a bolt bears while it is turned: pull and twist together.

    σ_red = √(σ² + 3 τ²),  τ = T_thread / (π/12 d_s³),  d_s = (d2 + d3) / 2

The twist is taken as spread over the whole section (VDI 2230-1 since 2003, plastic torsion; quoted from memory). The older
edition has π/16, elastic torsion, and permits about 8 % less clamp load.
"""

import math
from typing import Literal, NamedTuple

from tight_ledger.core.joints.threads import Strength, Thread
from tight_ledger.core.mechanics.friction import FLANK

Torsion = Literal["plastic", "elastic"]
_SECTION: dict[Torsion, float] = {"plastic": math.pi / 12, "elastic": math.pi / 16}


class Stresses(NamedTuple):
    """In a bolt that is being turned [MPa]."""

    pull_mpa: float
    twist_mpa: float

    @property
    def together_mpa(self) -> float:
        """√(σ² + 3 τ²)."""
        return math.hypot(self.pull_mpa, math.sqrt(3) * self.twist_mpa)


def stress_diameter_mm(thread: Thread) -> float:
    """d_s = (d2 + d3) / 2 [mm]."""
    return (thread.pitch_diameter_mm + thread.root_diameter_mm) / 2


def stresses(*, clamp_n: float, thread: Thread, thread_friction: float, torsion: Torsion = "plastic") -> Stresses:
    """Pull and twist at a clamp load.

    Args:
        clamp_n: [N], 0 or more.
        thread_friction: coefficient in the thread.
    """
    twist_nmm = clamp_n * (thread.pitch_mm / (2 * math.pi) + FLANK * thread.pitch_diameter_mm * thread_friction)
    return Stresses(clamp_n / thread.stress_area_mm2, twist_nmm / (_SECTION[torsion] * stress_diameter_mm(thread) ** 3))


def clamp_at_stress_n(*, stress_mpa: float, thread: Thread, thread_friction: float, torsion: Torsion = "plastic") -> float:
    """The clamp load at which pull and twist together reach a stress [N].

    Args:
        stress_mpa: [MPa], above 0.
        thread_friction: coefficient in the thread.
    """
    return stress_mpa / stresses(clamp_n=1.0, thread=thread, thread_friction=thread_friction, torsion=torsion).together_mpa


class Bears(NamedTuple):
    """What a bolt bears while it is turned [N]."""

    proof_n: float
    """Pulled straight, without a twist: the figure in the tables."""
    yield_n: float
    most_n: float
    """From here it necks, and then breaks."""


def bears(strength: Strength, thread: Thread, thread_friction: float) -> Bears:
    """What a bolt bears at a friction: the more of the torque goes through its thread, the less.

    Args:
        thread_friction: coefficient in the thread.
    """
    per_mpa = clamp_at_stress_n(stress_mpa=1.0, thread=thread, thread_friction=thread_friction)
    return Bears(strength.proof_mpa * thread.stress_area_mm2, strength.yield_mpa * per_mpa, strength.tensile_mpa * per_mpa)
