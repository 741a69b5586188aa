"""Files of specs as JSON, read piece by piece: however large, one spec at a time is in memory."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import ijson

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.spec_table.files import FORMAT, Candidate, from_json

_MADE_HERE = "Give a file that this program, or its schema, made."
LARGEST_SPEC_BYTES = 5_000_000
DEEPEST = 100
"""No spec nests deeper; the reader's memory grows with the square of the depth."""


def read_json(path: Path) -> Iterator[Candidate]:
    """The specs of a document, or one spec by itself.

    Raises:
        Invalid: not UTF-8, not JSON, or not this format.
    """
    try:
        top = _top(path)
        if "layout" in top:  # one spec by itself
            if path.stat().st_size > LARGEST_SPEC_BYTES:
                raise Invalid("file", "One spec is never that large.", _MADE_HERE)
            prefix = ""
        elif top.get("format") != FORMAT or top.get("version") != 1:
            raise Invalid("file", f"The file does not say “{FORMAT}”, version 1.", _MADE_HERE)
        else:
            prefix = "specs.item"
        number = 0
        with path.open("rb") as file:
            _skip_mark(file)
            for number, raw in enumerate(ijson.items(file, prefix, use_float=True), start=1):
                yield from_json(number, raw)
        if number == 0:
            raise Invalid("specs", "The file holds no specs.", "It holds a list named specs.")
    except ijson.JSONError as error:
        said = str(error).splitlines()[0][:80]
        if "UTF8" in said or "codec" in said:
            raise Invalid("file", "The file is not UTF-8.", "Save it as UTF-8.") from error
        raise Invalid("file", f"The file is not JSON: {said}", _MADE_HERE) from error
    except (UnicodeDecodeError, RecursionError, OverflowError, ValueError) as error:
        raise Invalid("file", f"The file is not JSON: {str(error)[:80]}", _MADE_HERE) from error


def _top(path: Path) -> dict[str, Any]:
    """The names at the top of the document, with the values of those that are plain.

    Raises:
        Invalid: nested deeper than any spec.
    """
    found: dict[str, Any] = {}
    depth, name = 0, ""
    with path.open("rb") as file:
        _skip_mark(file)
        for event, value in ijson.basic_parse(file, use_float=True):
            if event in ("start_map", "start_array"):
                depth += 1
                if depth > DEEPEST:
                    raise Invalid("file", "The file is not JSON of specs: it is nested too deeply.", _MADE_HERE)
            elif event in ("end_map", "end_array"):
                depth -= 1
            elif depth == 1 and event == "map_key":
                name = value
                found[name] = None
            elif depth == 1 and name:
                found[name] = value
    return found


def _skip_mark(file: Any) -> None:
    if file.read(3) != b"\xef\xbb\xbf":
        file.seek(0)
