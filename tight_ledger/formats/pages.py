"""What every printed page shares: fonts that are embedded, colours, styles, and the joint drawn."""

from collections.abc import Mapping
from functools import cache
from pathlib import Path

from reportlab.graphics.shapes import Circle, Drawing, Line, Polygon, Rect, String
from reportlab.lib.colors import HexColor
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

from tight_ledger.core.joints.layouts import Layout
from tight_ledger.core.runs.descriptions import FastenerNow

INK, QUIET, RULE, FLAG, PAPER = (HexColor(c) for c in ("#232b31", "#55626b", "#c4c9c6", "#a3360f", "#f4f2ea"))


@cache
def fonts() -> None:
    """Register the typeface, once."""
    folder = Path(__file__).parent / "fonts"
    pdfmetrics.registerFont(TTFont("B612", folder / "B612-Regular.ttf"))
    pdfmetrics.registerFont(TTFont("B612-Bold", folder / "B612-Bold.ttf"))


@cache
def style(size: float, *, bold: bool = False, quiet: bool = False, flag: bool = False) -> ParagraphStyle:
    """A paragraph's look."""
    font, colour = "B612-Bold" if bold else "B612", FLAG if flag else QUIET if quiet else INK
    return ParagraphStyle(f"{font}{size}{colour}", fontName=font, fontSize=size, leading=size * 1.35, textColor=colour)


def fastener_map(layout: Layout, now: Mapping[str, FastenerNow] | None = None, size_mm: float = 62) -> Drawing:
    """The joint as it is looked at; a number in each nut, a stroke for each stage, a flag where something is wrong."""
    x_mm, y_mm = [f.x_mm for f in layout.fasteners], [f.y_mm for f in layout.fasteners]
    middle_x, middle_y = (max(x_mm) + min(x_mm)) / 2, (max(y_mm) + min(y_mm)) / 2
    reach = max(max(x_mm) - min(x_mm), max(y_mm) - min(y_mm)) / 2 or 1.0
    size = size_mm * mm
    scale = (size / 2 - 6.5 * mm) / reach
    drawing = Drawing(size, size)
    drawing.add(Rect(1 * mm, 1 * mm, size - 2 * mm, size - 2 * mm, rx=3 * mm, ry=3 * mm, strokeColor=RULE, fillColor=None))
    radius = min(5.2 * mm, _nearest(layout) * scale * 0.42)
    for fastener in layout.fasteners:
        x, y = size / 2 + (fastener.x_mm - middle_x) * scale, size / 2 + (fastener.y_mm - middle_y) * scale
        state = (now or {}).get(fastener.label)
        drawing.add(Circle(x, y, radius, strokeColor=INK, strokeWidth=1, fillColor=PAPER))
        for mark in range(state.marks if state else 0):
            offset = (mark - 1) * radius * 0.35
            drawing.add(Line(x + offset, y - radius, x + offset, y - radius * 0.5, strokeColor=INK, strokeWidth=1.2))
        if state is not None and state.flagged:
            flag = [x + radius, y, x + radius * 1.9, y + radius * 0.6, x + radius * 1.9, y - radius * 0.6]
            drawing.add(Polygon(flag, fillColor=FLAG, strokeColor=FLAG))
        text = radius * (0.95 if len(fastener.label) < 3 else 0.65)
        drawing.add(String(x, y - radius * 0.3, fastener.label, fontName="B612-Bold", fontSize=text, fillColor=INK, textAnchor="middle"))
    return drawing


def _nearest(layout: Layout) -> float:
    """The smallest distance between two fasteners [mm]; 60 for a single one."""
    fastener = layout.fasteners
    apart = [((a.x_mm - b.x_mm) ** 2 + (a.y_mm - b.y_mm) ** 2) ** 0.5 for n, a in enumerate(fastener) for b in fastener[n + 1 :]]
    return min(apart, default=60.0)
