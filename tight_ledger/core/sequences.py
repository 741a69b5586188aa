"""The sequences that a layout lends itself to, each with its reason; and why an order is as it is.

A spec's author fixes the order; a layout only proposes. Rows of two go from the middle; a ring crosses; a rim goes round
crossing or end to end; anything else goes outward from its centroid.
"""

import math
from collections.abc import Sequence

from tight_ledger.core.base import Model
from tight_ledger.core.layouts import Layout, ranked
from tight_ledger.core.orders import centre_out, outward, rows_of_two, star

ROUND = 0.02
"""Distances from the middle that differ by less than this share of the mean are one circle."""
FLAT = 0.02
"""Points whose spread across is less than this share of their length are one line."""


class Way(Model):
    """One way of going round, with the reason that a mechanic would give."""

    name: str
    order: tuple[str, ...]
    why: str


_WHY = {
    "crossing": "Opposite sides in turn, so that the part closes evenly and does not tip.",
    "from the middle": "From the middle outward, so that what is pressed out can leave at the ends.",
    "end to end": "From one end to the other, a little at a time, so that nothing long is bent.",
    "round the rim, crossing": "Round the rim with the far side in turn, so that the gasket is pressed evenly.",
    "spiral": "Ring by ring from the middle, each ring round, so that a wide face lies down from its middle.",
    "outward, opposite sides": "Outward from the middle, each pull to the side opposite to what was pulled.",
}


def _places(layout: Layout) -> list[tuple[float, float]]:
    return [(fastener.x_mm, fastener.y_mm) for fastener in layout.fasteners]


def _middle(points: Sequence[tuple[float, float]]) -> tuple[float, float]:
    return math.fsum(x for x, _ in points) / len(points), math.fsum(y for _, y in points) / len(points)


def is_circle(points: Sequence[tuple[float, float]]) -> bool:
    """Whether all sit on one circle, evenly."""
    if len(points) < 3:
        return False
    x, y = _middle(points)
    away = [math.hypot(a - x, b - y) for a, b in points]
    mean = math.fsum(away) / len(away)
    turns = sorted(math.atan2(b - y, a - x) % (2 * math.pi) for a, b in points)
    gaps = [later - earlier for earlier, later in zip(turns, [*turns[1:], turns[0] + 2 * math.pi], strict=True)]
    even = 2 * math.pi / len(points)
    return max(away) - min(away) <= ROUND * mean and all(abs(gap - even) <= ROUND * even * 2 for gap in gaps)


def is_line(points: Sequence[tuple[float, float]]) -> bool:
    """Whether all sit on one straight line."""
    (x0, y0), (x1, y1) = min(points), max(points)
    length = math.hypot(x1 - x0, y1 - y0)
    return length > 0 and all(abs((x - x0) * (y1 - y0) - (y - y0) * (x1 - x0)) / length <= FLAT * length for x, y in points)


def round_about(points: Sequence[tuple[float, float]]) -> list[int]:
    """Places (from 0) clockwise about the centroid, from the top."""
    x, y = _middle(points)
    return sorted(range(len(points)), key=lambda n: (math.atan2(points[n][0] - x, points[n][1] - y) % (2 * math.pi), n))


def rim_crossing(points: Sequence[tuple[float, float]]) -> tuple[int, ...]:
    """Round a rim, the far side in turn: the star of as many, laid along the rim. Places from 1."""
    rim = round_about(points)
    turns = star(len(rim)) if len(rim) >= 3 else range(1, len(rim) + 1)
    return tuple(rim[turn - 1] + 1 for turn in turns)


def spiral(points: Sequence[tuple[float, float]]) -> tuple[int, ...]:
    """Ring by ring from the middle, each ring clockwise from where the last one ended. Places from 1."""
    x, y = _middle(points)
    away = [math.hypot(a - x, b - y) for a, b in points]
    step = max(away) / 3 or 1.0
    left, found, turn = set(range(len(points))), list[int](), 0.0
    while left:
        nearest = min(away[n] for n in left)
        ring = [n for n in left if away[n] <= nearest + step * 0.5]
        angles = {n: math.atan2(points[n][0] - x, points[n][1] - y) for n in ring}
        ring.sort(key=lambda n: ((angles[n] - turn) % (2 * math.pi), n))
        turn = angles[ring[-1]]
        found += ring
        left -= set(ring)
    return tuple(n + 1 for n in found)


def sequences(layout: Layout) -> tuple[Way, ...]:
    """The ways in which a layout can be gone round, the likeliest first."""
    points, labels = _places(layout), [fastener.label for fastener in layout.fasteners]
    ways: list[tuple[str, Sequence[int]]] = []
    if len(points) < 2:
        return ()
    if is_line(points):
        along = [n + 1 for n in sorted(range(len(points)), key=lambda n: points[n])]
        ways += [("from the middle", [along[n - 1] for n in centre_out(len(points))]), ("end to end", along)]
    elif is_circle(points):
        rim = round_about(points)
        ways += [("crossing", [rim[n - 1] + 1 for n in star(len(points))]), ("end to end", [n + 1 for n in rim])]
    else:
        ways += _rows(points)
        ways += [
            ("outward, opposite sides", outward(points)),
            ("spiral", spiral(points)),
            ("round the rim, crossing", rim_crossing(points)),
        ]
    return tuple(Way(name=name, order=tuple(labels[n - 1] for n in order), why=_WHY[name]) for name, order in ways)


def _rows(points: Sequence[tuple[float, float]]) -> list[tuple[str, Sequence[int]]]:
    """Two rows of as many, numbered row by row: a head."""
    half = len(points) // 2
    upper, lower = points[:half], points[half:]
    if len(points) % 2 or len({y for _, y in upper}) != 1 or len({y for _, y in lower}) != 1 or half < 2:
        return []
    return [("from the middle", rows_of_two(half))] if [x for x, _ in upper] == [x for x, _ in lower] else []


def why(layout: Layout, order: str = "main") -> str:
    """Why the fasteners are pulled in this order; it is the spec's own if no sequence is like it."""
    given = [ranked(rank) for rank in layout.orders.get(order, ())]
    flat = tuple(label for rank in given for label in rank)
    if len(flat) < 2:
        return ""
    if any(len(rank) > 1 for rank in given):
        return "As the spec has it: those that stand together are pulled together."
    for one in sequences(layout):
        if flat == one.order:
            return one.why
        if flat == tuple(reversed(one.order)):
            return "From the outside to the middle, as a part is let go, so that it does not warp."
    return "As the spec has it."
