"""The sequences that a layout proposes, and why an order is as it is."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import Run, plan_of, wheel_spec
from tight_ledger.core.joints.layouts import Kind
from tight_ledger.core.joints.order_measures import is_circle, is_line, measure_order
from tight_ledger.core.joints.orders import rows_of_two, star
from tight_ledger.core.joints.proposals import rim_crossing, sequences, spiral, why
from tight_ledger.core.joints.shapes import circle_points, grid_points, lay_out


def layout_of(points, order=None):
    return lay_out(points, order or range(1, len(points) + 1), kinds={"bolt": Kind(thread="M8")})


LINE = [(40.0 * n, 0.0) for n in range(5)]
SUMP = [(60.0 * n, 200.0) for n in range(6)] + [(60.0 * n, 0.0) for n in range(6)]


@pytest.mark.parametrize(
    ("points", "name", "order"),
    [
        (circle_points(8, 300), "crossing", "1 5 3 7 2 6 4 8"),
        (LINE, "from the middle", "3 2 4 1 5"),
        (grid_points(2, 5, 80, 90), "from the middle", "8 3 9 4 2 7 10 5 1 6"),
        ([(0, 0), (100, 0), (100, 100), (0, 100), (50, 60)], "outward, opposite sides", None),
    ],
)
def test_the_likeliest_comes_first(points, name, order):
    first = sequences(layout_of(points))[0]
    assert first.name == name
    if order is not None and name != "from the middle":
        assert " ".join(first.order) == order
    assert sorted(first.order, key=int) == [str(n + 1) for n in range(len(points))]


@given(st.integers(1, 8), st.integers(1, 10), st.integers(20, 200), st.integers(20, 200))
def test_what_is_proposed_for_a_grid_passes_the_cores_own_measure(rows, columns, wide, high):
    if not 2 <= rows * columns <= 60:
        return
    layout = layout_of(grid_points(rows, columns, wide * (columns - 1), high * (rows - 1)))
    first = sequences(layout)[0]
    assert sorted(first.order, key=int) == [str(n + 1) for n in range(rows * columns)]
    assert not measure_order(layout, first.order).is_odd


def test_four_corners_cross_and_three_studs_have_no_opposite():
    four = sequences(layout_of(grid_points(2, 2, 90, 60)))
    assert (four[0].name, set(four[0].order[:2]) in ({"1", "4"}, {"2", "3"})) == ("outward, opposite sides", True)
    assert [way.name for way in sequences(layout_of(circle_points(3, 200)))] == ["once round"]


@given(st.lists(st.tuples(st.integers(-300, 300), st.integers(-300, 300)), min_size=2, max_size=60, unique=True))
def test_every_way_takes_every_fastener_once(points):
    for way in sequences(layout_of(points)):
        assert sorted(way.order, key=int) == [str(n + 1) for n in range(len(points))]
        assert way.why
    for order in (spiral(points), rim_crossing(points)):
        assert sorted(order) == list(range(1, len(points) + 1))


def test_a_rim_crosses_in_opposite_pairs():
    order = rim_crossing(SUMP)
    middle = 150.0
    sides = [SUMP[place - 1][0] > middle for place in order]
    assert all(first != second for first, second in zip(sides[::2], sides[1::2], strict=True))


def test_what_is_a_circle_and_what_is_a_line():
    assert (is_circle(circle_points(5, 100)), is_line(LINE)) == (True, True)
    assert (is_circle(SUMP), is_line(SUMP), is_circle(circle_points(8, 100)[:7])) == (False, False, False)


@pytest.mark.parametrize(
    ("order", "said"),
    [
        ([3, 2, 4, 1, 5], "From the middle outward"),
        ([1, 2, 3, 4, 5], "From one end"),
        ([5, 1, 4, 2, 3], "From the outside"),
        ([2, 1, 3, 5, 4], "As the spec has it."),
    ],
)
def test_why_an_order_is_as_it_is(order, said):
    assert why(layout_of(LINE, order)).startswith(said)


@pytest.mark.parametrize(("count", "lean"), [(8, 2.61), (20, 6.39), (5, 1.618)])
def test_a_plain_round_leans_and_is_not_praised(count, lean):
    """1 / sin(π/n) for an even count, sin(2π/5) / sin(π/5) for five (derived)."""
    layout = layout_of(circle_points(count, 300))
    found = measure_order(layout, [str(n + 1) for n in range(count)])
    assert found.lean == pytest.approx(lean, abs=0.01)
    assert found.is_odd
    said = why(layout)
    assert "nothing long is bent" not in said
    assert f"leans by up to {found.lean:.2g} fasteners" in said


@pytest.mark.parametrize("count", [4, 5, 6, 7, 8, 10, 12, 16, 20])
def test_a_star_does_not_lean(count):
    found = measure_order(layout_of(circle_points(count, 300)), [str(n) for n in star(count)])
    assert found.lean <= (1.0001 if count % 2 == 0 else 1.07)
    assert not found.is_odd


def test_rows_go_outward_ring_by_ring():
    layout = layout_of(grid_points(2, 5, 360, 90))
    assert measure_order(layout, [str(n) for n in rows_of_two(5)]).falls == 0
    assert measure_order(layout, [str(n + 1) for n in range(10)]).falls == 4
    assert measure_order(layout_of(LINE), [str(n + 1) for n in range(5)]).words == ""


def test_what_stands_together_is_pulled_together():
    layout = layout_of(circle_points(8, 300))
    assert measure_order(layout, [("1", "5"), ("2", "6"), ("3", "7"), ("4", "8")]).lean == pytest.approx(0, abs=1e-9)


def test_anything_can_be_loosened_in_the_reverse_order():
    """Loosening is the reverse (common practice, no source)."""
    spec = wheel_spec(6)
    run = Run(plan_of(spec, procedure="remove")).go_on()
    cracked = [entry.fastener for entry in run.entries[:6]]
    assert cracked == list(reversed([str(label) for label in spec.layout.orders["main"]]))
    assert (run.state.clean, len(run.entries)) == (True, 12)
