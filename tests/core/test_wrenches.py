"""Where a wrench can be set."""

from uuid import UUID

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.core.play import LONG
from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.units import to_nm
from tight_ledger.core.tools.wrenches import Wrench, set_wrench

FOOT = Wrench(id=UUID(int=2), name="foot", drive="3/4 in", unit="lbf·ft", lowest=15, highest=600, graduation=5)


def band(low, high):
    return Band(quantity="torque", low=low, high=high)


@given(st.floats(min_value=20, max_value=900), st.floats(min_value=0.01, max_value=0.2), st.sampled_from([LONG, FOOT]))
def test_the_mark_lies_inside_the_band_or_is_refused(target, spread, wrench):
    limits = band(target * (1 - spread), target * (1 + spread))
    try:
        setting = set_wrench(wrench, limits, aim_nm=target)
    except Invalid:
        return
    assert limits.low * (1 - 1e-9) <= setting.torque_nm <= limits.high * (1 + 1e-9)
    assert wrench.lowest <= setting.figure <= wrench.highest
    steps = (setting.figure - wrench.lowest) / wrench.graduation
    assert steps == pytest.approx(round(steps))


@given(st.floats(min_value=150, max_value=700), st.floats(min_value=150, max_value=700))
def test_a_larger_target_is_never_set_lower(lower, other):
    assume(lower <= other)
    settings = [set_wrench(LONG, band(t * 0.95, t * 1.05), aim_nm=t).figure for t in (lower, other)]
    assert settings[0] <= settings[1]


@pytest.mark.parametrize(
    ("wrench", "low", "high", "why"),
    [
        (FOOT, to_nm(12.5, "lbf·ft"), to_nm(13.9, "lbf·ft"), "starts at 15 lbf·ft"),
        (LONG, 780, 820, "ends at 760 N·m"),
        (LONG, 301, 304, "no mark between 301 and 304"),
    ],
)
def test_says_why_it_cannot(wrench, low, high, why):
    with pytest.raises(Invalid, match=why):
        set_wrench(wrench, band(low, high), aim_nm=(low + high) / 2)


def test_an_adapter_changes_the_setting():
    plain, longer = (set_wrench(LONG, band(380, 420), aim_nm=400, factor=f).figure for f in (1.0, 0.9))
    assert (plain, longer) == (400, 360)


def test_half_way_between_marks_goes_inward():
    """87.5 on a whole-number wrench is 88 if the band allows (common practice, no source)."""
    whole = LONG.model_copy(update={"lowest": 10, "graduation": 1})
    assert set_wrench(whole, band(87.5, 90), aim_nm=87.5).figure == 88
