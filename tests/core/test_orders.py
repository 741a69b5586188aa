"""What must hold for the star order of any bolt circle."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.joints.orders import FEWEST, MOST, centre_out, outward, rows_of_two, star

COUNTS = range(FEWEST, MOST + 1)


def imbalances(count: int) -> list[float]:
    """How far the pulls made so far lean, after each pull, in fasteners."""
    x = y = 0.0
    lean = []
    for label in star(count):
        angle = 2 * math.pi * (label - 1) / count
        x, y = x + math.cos(angle), y + math.sin(angle)
        lean.append(math.hypot(x, y))
    return lean


@pytest.mark.parametrize("count", COUNTS)
def test_every_fastener_once(count):
    assert sorted(star(count)) == list(range(1, count + 1))


@pytest.mark.parametrize("count", COUNTS)
def test_the_joint_never_leans(count):
    """A circular order leans 1/sin(π/n): 6.39 for 20."""
    assert max(imbalances(count)) <= (1 if count % 2 == 0 else 1.06) + 1e-9


@pytest.mark.parametrize("count", [n for n in COUNTS if n % 2 == 0])
def test_even_counts_go_in_opposite_pairs(count):
    order = star(count)
    for first, second in zip(order[::2], order[1::2], strict=True):
        assert abs(first - second) == count // 2


@pytest.mark.parametrize("count", [-1, 0, 2, 61])
def test_refuses_what_is_no_circle(count):
    with pytest.raises(Invalid, match="Count 3 to 60"):
        star(count)


@given(st.integers(1, 30))
def test_lines_and_heads_go_from_the_middle_outward(columns):
    middle = (columns + 1) / 2
    for order in (centre_out(columns), rows_of_two(columns)):
        away = [abs((place - 1) % columns + 1 - middle) for place in order]
        assert sorted(order) == list(range(1, len(order) + 1))
        assert away == sorted(away)


COORDINATE = st.integers(-500, 500)


@given(st.lists(st.tuples(COORDINATE, COORDINATE), min_size=1, max_size=60, unique=True))
def test_any_layout_goes_outward_ring_by_ring(points):
    order = outward(points)
    x, y = (sum(values) / len(points) for values in zip(*points, strict=True))
    away = [math.hypot(points[place - 1][0] - x, points[place - 1][1] - y) for place in order]
    assert sorted(order) == list(range(1, len(points) + 1))
    assert all(later >= earlier / 1.03 - 1e-3 for n, earlier in enumerate(away) for later in away[n + 1 :])


def test_opposite_sides_come_in_turn():
    square = [(-50, 50), (50, 50), (50, -50), (-50, -50)]
    assert outward(square) == (1, 3, 2, 4)
