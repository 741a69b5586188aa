"""The list of shims and spacers as a table, in and out."""

import csv
from collections.abc import Sequence
from io import BytesIO, StringIO

from tight_ledger.core.base.cells import harmless
from tight_ledger.core.tools.pieces import PieceNow
from tight_ledger.formats.named_tables import NamedRow, read_named
from tight_ledger.formats.tables import Workbook
from tight_ledger.services.tools.pieces import COLUMNS, MOST_ROWS


def _rows(pieces: Sequence[PieceNow]) -> list[list[str]]:
    return [
        [
            now.piece.name, now.piece.what, f"{now.piece.bore_mm:g}", f"{now.piece.rim_mm:g}", f"{now.piece.nominal_mm:g}",
            "" if now.measured_mm is None else f"{now.measured_mm:g}", "yes" if now.at_hand else "no",
        ]
        for now in pieces
    ]  # fmt: skip


def stock_csv(pieces: Sequence[PieceNow]) -> bytes:
    """As CSV, a line a piece."""
    made = StringIO(newline="")
    csv.writer(made).writerows([COLUMNS, *([harmless(cell) for cell in row] for row in _rows(pieces))])
    return made.getvalue().encode()


def stock_xlsx(pieces: Sequence[PieceNow]) -> bytes:
    """As XLSX, a line a piece."""
    book, made = Workbook("stock", COLUMNS), BytesIO()
    for row in _rows(pieces):
        book.line(row)
    book.save(made)
    return made.getvalue()


def read_stock(content: bytes) -> list[NamedRow]:
    """The lines of a table of pieces, CSV or XLSX, each with its number.

    Raises:
        Invalid: columns that are missing, or more lines than are taken at once.
    """
    return read_named(content, COLUMNS[:5], MOST_ROWS)
