"""Specs in a file: the document that goes out and comes in."""

import json
from typing import Any, Literal

from pydantic import ValidationError

from tight_ledger.core.base import Fault, Invalid, Model
from tight_ledger.core.sanity import doubts, require_sound
from tight_ledger.core.specs import Spec

FORMAT: Literal["tight-ledger specs"] = "tight-ledger specs"
MOST_BYTES = 50_000_000


class SpecDocument(Model):
    """A file of specs. Statuses do not travel: what comes in starts as a draft."""

    format: Literal["tight-ledger specs"] = FORMAT
    version: Literal[1] = 1
    specs: tuple[Spec, ...]


class Row(Model):
    """One spec of a file, held against the rules and against what is on file."""

    number: int
    title: str
    verdict: Literal["new", "revision", "same", "asks", "refused"]
    field: str = ""
    fault: str = ""
    remedy: str = ""


def schema() -> dict[str, Any]:
    """The JSON Schema of the document, from the models."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **SpecDocument.model_json_schema()}


def read_document(raw: bytes) -> list[Any]:
    """The specs of a file as they stand there, not judged yet: of a document, or one spec by itself.

    Raises:
        Invalid: too large, not UTF-8, not JSON, or not this format.
    """
    if len(raw) > MOST_BYTES:
        raise Invalid(
            "file", f"The file has {len(raw) // 1_000_000} MB.", f"Split it; one file holds at most {MOST_BYTES // 1_000_000} MB."
        )
    try:
        document = json.loads(raw.decode("utf-8-sig"), parse_constant=_no_constant)
    except UnicodeDecodeError as error:
        raise Invalid("file", "The file is not UTF-8.", "Save it as UTF-8.") from error
    except (ValueError, RecursionError) as error:
        raise Invalid("file", f"The file is not JSON: {str(error)[:80]}.", "Give a file that this program, or its schema, made.") from error
    if isinstance(document, dict) and "layout" in document:  # one spec by itself
        return [document]
    if not isinstance(document, dict) or document.get("format") != FORMAT or document.get("version") != 1:
        raise Invalid("file", f"The file does not say “{FORMAT}”, version 1.", "Give a file that this program, or its schema, made.")
    specs = document.get("specs")
    if not isinstance(specs, list) or not specs:
        raise Invalid("specs", "The file holds no specs.", "It holds a list named specs.")
    return specs


def _no_constant(name: str) -> float:
    raise ValueError(f"{name} is no figure")


def judge(number: int, raw: Any, on_file: dict[int, str], affirmed: bool) -> tuple[Row, Spec | None]:
    """One spec of a file: what would become of it.

    Args:
        number: its place in the file, from 1.
        raw: as it stands there.
        on_file: the digests of this spec's revisions that are on file.
        affirmed: whether unlikely figures were answered for.
    """
    title = str(raw.get("title", ""))[:120] if isinstance(raw, dict) else ""
    try:
        spec = Spec.model_validate_json(json.dumps(raw))
        require_sound(spec)
    except ValidationError as error:
        first = error.errors()[0]
        field = ".".join(str(part) for part in first["loc"]) or "spec"
        fault = f"{str(first['msg']).removeprefix('Value error, ')}."
        return Row(number=number, title=title, verdict="refused", field=field, fault=fault, remedy="See the schema."), None
    except Fault as fault:
        return Row(number=number, title=title, verdict="refused", field=fault.field, fault=fault.fault, remedy=fault.remedy), None
    newest = max(on_file, default=0)
    if on_file.get(spec.revision) == spec.digest:
        return Row(number=number, title=spec.title, verdict="same"), None
    if newest and spec.revision != newest + 1:
        said = f"Revision {newest} is on file; this says {spec.revision} and something else."
        remedy = f"Give it as revision {newest + 1}, with what it changes."
        return Row(number=number, title=spec.title, verdict="refused", field="revision", fault=said, remedy=remedy), None
    if not affirmed and (odd := doubts(spec)):
        return Row(
            number=number, title=spec.title, verdict="asks", field="finals", fault=" ".join(odd), remedy="Look at the document."
        ), spec
    return Row(number=number, title=spec.title, verdict="revision" if newest else "new"), spec
