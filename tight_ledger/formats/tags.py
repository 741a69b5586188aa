"""Tags for a cab or a wheel, labels, and the list of what is due: paper that opens the very thing on the tablet's camera."""

from collections.abc import Sequence
from io import BytesIO
from typing import NamedTuple
from xml.sax.saxutils import escape

from reportlab.graphics.barcode.qr import QrCodeWidget
from reportlab.graphics.shapes import Drawing
from reportlab.lib.pagesizes import A4, A6
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, KeepTogether, PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from tight_ledger.formats.pages import RULE, fonts, style

CODE_MM = 34
LABELS_ACROSS = 3


class Tag(NamedTuple):
    """What a tag says."""

    head: str
    """In large letters: `DO NOT MOVE`, `RE-TORQUE`."""
    where: str
    lines: tuple[str, ...]
    address: str
    """What its code opens."""
    red: bool = False


class Label(NamedTuple):
    """A label for a thing: its name, what it is, what its code opens."""

    name: str
    what: str
    address: str


class DueLine(NamedTuple):
    """A line of the list of what is due."""

    machine: str
    where: str
    due: str
    needs: str


def code(address: str, size_mm: float = CODE_MM) -> Drawing:
    """An address as a code to scan."""
    widget = QrCodeWidget(address, barLevel="M")
    widget.barWidth = widget.barHeight = size_mm * mm
    drawing = Drawing(size_mm * mm, size_mm * mm)
    drawing.add(widget)
    return drawing


def tags_pdf(tags: Sequence[Tag]) -> bytes:
    """Tags as PDF, one on each page of the size of a postcard."""
    fonts()
    told: list[Flowable] = []
    for tag in tags:
        told += [
            Paragraph(escape(tag.head), style(26, bold=True, flag=tag.red)),
            Spacer(0, 2 * mm),
            Paragraph(escape(tag.where), style(17, bold=True)),
            Spacer(0, 2 * mm),
            *(Paragraph(escape(line), style(10)) for line in tag.lines),
            Spacer(0, 3 * mm),
            code(tag.address),
            PageBreak(),
        ]
    return built(told[:-1], "Tags", A6, 9 * mm)


def labels_pdf(labels: Sequence[Label]) -> bytes:
    """Labels as PDF, to be cut from a sheet."""
    fonts()
    cells = [
        [code(label.address, 26), Paragraph(escape(label.name), style(11, bold=True)), Paragraph(escape(label.what), style(8, quiet=True))]
        for label in labels
    ]
    rows = [cells[place : place + LABELS_ACROSS] for place in range(0, len(cells), LABELS_ACROSS)]
    rows[-1] += [[Spacer(0, 0)] for _ in range(LABELS_ACROSS - len(rows[-1]))]
    table = Table(rows, colWidths=[60 * mm] * LABELS_ACROSS)
    table.setStyle(TableStyle([("GRID", (0, 0), (-1, -1), 0.4, RULE), ("VALIGN", (0, 0), (-1, -1), "TOP")]))
    return built([table], "Labels", A4, 15 * mm)


def due_pdf(shop: str, printed: str, lines: Sequence[DueLine]) -> bytes:
    """The list of what is due, by machine, with what is needed for it."""
    fonts()
    told: list[Flowable] = [
        Paragraph(escape(f"{shop}: re-torques"), style(20, bold=True)), Paragraph(escape(f"as of {printed}"), style(10, quiet=True)),
        Spacer(0, 5 * mm),
    ]  # fmt: skip
    by_machine: dict[str, list[DueLine]] = {}
    for line in lines:
        by_machine.setdefault(line.machine, []).append(line)
    for machine, its in by_machine.items():
        rows = [[Paragraph(escape(cell), style(9)) for cell in (line.where, line.due, line.needs, "☐")] for line in its]
        table = Table(rows, colWidths=[55 * mm, 55 * mm, 55 * mm, 10 * mm])
        table.setStyle(TableStyle([("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE), ("VALIGN", (0, 0), (-1, -1), "TOP")]))
        told.append(KeepTogether([Paragraph(escape(machine), style(13, bold=True)), table, Spacer(0, 4 * mm)]))
    if not lines:
        told.append(Paragraph("Nothing is due.", style(12)))
    return built(told, "Re-torques", A4, 15 * mm)


def built(told: Sequence[Flowable], title: str, size: tuple[float, float], margin: float) -> bytes:
    """A document of these parts."""
    made = BytesIO()
    document = SimpleDocTemplate(
        made, pagesize=size, leftMargin=margin, rightMargin=margin, topMargin=margin, bottomMargin=margin, title=title,
        author="Tight Ledger", invariant=1,
    )  # fmt: skip
    document.build(list(told))
    return made.getvalue()
