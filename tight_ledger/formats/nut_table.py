"""The table of a job card: a line a fastener, stages across, what was required and what was got."""

from xml.sax.saxutils import escape

from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Paragraph, Spacer, Table, TableStyle

from tight_ledger.core.runs.card_table import CardCell, CardRow
from tight_ledger.formats.pages import RULE, style
from tight_ledger.services.dates import moment_words
from tight_ledger.services.runs.views import Card

WIDE_MM = 174.0
NAME_MM, WHO_MM = 17.0, 38.0
MOST_ACROSS = 6
"""More stages than these stand in a second table."""
GRID = TableStyle(
    [
        ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE), ("TOPPADDING", (0, 0), (-1, -1), 0.8),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 0.8), ("LEFTPADDING", (0, 0), (-1, -1), 1.5), ("RIGHTPADDING", (0, 0), (-1, -1), 1.5),
    ]
)  # fmt: skip


def nut_tables(card: Card) -> list[Flowable]:
    """The tables of what was done at the fasteners, and what was read on the joint."""
    table = card.table
    found: list[Flowable] = []
    for first in range(0, len(table.columns), MOST_ACROSS):
        found += [_nuts(card, range(first, min(first + MOST_ACROSS, len(table.columns)))), Spacer(1, 3 * mm)]
    if table.readings:
        small = style(6.5)
        rows = [[Paragraph(escape(each.what), small), *_cell(each.cell, shared=False), _done(card, each.cell)] for each in table.readings]
        found += [Table(rows, colWidths=[50 * mm, WIDE_MM * mm - 88 * mm, 38 * mm], style=GRID), Spacer(1, 3 * mm)]
    return found


def _nuts(card: Card, across: range) -> Table:
    """A line a fastener; a figure that all of a stage have stands in its head."""
    table, quiet = card.table, style(6.5, quiet=True)
    shared = {}
    for column in across:
        said = {cell.required for row in table.rows if (cell := row.cells[column]) is not None}
        shared[column] = said.pop() if len(said) == 1 else ""
    head = [
        Paragraph("", quiet),
        *(Paragraph(f"{escape(table.columns[column])}<br/>{escape(shared[column])}", quiet) for column in across),
        Paragraph("last by", quiet),
    ]
    rows = [
        [
            _named(row),
            *(_cell(row.cells[column], shared=bool(shared[column]))[0] for column in across),
            _done(card, _last(row, across)),
        ]
        for row in table.rows
    ]
    each = (WIDE_MM - NAME_MM - WHO_MM) / max(len(across), 1)
    made = Table([head, *rows], colWidths=[NAME_MM * mm, *[each * mm] * len(across), WHO_MM * mm], repeatRows=1)
    made.setStyle(GRID)
    return made


def _named(row: CardRow) -> Paragraph:
    """The fastener, marked where something is wrong with it."""
    bad = bool(row.wrong)
    return Paragraph(escape(f"{row.name}: {'; '.join(row.wrong)}" if bad else row.name), style(6.5, bold=bad, flag=bad))


def _cell(cell: CardCell | None, *, shared: bool) -> list[Paragraph]:
    if cell is None:
        return [Paragraph("–", style(6.5, quiet=True))]
    said = [cell.got or "open", *([f"({cell.how})"] if cell.how else []), *cell.wrong]
    required = f"{cell.required}: " if cell.required and not shared else ""
    return [Paragraph(escape(f"{required}{'; '.join(said)}"), style(6.5, bold=bool(cell.wrong), flag=bool(cell.wrong)))]


def _last(row: CardRow, across: range) -> CardCell | None:
    done = [cell for column in across if (cell := row.cells[column]) is not None and cell.at is not None]
    return max(done, key=lambda cell: cell.at.timestamp() if cell.at is not None else 0.0, default=None)


def _done(card: Card, cell: CardCell | None) -> Paragraph:
    words = f"{cell.by}, {moment_words(card, cell.at)}" if cell is not None and cell.at is not None else ""
    return Paragraph(escape(words), style(6.5, quiet=True))
