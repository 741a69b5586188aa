"""ISO 898-1:2013, tables 4 and 5 (stress areas) and 3 (proof); ISO 261; ASME B1.1 (sizes, tensile stress areas); SAE J429.
All from memory.

Compared: the areas and proof stresses below. Not compared: hardness, impact, minimum tensile.
"""

import pytest

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.joints.threads import MPA_PER_KSI, parse_thread, strength


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
    ("thread", "printed_in2"),
    [
        ("1/4-20", "0.0318"), ("3/8-16 UNC", "0.0775"), ("7/16 UNC", "0.1063"), ("1/2-13", "0.1419"), ("1/2-20 UNF", "0.1599"),
        ("9/16-12", "0.182"), ("9/16 UNF", "0.203"), ("5/8-11", "0.226"), ("3/4-10", "0.334"),
    ],
)  # fmt: skip
def test_unified_area_as_printed(thread, printed_in2):
    """The last digit may differ by one: printed areas are rounded twice."""
    places = len(printed_in2.partition(".")[2])
    assert parse_thread(thread).stress_area_mm2 / 25.4**2 == pytest.approx(float(printed_in2), abs=1.01 * 10**-places)


@pytest.mark.parametrize(
    ("written", "designation", "diameter_in", "per_inch"),
    [
        ("6-32", "#6-32 UNC", "0.1380", 32), ("#10-24", "#10-24 UNC", "0.1900", 24), ("10-32 UNF", "#10-32 UNF", "0.1900", 32),
        ("2-56", "#2-56 UNC", "0.0860", 56), ("No. 8-32", "#8-32 UNC", "0.1640", 32), ("1-1/8-7", "1 1/8-7 UNC", "1.1250", 7),
        ("1 1/4-7 UNC", "1 1/4-7 UNC", "1.2500", 7), ("1-14 UNS", "1-14 UNS", "1.0000", 14), ("1½-6", "1 1/2-6 UNC", "1.5000", 6),
    ],
)  # fmt: skip
def test_unified_sizes_as_printed(written, designation, diameter_in, per_inch):
    thread = parse_thread(written)
    assert (thread.designation, f"{thread.diameter_mm / 25.4:.4f}") == (designation, diameter_in)
    assert thread.pitch_mm == pytest.approx(25.4 / per_inch)
    assert parse_thread(thread.designation) == thread


@pytest.mark.parametrize(
    ("written", "pitch_mm"),
    [("M2", 0.4), ("M10-1.5", 1.5), ("M12-6g", 1.75), ("M42", 4.5), ("M48", 5), ("M56", 5.5), ("M64", 6), ("M10-1.25", 1.25)],
)
def test_metric_pitches_of_iso_261(written, pitch_mm):
    assert parse_thread(written).pitch_mm == pitch_mm


@pytest.mark.parametrize("written", ["1/2-14 NPT", "G1/4", "1/4 BSP", "R1/2", "3/8-18 NPTF"])
def test_pipe_threads_are_named_as_not_covered(written):
    with pytest.raises(Invalid, match="is a pipe thread"):
        parse_thread(written)


@pytest.mark.parametrize("written", ["#7-32", "152-32", "tight", "M10x7", "1/2"])
def test_what_is_no_thread(written):
    with pytest.raises(Invalid):
        parse_thread(written)


@pytest.mark.parametrize(
    ("name", "diameter_mm", "proof_mpa"),
    [("4.6", 10, 225), ("5.8", 10, 380), ("8.8", 16, 580), ("8.8", 20, 600), ("9.8", 10, 650), ("10.9", 22, 830), ("12.9", 12, 970)],
)
def test_proof_stress(name, diameter_mm, proof_mpa):
    assert strength(name, diameter_mm).proof_mpa == proof_mpa


@pytest.mark.parametrize(
    ("name", "diameter_in", "proof_ksi"),
    [("grade 2", 0.5, 55), ("grade 2", 1, 33), ("grade 5", 1, 85), ("grade 5", 1.25, 74), ("grade 8", 0.5, 120)],
)
def test_grades(name, diameter_in, proof_ksi):
    assert strength(name, diameter_in * 25.4).proof_mpa == pytest.approx(proof_ksi * MPA_PER_KSI)
