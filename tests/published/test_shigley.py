"""Shigley, Mechanical Engineering Design, 3-12 and table 8-15; Roark: torsion of a square. From memory. Compared: windup, the same torque at other nut factors."""

import pytest

from tight_ledger.core.joints.threads import parse_thread, strength
from tight_ledger.core.mechanics.estimates import tightening_torque_nm
from tight_ledger.core.tools.adapters import (
    windup_deg,
)


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
