"""Specs in a file: what is read from it, held against the rules and against what is on file."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from pydantic import ValidationError

from tight_ledger.core.base.errors import Fault, Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.texts import require_plain_value
from tight_ledger.core.library.sanity import doubts, require_sound
from tight_ledger.core.spec_table.rows import TableRow, read_spec
from tight_ledger.core.specs.spec import Spec

FORMAT: Literal["tight-ledger specs"] = "tight-ledger specs"
FileVerdict = Literal["new", "revision", "same", "asks", "refused"]


class SpecDocument(Model):
    """A JSON file of specs. Statuses do not travel: what comes in starts as a draft."""

    format: Literal["tight-ledger specs"] = FORMAT
    version: Literal[1] = 1
    specs: tuple[Spec, ...]


class FileRow(Model):
    """One spec of a file, or one of its cells: what would become of it.

    `number` is the row of a table, or the place in a JSON file; `field` its column, or the path.
    """

    number: int
    title: str
    verdict: FileVerdict
    field: str = ""
    fault: str = ""
    remedy: str = ""


@dataclass(frozen=True, slots=True)
class Candidate:
    """A spec as it came: read, or refused with every reason."""

    number: int
    title: str
    spec: Spec | None
    refused: tuple[FileRow, ...] = ()


def schema() -> dict[str, Any]:
    """The JSON Schema of the document, from the models."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **SpecDocument.model_json_schema()}


def from_json(number: int, raw: Any) -> Candidate:
    """A spec of a JSON file."""
    title = str(raw.get("title", ""))[:120] if isinstance(raw, dict) else ""
    try:
        require_plain_value(raw)
        return Candidate(number, title, Spec.model_validate_json(json.dumps(raw)))
    except Invalid as fault:
        row = FileRow(number=number, title="", verdict="refused", field=fault.field, fault=fault.fault, remedy=fault.remedy)
        return Candidate(number, "", None, (row,))
    except ValidationError as error:
        rows = tuple(
            FileRow(
                number=number,
                title=title,
                verdict="refused",
                field=".".join(str(part) for part in each["loc"]) or "spec",
                fault=f"{str(each['msg']).removeprefix('Value error, ')}.",
                remedy="See the schema.",
            )
            for each in error.errors()[:3]
        )
        return Candidate(number, title, None, rows)


def from_rows(rows: Sequence[TableRow]) -> Candidate:
    """A spec of a table."""
    number, title = rows[0].number, rows[0].cells.get("title", "")[:120]
    spec, faults = read_spec(rows)
    refused = tuple(
        FileRow(number=fault.row, title=title, verdict="refused", field=fault.column, fault=fault.fault, remedy=fault.remedy)
        for fault in faults
    )
    return Candidate(number, title, spec, refused)


def judge(candidate: Candidate, on_file: dict[int, str], affirmed: bool) -> tuple[FileRow, ...]:
    """What would become of a candidate.

    Args:
        candidate: as it came.
        on_file: the digests of this spec's revisions that are on file.
        affirmed: whether unlikely figures were answered for.
    """
    number, spec = candidate.number, candidate.spec
    if spec is None:
        return candidate.refused
    title = spec.title
    newest = max(on_file, default=0)
    if spec.revision in on_file and on_file[spec.revision] == spec.digest:
        return (FileRow(number=number, title=title, verdict="same"),)
    if newest and spec.revision != newest + 1:
        said = f"Revision {newest} is on file; this says {spec.revision} and something else."
        remedy = f"Give it as revision {newest + 1}, with what it changes."
        return (FileRow(number=number, title=title, verdict="refused", field="revision", fault=said, remedy=remedy),)
    try:
        require_sound(spec)
    except Fault as fault:
        return (FileRow(number=number, title=title, verdict="refused", field=fault.field, fault=fault.fault, remedy=fault.remedy),)
    if not affirmed and (odd := doubts(spec)):
        return (FileRow(number=number, title=title, verdict="asks", field="finals", fault=" ".join(odd), remedy="Look at the document."),)
    return (FileRow(number=number, title=title, verdict="revision" if newest else "new"),)
