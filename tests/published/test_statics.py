"""Statics of levers and joints, derived: figures that anybody can redo. Compared: crowfoot, universal joint, tilted wrench, spring scale, the third spacer, a capped bolt."""

import math
from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tight_ledger.core.adjust.proposals import Try
from tight_ledger.core.adjust.spacer import SpacerFigures, advise
from tight_ledger.core.adjust.stretch import StretchFigures
from tight_ledger.core.adjust.stretch import advise as stretch
from tight_ledger.core.base.bands import Band, Reading
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.tools.adapters import (
    crowfoot_factor,
    tilt_share,
    universal_swing,
)
from tight_ledger.core.tools.chains import chain
from tight_ledger.core.tools.pieces import Piece, PieceNow


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


def test_a_drag_by_a_spring_scale_is_force_times_lever():
    """8 lbf on 2.5 in is 20 lbf·in."""
    assert Reading(figure=8, unit="lbf", radius_mm=2.5 * 25.4).stored == pytest.approx(20 * 0.1129848290276167)


def test_two_tries_give_the_third_spacer_on_a_straight_line():
    """0.245 reads 5, 0.240 reads 25, for 15 it is 0.2425; from 0.240 to 0.244 in thousandths 0.242, the thinner on a tie (derived)."""
    inch = [round(0.240 + 0.001 * n, 3) for n in range(5)]
    stock = [
        PieceNow(
            piece=Piece(
                kind="piece", id=UUID(int=n + 1), name=f"{size:.3f} in", what="spacer", bore_mm=45, rim_mm=58, nominal_mm=size * 25.4
            ),
            measured_mm=None,
            at_hand=True,
        )
        for n, size in enumerate(inch)
    ]
    figures = SpacerFigures(by="spacer", band=Band(quantity="drag", low=13, high=17), graduation=0.5, bore_mm=45, rim_mm=58)
    tries = (Try(at=0.245 * 25.4, reading=5), Try(at=0.240 * 25.4, reading=25))
    said = advise(figures, tries, stock)
    assert said.to == pytest.approx(0.242 * 25.4)
    assert said.better.startswith(f"{0.2425 * 25.4:.3f} mm")


def test_a_bolt_that_stretched_42_at_30_is_set_to_its_most_of_40():
    """4.2 at 30, band 5 to 7, cap 40: proportional to the middle asks 42.9, capped it predicts 5.6 (derived)."""
    figures = StretchFigures(by="stretch", band=Band(quantity="length", low=5, high=7), graduation=0.1, most_nm=40)
    said = stretch(figures, (Try(at=30, reading=4.2),))
    assert (said.to, said.expect) == (pytest.approx(40), pytest.approx(5.6))
