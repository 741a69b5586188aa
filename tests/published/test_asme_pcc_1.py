"""ASME PCC-1, cross pattern, from memory. Compared: star orders of 8, 12, 16 and 20."""

import pytest

from tight_ledger.core.joints.orders import star

PRINTED = {
    8: "1-5-3-7 2-6-4-8",
    12: "1-7-4-10 2-8-5-11 3-9-6-12",
    16: "1-9-5-13 3-11-7-15 2-10-6-14 4-12-8-16",
    20: "1-11-6-16 3-13-8-18 5-15-10-20 2-12-7-17 4-14-9-19",
}


@pytest.mark.parametrize("count", PRINTED)
def test_star_is_the_printed_order(count):
    printed = tuple(int(label) for label in PRINTED[count].replace(" ", "-").split("-"))
    assert star(count) == printed
