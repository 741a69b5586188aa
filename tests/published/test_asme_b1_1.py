"""ASME B1.1, from memory. Compared: tensile stress areas, sizes and designations of unified threads."""

import pytest

from tight_ledger.core.joints.threads import parse_thread


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
