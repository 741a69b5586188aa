"""Tightening orders as printed: ASME PCC-1, cross pattern (from memory); wheels of 4, 5 and 6, common practice, no source."""

import pytest

from tight_ledger.core.joints.orders import rows_of_two, star

PRINTED = {
    4: "1-3-2-4",
    5: "1-3-5-2-4",
    6: "1-4-2-5-3-6",
    8: "1-5-3-7 2-6-4-8",
    12: "1-7-4-10 2-8-5-11 3-9-6-12",
    16: "1-9-5-13 3-11-7-15 2-10-6-14 4-12-8-16",
    20: "1-11-6-16 3-13-8-18 5-15-10-20 2-12-7-17 4-14-9-19",
}


@pytest.mark.parametrize("count", PRINTED)
def test_star_is_the_printed_order(count):
    printed = tuple(int(label) for label in PRINTED[count].replace(" ", "-").split("-"))
    assert star(count) == printed


def test_ten_studs_take_one_of_several_orders_in_print():
    """Several are in print; this one crosses in opposite pairs, so it keeps the bound of every even count."""
    assert star(10) == (1, 6, 3, 8, 5, 10, 7, 2, 9, 4)


def test_a_head_of_two_rows_of_five_as_manuals_print_it():
    """Common practice, no source: 9 5 1 4 8 over 10 6 2 3 7 are the pulls at each place."""
    order = rows_of_two(5)
    turn = {place: pull for pull, place in enumerate(order, start=1)}
    assert [turn[place] for place in range(1, 11)] == [9, 5, 1, 4, 8, 10, 6, 2, 3, 7]
