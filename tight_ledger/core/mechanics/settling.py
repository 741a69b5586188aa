"""What clamp load is lost when surfaces flatten, and what friction carries.

    lost = f_z / (δ_bolt + δ_joint);  carried = n F μ r

f_z, the settling, by surface (VDI 2230-1, table 5, about 2 to 4 µm a surface for bare steel; quoted from memory). Paint
and rust settle many times more (common practice, no source).
"""

MICRON_MM = 0.001


def lost_n(*, settling_mm: float, compliance_mm_per_n: float) -> float:
    """The clamp load that settling takes [N].

    Args:
        settling_mm: how far all surfaces together flatten [mm], 0 or more.
        compliance_mm_per_n: of bolt and joint together [mm/N], above 0.
    """
    return settling_mm / compliance_mm_per_n


def carried_nm(*, count: int, clamp_n: float, friction: float, radius_mm: float) -> float:
    """The moment that friction carries between two faces that are clamped [N·m].

    Args:
        count: number of fasteners.
        clamp_n: of each [N].
        friction: between the faces.
        radius_mm: at which it acts [mm].
    """
    return count * clamp_n * friction * radius_mm / 1_000
