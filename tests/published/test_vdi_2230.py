"""VDI 2230-1, from memory. Compared: preload and torque of M10 and M12 8.8 by both editions, the compliance of a bolt, tightening factors, the range of friction. Not compared: embedding, bending, thread stripping."""

import numpy as np
import pytest

from tight_ledger.core.joints.threads import parse_thread, strength
from tight_ledger.core.lab.bolts import LabBolt
from tight_ledger.core.mechanics.friction import friction_of, loosening_nm, lubricants, torque_parts
from tight_ledger.core.mechanics.stiffness import bolt_compliance_mm_per_n
from tight_ledger.core.mechanics.stress import clamp_at_stress_n, stresses
from tight_ledger.core.trials.scatter import clamp_loads

HEADS_MM = {"M10": 12.8, "M12": 15.05}


def tightened(name, clamp_n, friction=0.12):
    return torque_parts(
        clamp_n=clamp_n, thread=parse_thread(name), thread_friction=friction, head_friction=friction, head_diameter_mm=HEADS_MM[name]
    )


@pytest.mark.parametrize(
    ("name", "torsion", "clamp_kn", "torque_nm"),
    [("M10", "elastic", 27.3, 46), ("M10", "plastic", 29.6, 48), ("M12", "elastic", 39.9, 80), ("M12", "plastic", 43.0, 84)],
)
def test_preload_and_torque_at_90_percent_of_yield(name, torsion, clamp_kn, torque_nm):
    """8.8, μ = 0.12. Elastic torsion until 2003, plastic since. Preload within 0.5 %; torque within 3.5 %: the older tables have a wider head."""
    clamp_n = clamp_at_stress_n(stress_mpa=0.9 * 640, thread=parse_thread(name), thread_friction=0.12, torsion=torsion)
    assert clamp_n / 1_000 == pytest.approx(clamp_kn, rel=0.005)
    assert tightened(name, clamp_n).whole_nm == pytest.approx(torque_nm, rel=0.035)


def test_the_10_40_50_of_a_torque():
    """M10, μ = 0.12: 14.6 % stretches, 38.3 % thread, 47.1 % head; practitioners say 10, 40 and 50."""
    parts = tightened("M10", 27_300)
    assert [part / parts.whole_nm for part in parts] == pytest.approx([0.146, 0.383, 0.471], abs=0.001)


def test_loosening_takes_less_than_tightening():
    """M10, Db 12.815, 27.3 kN: 44.6 N·m on, 31.5 N·m off (derived); and the friction found again from torque and load (ISO 16047)."""
    thread = parse_thread("M10")
    parts = torque_parts(clamp_n=27_300, thread=thread, thread_friction=0.12, head_friction=0.12, head_diameter_mm=12.815)
    assert (parts.whole_nm, loosening_nm(parts)) == pytest.approx((44.6, 31.5), abs=0.06)
    assert friction_of(torque_nm=44.6, clamp_n=27_300, thread=thread, head_diameter_mm=12.815) == pytest.approx(0.12, abs=0.0005)


def test_pull_and_twist():
    """M10, 30 kN, μ = 0.12, elastic torsion: 517 and 208 MPa (derived)."""
    found = stresses(clamp_n=30_000, thread=parse_thread("M10"), thread_friction=0.12, torsion="elastic")
    assert found == pytest.approx((517, 208), abs=0.5)


def test_the_compliance_of_a_bolt():
    """M10, 30 mm shank, 25 mm thread, E 210 GPa: 5.096e-6 mm/N."""
    found = bolt_compliance_mm_per_n(thread=parse_thread("M10"), shank_mm=30, thread_mm=25, modulus_mpa=210_000)
    assert found == pytest.approx(5.096e-6, rel=1e-3)


@pytest.mark.parametrize(
    ("method", "lubricant", "low", "high"),
    [
        ("click wrench", "oiled", 1.6, 2.5),
        ("electronic wrench", "dry, as delivered", 1.4, 2.5),
        ("impact driver", "oiled", 2.5, 4.0),
        ("torque and angle", "oiled", 1.2, 1.4),
        ("into yield", "oiled", 1.1, 1.4),
    ],
)
def test_tightening_factors_come_out_as_printed(method, lubricant, low, high):
    """F_max / F_min between the 2.5th and the 97.5th of a hundred. Into yield comes out a little better than printed."""
    known = {each.name: each for each in lubricants()}[lubricant]
    bolt = LabBolt(parse_thread("M12"), strength("8.8", 12), 30, "steel", "hexagon", known)
    loads = clamp_loads(bolt, 60, np.random.default_rng(7), 20_000)[method]
    least, most = np.percentile(loads, [2.5, 97.5])
    assert low <= most / least <= high
