"""Files of specs: out, in, and their schema."""

from typing import Any

from fastapi import APIRouter, Request, Response

from tight_ledger.api.desk import SignedIn, TheOffice
from tight_ledger.api.specs import Affirmed
from tight_ledger.core.base import Invalid, canonical
from tight_ledger.core.spec_files import MOST_BYTES, schema
from tight_ledger.work import importing
from tight_ledger.work.importing import Rehearsal

router = APIRouter(prefix="/api/library", tags=["library"])
_FILE = {"requestBody": {"required": True, "content": {"application/json": {"schema": {"type": "object"}}}}}


async def _body(request: Request) -> bytes:
    """The file, read only as far as it may go."""
    received = bytearray()
    async for part in request.stream():
        received += part
        if len(received) > MOST_BYTES:
            raise Invalid("file", "The file is too large.", f"Split it; one file holds at most {MOST_BYTES // 1_000_000} MB.")
    return bytes(received)


@router.get("/export.json", operation_id="export_specs", response_class=Response)
async def export_specs(office: TheOffice, actor: SignedIn) -> Response:
    """Every spec that is in force, in one file."""
    document = await importing.export(office)
    name = {"Content-Disposition": 'attachment; filename="specs.json"'}
    return Response(canonical(document), media_type="application/json", headers=name)


@router.get("/schema.json", operation_id="read_spec_schema")
async def read_spec_schema(actor: SignedIn) -> dict[str, Any]:
    """The JSON Schema of a file of specs."""
    return schema()


@router.post("/rehearsal", operation_id="rehearse_import", openapi_extra=_FILE)
async def rehearse_import(request: Request, office: TheOffice, actor: SignedIn) -> Rehearsal:
    """What would become of a file, spec by spec. Nothing is written."""
    return await importing.rehearse(office, await _body(request))


@router.post("/import", operation_id="import_specs", status_code=201, openapi_extra=_FILE)
async def import_specs(request: Request, office: TheOffice, actor: SignedIn, affirmed: Affirmed = ()) -> Rehearsal:
    """All of a file, as drafts, or nothing."""
    return await importing.bring_in(office, actor, await _body(request), affirmed)
