"""Shigley, Mechanical Engineering Design, 3-12 and table 8-15; Roark: torsion of a square. From memory. Compared: windup, the same torque at other nut factors, the stretch of a stepped bolt, the stiffness of a joint and how it shares a load (8-5, from memory)."""

import pytest

from tight_ledger.core.adjust.stretch import stretch_mm
from tight_ledger.core.joints.threads import parse_thread, strength
from tight_ledger.core.mechanics.estimates import tightening_torque_nm
from tight_ledger.core.mechanics.stiffness import joint_compliance_mm_per_n, load_share
from tight_ledger.core.tools.adapters import windup_deg

N_PER_MM = 0.17512683
"""In 1 lbf/in."""
PSI_IN_MPA = 0.006894757


@pytest.mark.parametrize(("section", "across_mm", "degrees"), [("round", 9.525, 13.4), ("square", 9.525, 9.4), ("round", 12, 5.3)])
def test_the_windup_of_250_mm_at_60_nm(section, across_mm, degrees):
    """T L / (G J), G = 79.3 GPa (derived)."""
    assert windup_deg(torque_nm=60, length_mm=250, across_mm=across_mm, section=section) == pytest.approx(degrees, abs=0.05)


@pytest.mark.parametrize(("factor", "clamp_kn"), [(0.20, "33.3"), (0.15, "44.4"), (0.11, "60.6")])
def test_the_same_torque_on_dry_zinc_and_paste(factor, clamp_kn):
    """M12 8.8 at 80 N·m: a dry figure on a molybdenum paste goes past yield (derived; Shigley's K)."""
    assert tightening_torque_nm(clamp_n=float(clamp_kn) * 1_000, diameter_mm=12, nut_factor=factor) == pytest.approx(80, abs=0.1)
    over_yield = float(clamp_kn) * 1_000 > strength("8.8", 12).yield_mpa * parse_thread("M12").stress_area_mm2
    assert over_yield == (factor == 0.11)


def test_how_far_a_stepped_bolt_stretches():
    """δ = F Σ L/(E A): 30 kN over 40 mm of 78.54 mm² and 20 mm of 58.0 mm², E = 205 GPa (derived)."""
    assert stretch_mm(30_000, [(40, 78.54), (20, 58.0)]) == pytest.approx(0.1250, abs=0.00005)


def test_the_stiffness_of_a_joint_as_cones():
    """Example 8-2: 1/2 in bolt, 1.345 in of steel, E 30 Mpsi: 14.64 Mlbf/in."""
    per_n = joint_compliance_mm_per_n(diameter_mm=12.7, grip_mm=1.345 * 25.4, modulus_mpa=30e6 * PSI_IN_MPA)
    assert 1 / per_n / N_PER_MM == pytest.approx(14.64e6, rel=0.001)


def test_how_bolt_and_joint_share_a_load():
    """Example 8-4: 5.21 and 8.95 Mlbf/in: the bolt feels 0.368 of a load that pulls on the joint."""
    assert load_share(bolt_per_n=1 / 5.21, joint_per_n=1 / 8.95) == pytest.approx(0.368, abs=0.0005)
