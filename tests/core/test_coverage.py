"""What the crib reaches of the shop's figures: held against setting every wrench to every figure."""

from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.examples import examples
from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.units import from_nm
from tight_ledger.core.coverage.coverage import OFFERS, coverage
from tight_ledger.core.tools.wrenches import Wrench, set_wrench


def wrench(lowest, highest, graduation, unit="N·m"):
    return Wrench(id=UUID(int=9), name=f"{highest}", drive="1/2 in", unit=unit, lowest=lowest, highest=highest, graduation=graduation)


CRIB = [wrench(20, 110, 1), wrench(90, 600, 5, "lbf·ft"), wrench(30, 200, 1, "lbf·in"), wrench(10, 210, 10)]


def can_pull(tool, low, high):
    """The slow way: cut the band to the verified range, then look for a mark."""
    least = tool.verified_from
    try:
        lower = max(from_nm(low, tool.unit), least)
        band = Band(quantity="torque", low=low * lower / from_nm(low, tool.unit), high=high)
        return set_wrench(tool, band, aim_nm=band.low).figure >= least - 1e-9
    except (Invalid, ValueError):
        return False


@examples(100)
@given(st.lists(st.tuples(st.floats(1, 900), st.floats(0.005, 0.3)), min_size=1, max_size=12))
def test_what_is_out_of_reach_is_what_no_wrench_can_be_set_to(bands):
    bands = [(low, low * (1 + spread)) for low, spread in bands]
    found = coverage(bands, CRIB)
    assert list(found.missing) == [n for n, band in enumerate(bands) if not any(can_pull(tool, *band) for tool in CRIB)]
    assert [bar.pulls for bar in found.bars] == [sum(can_pull(tool, *band) for band in bands) for tool in CRIB]
    assert sum(found.figures) == len(bands)
    assert sum(found.uncovered) == len(found.missing)
    assert all(hole <= many for hole, many in zip(found.uncovered, found.figures, strict=True))


def test_the_hole_and_what_to_buy_first():
    """13.2 lbf·ft between a wrench that ends at 200 lbf·in with tens for marks and one that starts at 20 N·m."""
    found = coverage([(17.5, 18.3), (17.6, 18.2), (95, 105)], [wrench(20, 110, 1)])
    assert found.missing == (0, 1)
    assert (found.purchase.offer.highest, found.purchase.more) == (25, 2)
    assert found.bars[0].verified_nm == pytest.approx(22)


def test_an_empty_crib_and_an_empty_library_are_pictures_too():
    assert coverage([], []).missing == ()
    assert coverage([], CRIB).purchase is None
    everything = coverage([(10, 11)], [])
    assert everything.missing == (0,)
    assert everything.purchase.offer in OFFERS
