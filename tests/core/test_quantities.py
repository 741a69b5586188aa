"""Torque as typed, as shown, as judged."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tight_ledger.core.base import Invalid
from tight_ledger.core.quantities import TORQUE_UNITS, Band, from_nm, parse_figure, parse_torque, show_band, to_nm, unit_slips

BAND = Band(quantity="torque", low=565, high=605)
figures = st.floats(min_value=0.5, max_value=3_000)


@pytest.mark.parametrize(
    ("typed", "low", "high", "unit"),
    [
        ("565–605 N·m", 565, 605, "N·m"),
        ("565-605 Nm", 565, 605, "N·m"),
        ("85 to 95 ft lb", 85, 95, "lbf·ft"),
        ("110 ± 5 Nm", 105, 115, "N·m"),
        ("100 ± 5 % Nm", 95, 105, "N·m"),
        ("158–162 in-lb", 158, 162, "lbf·in"),
        ("8,5–9,5 kgm", 8.5, 9.5, "kgf·m"),
        ("100 Nm", 96, 104, "N·m"),
    ],
)
def test_reads_what_a_mechanic_types(typed, low, high, unit):
    band = parse_torque(typed)
    assert (from_nm(band.low, unit), from_nm(band.high, unit)) == pytest.approx((low, high))
    assert band.written == typed


def test_a_torque_and_an_angle():
    torque, angle = parse_figure("85-95 ft lb + 90°")
    assert (from_nm(torque.low, "lbf·ft"), from_nm(torque.high, "lbf·ft")) == pytest.approx((85, 95))
    assert (angle.low, angle.high, angle.target, angle.quantity) == (85, 95, 90, "angle")
    assert parse_figure("30 Nm + 85–95 deg")[1].target is None
    assert parse_figure("30 Nm + 120 ± 10°")[1].low == 110
    assert parse_figure("30 Nm")[1] is None
    for typed in ("30 Nm +", "30 Nm + tight", "30 Nm + 900°", "30 Nm + 95–85°"):
        with pytest.raises(Invalid):
            parse_figure(typed)


@pytest.mark.parametrize(
    ("typed", "fault"),
    [
        ("585", "no unit"),
        ("585 bananas", "not a torque unit"),
        ("nan Nm", "not a torque that is pulled"),
        ("-5 Nm", "not a torque that is pulled"),
        ("1e9 Nm", "at most 50000 N·m"),
        ("605–565 Nm", "Swap them"),
        ("1,000 Nm", "two ways"),
        ("tight", "not a torque"),
        ("10 ± 10 Nm", "not a torque that is pulled"),
    ],
)
def test_refuses_with_a_sentence(typed, fault):
    with pytest.raises(Invalid, match=fault) as refused:
        parse_torque(typed)
    assert refused.value.field == "torque"
    assert refused.value.remedy


@given(figures, st.floats(min_value=0.02, max_value=0.3), st.sampled_from(TORQUE_UNITS), st.sampled_from(TORQUE_UNITS))
def test_shown_limits_lie_inside_the_band(middle, spread, unit, shown_in):
    band = Band(quantity="torque", low=to_nm(middle * (1 - spread), unit), high=to_nm(middle * (1 + spread), unit))
    shown = show_band(band, shown_in, band.aim("middle"))
    low, high = to_nm(float(shown.low), shown_in), to_nm(float(shown.high), shown_in)
    assert band.low * (1 - 1e-9) <= low <= high <= band.high * (1 + 1e-9)


@given(figures, st.floats(min_value=0, max_value=0.3), st.sampled_from(TORQUE_UNITS))
def test_print_then_parse_gives_the_same(low, spread, unit):
    first, second = f"{low:.3f}", f"{low * (1 + spread):.3f}"
    band = parse_torque(f"{first}–{second} {unit}")
    assert (band.low, band.high) == (to_nm(float(first), unit), to_nm(float(second), unit))


@pytest.mark.parametrize("ratio", [1.3558179, 12, 9.80665, 10])
@pytest.mark.parametrize("way", [1, -1])
def test_a_slip_of_units_is_seen_both_ways(ratio, way):
    assert unit_slips(585 * ratio**way, BAND)


@pytest.mark.parametrize("torque_nm", [565, 605, 540, 640, 300])
def test_an_honest_reading_is_no_slip(torque_nm):
    assert unit_slips(torque_nm, BAND) == ()


def test_a_stage_is_not_narrower_than_a_tenth_either_way():
    stage = BAND.scaled(0.3, at_least=0.1)
    assert (stage.low, stage.high) == pytest.approx((175.5 * 0.9, 175.5 * 1.1))


@pytest.mark.parametrize(("figure", "verdict"), [(564.99, "low"), (565, "ok"), (605, "ok"), (605.01, "high")])
def test_limits_belong_to_the_band(figure, verdict):
    assert BAND.judge(figure) == verdict
