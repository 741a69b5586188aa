"""Levers, windup, joints and gears: figures that anybody can redo (derived), and what practitioners print."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.tools.adapters import (
    Crowfoot,
    DriveAdapter,
    Extension,
    Multiplier,
    Socket,
    Universal,
    crowfoot_factor,
    tilt_share,
    universal_swing,
    windup_deg,
)
from tight_ledger.core.tools.chains import chain
from tight_ledger.core.tools.multipliers import multiply

GEAR = Multiplier(kind="multiplier", name="4:1", drive="1/2 in", to="3/4 in", ratio=4, efficiency=1, limit_nm=1_000)


@pytest.mark.parametrize(("angle_deg", "setting"), [(0, 88.89), (45, 91.88), (90, 100), (180, 114.29)])
def test_a_crowfoot_of_50_on_a_lever_of_400_at_a_target_of_100(angle_deg, setting):
    """setting = target · L / (L + E cos θ) (derived)."""
    assert 100 * crowfoot_factor(lever_mm=400, length_mm=50, angle_deg=angle_deg) == pytest.approx(setting, abs=0.005)


@pytest.mark.parametrize(("section", "across_mm", "degrees"), [("round", 9.525, 13.4), ("square", 9.525, 9.4), ("round", 12, 5.3)])
def test_the_windup_of_250_mm_at_60_nm(section, across_mm, degrees):
    """T L / (G J), G = 79.3 GPa (derived)."""
    assert windup_deg(torque_nm=60, length_mm=250, across_mm=across_mm, section=section) == pytest.approx(degrees, abs=0.05)


def test_a_gear_of_four_to_one_before_losses():
    """120 lbf·ft in, 480 out (common practice, no source)."""
    through = multiply(GEAR, 480 * 1.3558179483314004, clockwise=True)
    assert through.input_nm == pytest.approx(120 * 1.3558179483314004)
    assert through.reaction_nm == pytest.approx(360 * 1.3558179483314004)
    assert through.arm_swings == "anticlockwise"
    with pytest.raises(Invalid, match="bears 1000"):
        multiply(GEAR, 1_200, clockwise=True)


def test_a_gear_in_a_chain_divides_the_setting_and_the_windup_before_it():
    """Before the gear an extension bears a quarter, and its twist is all at the handle; behind it the other way round (derived)."""
    before = Extension(kind="extension", drive="1/2 in", length_mm=250, across_mm=12)
    behind = Extension(kind="extension", drive="3/4 in", length_mm=250, across_mm=12)
    plain = windup_deg(torque_nm=1, length_mm=250, across_mm=12, section="round")
    found = chain("1/2 in", None, (before, GEAR))
    assert (found.factor, found.handle_turns, found.limit_nm) == (0.25, 4, 1_000)
    assert found.windup_deg_per_nm == pytest.approx(plain / 4)
    assert chain("1/2 in", None, (GEAR, behind)).windup_deg_per_nm == pytest.approx(plain * 4)
    assert "crushes a hand" in found.cautions[0]
    assert "runs back" in found.cautions[1]
    small = Socket(kind="socket", drive="1/2 in", limit_nm=100)
    assert (chain("1/2 in", None, (small, GEAR)).limit_nm, chain("1/2 in", None, (small, GEAR)).limited_by) == (400, "the socket")


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


def test_a_chain_of_a_step_an_extension_and_a_crowfoot():
    parts = (
        DriveAdapter(kind="step", drive="1/2 in", to="3/8 in"),
        Extension(kind="extension", drive="3/8 in", length_mm=250, across_mm=9.525, section="square"),
        Crowfoot(kind="crowfoot", drive="3/8 in", length_mm=50, limit_nm=90),
    )
    found = chain("1/2 in", 400, parts)
    assert found.factor == pytest.approx(0.8889, abs=5e-5)
    assert 60 * found.windup_deg_per_nm == pytest.approx(9.4, abs=0.05)
    assert (found.limit_nm, found.limited_by) == (90, "the crowfoot")
    assert "middle" in found.notes[-1]
    assert chain("1/2 in", None, ()).factor == 1
    assert "changes nothing" in chain("1/2 in", 400, (Crowfoot(kind="crowfoot", drive="1/2 in", length_mm=50, angle_deg=90),)).notes[0]


@pytest.mark.parametrize(
    ("parts", "lever_mm", "why"),
    [
        ((Socket(kind="socket", drive="3/4 in"),), 400, "square of 3/4 in; what it goes on has 1/2 in"),
        ((Crowfoot(kind="crowfoot", drive="1/2 in", length_mm=50),), None, "handle is not known"),
        ((Universal(kind="universal", drive="1/2 in", bend_deg=30),), 400, "gives 87% to 115% of the pull"),
        ((Universal(kind="universal", drive="1/2 in", bend_deg=15),) * 2, 400, "give 93% to 107% of the pull"),
        ((Crowfoot(kind="crowfoot", drive="1/2 in", length_mm=50),) * 2, 400, "Two crowfeet"),
        ((GEAR, Crowfoot(kind="crowfoot", drive="3/4 in", length_mm=50)), 400, "Behind a multiplier"),
    ],
)
def test_what_cannot_be_put_on(parts, lever_mm, why):
    with pytest.raises(Invalid, match=why):
        chain("1/2 in", lever_mm, parts)
