"""Possible orders of a layout, each with its reason; and why an order is as it is.

A spec's author fixes the order; a layout only proposes. Rows of two go from the middle; a ring crosses; a rim goes round
crossing or end to end; anything else goes outward from its centroid.
"""

import math
from collections.abc import Sequence

from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.layouts import Layout, ranked
from tight_ledger.core.joints.order_measures import columns_of, is_circle, is_line, measure_order, middle
from tight_ledger.core.joints.orders import centre_out, outward, rows_of_two, star


class Way(Model):
    """An order, with the reason that a mechanic would give for it."""

    name: str
    order: tuple[str, ...]
    why: str
    measured: str
    """How evenly it closes the joint, where that can be measured."""


_WHY = {
    "crossing": "Opposite sides in turn, so that the part closes evenly and does not tip.",
    "from the middle": "From the middle outward, so that what is pressed out can leave at the ends.",
    "end to end": "From one end to the other, a little at a time, so that nothing long is bent.",
    "once round": "One after the other round the circle.",
    "round the rim, crossing": "Round the rim with the far side in turn, so that the gasket is pressed evenly.",
    "spiral": "Ring by ring from the middle, each ring round, so that a wide face lies down from its middle.",
    "outward, opposite sides": "Outward from the middle, each pull to the side opposite to what was pulled.",
}


def _places(layout: Layout) -> list[tuple[float, float]]:
    return [(fastener.x_mm, fastener.y_mm) for fastener in layout.fasteners]


def round_about(points: Sequence[tuple[float, float]]) -> list[int]:
    """Places (from 0) clockwise about the centroid, from the top."""
    x, y = middle(points)
    return sorted(range(len(points)), key=lambda n: (math.atan2(points[n][0] - x, points[n][1] - y) % (2 * math.pi), n))


def rim_crossing(points: Sequence[tuple[float, float]]) -> tuple[int, ...]:
    """Round a rim, the far side in turn: the star of as many, laid along the rim. Places from 1."""
    rim = round_about(points)
    turns = star(len(rim)) if len(rim) >= 3 else range(1, len(rim) + 1)
    return tuple(rim[turn - 1] + 1 for turn in turns)


def spiral(points: Sequence[tuple[float, float]]) -> tuple[int, ...]:
    """Ring by ring from the middle, each ring clockwise from where the last one ended. Places from 1."""
    x, y = middle(points)
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
    """The possible orders of a layout, the likeliest first."""
    points, labels = _places(layout), [fastener.label for fastener in layout.fasteners]
    ways: list[tuple[str, Sequence[int]]] = []
    if len(points) < 2:
        return ()
    if is_line(points):
        along = [n + 1 for n in sorted(range(len(points)), key=lambda n: points[n])]
        ways += [("from the middle", [along[n - 1] for n in centre_out(len(points))]), ("end to end", along)]
    elif is_circle(points):
        rim = round_about(points)
        crosses = len(points) > 3  # of three, none stands opposite to another
        ways += [("crossing", [rim[n - 1] + 1 for n in star(len(points))])] if crosses else []
        ways += [("once round", [n + 1 for n in rim])]
    else:
        ways += _rows(points)
        ways += [
            ("outward, opposite sides", outward(points)),
            ("spiral", spiral(points)),
            ("round the rim, crossing", rim_crossing(points)),
        ]
    found = [(name, tuple(labels[n - 1] for n in order)) for name, order in ways]
    return tuple(Way(name=name, order=order, why=_WHY[name], measured=measure_order(layout, order).words) for name, order in found)


def _rows(points: Sequence[tuple[float, float]]) -> list[tuple[str, Sequence[int]]]:
    """Rows of as many: a head of two, numbered row by row; more of them by their columns. Four corners only cross."""
    half = len(points) // 2
    upper, lower = points[:half], points[half:]
    in_two = len(points) % 2 == 0 and len({y for _, y in upper}) == len({y for _, y in lower}) == 1
    if in_two and half > 2 and [x for x, _ in upper] == [x for x, _ in lower]:
        return [("from the middle", rows_of_two(half))]
    away = columns_of(points)
    return [("from the middle", by_columns(points, away))] if away is not None else []


def by_columns(points: Sequence[tuple[float, float]], away: Sequence[float]) -> list[int]:
    """From the middle column outward; of a column the middle first, and each next one as far as can be from the last. Places from 1.

    Args:
        away: by point, its distance from the middle column [mm].
    """
    _, y = middle(points)
    left, found = set(range(len(points))), list[int]()
    while left:
        nearest = min((away[n], round(abs(points[n][1] - y), 3)) for n in left)
        alike = [n for n in left if (away[n], round(abs(points[n][1] - y), 3)) == nearest]
        last = points[found[-1]] if found else (0.0, 0.0)
        _, farthest = max((round(math.dist(points[n], last), 3), -n) for n in alike)
        found.append(-farthest)
        left.remove(-farthest)
    return [n + 1 for n in found]


def why(layout: Layout, order: str = "main") -> str:
    """Why the fasteners are pulled in this order, and how evenly that closes the joint."""
    ranks = layout.orders.get(order, ())
    said = (_reason(layout, [ranked(rank) for rank in ranks]), measure_order(layout, ranks).words)
    return " ".join(part for part in said if part)


def _reason(layout: Layout, given: Sequence[tuple[str, ...]]) -> str:
    flat = tuple(label for rank in given for label in rank)
    if len(flat) < 2:
        return ""
    if any(len(rank) > 1 for rank in given):
        return "As the spec has it: those that stand together are pulled together."
    ways = sequences(layout)
    for way in ways:
        if flat == way.order:
            return way.why
    if any(flat == tuple(reversed(way.order)) and way.name == "from the middle" for way in ways):
        return "From the outside to the middle, as a part is let go, so that it does not warp."
    return "As the spec has it."
