"""What must hold for the star order of any bolt circle."""

import math

import pytest

from tight_ledger.core.base import Invalid
from tight_ledger.core.orders import FEWEST, MOST, star

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


@pytest.mark.parametrize("count", [-1, 0, 2, 49])
def test_refuses_what_is_no_circle(count):
    with pytest.raises(Invalid, match="Count 3 to 48"):
        star(count)
