"""The job card as PDF: A4, the joint drawn, every entry, the signatures, the last seal. Fonts are embedded."""

from datetime import datetime
from functools import cache
from io import BytesIO
from pathlib import Path
from xml.sax.saxutils import escape
from zoneinfo import ZoneInfo

from reportlab.graphics.shapes import Circle, Drawing, Line, Polygon, String
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from tight_ledger.core.layouts import Layout
from tight_ledger.core.words import FastenerNow
from tight_ledger.work.viewing import Card

INK, QUIET, RULE, FLAG = HexColor("#232b31"), HexColor("#55626b"), HexColor("#c4c9c6"), HexColor("#a3360f")
STANDING = {
    "good": "Good",
    "released": "Released by the lead",
    "do not move": "DO NOT MOVE",
    "abandoned": "Abandoned",
    None: "Not finished",
}


@cache
def _fonts() -> None:
    folder = Path(__file__).parent / "fonts"
    pdfmetrics.registerFont(TTFont("B612", folder / "B612-Regular.ttf"))
    pdfmetrics.registerFont(TTFont("B612-Bold", folder / "B612-Bold.ttf"))


def _style(size: float, *, bold: bool = False, colour: HexColor = INK) -> ParagraphStyle:
    font = "B612-Bold" if bold else "B612"
    return ParagraphStyle(f"{font}{size}{colour}", fontName=font, fontSize=size, leading=size * 1.35, textColor=colour)


def _map(layout: Layout, fasteners: tuple[FastenerNow, ...], size_mm: float = 62) -> Drawing:
    """The joint as it is looked at; a number in each nut, a stroke for each stage, a triangle where flagged."""
    now = {f.label: f for f in fasteners}
    size = size_mm * mm
    reach = max(max(abs(f.x_mm), abs(f.y_mm)) for f in layout.fasteners) or 1.0
    scale = (size / 2 - 6.5 * mm) / reach
    radius = min(5.2 * mm, 42 * mm / len(layout.fasteners) + 1.2 * mm)
    drawing = Drawing(size, size)
    drawing.add(Circle(size / 2, size / 2, size / 2 - 1 * mm, strokeColor=RULE, fillColor=None))
    for fastener in layout.fasteners:
        x, y = size / 2 + fastener.x_mm * scale, size / 2 + fastener.y_mm * scale
        state = now.get(fastener.label)
        drawing.add(Circle(x, y, radius, strokeColor=INK, strokeWidth=1, fillColor=HexColor("#f4f2ea")))
        for mark in range(state.marks if state else 0):
            offset = (mark - 1) * radius * 0.35
            drawing.add(Line(x + offset, y - radius, x + offset, y - radius * 0.5, strokeColor=INK, strokeWidth=1.2))
        if state is not None and state.flagged:
            drawing.add(
                Polygon(
                    [x + radius, y, x + radius * 1.9, y + radius * 0.6, x + radius * 1.9, y - radius * 0.6],
                    fillColor=FLAG,
                    strokeColor=FLAG,
                )
            )
        drawing.add(
            String(x, y - radius * 0.3, fastener.label, fontName="B612-Bold", fontSize=radius * 0.95, fillColor=INK, textAnchor="middle")
        )
    return drawing


def _local(at: datetime, zone: ZoneInfo) -> str:
    return f"{at.astimezone(zone):%d %b %Y %H:%M:%S}"


def _facts(card: Card, zone: ZoneInfo) -> list[tuple[str, str]]:
    sheet = card.sheet
    meters = ", ".join(f"{m.figure:g} {m.kind}" for m in sheet.meters) or "none read"
    source = ", ".join(part for part in (sheet.source.document, sheet.source.page, sheet.source.edition) if part)
    return [
        ("Machine", f"{sheet.machine.fleet_number} · {sheet.machine.maker} {sheet.machine.model}"),
        ("Position", f"{sheet.position_words or 'the whole machine'} · {sheet.hand}-hand thread"),
        ("Spec", f"{sheet.title}, revision {sheet.spec_revision} · {sheet.procedure}{'' if sheet.checked else ' · UNCHECKED'}"),
        ("Source", source),
        ("Wrench", f"{sheet.wrench.name}, {sheet.wrench.lowest:g}–{sheet.wrench.highest:g} {sheet.wrench.unit}"),
        ("Proof on the machine", sheet.proof),
        ("Meter", meters),
        ("Started", _local(sheet.started_at, zone)),
    ]


def job_card_pdf(card: Card) -> bytes:
    """The card as the bytes of a PDF."""
    _fonts()
    zone = ZoneInfo(card.time_zone)
    body, quiet, small = _style(9), _style(8, colour=QUIET), _style(7.5)
    standing = STANDING[card.now.standing]
    bad = card.now.standing != "good"
    facts = Table(
        [[Paragraph(name, quiet), Paragraph(escape(text), body)] for name, text in _facts(card, zone)],
        colWidths=[32 * mm, 76 * mm],
        style=TableStyle(
            [("VALIGN", (0, 0), (-1, -1), "TOP"), ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5), ("TOPPADDING", (0, 0), (-1, -1), 1.5)]
        ),
    )
    head = Table(
        [[facts, _map(card.sheet.layout, card.now.fasteners)]],
        colWidths=[110 * mm, 64 * mm],
        style=TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP")]),
    )
    rows = [[Paragraph(title, quiet) for title in ("No.", "When", "What", "Who", "Recorded by, on")]]
    rows += [
        [
            Paragraph(str(line.seq), small),
            Paragraph(_local(line.at, zone), small),
            Paragraph(escape(line.words) if line.counts else f"<strike>{escape(line.words)}</strike>", small),
            Paragraph(escape(line.by), small),
            Paragraph(escape(f"{line.recorded_by}, {line.device}"), small),
        ]
        for line in card.entries
    ]
    entries = Table(rows, colWidths=[10 * mm, 35 * mm, 66 * mm, 26 * mm, 37 * mm], repeatRows=1)
    entries.setStyle(
        TableStyle(
            [
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE),
                ("TOPPADDING", (0, 0), (-1, -1), 1.5),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5),
            ]
        )
    )
    seals = "Every entry's seal holds." if card.seals_hold else "THE SEALS DO NOT HOLD: this record was changed."
    story: list[Flowable] = [
        Paragraph(escape(f"{card.shop} · job card {str(card.sheet.job)[-8:]}"), quiet),
        Paragraph(escape(standing), _style(20, bold=True, colour=FLAG if bad else INK)),
        *(Paragraph(escape(f"– {reason}"), body) for reason in card.now.reasons),
        Spacer(1, 3 * mm),
        head,
        Spacer(1, 3 * mm),
        entries,
        Spacer(1, 4 * mm),
        *(Paragraph(escape(f"Signed: {signature}"), body) for signature in card.signatures or ("nobody yet",)),
        Paragraph(escape(f"{seals} Last seal {card.last_seal}"), quiet),
        Paragraph(escape(card.caution), quiet),
    ]
    buffer = BytesIO()
    document = SimpleDocTemplate(
        buffer, pagesize=A4, leftMargin=18 * mm, rightMargin=18 * mm, topMargin=15 * mm, bottomMargin=15 * mm,
        title=f"Job card {card.sheet.machine.fleet_number}", author=card.shop,
    )  # fmt: skip
    document.build(story)
    return buffer.getvalue()
