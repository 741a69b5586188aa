"""What is on the end of a wrench: gears, extensions, joints and crowfeet in a chain."""

import math

import pytest

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.planning.ranking import Bench, _reaction
from tight_ledger.core.tools.adapters import (
    SQUARE_LIMIT_NM,
    Crowfoot,
    DriveAdapter,
    Extension,
    Multiplier,
    Socket,
    Universal,
    windup_deg,
)
from tight_ledger.core.tools.chains import chain

GEAR = Multiplier(kind="multiplier", name="4:1", drive="1/2 in", to="3/4 in", ratio=4, efficiency=1, limit_nm=1_000)


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


@pytest.mark.parametrize("tilt_deg", [0, 12])
@pytest.mark.parametrize(("angle_deg", "length_mm", "lever_mm"), [(180, 90, 300), (0, 90, 300), (0, 40, 500), (120, 60, 250)])
def test_a_square_bears_what_it_sees(angle_deg, length_mm, lever_mm, tilt_deg):
    """Folded back a crowfoot asks for a higher setting than the fastener gets, straight for a lower one; derived from its lever."""
    foot = Crowfoot(kind="crowfoot", drive="3/8 in", length_mm=length_mm, angle_deg=angle_deg, limit_nm=1_000)
    found = chain("3/8 in", lever_mm, (foot,), tilt_deg)
    assert found.limited_by == "the square of 3/8 in"
    setting = found.limit_nm * lever_mm / (lever_mm + length_mm * math.cos(math.radians(angle_deg))) / math.cos(math.radians(tilt_deg))
    assert setting == pytest.approx(SQUARE_LIMIT_NM["3/8 in"])
    weak = foot.model_copy(update={"limit_nm": 20})
    assert chain("3/8 in", lever_mm, (weak,), tilt_deg).limit_nm == pytest.approx(20)  # its own limit is for what it delivers


def test_of_two_multipliers_the_arm_at_the_fastener_bears_most():
    """230 N·m through 4:1 at the wrench, then 3:1, 90 % each: 230 − 230/2.7 at the second (derived)."""
    first = Multiplier(kind="multiplier", name="4:1", drive="1/2 in", to="3/4 in", ratio=4, efficiency=0.9, limit_nm=900)
    second = Multiplier(kind="multiplier", name="3:1", drive="3/4 in", to="1 in", ratio=3, efficiency=0.9, limit_nm=2_000)
    held = _reaction((first, second), 230, Bench(policy=Policy()))
    assert held.reaction_nm == pytest.approx(230 - 230 / 2.7)


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
