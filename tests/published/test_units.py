"""NIST SP 811 (2008), appendix B.8, conversion factors as printed (from memory). Compared: torque. Exact by definition: kgf."""

import pytest
from scipy import constants

from tight_ledger.core.base.display import show
from tight_ledger.core.base.units import NM_PER_UNIT, to_nm


@pytest.mark.parametrize(
    ("unit", "printed"),
    [("lbf·ft", "1.355818"), ("lbf·in", "0.1129848"), ("kgf·m", "9.80665"), ("N·m", "1")],
)
def test_factor_as_printed(unit, printed):
    places = len(printed.partition(".")[2])
    assert f"{NM_PER_UNIT[unit]:.{places}f}" == printed


def test_factors_agree_with_a_second_library():
    assert NM_PER_UNIT["lbf·ft"] == pytest.approx(constants.lbf * constants.foot, rel=1e-14)
    assert NM_PER_UNIT["lbf·in"] == pytest.approx(constants.lbf * constants.inch, rel=1e-14)
    assert NM_PER_UNIT["kgf·m"] == pytest.approx(constants.kgf, rel=1e-14)


@pytest.mark.parametrize(
    ("figure", "unit", "other", "shown"),
    [(80, "lbf·ft", "N·m", "108"), (62, "N·m", "lbf·ft", "45.7"), (13.2, "lbf·ft", "lbf·in", "158"), (1, "lbf·ft", "lbf·in", "12.0")],
)
def test_conversion_does_not_invent_precision(figure, unit, other, shown):
    """Common practice, no source: three significant digits."""
    assert show(to_nm(figure, unit), other).figure == shown
