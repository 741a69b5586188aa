"""Files of specs: out, in, and their schema."""

import asyncio
import tempfile
from collections.abc import AsyncIterator
from pathlib import Path
from typing import Any
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import FileResponse, StreamingResponse
from starlette.background import BackgroundTask

from tight_ledger.api.dependencies import FILE_BODY, SignedIn, TheContext, Working
from tight_ledger.api.downloads import saved_as
from tight_ledger.api.papers import drawn
from tight_ledger.api.specs import Narrowed
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.spec_table.files import schema
from tight_ledger.core.spec_table.rows import COLUMNS
from tight_ledger.core.spec_table.step_cells import STEP_COLUMNS, StepKindColumns, step_kinds
from tight_ledger.formats import tables
from tight_ledger.services.checkpoints import newest
from tight_ledger.services.imports import ImportProgress
from tight_ledger.services.specs import editing, importing

router = APIRouter(prefix="/api/spec-files", tags=["spec files"])
MOST_BYTES = 200_000_000
MOST_IN_A_BOOKLET = 300
ROWS_OF_A_SPEC = 10
"""About so many rows a spec has on paper."""


async def _spooled(request: Request) -> Path:
    """The file as it comes, on disk, read only as far as it may go."""
    handle, name = tempfile.mkstemp(prefix="tight-import-")
    path, received = Path(name), 0
    try:
        with open(handle, "wb") as file:
            async for part in request.stream():
                received += len(part)
                if received > MOST_BYTES:
                    raise Invalid("file", "The file is too large.", f"Split it; one file holds at most {MOST_BYTES // 1_000_000} MB.")
                await asyncio.to_thread(file.write, part)
        if received == 0:
            raise Invalid("file", "The file is empty.", "Choose another.")
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return path


class TableColumns(Model):
    """What a table of specs consists of."""

    columns: dict[str, str]
    """By name, what the column holds."""
    step_columns: tuple[str, ...]
    """Those of a step; the others are said of the spec as a whole, in its first row."""
    step_kinds: tuple[StepKindColumns, ...]


@router.put("/imports/{import_id}", operation_id="send_file", status_code=202, openapi_extra=FILE_BODY)
async def send_file(
    import_id: UUID, request: Request, context: TheContext, actor: Working, name: str = Query("file", max_length=120)
) -> ImportProgress:
    """Send a CSV, XLSX or JSON file; its rehearsal begins. Nothing is written."""
    return await importing.receive(context, import_id, name, await _spooled(request), tables.read_file)


@router.get("/imports/{import_id}", operation_id="read_import")
async def read_import(import_id: UUID, context: TheContext, actor: SignedIn) -> ImportProgress:
    """How far it is, and what would become of each row."""
    return await importing.look(context, import_id)


@router.post("/imports/{import_id}/bring-in", operation_id="bring_in_file", status_code=202)
async def bring_in_file(import_id: UUID, context: TheContext, actor: Working, affirmed: bool = False) -> ImportProgress:
    """All of it goes on file, as drafts, or nothing."""
    return await importing.bring_in(context, actor, import_id, affirmed)


def _named(name: str) -> dict[str, str]:
    return saved_as(name)


@router.get("/export.json", operation_id="export_json", response_class=StreamingResponse)
async def export_json(context: TheContext, actor: SignedIn) -> StreamingResponse:
    """Every spec that is in force: canonical JSON, by id."""
    return StreamingResponse(importing.document(context), media_type="application/json", headers=_named("specs.json"))


@router.get("/export.csv", operation_id="export_csv", response_class=StreamingResponse)
async def export_csv(context: TheContext, actor: SignedIn) -> StreamingResponse:
    """Every spec that is in force, one row a step."""

    async def pieces() -> AsyncIterator[bytes]:
        yield tables.csv_head()
        async for batch in importing.in_force(context):
            yield await asyncio.to_thread(tables.csv_rows, batch)

    return StreamingResponse(pieces(), media_type="text/csv; charset=utf-8", headers=_named("specs.csv"))


@router.get("/export.xlsx", operation_id="export_xlsx", response_class=FileResponse)
async def export_xlsx(context: TheContext, actor: SignedIn) -> FileResponse:
    """The same as a workbook; every cell is text."""
    handle, name = tempfile.mkstemp(suffix=".xlsx")
    Path(name).write_bytes(b"")
    open(handle).close()
    sheet = tables.Workbook()
    async for batch in importing.in_force(context):
        await asyncio.to_thread(sheet.add, batch)
    await asyncio.to_thread(sheet.save, Path(name))
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return FileResponse(name, media_type=kind, filename="specs.xlsx", background=BackgroundTask(Path(name).unlink))


@router.get("/columns", operation_id="read_columns")
async def read_columns(actor: SignedIn) -> TableColumns:
    """The columns of a table of specs, and the kinds of step with the columns that each can fill."""
    return TableColumns(columns=COLUMNS, step_columns=tuple(STEP_COLUMNS), step_kinds=step_kinds())


@router.get("/schema.json", operation_id="read_spec_schema")
async def read_spec_schema(actor: SignedIn) -> dict[str, Any]:
    """The JSON Schema of a JSON file of specs."""
    return schema()


@router.get("/booklet.pdf", operation_id="print_booklet", response_class=Response)
async def print_booklet(context: TheContext, actor: SignedIn, narrow: Narrowed, machine: UUID | None = None) -> Response:
    """The specs in force for a machine, a maker, a model or a system, to carry where there is no network."""
    from tight_ledger.formats.booklet import booklet_pdf

    shop = await context.shop()
    chosen = await editing.booklet_specs(context, machine, narrow, MOST_IN_A_BOOKLET)
    made = await drawn(ROWS_OF_A_SPEC * len(chosen), booklet_pdf, chosen, shop, context.now(), await newest(context))
    return Response(made, media_type="application/pdf", headers=_named("specs.pdf"))
