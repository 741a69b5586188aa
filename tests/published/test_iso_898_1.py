"""ISO 898-1:2013, tables 3 to 5, from memory. Compared: stress areas, proof stress. Not compared: hardness, impact, minimum tensile."""

import pytest

from tight_ledger.core.joints.threads import parse_thread, strength


@pytest.mark.parametrize(
    ("thread", "printed_mm2"),
    [
        ("M6", "20.1"), ("M8", "36.6"), ("M10", "58.0"), ("M12", "84.3"), ("M14", "115"), ("M16", "157"), ("M22", "303"),
        ("M12x1.25", "92.1"), ("M12×1.5", "88.1"), ("M22 x 1.5", "333"),
    ],
)  # fmt: skip
def test_metric_area_as_printed(thread, printed_mm2):
    places = len(printed_mm2.partition(".")[2])
    assert f"{parse_thread(thread).stress_area_mm2:.{places}f}" == printed_mm2


def test_the_one_that_is_printed_rounded_up():
    """Printed 125; the formula gives 124.55."""
    assert parse_thread("M14×1.5").stress_area_mm2 == pytest.approx(124.55, abs=0.01)


@pytest.mark.parametrize(
    ("name", "diameter_mm", "proof_mpa"),
    [("4.6", 10, 225), ("5.8", 10, 380), ("8.8", 16, 580), ("8.8", 20, 600), ("9.8", 10, 650), ("10.9", 22, 830), ("12.9", 12, 970)],
)
def test_proof_stress(name, diameter_mm, proof_mpa):
    assert strength(name, diameter_mm).proof_mpa == proof_mpa
