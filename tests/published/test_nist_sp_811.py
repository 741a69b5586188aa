"""NIST Special Publication 811, 2008 edition, appendix B.8, factors as printed, from memory. Compared: torque. Exact by definition: kgf."""

import pint
import pytest
from scipy import constants

from tight_ledger.core.base.units import MM_PER_UNIT, NM_PER_UNIT


@pytest.mark.parametrize(
    ("unit", "printed"),
    [("lbf·ft", "1.355818"), ("lbf·in", "0.1129848"), ("kgf·m", "9.80665"), ("N·m", "1")],
)
def test_factor_as_printed(unit, printed):
    places = len(printed.partition(".")[2])
    assert f"{NM_PER_UNIT[unit]:.{places}f}" == printed


def test_factors_agree_with_two_libraries():
    assert NM_PER_UNIT["lbf·ft"] == pytest.approx(constants.lbf * constants.foot, rel=1e-14)
    assert NM_PER_UNIT["lbf·in"] == pytest.approx(constants.lbf * constants.inch, rel=1e-14)
    assert NM_PER_UNIT["kgf·m"] == pytest.approx(constants.kgf, rel=1e-14)
    registry = pint.UnitRegistry()
    for unit, named in {
        "N·m": "newton * meter",
        "lbf·ft": "force_pound * foot",
        "lbf·in": "force_pound * inch",
        "kgf·m": "force_kilogram * meter",
        "ozf·in": "force_ounce * inch",
        "kgf·cm": "force_kilogram * centimeter",
        "daN·m": "decanewton * meter",
    }.items():
        assert NM_PER_UNIT[unit] == pytest.approx(registry(named).to("newton * meter").magnitude, rel=1e-14)
    for unit, named in {"µm": "micrometer", "thou": "thou", "in": "inch", "mm": "millimeter"}.items():
        assert MM_PER_UNIT[unit] == pytest.approx(registry(named).to("millimeter").magnitude, rel=1e-14)
