"""ISO 14253-1:2017, decision rules. From memory. Compared: conformity is proven in the band less the uncertainty on each side."""

import pytest

from tight_ledger.core.adjust.agreement import conformity
from tight_ledger.core.base.bands import Band


@pytest.mark.parametrize(
    ("reading", "proven"), [(9.9, "low"), (10.05, "at the limit"), (10.2, "ok"), (10.7, "ok"), (10.85, "at the limit"), (10.95, "high")]
)
def test_a_band_of_10_0_to_10_9_read_with_an_uncertainty_of_0_1(reading, proven):
    assert conformity(reading, Band(quantity="length", low=10.0, high=10.9), 0.1) == proven
