"""The list of shims and spacers as a table, in and out."""

import csv
from collections.abc import Sequence
from io import BytesIO, StringIO
from pathlib import Path

from tight_ledger.core.base.cells import harmless
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.tools.pieces import PieceNow
from tight_ledger.formats.tables import Workbook, lines_of
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


def read_stock(path: Path) -> list[tuple[int, dict[str, str]]]:
    """The lines of a table of pieces, CSV or XLSX, each with its number.

    Raises:
        Invalid: columns that are missing, or more lines than are taken at once.
    """
    try:
        return _read(path)
    except (ValueError, csv.Error) as error:
        raise Invalid("file", "The file is no table of text.", "Save it as CSV in UTF-8, or as XLSX.") from error


def _read(path: Path) -> list[tuple[int, dict[str, str]]]:
    lines = lines_of(path)
    head = [name.strip().casefold() for name in next(lines, (1, []))[1]]
    if missing := set(COLUMNS[:5]) - set(head):
        raise Invalid("file", f"The columns {', '.join(sorted(missing))} are missing.", f"The first line reads {','.join(COLUMNS)}.")
    found = [(number, dict(zip(head, (str(cell) for cell in cells), strict=False))) for number, cells in lines if any(cells)]
    if len(found) > MOST_ROWS:
        raise Invalid("file", f"It has {len(found)} lines.", f"Send {MOST_ROWS} at most.")
    return found
