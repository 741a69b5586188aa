"""Small tables that come in whole, CSV or XLSX, with a heading that names the columns."""

import csv
import tempfile
from collections.abc import Sequence
from pathlib import Path

from tight_ledger.core.base.errors import Invalid
from tight_ledger.formats.tables import lines_of

NamedRow = tuple[int, dict[str, str]]
"""The number of a line in its file, and its cells by the name of their column."""


def read_named(content: bytes, columns: Sequence[str], most: int) -> list[NamedRow]:
    """The lines of a table, without those that are empty.

    Args:
        content: of the file.
        columns: that it must have.
        most: lines that are taken at once.

    Raises:
        Invalid: it is no table, columns are missing, or it has more lines.
    """
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "table"
        path.write_bytes(content)
        try:
            return _read(path, columns, most)
        except (ValueError, csv.Error) as error:
            raise Invalid("file", "The file is no table of text.", "Save it as CSV in UTF-8, or as XLSX.") from error


def _read(path: Path, columns: Sequence[str], most: int) -> list[NamedRow]:
    lines = lines_of(path)
    head = [name.strip().casefold() for name in next(lines, (1, []))[1]]
    if missing := set(columns) - set(head):
        raise Invalid("file", f"The columns {', '.join(sorted(missing))} are missing.", f"The first line reads {','.join(columns)}.")
    rows = [(number, dict(zip(head, (str(cell) for cell in cells), strict=False))) for number, cells in lines if any(cells)]
    if len(rows) > most:
        raise Invalid("file", f"It has {len(rows)} lines.", f"Send {most} at most.")
    return rows
