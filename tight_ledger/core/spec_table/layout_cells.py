"""Layouts and orders as cells of a table: `circle 10, 335 mm`, `1 6 2 7 3+8`."""

import math
import re
from collections.abc import Iterable
from typing import get_args

from tight_ledger.core.base.cells import BETWEEN, listed
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.parsing import plain
from tight_ledger.core.joints.layouts import Mark, MarkKind
from tight_ledger.core.joints.shapes import circle_points, grid_points, rectangle_points

Points = list[tuple[float, float]]

_SHAPE = re.compile(
    r"^(?P<shape>one|circle|line|grid|rectangle)\s*(?P<a>\d+)?(?:\s*[x×]\s*(?P<b>\d+))?"
    r"(?:\s*,\s*(?P<wide>\d+(?:\.\d+)?)(?:\s*[x×]\s*(?P<high>\d+(?:\.\d+)?))?\s*mm)?$"
)
_SHAPES = "Write circle 10, 335 mm; line 9, 400 mm; grid 2 × 5, 360 × 90 mm; rectangle 6 × 4, 300 × 200 mm; one; or points 0,0 | 50,0."


def read_layout(text: str, column: str = "layout") -> tuple[str, int, Points]:
    """The shape, its rows and its points [mm]: `circle 10, 335 mm`, `grid 2 × 5, 360 × 90 mm`, `points 0,0 | 50,0`.

    Raises:
        Invalid: no shape that is known, or its figures are out of range.
    """
    said = plain(text.strip().casefold())
    if said.startswith("points"):
        return "points", 1, _read_points(said.removeprefix("points"), column)
    match = _SHAPE.match(said)
    if match is None:
        raise Invalid(column, f"“{text}” is no layout.", _SHAPES)
    a, b = (int(match[name]) if match[name] else 0 for name in ("a", "b"))
    wide, high = (float(match[name]) if match[name] else 0.0 for name in ("wide", "high"))
    try:
        points = {
            "one": lambda: [(0.0, 0.0)],
            "circle": lambda: circle_points(a, wide),
            "line": lambda: grid_points(1, a, wide, 0),
            "grid": lambda: grid_points(a, b, wide, high),
            "rectangle": lambda: rectangle_points(a, b, wide, high),
        }[match["shape"]]()
    except Invalid as error:
        raise Invalid(column, f"{error.field} of “{text}”: {error.fault}", error.remedy) from error
    return match["shape"], a if match["shape"] == "grid" else 1, points


def _read_points(said: str, column: str) -> Points:
    try:
        found = [(float(x), float(y)) for x, _, y in (item.partition(",") for item in listed(said))]
    except ValueError as error:
        raise Invalid(column, f"“{said.strip()[:40]}” are no points.", "Write x,y in mm, and | between two: points 0,0 | 50,0.") from error
    if not 1 <= len(found) <= 60 or not all(math.isfinite(part) and abs(part) <= 10_000 for point in found for part in point):
        raise Invalid(column, "A layout has 1 to 60 points within 10 m.", "Look at the figures once more.")
    return found


def read_marks(text: str) -> list[dict[str, object]]:
    """What helps to hold the drawing right: `valve 0,150 | dowel -40,10 | front 0,200`.

    Raises:
        Invalid: something that is not drawn, or no place.
    """
    found: list[dict[str, object]] = []
    for item in listed(text):
        what, _, place = item.strip().partition(" ")
        if what not in get_args(MarkKind):
            raise Invalid("marks", f"“{what}” is not drawn.", f"It can be {', '.join(get_args(MarkKind))}.")
        [(x_mm, y_mm), *more] = _read_points(place, "marks")
        if more:
            raise Invalid("marks", f"“{item}” names two places.", "Write | between two marks.")
        found.append({"what": what, "x_mm": x_mm, "y_mm": y_mm})
    return found


def write_marks(marks: Iterable[Mark]) -> str:
    """As they are read."""
    return BETWEEN.join(f"{mark.what} {mark.x_mm:.6g},{mark.y_mm:.6g}" for mark in marks)


def write_layout(points: Points) -> str:
    """The first shape that gives these points."""
    xs, ys = sorted({x for x, _ in points}), sorted({y for _, y in points})
    wide, high = xs[-1] - xs[0], ys[-1] - ys[0]
    columns, rows, round_mm = len(xs), len(ys), 2 * math.hypot(*points[0])
    shapes = (
        "one",
        f"line {len(points)}, {wide:g} mm",
        f"circle {len(points)}, {round_mm:.6g} mm",
        f"grid {rows} × {columns}, {wide:g} × {high:g} mm",
        f"rectangle {columns} × {rows}, {wide:g} × {high:g} mm",
    )
    for shape in shapes:
        try:
            if read_layout(shape)[2] == points:
                return shape
        except Invalid:
            continue
    return f"points {BETWEEN.join(f'{x!r},{y!r}' for x, y in points)}"


def read_order(text: str) -> list[str | list[str]]:
    """`1 6 2 7 3+8`: what is joined by a plus is pulled together."""
    return [part.split("+") if "+" in part else part for part in text.replace(",", " ").split()]


def write_order(order: Iterable[str | Iterable[str]]) -> str:
    """As it is read."""
    return " ".join(rank if isinstance(rank, str) else "+".join(rank) for rank in order)
