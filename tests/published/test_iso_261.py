"""ISO 261, from memory. Compared: coarse pitches."""

import pytest

from tight_ledger.core.joints.threads import parse_thread


@pytest.mark.parametrize(
    ("written", "pitch_mm"),
    [("M2", 0.4), ("M10-1.5", 1.5), ("M12-6g", 1.75), ("M42", 4.5), ("M48", 5), ("M56", 5.5), ("M64", 6), ("M10-1.25", 1.25)],
)
def test_metric_pitches_of_iso_261(written, pitch_mm):
    assert parse_thread(written).pitch_mm == pitch_mm
