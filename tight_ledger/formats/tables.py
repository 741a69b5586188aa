"""Tables of specs, one row a step: CSV and XLSX, read row by row and written row by row."""

import csv
import io
import re
import zipfile
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from typing import Any, BinaryIO

from tight_ledger.core.base.cells import RISKY, harmless
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.parsing import parse_unit
from tight_ledger.core.spec_table.files import Candidate, FileRow, from_rows
from tight_ledger.core.spec_table.rows import COLUMNS, TableRow, write_spec
from tight_ledger.core.specs.spec import Spec
from tight_ledger.formats.json_files import read_json

LONGEST_CELL = 60_000
MOST_ROWS = 500_000
MOST_COLUMNS = 100
MOST_UNPACKED_BYTES = 400_000_000
MOST_TIMES_PACKED = 300
"""Largest ratio of unpacked to packed size of a sheet; a larger one is an attack."""
_HEADING = re.compile(r"^\s*(?P<name>[A-Za-z_ ]+?)\s*(?:[\[(]\s*(?P<unit>[^\])]+?)\s*[\])])?\s*$")
_MONTH = r"(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*"
_DATE = re.compile(
    rf"^(?:\d{{1,2}}[-./ ]{_MONTH}\.?(?:[-./ ]\d{{2,4}})?|{_MONTH}[-./ ]\d{{1,4}}"
    r"|\d{1,4}[-./]\d{1,2}[-./]\d{2,4}(?: \d{1,2}:\d{2}(?::\d{2})?)?)$",
    re.IGNORECASE,
)
_UNPRINTABLE = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f]")
DATED = "A spreadsheet has made a date of this."
_AS_TEXT = "Format the column as text, and type it again."
_FREE_TEXT = frozenset({"document", "edition"})

Cells = tuple[int, list[str]]


class _BadCell(str):
    """A cell that cannot be used; the text says why."""


# reading --------------------------------------------------------------------------------------------------------------


def read_csv(path: Path) -> Iterator[Candidate]:
    """The specs of a CSV file: UTF-8, UTF-16 with its mark, or Windows-1252; comma, semicolon or tab.

    Raises:
        Invalid: no heading that is known, or more than the file may hold.
    """
    yield from _specs(csv_lines(path))


def csv_lines(path: Path) -> Iterator[Cells]:
    """The rows of a CSV file, each with its number; see `read_csv`."""
    encoding = _encoding(path)
    csv.field_size_limit(LONGEST_CELL)
    with path.open(encoding=encoding, newline="") as file:
        first = file.readline(LONGEST_CELL)
        file.seek(0)
        delimiter = max(",;\t", key=first.count)
        yield from _lines(csv.reader(file, delimiter=delimiter, strict=True))


def _lines(reader: Any) -> Iterator[Cells]:
    while True:
        try:
            yield reader.line_num + 1, next(reader)
        except StopIteration:
            return
        except csv.Error as error:
            said = str(error)
            if "field limit" in said:
                said = f"a cell holds more than {LONGEST_CELL:,} characters"
            raise Invalid(
                f"row {reader.line_num}", f"Row {reader.line_num} cannot be read: {said}.", "Mend it, and send the file again."
            ) from error


