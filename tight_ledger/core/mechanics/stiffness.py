"""How far a bolt stretches and a joint gives, and so how far a nut turns for a clamp load.

    δ_bolt = (0.5 d + l_shank + 0.4 d) / (E A_d) + (l_thread + 0.5 d) / (E A_3)      [mm/N]
    k_joint = 0.5774 π E d / (2 ln(5 (0.5774 l + 0.5 d) / (0.5774 l + 2.5 d)))       [N/mm]
    angle = 360 F (δ_bolt + δ_joint) / P

Sources, from memory: VDI 2230-1 (the bolt's compliance, head 0.5 d, engaged thread 0.5 d on the root, nut 0.4 d); Shigley,
8-5 (the joint as cones of 30°, equation 8-22 of the ninth edition).
"""

import math
from collections.abc import Iterable

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.joints.threads import Thread

STEEL_MPA, IRON_MPA, ALUMINIUM_MPA = 205_000.0, 110_000.0, 70_000.0
"""Young's modulus. Common practice, no source."""


def bolt_compliance_mm_per_n(*, thread: Thread, shank_mm: float, thread_mm: float, modulus_mpa: float = STEEL_MPA) -> float:
    """How far a bolt stretches for each newton, head and engaged thread included.

    Args:
        shank_mm: plain shank in the grip [mm], 0 or more.
        thread_mm: thread in the grip that is free [mm], 0 or more.
        modulus_mpa: [MPa], above 0.
    Raises:
        Invalid: a length is below 0, or the modulus not above it.
    """
    if not (shank_mm >= 0 and thread_mm >= 0 and modulus_mpa > 0):
        raise Invalid("shank_mm", "A length is not below 0, and a modulus above it.", "Look at them once more.")
    d = thread.diameter_mm
    return stretch_per_n(
        [(0.5 * d + shank_mm + 0.4 * d, math.pi / 4 * d**2), (thread_mm + 0.5 * d, math.pi / 4 * thread.root_diameter_mm**2)], modulus_mpa
    )


def stretch_per_n(parts: Iterable[tuple[float, float]], modulus_mpa: float) -> float:
    """Σ l / (E A) [mm/N].

    Args:
        parts: length [mm] and area [mm²] of each part.
        modulus_mpa: [MPa], above 0.
    """
    return math.fsum(length_mm / area_mm2 for length_mm, area_mm2 in parts) / modulus_mpa


def joint_compliance_mm_per_n(*, diameter_mm: float, grip_mm: float, modulus_mpa: float) -> float:
    """How far what is clamped gives for each newton: wide parts of one material between washer faces of 1.5 d.

    Args:
        diameter_mm: of the bolt [mm], above 0.
        grip_mm: what it clamps [mm], above 0.
        modulus_mpa: [MPa], above 0.
    Raises:
        Invalid: an argument is not above 0.
    """
    if not (diameter_mm > 0 and grip_mm > 0 and modulus_mpa > 0):
        raise Invalid("grip_mm", "Diameter, grip and modulus lie above 0.", "Look at them once more.")
    cone = 0.5774 * grip_mm
    ratio = 5 * (cone + 0.5 * diameter_mm) / (cone + 2.5 * diameter_mm)
    return 2 * math.log(ratio) / (0.5774 * math.pi * modulus_mpa * diameter_mm)


def load_share(*, bolt_per_n: float, joint_per_n: float) -> float:
    """Of a load that pulls on a tight joint, the share that the bolt feels: k_bolt / (k_bolt + k_joint).

    Args:
        bolt_per_n: compliance of the bolt [mm/N], above 0.
        joint_per_n: compliance of the joint [mm/N], above 0.
    """
    return joint_per_n / (bolt_per_n + joint_per_n)


def turn_deg(*, clamp_n: float, compliance_mm_per_n: float, pitch_mm: float) -> float:
    """How far a nut turns from snug to a clamp load, while everything is elastic [°].

    Args:
        clamp_n: [N], 0 or more.
        compliance_mm_per_n: of bolt and joint together [mm/N].
        pitch_mm: [mm], above 0.
    """
    return 360 * clamp_n * compliance_mm_per_n / pitch_mm


def clamp_after_turn_n(*, turned_deg: float, compliance_mm_per_n: float, pitch_mm: float) -> float:
    """The clamp load after a turn from snug, while everything is elastic [N].

    Args:
        turned_deg: [°], 0 or more.
        compliance_mm_per_n: of bolt and joint together [mm/N], above 0.
        pitch_mm: [mm], above 0.
    """
    return turned_deg * pitch_mm / (360 * compliance_mm_per_n)
