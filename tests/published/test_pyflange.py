"""pyflange, a library that computes bolts after VDI 2230-1 and ISO 68-1. Compared: diameters of a thread, the stiffness of a clamped bolt. Not compared: its flanges."""

import pytest
from pyflange.bolts import StandardMetricBolt

from tight_ledger.core.joints.threads import parse_thread
from tight_ledger.core.mechanics.stiffness import bolt_compliance_mm_per_n


@pytest.mark.parametrize("name", ["M8", "M10", "M12", "M16", "M20", "M24"])
@pytest.mark.parametrize("shank_mm", [0, 10, 35])
def test_a_bolt_is_as_stiff_as_the_library_says(name, shank_mm):
    grip_mm, thread = 60.0, parse_thread(name)
    theirs = StandardMetricBolt(name, "8.8", shank_length=shank_mm / 1_000)
    assert thread.pitch_diameter_mm == pytest.approx(theirs.thread_basic_pitch_diameter * 1_000, rel=1e-5)
    assert thread.root_diameter_mm == pytest.approx(theirs.thread_minor_diameter * 1_000, rel=1e-5)
    ours = bolt_compliance_mm_per_n(
        thread=thread, shank_mm=shank_mm, thread_mm=grip_mm - shank_mm, modulus_mpa=theirs.elastic_modulus / 1e6
    )
    assert 1 / ours == pytest.approx(theirs.axial_stiffness(grip_mm / 1_000) / 1_000, rel=1e-4)
