"""The order in which the fasteners of a bolt circle are pulled.

Fasteners are numbered 1 to n clockwise from the top. The orders agree with those in print: wheels of 4, 5, 6 and
8 studs (common practice), flanges of 8, 12, 16 and 20 bolts (ASME PCC-1, cross pattern).
"""

from tight_ledger.core.base import Invalid

FEWEST, MOST = 3, 48


def star(count: int) -> tuple[int, ...]:
    """The crossing order of a bolt circle.

    For an even count the pulls come in opposite pairs, so the pulls made so far never lean by more than one
    fastener; for an odd count each pull goes to the fastener nearest to the opposite, leaning at most 1.06.

    Args:
        count: number of fasteners, 3 to 48.
    Raises:
        Invalid: the count is outside 3 to 48.
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
