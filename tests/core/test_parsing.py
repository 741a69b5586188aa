"""Torques, angles and bands as people write them."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.parsing import parse_angle, parse_figure, parse_measured, parse_torque
from tight_ledger.core.base.units import TORQUE_UNITS, from_nm, to_nm


@pytest.mark.parametrize(
    ("typed", "low", "high", "unit"),
    [
        ("565–605 N·m", 565, 605, "N·m"),
        ("565-605 Nm", 565, 605, "N·m"),
        ("85 to 95 ft lb", 85, 95, "lbf·ft"),
        ("110 ± 5 Nm", 105, 115, "N·m"),
        ("100 ± 5 % Nm", 95, 105, "N·m"),
        ("55 +/- 5 lbf ft", 50, 60, "lbf·ft"),
        ("30 Nm – 35 Nm", 30, 35, "N·m"),
        ("158–162 in-lb", 158, 162, "lbf·in"),
        ("158–162 in.lb", 158, 162, "lbf·in"),
        ("158–162 inlbs", 158, 162, "lbf·in"),
        ("76.8–83.2 lbs ft", 76.8, 83.2, "lbf·ft"),
        ("76.8–83.2 ft-lb", 76.8, 83.2, "lbf·ft"),
        ("8,5–9,5 kgm", 8.5, 9.5, "kgf·m"),
        ("90–95 kgf·cm", 90, 95, "kgf·cm"),
        ("40–45 ozf·in", 40, 45, "ozf·in"),
        ("40–45 oz-in", 40, 45, "ozf·in"),
        ("8–9 daN·m", 8, 9, "daN·m"),
        ("100 Nm", 96, 104, "N·m"),
        ("13½ lbf·ft", 12.96, 14.04, "lbf·ft"),
        ("50–60 N·m (37–44 lbf·ft)", 50, 60, "N·m"),
        ("37–44 lbf·ft / 50–60 N·m", 37, 44, "lbf·ft"),
    ],
)
def test_reads_what_a_mechanic_types(typed, low, high, unit):
    band = parse_torque(typed)
    assert (from_nm(band.low, unit), from_nm(band.high, unit)) == pytest.approx((low, high), rel=1e-7)
    assert (band.written, band.unit) == (typed, unit)


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
        ("1.000 Nm", "Write 1000, or 1"),
        ("30% Nm", "mixes a share and a unit"),
        ("tight", "not a torque"),
        ("10 ± 10 Nm", "not a torque that is pulled"),
        ("80 ft-lb (120 Nm)", "120 N·m is 88.51 lbf·ft, not 80 lbf·ft"),
        ("80–90 ft-lb (108 Nm)", "one figure and one range"),
    ],
)
def test_refuses_with_a_sentence(typed, fault):
    with pytest.raises(Invalid, match=fault) as refused:
        parse_torque(typed)
    assert refused.value.field == "torque"
    assert refused.value.remedy


@given(st.integers(20, 900), st.sampled_from(TORQUE_UNITS), st.sampled_from(TORQUE_UNITS))
def test_two_units_of_one_figure_agree_as_far_as_their_digits_tell(figure, unit, other):
    second = from_nm(to_nm(figure, unit), other)
    places = max(0, 2 - math.floor(math.log10(second)))
    written = f"{second:.{places}f}"
    if second < 1 <= second * 1.2:  # 1.009 may be 1009
        return
    assert parse_torque(f"{figure} {unit} ({written} {other})").unit == unit
    with pytest.raises(Invalid, match="contradicts itself"):
        parse_torque(f"{figure} {unit} ({second * 1.2:.{places}f} {other})")


@pytest.mark.parametrize(
    ("typed", "angles"),
    [
        ("85-95 ft lb + 90°", [(85, 95, 90)]),
        ("20 N·m then 90 then 90", [(85, 95, 90), (85, 95, 90)]),
        ("20 Nm + 90° + 90°", [(85, 95, 90), (85, 95, 90)]),
        ("20 Nm + 1/4 turn", [(85, 95, 90)]),
        ("30 Nm + 85–95 deg", [(85, 95, None)]),
        ("30 Nm + 90 deg", [(85, 95, 90)]),
        ("30 Nm + 90º", [(85, 95, 90)]),
        ("30 Nm + 120 ± 10°", [(110, 130, 120)]),
        ("30 Nm", []),
    ],
)
def test_a_torque_and_its_angles(typed, angles):
    found = parse_figure(typed)
    assert [(angle.low, angle.high, angle.target) for angle in found.angles] == angles
    assert all(parse_angle(angle.written) == angle for angle in found.angles)


@pytest.mark.parametrize("typed", ["30 Nm +", "30 Nm + tight", "30 Nm + 900°", "30 Nm + 95–85°", "20 Nm then 40 Nm", "20 Nm + 1/0 turn"])
def test_an_angle_that_is_none(typed):
    with pytest.raises(Invalid):
        parse_figure(typed)


@pytest.mark.parametrize(
    ("typed", "low", "high", "unit"),
    [
        ("0.04–0.11 mm", 0.04, 0.11, "mm"),
        ("1–5 thou", 0.0254, 0.127, "thou"),
        ("1–5 mil", 0.0254, 0.127, "thou"),
        ("0.001–0.005 in", 0.0254, 0.127, "in"),
        ('0.001"–0.005"', 0.0254, 0.127, "in"),
        ("10–20 \u00b5m", 0.01, 0.02, "µm"),
        ("10–20 \u03bcm", 0.01, 0.02, "µm"),
        ("at most 0.05 mm", 0, 0.05, "mm"),
        ("0.15 ± 0.02 mm", 0.13, 0.17, "mm"),
        ("at most 12 lbf·in", 0, 1.35581795, "lbf·in"),
    ],
)
def test_what_is_measured(typed, low, high, unit):
    band = parse_measured(typed)
    assert (band.low, band.high, band.unit) == (pytest.approx(low), pytest.approx(high), unit)


@pytest.mark.parametrize(("typed", "fault"), [("0.15 mm", "not a band"), ("1,000–1,200 mm", "two ways"), ("5–3 mm", "above the high one")])
def test_a_band_that_is_none(typed, fault):
    with pytest.raises(Invalid, match=fault):
        parse_measured(typed)


@given(st.floats(0.5, 3_000), st.floats(0, 0.3), st.sampled_from(TORQUE_UNITS))
def test_print_then_parse_gives_the_same(low, spread, unit):
    first, second = f"{low:.2f}", f"{low * (1 + spread):.2f}"
    band = parse_torque(f"{first}–{second} {unit}")
    assert (band.low, band.high) == (to_nm(float(first), unit), to_nm(float(second), unit))


@pytest.mark.parametrize(
    ("text", "fault"),
    [("5°", "goes down to 0°"), ("0.5°", "goes down to 0°"), ("720°", "goes beyond 720°"), ("718 deg", "goes beyond 720°"),
     ("800°", "is more than 720°"), ("3 turns", "is more than 720°"), ("95–85°", "is not an angle")],
)  # fmt: skip
def test_an_angle_without_room_for_its_tolerance_is_refused_with_what_can_be_written_instead(text, fault):
    with pytest.raises(Invalid) as refused:
        parse_angle(text)
    assert fault in refused.value.fault
    if "usual" in refused.value.fault:
        assert parse_angle(refused.value.remedy.removeprefix("Write its own limits, as ").rstrip(".")).unit == "°"