def _encoding(path: Path) -> str:
    with path.open("rb") as file:
        start = file.read(4)
    if start[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return "utf-16"
    try:
        with path.open(encoding="utf-8") as file:
            while file.read(1 << 20):
                pass
    except UnicodeDecodeError:
        return "cp1252"
    return "utf-8-sig"


def read_xlsx(path: Path) -> Iterator[Candidate]:
    """The specs of the first sheet of an XLSX file.

    Raises:
        Invalid: no XLSX, one that is made to burst, or no heading that is known.
    """
    yield from _specs(xlsx_lines(path))


def xlsx_lines(path: Path) -> Iterator[Cells]:
    """The rows of the first sheet of an XLSX file, each with its number; see `read_xlsx`."""
    from openpyxl import load_workbook
    from openpyxl.utils.exceptions import InvalidFileException

    _require_honest(path)
    with path.open("rb") as file:
        try:
            book = load_workbook(file, read_only=True, data_only=False, keep_links=False)
        except (InvalidFileException, KeyError, ValueError, zipfile.BadZipFile, OSError, TypeError) as error:
            raise Invalid("file", "The file is no XLSX workbook.", "Save it as XLSX, or as CSV.") from error
        try:
            rows = book.worksheets[0].iter_rows(max_col=MOST_COLUMNS)
            yield from ((number, [_text(cell) for cell in row]) for number, row in enumerate(rows, start=1))
        except (KeyError, ValueError, IndexError, zipfile.BadZipFile, SyntaxError) as error:
            raise Invalid("file", "The workbook cannot be read.", "Save it once more as XLSX, or as CSV.") from error
        finally:
            book.close()


def _require_honest(path: Path) -> None:
    try:
        with zipfile.ZipFile(path) as packed:
            sizes = [(part.file_size, max(part.compress_size, 1)) for part in packed.infolist()]
    except (zipfile.BadZipFile, OSError) as error:
        raise Invalid("file", "The file is no XLSX workbook.", "Save it as XLSX, or as CSV.") from error
    if (
        len(sizes) > 1_000
        or sum(size for size, _ in sizes) > MOST_UNPACKED_BYTES
        or any(a > 1_000_000 and a / b > MOST_TIMES_PACKED for a, b in sizes)
    ):
        raise Invalid("file", "The workbook unpacks to far more than a table of specs.", "Save it once more, or as CSV.")


def _text(cell: Any) -> str:
    kind = getattr(cell, "data_type", "n")
    value = cell.value
    if value is None:
        return ""
    if kind == "f":
        return _BadCell("This cell is a formula.")
    if kind == "d":
        return _BadCell(DATED)
    if kind == "e":
        return _BadCell(f"This cell holds the error {value}.")
    if isinstance(value, float):
        return f"{value:.12g}"
    return str(value)


def _specs(lines: Iterator[Cells]) -> Iterator[Candidate]:
    """Rows that follow each other and name the same spec are one."""
    heading = next(((number, line) for number, line in lines if any(cell.strip() for cell in line)), None)
    if heading is None:
        raise Invalid("file", "The file is empty.", f"Its first row names the columns: {', '.join(list(COLUMNS)[:8])} …")
    names, units = _headings(heading[1])
    gathered: list[TableRow] = []
    faults: list[FileRow] = []
    seen: set[tuple[str, str]] = set()
    now: tuple[str, str] = ("", "")
    count = 0
    for number, line in lines:
        if not any(line) or not any(cell.strip() for cell in line if cell):
            continue
        count += 1
        if count > MOST_ROWS:
            raise Invalid("file", f"The file has more than {MOST_ROWS:,} rows.", "Split it.")
        row, bad = _row(number, line, names, units)
        key = (row.cells.get("spec", ""), row.cells.get("revision", ""))
        starts = (key[0] not in ("", now[0])) or (key[1] not in ("", now[1])) or (not key[0] and bool(row.cells.get("title")))
        if starts or not gathered:
            if gathered:
                yield _candidate(gathered, faults)
            gathered, faults = [], []
            now = (key[0] or f"row {number}", key[1])
            if now in seen:
                faults.append(_fault(number, "spec", f"“{now[0]}” stood further up already.", "Put the rows of one spec together."))
            seen.add(now)
        gathered.append(row)
        faults += bad
    if not gathered:
        raise Invalid("file", "The file holds no specs.", "Below the names of the columns there is one row for each step.")
    yield _candidate(gathered, faults)


def _candidate(rows: list[TableRow], faults: list[FileRow]) -> Candidate:
    if faults:
        title = rows[0].cells.get("title", "")[:120]
        return Candidate(rows[0].number, title, None, tuple(fault.model_copy(update={"title": title}) for fault in faults))
    return from_rows(rows)


def _fault(number: int, column: str, fault: str, remedy: str) -> FileRow:
    return FileRow(number=number, title="", verdict="refused", field=column, fault=fault, remedy=remedy)


def _headings(line: Sequence[str]) -> tuple[list[str], dict[str, str]]:
    names: list[str] = []
    units: dict[str, str] = {}
    for cell in line:
        match = _HEADING.match(str(cell).strip().strip("\ufeff"))
        name = match["name"].strip().casefold().replace(" ", "_") if match else str(cell).strip()
        if name and name not in COLUMNS:
            raise Invalid("columns", f"There is no column “{str(cell)[:40]}”.", f"It can be {', '.join(COLUMNS)}.")
        if name and name in names:
            raise Invalid("columns", f"The column {name} is there twice.", "Keep one.")
        names.append(name)
        if match and match["unit"]:
            units[name] = match["unit"] if match["unit"] in ("°", "deg", "mm") else parse_unit(match["unit"])
    if missing := [name for name in ("title", "maker", "model", "kind") if name not in names]:
        raise Invalid(
            "columns", f"The column {missing[0]} is missing.", f"The first row names the columns: {', '.join(list(COLUMNS)[:8])} …"
        )
    return names, units


def _row(number: int, line: Sequence[str], names: Sequence[str], units: dict[str, str]) -> tuple[TableRow, list[FileRow]]:
    cells: dict[str, str] = {}
    bad: list[FileRow] = []
    for place, raw in enumerate(line):
        if not raw or not (text := str(raw).strip()):
            continue
        if place >= len(names) or not names[place]:
            bad.append(
                _fault(number, f"column {place + 1}", f"“{text[:30]}” stands under no heading.", "Name the column, or empty the cell.")
            )
            continue
        name = names[place]
        if isinstance(raw, _BadCell):
            bad.append(_fault(number, name, text, _AS_TEXT if text == DATED else "Put the value itself there."))
        elif len(text) > LONGEST_CELL:
            bad.append(_fault(number, name, f"The cell holds {len(text):,} characters.", f"It may hold {LONGEST_CELL:,}."))
        elif text.startswith("="):
            bad.append(_fault(number, name, "This cell is a formula.", "Put the value itself there."))
        elif _UNPRINTABLE.search(text):
            bad.append(_fault(number, name, "The cell holds signs that cannot be printed.", "Type it again."))
        elif name not in _FREE_TEXT and _DATE.match(text):
            bad.append(_fault(number, name, f"“{text}”: {DATED[0].lower()}{DATED[1:]}", _AS_TEXT))
        else:
            cells[name] = text[1:] if text[0] == "'" and text[1:2] in RISKY else text
    return TableRow(number=number, cells=cells, units=units), bad


# writing --------------------------------------------------------------------------------------------------------------


def csv_head() -> bytes:
    """The mark by which spreadsheets know UTF-8, and the names of the columns."""
    return b"\xef\xbb\xbf" + _csv_line(list(COLUMNS))


def csv_rows(specs: Iterable[Spec]) -> bytes:
    """The rows of some specs. What a spreadsheet would take for a formula gets an apostrophe, which comes off again."""
    return b"".join(_csv_line([harmless(row.get(name, "")) for name in COLUMNS]) for spec in specs for row in write_spec(spec))


def _csv_line(cells: Sequence[str]) -> bytes:
    line = io.StringIO(newline="")
    csv.writer(line, lineterminator="\r\n").writerow(cells)
    return line.getvalue().encode()


class Workbook:
    """A workbook with one sheet; every cell is text, so that no spreadsheet makes dates of it."""

    def __init__(self, title: str = "specs", columns: Iterable[str] = COLUMNS) -> None:
        from openpyxl import Workbook as Book

        self._book = Book(write_only=True)
        self._sheet: Any = self._book.create_sheet(title)
        self._sheet.freeze_panes = "A2"
        self.line(columns)

    def line(self, cells: Iterable[str]) -> None:
        from openpyxl.cell import WriteOnlyCell

        made = []
        for text in cells:
            cell = WriteOnlyCell(self._sheet, value=harmless(text))
            cell.data_type, cell.number_format = "s", "@"
            made.append(cell)
        self._sheet.append(made)

    def add(self, specs: Iterable[Spec]) -> None:
        """Write the rows of some specs."""
        for spec in specs:
            for row in write_spec(spec):
                self.line(row.get(name, "") for name in COLUMNS)

    def save(self, path: Path | BinaryIO) -> None:
        """Put it into a file."""
        self._book.save(path)


def lines_of(path: Path) -> Iterator[Cells]:
    """The rows of a table, whatever its name says: XLSX is known by how it begins, the rest is CSV."""
    with path.open("rb") as file:
        packed = file.read(2) == b"PK"
    return xlsx_lines(path) if packed else csv_lines(path)


def read_file(path: Path) -> Iterator[Candidate]:
    """The specs of a file, whatever its name says: XLSX and JSON are known by how they begin, the rest is CSV."""
    with path.open("rb") as file:
        start = file.read(64)
    if start[:2] == b"PK":
        return read_xlsx(path)
    if start.removeprefix(b"\xef\xbb\xbf").lstrip()[:1] in (b"{", b"["):
        return read_json(path)
    return read_csv(path)
