"""An audit pack: everything about a machine or a period in one ZIP that can be read and checked without this program."""

import base64
import hashlib
import json
import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import IO, Any
from uuid import UUID
from zipfile import ZIP_DEFLATED, ZipFile

from sqlalchemy.ext.asyncio import AsyncConnection
from starlette.concurrency import run_in_threadpool

from tight_ledger.core.base.canonical_json import canonical_json
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.records.notes import Note
from tight_ledger.core.spec_table.files import schema
from tight_ledger.formats.job_card import job_cards_pdf
from tight_ledger.services.context import Context
from tight_ledger.services.notices import notices
from tight_ledger.services.proof.cards import card_file
from tight_ledger.services.proof.holds import holds
from tight_ledger.services.records import RecordLine, Wanted, export, find_all
from tight_ledger.services.runs import views
from tight_ledger.services.runs.views import Card
from tight_ledger.store import attachments as attachment_store
from tight_ledger.store import ledger
from tight_ledger.store import specs as spec_store
from tight_ledger.store import tools as tool_store

MOST_RUNS = 2_000
IN_MEMORY = 8_000_000
README = """An audit pack of {shop}.

cards/         a job card for each run, as PDF to read and as JSON to check
records.csv    the runs in one table
specs/         the specifications that were worked to, as they were
tools/         each wrench and gauge that was used, with its checks; certificates as they were handed in
recalls.json   what happened elsewhere that reached these runs, and how it was worked off
holds.json     what is kept from being erased
checkpoints/   every checkpoint of this installation, and its public key
schema/        what the JSON files look like
manifest.json  each file with its SHA-256, signed

To check a card: open verify.html in a browser, without any network, and give it a card's JSON file.
"""
Files = dict[str, bytes]


class AuditPack:
    """A ZIP in the making, with the digest of each file."""

    def __init__(self, file: IO[bytes]) -> None:
        self._zip = ZipFile(file, "w", ZIP_DEFLATED)
        self.digests: dict[str, str] = {}

    def add(self, name: str, content: bytes) -> None:
        """Add a file."""
        self._zip.writestr(name, content)
        self.digests[name] = hashlib.sha256(content).hexdigest()

    def close(self, manifest: bytes) -> None:
        """Write the manifest, and the end."""
        self._zip.writestr("manifest.json", manifest)
        self._zip.close()


async def audit_pack(context: Context, wanted: Wanted, page: Path) -> IO[bytes]:
    """The pack as an open file, at its beginning.

    Args:
        page: that checks a card by itself.

    Raises:
        Invalid: nothing was asked for, nothing was found, or too much.
    """
    if wanted == Wanted():
        raise Invalid("machine", "Nothing is named.", "Name a machine, a period, or anything else to find runs by.")
    lines = await find_all(context, wanted, MOST_RUNS)
    if not lines:
        raise Invalid("machine", "No run fits.", "Ask for another machine or a longer period.")
    if len(lines) > MOST_RUNS:
        raise Invalid("since", f"More than {MOST_RUNS:,} runs fit.", "Take a shorter period, one pack after the other.")
    file = tempfile.SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115  (the caller closes it)
    pack = AuditPack(file)
    shop = await context.shop()
    pack.add("README.txt", README.format(shop=shop.name).encode())
    pack.add("records.csv", await export(context, wanted))
    specs: set[tuple[UUID, int]] = set()
    tools: set[UUID] = set()
    for line in lines:
        card = await views.card(context, line.run)
        name = _named(line)
        pack.add(f"cards/{name}.pdf", await run_in_threadpool(job_cards_pdf, [card]))
        pack.add(f"cards/{name}.json", await card_file(context, line.run))
        specs.add((card.sheet.spec, card.sheet.spec_revision))
        tools |= await _tools_of(context, line.run)
    for each in (await _specs(context, specs), await _tools(context, tools), await _around(context, lines)):
        for name, content in each.items():
            pack.add(name, content)
    pack.add("schema/specs.schema.json", _json(schema()))
    pack.add("schema/card.schema.json", _json(Card.model_json_schema()))
    if page.exists():
        pack.add("verify.html", page.read_bytes())
    pack.close(_manifest(context, wanted, pack))
    file.seek(0)
    return file


def _named(line: RecordLine) -> str:
    plain = "".join(letter if letter.isalnum() else "-" for letter in line.fleet_number)
    return f"{plain}-{str(line.run)[-12:]}"


def _json(said: Any) -> bytes:
    return json.dumps(said, ensure_ascii=False, indent=1, default=str).encode()


async def _tools_of(context: Context, run_id: UUID) -> set[UUID]:
    run = await context.run(run_id)
    named = {tool for entry in run.entries for tool in entry.tools or ()}
    return named | {each.wrench.id for each in run.started.tooling}


async def _specs(context: Context, wanted: set[tuple[UUID, int]]) -> Files:
    found = await context.database.run(lambda connection: spec_store.read_many(connection, wanted))
    return {f"specs/{spec.id}-r{spec.revision}.json": _json(spec.model_dump(mode="json", exclude_defaults=True)) for spec in found}


async def _tools(context: Context, wanted: set[UUID]) -> Files:
    async def read(connection: AsyncConnection) -> Files:
        files: Files = {}
        notes = await ledger.notes_of(connection, "tool", wanted)
        papers: set[UUID] = set()
        for tool in await tool_store.tools(connection):
            said = notes.get(tool.id) if tool.id is not None else None
            if not isinstance(said, list):
                continue
            kept = [note.model_dump(mode="json", exclude_none=True) for note in said]
            files[f"tools/{tool.id}.json"] = _json({"tool": tool.model_dump(mode="json"), "entries": kept})
            papers |= set(_papers(said))
        for paper, content in (await attachment_store.contents(connection, papers)).items():
            files[f"tools/certificates/{paper}{'.pdf' if content.startswith(b'%PDF') else ''}"] = content
        return files

    return await context.database.run(read)


def _papers(notes: Sequence[Note]) -> list[UUID]:
    checks = (note.calibration for note in notes if note.calibration is not None)
    return [check.attachment for check in checks if check.attachment is not None]


async def _around(context: Context, lines: Sequence[RecordLine]) -> Files:
    """What happened elsewhere, the holds, and the checkpoints."""
    named = {line.run for line in lines}
    reached = [
        notice.model_copy(update={"places": tuple(place for place in notice.places if place.run in named)}).model_dump(mode="json")
        for notice in await notices(context, most_worked_off=None)
        if any(place.run in named for place in notice.places)
    ]
    files = {"recalls.json": _json(reached), "holds.json": _json([each.model_dump(mode="json") for each in await holds(context)])}
    if context.keeper is not None:
        files["checkpoints/checkpoints.txt"] = context.keeper.file.read_bytes() if context.keeper.file.exists() else b""
        files["checkpoints/public-key.txt"] = f"{context.keeper.key.public.written}\n".encode()
    return files


def _manifest(context: Context, wanted: Wanted, pack: AuditPack) -> bytes:
    """What is in the pack, signed over its canonical JSON without the signature."""
    said: dict[str, Any] = {
        "format": "tight-ledger audit pack", "version": 1, "made": context.now().isoformat(timespec="seconds"),
        "asked": wanted.model_dump(mode="json", exclude_defaults=True), "files": pack.digests,
    }  # fmt: skip
    if context.keeper is not None:
        key = context.keeper.key
        said |= {"key": key.public.written}
        said |= {"signature": base64.b64encode(key.sign(canonical_json(said))).decode()}
    return _json(said)
