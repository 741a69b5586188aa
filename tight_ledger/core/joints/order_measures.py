"""How evenly an order closes a joint: the running imbalance on a circle, the rings of a head.

On a bolt circle the pulls made so far are added as unit vectors from the middle: what is left over is how far the part
leans, in fasteners. An order that crosses keeps it at one (1.06 for an odd count); a plain round leans by 1 / sin(π/n)
(derived). In rows of fasteners the distance from the middle column should never fall: what is pressed out leaves at the
ends (common practice, no source).
"""

import itertools
import math
from collections.abc import Iterable, Sequence

from tight_ledger.core.base.models import Model
from tight_ledger.core.base.rounding import is_below, nine_digits
from tight_ledger.core.joints.layouts import Layout, ranked

ROUND = 0.02
"""Distances from the middle that differ by less than this share of the mean are one circle."""
FLAT = 0.02
"""Points whose spread across is less than this share of their length are one line."""
MOST_LEAN = 1.1
"""An order of a circle that leans by more than this is asked about."""
Centres = Sequence[tuple[float, float]]


class OrderMeasure(Model):
    """What is measured of an order; nothing for a line or an irregular layout."""

    lean: float | None = None
    """On a circle: the most by which the pulls made so far lean to one side, in fasteners."""
    falls: int | None = None
    """In rows: how often a pull goes back toward the middle."""

    @property
    def is_odd(self) -> bool:
        """Whether the order leans, or goes back toward the middle."""
        return (self.lean is not None and self.lean > MOST_LEAN) or bool(self.falls)

    @property
    def words(self) -> str:
        """`On the way it leans by up to 2.6 fasteners; crossing keeps it at 1.`"""
        if self.lean is not None:
            more = "; an order that crosses keeps it at 1" if self.is_odd else ""
            return f"On the way it leans by up to {self.lean:.2g} fastener{'' if self.lean <= 1.004 else 's'}{more}."
        if self.falls is not None:
            times = "once" if self.falls == 1 else f"{self.falls} times"
            return f"It goes back toward the middle {times}." if self.falls else "It never goes back toward the middle."
        return ""


def middle(points: Centres) -> tuple[float, float]:
    """The centroid of some points [mm]."""
    return math.fsum(x for x, _ in points) / len(points), math.fsum(y for _, y in points) / len(points)


def is_circle(points: Centres) -> bool:
    """Whether all sit on one circle, evenly."""
    if len(points) < 3:
        return False
    x, y = middle(points)
    away = [math.hypot(a - x, b - y) for a, b in points]
    mean = math.fsum(away) / len(away)
    turns = sorted(math.atan2(b - y, a - x) % (2 * math.pi) for a, b in points)
    gaps = [later - earlier for earlier, later in zip(turns, [*turns[1:], turns[0] + 2 * math.pi], strict=True)]
    even = 2 * math.pi / len(points)
    return max(away) - min(away) <= ROUND * mean and all(abs(gap - even) <= ROUND * even * 2 for gap in gaps)


def is_line(points: Centres) -> bool:
    """Whether all sit on one straight line."""
    (x0, y0), (x1, y1) = min(points), max(points)
    length = math.hypot(x1 - x0, y1 - y0)
    return length > 0 and all(abs((x - x0) * (y1 - y0) - (y - y0) * (x1 - x0)) / length <= FLAT * length for x, y in points)


def columns_of(points: Centres) -> list[float] | None:
    """By point, its distance from the middle column [mm]; None unless they stand in rows of as many, three columns or more."""
    rows: dict[float, list[float]] = {}
    for x, y in points:
        rows.setdefault(round(y, 3), []).append(round(x, 3))
    first = sorted(next(iter(rows.values())))
    if len(rows) < 2 or len(first) < 3 or any(sorted(row) != first for row in rows.values()):
        return None
    centre = (first[0] + first[-1]) / 2
    return [abs(x - centre) for x, _ in points]


def measure_order(layout: Layout, order: Iterable[str | tuple[str, ...]], of: Iterable[str] | None = None) -> OrderMeasure:
    """What can be measured of an order over a layout.

    Args:
        order: the ranks; what stands together is pulled together.
        of: only these fasteners; all by default.
    """
    chosen = set(of) if of is not None else {fastener.label for fastener in layout.fasteners}
    points = {fastener.label: (fastener.x_mm, fastener.y_mm) for fastener in layout.fasteners if fastener.label in chosen}
    ranks = [[label for label in ranked(rank) if label in points] for rank in order]
    if len(points) < 3 or {label for rank in ranks for label in rank} != set(points):
        return OrderMeasure()
    if is_circle(list(points.values())):
        return OrderMeasure(lean=_lean(points, ranks))
    away = columns_of(list(points.values())) if not is_line(list(points.values())) else None
    return OrderMeasure(falls=_falls(dict(zip(points, away, strict=True)), ranks)) if away is not None else OrderMeasure()


def _lean(points: dict[str, tuple[float, float]], ranks: list[list[str]]) -> float:
    x, y = middle(list(points.values()))
    sum_x, sum_y, most = list[float](), list[float](), 0.0
    for rank in ranks:
        for label in rank:
            a, b = points[label][0] - x, points[label][1] - y
            sum_x.append(a / math.hypot(a, b))
            sum_y.append(b / math.hypot(a, b))
        most = max(most, math.hypot(math.fsum(sum_x), math.fsum(sum_y)))
    return nine_digits(most)


def _falls(away: dict[str, float], ranks: list[list[str]]) -> int:
    rings = [max(away[label] for label in rank) for rank in ranks if rank]
    return sum(is_below(later, earlier) for earlier, later in itertools.pairwise(rings))
