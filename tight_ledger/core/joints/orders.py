"""Orders in which the fasteners of a joint are pulled. A layout only proposes; a spec's own order comes first.

The fasteners of a circle are numbered 1 to n clockwise from the top. Its orders agree with those in print: wheels of
4, 5, 6 and 8 studs (common practice), flanges of 8, 12, 16 and 20 bolts (ASME PCC-1, cross pattern).
"""

import math
from collections.abc import Sequence

from tight_ledger.core.base.errors import Invalid

FEWEST, MOST = 3, 60


def star(count: int) -> tuple[int, ...]:
    """The crossing order of a bolt circle.

    For an even count the pulls come in opposite pairs, so the pulls made so far never lean by more than one
    fastener; for an odd count each pull goes to the fastener nearest to the opposite, leaning at most 1.06.

    Args:
        count: number of fasteners, 3 to 60.
    Raises:
        Invalid: the count is outside 3 to 60.
    """
    if not FEWEST <= count <= MOST:
        raise Invalid("count", f"A bolt circle of {count} has no star order.", f"Count {FEWEST} to {MOST} fasteners.")
    half, quarter = count // 2, count // 4
    if count % 2:
        return tuple(1 + (pull * half) % count for pull in range(count))
    if count % 4:  # an odd number of axes: go on by the axis nearest to square
        stride = (half - 1) // 2
        starts = [1 + (axis * stride) % count for axis in range(half)]
    else:  # crosses of four: every other cross first, once there are enough of them to leave one out
        crosses = [*range(1, quarter + 1, 2), *range(2, quarter + 1, 2)] if quarter > 3 else range(1, quarter + 1)
        starts = [start for cross in crosses for start in (cross, cross + quarter)]
    return tuple(label for start in starts for label in (start, 1 + (start - 1 + half) % count))


def centre_out(count: int) -> tuple[int, ...]:
    """The order of a line: from its middle, the sides in turn: 3 2 4 1 5.

    Args:
        count: number of fasteners, 1 or more, numbered from one end.
    """
    middle = (count + 1) / 2
    return tuple(sorted(range(1, count + 1), key=lambda place: (abs(place - middle), place)))


def rows_of_two(columns: int) -> tuple[int, ...]:
    """The order of two rows of n: from the middle outward, crossing sides. The distance from the middle column never falls.

    Numbered row by row from the top left. The 2 x 5 head comes as manuals print it, 9 5 1 4 8 over 10 6 2 3 7 (common
    practice).

    Args:
        columns: fasteners in a row, 1 or more.
    """
    middle = (columns + 1) / 2
    found: list[int] = []
    for ring in sorted({abs(column - middle) for column in range(1, columns + 1)}):
        right, left = round(middle + ring), round(middle - ring)
        found += [right, right + columns] if ring == 0 else [right + columns, right, left, left + columns]
    return tuple(found)


SAME_RING = 1.02
"""Distances from the middle within 2 % count as one ring."""


def outward(points: Sequence[tuple[float, float]]) -> tuple[int, ...]:
    """The order of any layout: ring by ring outward from its centroid, each pull opposite to those before.

    Args:
        points: (x, y) of each fastener [mm], numbered from 1.
    """
    middle_x = math.fsum(x for x, _ in points) / len(points)
    middle_y = math.fsum(y for _, y in points) / len(points)
    about = {place: (x - middle_x, y - middle_y) for place, (x, y) in enumerate(points, start=1)}
    found: list[int] = []
    lean_x = lean_y = 0.0
    while about:
        nearest = min(math.hypot(*at) for at in about.values())
        ring = [place for place, at in about.items() if math.hypot(*at) <= nearest * SAME_RING + 1e-6]
        chosen = min(ring, key=lambda place: (round(math.hypot(lean_x + about[place][0], lean_y + about[place][1]), 6), place))
        x, y = about.pop(chosen)
        lean_x, lean_y = lean_x + x, lean_y + y
        found.append(chosen)
    return tuple(found)
