"""The job card as PDF: A4, the joint drawn, every entry, the signatures, the last seal. Fonts are embedded."""

from collections.abc import Sequence
from io import BytesIO
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from tight_ledger.core.runs.view import EntryLine, InHand
from tight_ledger.formats.checkpoint_mark import checkpoint_mark
from tight_ledger.formats.nut_table import nut_tables
from tight_ledger.formats.pages import RULE, fastener_map, fonts, style
from tight_ledger.formats.tries import tries_drawing
from tight_ledger.services.dates import moment_words
from tight_ledger.services.runs.views import Card

STANDING = {
    "good": "Good",
    "released": "Released by the lead",
    "do not move": "DO NOT MOVE",
    "abandoned": "Abandoned",
    None: "Not finished",
}


def _told(line: EntryLine, card: Card) -> str:
    """What happened; of what was done on paper also when. What was taken back is struck through."""
    done = f" (done {moment_words(card, line.done_at)})" if line.done_at is not None else ""
    words = escape(line.words + done)
    return words if line.counts else f"<strike>{words}</strike>"


def _facts(card: Card) -> list[tuple[str, str]]:
    sheet = card.sheet
    meters = ", ".join(f"{m.figure:g} {m.kind}" for m in sheet.meters) or "none read"
    source = ", ".join(part for part in (sheet.source.document, sheet.source.page, sheet.source.edition) if part)
    return [
        ("Machine", f"{sheet.machine.fleet_number} · {sheet.machine.maker} {sheet.machine.model}"),
        *([("VIN, registration", known)] if (known := ", ".join(filter(None, (sheet.machine.vin, sheet.machine.registration)))) else []),
        ("Position", f"{sheet.position_words or 'the whole machine'} · {sheet.hand}-hand thread"),
        ("Spec", f"{sheet.title}, revision {sheet.spec_revision} · {sheet.procedure}{'' if sheet.checked else ' · UNCHECKED'}"),
        ("Source", source),
        *(("Wrench", _in_hand(tool)) for tool in sheet.tools),
        *([("Held by", "; ".join(sheet.supports))] if sheet.supports else []),
        ("Proof on the machine", sheet.proof),
        ("Meter", meters),
        ("Started", moment_words(card, sheet.started_at)),
    ]


def _in_hand(in_hand: InHand) -> str:
    """`W-11 one-inch, 140–760 N·m; crowfoot 50 mm at 0°: setting × 0.8889`."""
    wrench = in_hand.wrench
    said = [f"{wrench.name}, {wrench.lowest:g}–{wrench.highest:g} {wrench.unit}", in_hand.on_its_end]
    said += [f"serial {wrench.serial}"] if wrench.serial else []
    said += [f"for {in_hand.meant_for}"] if in_hand.meant_for else []
    said += [f"certificate {in_hand.certificate}"] if in_hand.certificate else []
    said += [f"used all the same: {in_hand.overridden}"] if in_hand.overridden else []
    return "; ".join(part for part in said if part)


def _tries(card: Card) -> list[Flowable]:
    """The plots of what was adjusted, two in a row."""
    drawn = [tries_drawing(each) for each in card.adjustments]
    pairs = [drawn[place : place + 2] for place in range(0, len(drawn), 2)]
    rows = [[*pair, *[""] * (2 - len(pair))] for pair in pairs]
    return [Table(rows, colWidths=[87 * mm, 87 * mm]), Spacer(1, 3 * mm)] if rows else []


def _story(card: Card) -> list[Flowable]:
    """The card from its outcome to its checkpoint."""
    body, quiet = style(9), style(8, quiet=True)
    standing, bad = STANDING[card.now.standing], card.now.standing != "good"
    facts = Table(
        [[Paragraph(name, quiet), Paragraph(escape(text), body)] for name, text in _facts(card)],
        colWidths=[32 * mm, 76 * mm],
        style=TableStyle(
            [("VALIGN", (0, 0), (-1, -1), "TOP"), ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5), ("TOPPADDING", (0, 0), (-1, -1), 1.5)]
        ),
    )
    head = Table(
        [[facts, fastener_map(card.sheet.layout, {f.label: f for f in card.now.fasteners})]],
        colWidths=[110 * mm, 64 * mm],
        style=TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP")]),
    )
    seals = "Every entry's seal holds." if card.seals_hold else "THE SEALS DO NOT HOLD: this record was changed."
    return [
        Paragraph(escape(f"{card.shop} · job card {str(card.sheet.job)[-8:]}"), quiet),
        Paragraph(escape(standing), style(20, bold=True, flag=bad)),
        *(Paragraph(escape(f"– {reason}"), body) for reason in card.now.reasons),
        Spacer(1, 3 * mm),
        head,
        Spacer(1, 3 * mm),
        *nut_tables(card),
        *(Paragraph(escape(f"Signed: {signature}"), body) for signature in card.signatures or ("nobody yet",)),
        Spacer(1, 2 * mm),
        _covered(card),
        Paragraph(escape(f"{seals} Last seal {card.last_seal}"), quiet),
        Paragraph(escape(card.caution), quiet),
        Spacer(1, 4 * mm),
        *_tries(card),
        _entries(card),
    ]


def _covered(card: Card) -> Flowable:
    """The checkpoint that covers the record."""
    point = card.checkpoint
    if point is None:
        return Paragraph("No checkpoint covers this record yet.", style(8, quiet=True))
    said = f"of {moment_words(card, point.at)}, over {point.size} lines of the log; it covers entries 1 to {point.covers}."
    return checkpoint_mark(point.code, point.note, [said])


def _entries(card: Card) -> Table:
    """Every entry by number."""
    quiet, small = style(8, quiet=True), style(7.5)
    rows = [[Paragraph(title, quiet) for title in ("No.", "When", "What", "Who", "Recorded by, on")]]
    rows += [
        [
            Paragraph(str(line.seq), small),
            Paragraph(moment_words(card, line.at), small),
            Paragraph(_told(line, card), small),
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
    return entries


def job_cards_pdf(cards: Sequence[Card]) -> bytes:
    """One card or several, each from a new page, as the bytes of a PDF."""
    fonts()
    story: list[Flowable] = []
    for card in cards:
        story += [PageBreak()] if story else []
        story += _story(card)
    buffer, first = BytesIO(), cards[0]
    document = SimpleDocTemplate(
        buffer, pagesize=A4, leftMargin=18 * mm, rightMargin=18 * mm, topMargin=15 * mm, bottomMargin=15 * mm,
        title=f"Job card {first.sheet.machine.fleet_number}", author=first.shop,
    )  # fmt: skip
    document.build(story)
    return buffer.getvalue()
