"""The tries of an adjustment as a plot for paper: the setting across, the reading upward, the band, the tries in sequence."""

from reportlab.graphics.charts.lineplots import LinePlot
from reportlab.graphics.shapes import Drawing, Group, Rect, String
from reportlab.graphics.widgets.markers import makeMarker
from reportlab.lib.colors import HexColor, black
from reportlab.lib.units import mm

from tight_ledger.core.kinds.acts import Advised

WIDE_MM, TALL_MM = 84.0, 52.0
LEFT_MM, BELOW_MM, ABOVE_MM, RIGHT_MM = 14.0, 11.0, 6.0, 4.0
BAND = HexColor("#cfe8cf")


def tries_drawing(advised: Advised) -> Drawing:
    """The plot of one adjustment. A reading beyond the axis does not occur: the axis reaches to the largest."""
    settings, readings = [each.at for each in advised.tries], [each.reading for each in advised.tries]
    room = max((max(settings) - min(settings)) * 0.15, advised.step)
    across = min(settings) - room, max(settings) + room
    most = max(*readings, advised.high) * 1.15
    drawing = Drawing(WIDE_MM * mm, TALL_MM * mm)
    width, height = (WIDE_MM - LEFT_MM - RIGHT_MM) * mm, (TALL_MM - BELOW_MM - ABOVE_MM) * mm
    low, high = (BELOW_MM * mm + height * limit / most for limit in (advised.low, advised.high))
    drawing.add(Rect(LEFT_MM * mm, low, width, high - low, fillColor=BAND, strokeColor=None))
    plot = LinePlot()
    plot.x, plot.y, plot.width, plot.height = LEFT_MM * mm, BELOW_MM * mm, width, height
    plot.data = [list(zip(settings, readings, strict=True))]
    plot.lines[0].strokeColor = black
    plot.lines[0].symbol = makeMarker("FilledCircle", size=4)
    for axis, (least, largest) in ((plot.xValueAxis, across), (plot.yValueAxis, (0.0, most))):
        axis.valueMin, axis.valueMax, axis.labels.fontSize, axis.labels.fontName = least, largest, 6, "B612"
        axis.labelTextFormat = "%.3g"
    drawing.add(plot)
    drawing.add(_numbers(advised, across, most, width, height))
    where = f"{advised.item}: " if advised.item else ""
    title = f"{where}{advised.what} [{advised.reads_in}], band {advised.band.low}–{advised.band.high} {advised.band.unit}"
    drawing.add(String(0, (TALL_MM - 3) * mm, title, fontName="B612", fontSize=7))
    unit = "number" if advised.unit == "positions" else advised.unit
    drawing.add(String(LEFT_MM * mm + width / 2, 0, f"{advised.setting} [{unit}]", fontName="B612", fontSize=7, textAnchor="middle"))
    return drawing


def _numbers(advised: Advised, across: tuple[float, float], most: float, width: float, height: float) -> Group:
    """Each try's place in the sequence, beside its point."""
    numbers = Group()
    for place, each in enumerate(advised.tries, 1):
        x = LEFT_MM * mm + width * (each.at - across[0]) / (across[1] - across[0])
        y = BELOW_MM * mm + height * each.reading / most
        numbers.add(String(x + 3, y + 3, str(place), fontName="B612", fontSize=7))
    return numbers
