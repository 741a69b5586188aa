"""Layouts that are drawn from a few figures, each with the order that it proposes. A spec's own order comes first."""

import math
from collections.abc import Mapping, Sequence

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.joints.layouts import Fastener, Kind, Layout, Noun
from tight_ledger.core.joints.orders import centre_out, outward, rows_of_two, star

MOST_FASTENERS = 60
MOST_MM = 10_000.0


def _require(field: str, figure: float, least: float, most: float) -> None:
    if not least <= figure <= most:  # this way round, NaN is refused too
        raise Invalid(field, f"{figure:g} is out of range.", f"It lies between {least:g} and {most:g}.")


def circle_points(count: int, diameter_mm: float) -> list[tuple[float, float]]:
    """A bolt circle clockwise from the top [mm].

    Args:
        count: 3 to 60.
        diameter_mm: above 0, at most 10 m.
    Raises:
        Invalid: out of range.
    """
    _require("count", count, 3, 60)
    _require("diameter_mm", diameter_mm, 1, MOST_MM)
    angles = [math.pi / 2 - 2 * math.pi * i / count for i in range(count)]
    return [(round(diameter_mm / 2 * math.cos(a), 3), round(diameter_mm / 2 * math.sin(a), 3)) for a in angles]


def grid_points(rows: int, columns: int, wide_mm: float, high_mm: float) -> list[tuple[float, float]]:
    """A grid, row by row from the top left, over a width and a height between outer fasteners [mm].

    Raises:
        Invalid: out of range, or more than 60 fasteners.
    """
    _require("fasteners", rows * columns, 1, MOST_FASTENERS)
    _require("wide_mm", wide_mm, 0 if columns == 1 else 1, MOST_MM)
    _require("high_mm", high_mm, 0 if rows == 1 else 1, MOST_MM)
    return [
        (round(_along(column, columns, wide_mm), 3), round(-_along(row, rows, high_mm), 3))
        for row in range(rows)
        for column in range(columns)
    ]


def _along(place: int, places: int, length_mm: float) -> float:
    return 0.0 if places == 1 else length_mm * (place / (places - 1) - 0.5)


def rectangle_points(across: int, down: int, wide_mm: float, high_mm: float) -> list[tuple[float, float]]:
    """The edge of a cover: a grid of which only the rim is there, clockwise from the top left [mm].

    Args:
        across: fasteners on the upper edge, both corners among them, 2 or more.
        down: fasteners on the side edge, both corners among them, 2 or more.
    Raises:
        Invalid: out of range, or more than 60 fasteners.
    """
    _require("across", across, 2, MOST_FASTENERS)
    _require("down", down, 2, MOST_FASTENERS)
    _require("fasteners", 2 * (across + down) - 4, 4, MOST_FASTENERS)
    _require("wide_mm", wide_mm, 1, MOST_MM)
    _require("high_mm", high_mm, 1, MOST_MM)
    x = [_along(i, across, wide_mm) for i in range(across)]
    y = [-_along(i, down, high_mm) for i in range(down)]
    rim = [(a, y[0]) for a in x] + [(x[-1], b) for b in y[1:]] + [(a, y[-1]) for a in reversed(x[:-1])] + [(x[0], b) for b in y[-2:0:-1]]
    return [(round(a, 3), round(b, 3)) for a, b in rim]


def proposed_order(shape: str, points: Sequence[tuple[float, float]], rows: int = 1) -> tuple[int, ...]:
    """Places (from 1) in the order that a shape proposes: a circle crosses, a line goes from the middle, the rest outward."""
    if shape == "circle":
        return star(len(points))
    if shape == "line":
        return centre_out(len(points))
    if shape == "grid" and rows == 2:
        return rows_of_two(len(points) // 2)
    return outward(points)


def lay_out(
    points: Sequence[tuple[float, float]],
    order: Sequence[int],
    *,
    kinds: Mapping[str, Kind],
    kind_of: Mapping[str, str] | None = None,
    **more: object,
) -> Layout:
    """A layout numbered in the sequence of its points.

    Args:
        points: (x, y) [mm].
        order: places from 1; becomes `main`.
        kinds: the kinds of fastener.
        kind_of: by label, where a fastener is not of the first kind.
    """
    first = next(iter(kinds))
    labels = [str(i + 1) for i in range(len(points))]
    return Layout.model_validate(
        {
            "fasteners": [
                Fastener(label=label, kind=(kind_of or {}).get(label, first), x_mm=x, y_mm=y)
                for label, (x, y) in zip(labels, points, strict=True)
            ],
            "kinds": dict(kinds),
            "orders": {"main": tuple(str(place) for place in order)},
            **more,
        }
    )


def bolt_circle(
    *,
    count: int,
    diameter_mm: float,
    kind: str,
    thread: str,
    property_class: str = "",
    noun: Noun = "fastener",
    looked_at: str = "from outside",
    first: str = "",
) -> Layout:
    """A bolt circle of one kind of fastener, with its star order as `main`.

    Raises:
        Invalid: the count or the diameter is out of range.
    """
    kinds = {kind: Kind(thread=thread, noun=noun, property_class=property_class)}
    return lay_out(circle_points(count, diameter_mm), star(count), kinds=kinds, looked_at=looked_at, first=first)
