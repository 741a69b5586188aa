"""Statics of levers and joints, derived: figures that anybody can redo. Compared: crowfoot, universal joint, tilted wrench."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.tools.adapters import (
    crowfoot_factor,
    tilt_share,
    universal_swing,
)
from tight_ledger.core.tools.chains import chain


@pytest.mark.parametrize(("angle_deg", "setting"), [(0, 88.89), (45, 91.88), (90, 100), (180, 114.29)])
def test_a_crowfoot_of_50_on_a_lever_of_400_at_a_target_of_100(angle_deg, setting):
    """setting = target · L / (L + E cos θ) (derived)."""
    assert 100 * crowfoot_factor(lever_mm=400, length_mm=50, angle_deg=angle_deg) == pytest.approx(setting, abs=0.005)


def test_a_universal_joint_swings_and_a_tilted_wrench_gives_less():
    least, most = universal_swing(30)
    assert (least, most) == (pytest.approx(math.sqrt(3) / 2), pytest.approx(2 / math.sqrt(3)))
    assert tilt_share(20) == pytest.approx(0.9397, abs=5e-5)
    assert chain("1/2 in", None, (), 20).factor == pytest.approx(1 / 0.9397, abs=1e-4)
    with pytest.raises(Invalid, match="does not sit"):
        tilt_share(31)
    with pytest.raises(Invalid):
        universal_swing(90)


@given(st.floats(100, 1_500), st.floats(0, 200), st.floats(0, 180))
def test_square_changes_nothing_straight_lowers_folded_raises(lever_mm, length_mm, angle_deg):
    if lever_mm + length_mm * math.cos(math.radians(angle_deg)) < 0.05 * lever_mm:
        with pytest.raises(Invalid, match="leaves no lever"):
            crowfoot_factor(lever_mm=lever_mm, length_mm=length_mm, angle_deg=angle_deg)
        return
    factor = crowfoot_factor(lever_mm=lever_mm, length_mm=length_mm, angle_deg=angle_deg)
    assert factor == pytest.approx(1 / (1 + length_mm / lever_mm * math.cos(math.radians(angle_deg))))
    assert (factor <= 1 + 1e-9) if angle_deg <= 90 else (factor >= 1 - 1e-9)
