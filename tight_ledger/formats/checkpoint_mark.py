"""A checkpoint on paper: its short code to compare by eye, and the whole of it as a code to scan."""

from collections.abc import Sequence
from xml.sax.saxutils import escape

from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Paragraph, Table, TableStyle

from tight_ledger.formats.pages import style
from tight_ledger.formats.tags import code

WIDE_MM, CODE_MM = 174.0, 26.0
KEEP = "Keep this sheet: whatever is changed later does not fit the code on it."


def checkpoint_mark(short: str, note: str, said: Sequence[str]) -> Flowable:
    """The checkpoint as it stands on a sheet.

    Args:
        short: its short code.
        note: the whole checkpoint.
        said: what it is and what it covers, in lines.
    """
    quiet = style(7.5, quiet=True)
    words = [Paragraph(escape(f"Checkpoint {short}"), style(10, bold=True)), *(Paragraph(escape(line), quiet) for line in (*said, KEEP))]
    table = Table([[code(note, CODE_MM), words]], colWidths=[(CODE_MM + 4) * mm, (WIDE_MM - CODE_MM - 4) * mm])
    table.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)]))
    return table
