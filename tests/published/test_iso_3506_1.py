"""ISO 3506-1, strengths of austenitic stainless fasteners (from memory). Compared: 0.2 % proof stress and tensile strength.

Not compared: elongation, breaking torque. The standard gives no proof load; the proof stress stands for it here.
"""

import pytest

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.joints.threads import read_class, strength


@pytest.mark.parametrize(("marked", "proof_mpa", "tensile_mpa"), [("A2-50", 210, 500), ("A2-70", 450, 700), ("A4-80", 600, 800)])
def test_strength_of_a_stainless_class(marked, proof_mpa, tensile_mpa):
    found = strength(read_class(marked), 12)
    assert (found.yield_mpa, found.tensile_mpa) == (proof_mpa, tensile_mpa)


def test_classes_70_and_80_end_at_m24():
    with pytest.raises(Invalid, match="not known at 30 mm"):
        strength(read_class("A4-80"), 30)
