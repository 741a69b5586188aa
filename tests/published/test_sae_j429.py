"""SAE J429, from memory. Compared: proof stress of grades."""

import pytest

from tight_ledger.core.joints.threads import MPA_PER_KSI, strength


@pytest.mark.parametrize(
    ("name", "diameter_in", "proof_ksi"),
    [("grade 2", 0.5, 55), ("grade 2", 1, 33), ("grade 5", 1, 85), ("grade 5", 1.25, 74), ("grade 8", 0.5, 120)],
)
def test_grades(name, diameter_in, proof_ksi):
    assert strength(name, diameter_in * 25.4).proof_mpa == pytest.approx(proof_ksi * MPA_PER_KSI)
