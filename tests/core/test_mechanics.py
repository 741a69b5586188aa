"""The simulated fastener and the hand on the wrench."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.simulation.fasteners import RUN_DOWN_NM, Joint, SimulatedFastener
from tight_ledger.core.simulation.hands import PullTarget, WrenchInHand, pull, require_manner

FIFTY = PullTarget(kind="torque", torque_nm=50)


def test_run_down_then_a_straight_rise_then_yield():
    """Half a degree more in the elastic part is half a slope more (derived); beyond yield it flattens."""
    bolt = SimulatedFastener(snug_deg=30, rate_nm_per_deg=2, yield_nm=80)
    assert bolt.torque_at(29) == RUN_DOWN_NM
    assert bolt.torque_at(50) - bolt.torque_at(40) == pytest.approx(20)
    assert bolt.torque_at(200) < 80 * 1.13
    assert bolt.torque_at(200) > bolt.torque_at(120) > bolt.torque_at(75)


@given(st.floats(0, 400), st.floats(0, 400))
def test_torque_never_falls_with_angle(angle, other):
    bolt = SimulatedFastener(yield_nm=90)
    assert bolt.torque_at(min(angle, other)) <= bolt.torque_at(max(angle, other)) + 1e-9


def test_a_joint_is_the_same_for_a_seed_and_scatters_from_bolt_to_bolt():
    first, again, other = Joint(seed=3), Joint(seed=3), Joint(seed=4)
    frictions = [first.fastener(str(n)).friction for n in range(30)]
    assert frictions == [again.fastener(str(n)).friction for n in range(30)]
    assert frictions != [other.fastener(str(n)).friction for n in range(30)]
    assert 0.02 < max(frictions) - min(frictions) < 0.5


@pytest.mark.parametrize("manner", ["slow", "steady", "fast", "jerky"])
def test_a_hand_lets_go_at_the_torque(manner):
    made = pull(WrenchInHand(manner=manner), SimulatedFastener(), FIFTY)
    assert 50 <= made.torque_nm < 58
    assert made.curve[0][0] < made.curve[-1][0] == pytest.approx(made.angle_deg, abs=0.01)
    assert made.curve[-1][1] == pytest.approx(made.torque_nm, abs=0.01)


def test_a_fast_hand_overshoots_more_than_a_steady_one():
    over = {manner: pull(WrenchInHand(manner=manner, noise=0), SimulatedFastener(), FIFTY).torque_nm for manner in ("steady", "fast")}
    assert over["steady"] < over["fast"]


def test_an_angle_goes_on_from_where_the_bolt_stands():
    bolt, wrench = SimulatedFastener(), WrenchInHand()
    pull(wrench, bolt, FIFTY)
    stood = bolt.angle_deg
    made = pull(wrench, bolt, PullTarget(kind="angle", angle_deg=90))
    assert 90 <= made.angle_deg < 92
    assert bolt.angle_deg == pytest.approx(stood + made.angle_deg)


def test_nothing_held_is_nothing_told_and_a_manner_has_a_name():
    assert WrenchInHand().let_go() is None
    assert require_manner("fast") == "fast"
    with pytest.raises(Invalid, match="slow, steady, fast, jerky"):
        require_manner("angrily")
