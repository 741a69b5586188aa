"""Common practice, no source: wheels of 4, 5 and 6, a head of two rows, a gear of four to one, three significant digits."""

import pytest

from tight_ledger.core.base.display import show
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.units import to_nm
from tight_ledger.core.joints.orders import rows_of_two, star
from tight_ledger.core.tools.adapters import (
    Multiplier,
)
from tight_ledger.core.tools.multipliers import multiply

PRINTED = {
    4: "1-3-2-4",
    5: "1-3-5-2-4",
    6: "1-4-2-5-3-6",
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


@pytest.mark.parametrize(
    ("figure", "unit", "other", "shown"),
    [(80, "lbf·ft", "N·m", "108"), (62, "N·m", "lbf·ft", "45.7"), (13.2, "lbf·ft", "lbf·in", "158"), (1, "lbf·ft", "lbf·in", "12.0")],
)
def test_conversion_does_not_invent_precision(figure, unit, other, shown):
    """Common practice, no source: three significant digits."""
    assert show(to_nm(figure, unit), other).figure == shown


GEAR = Multiplier(kind="multiplier", name="4:1", drive="1/2 in", to="3/4 in", ratio=4, efficiency=1, limit_nm=1_000)


def test_a_gear_of_four_to_one_before_losses():
    """120 lbf·ft in, 480 out (common practice, no source)."""
    through = multiply(GEAR, 480 * 1.3558179483314004, clockwise=True)
    assert through.input_nm == pytest.approx(120 * 1.3558179483314004)
    assert through.reaction_nm == pytest.approx(360 * 1.3558179483314004)
    assert through.arm_swings == "anticlockwise"
    with pytest.raises(Invalid, match="bears 1000"):
        multiply(GEAR, 1_200, clockwise=True)
