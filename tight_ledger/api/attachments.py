"""Certificates and photos."""

from uuid import UUID

from fastapi import APIRouter, Query, Request, Response

from tight_ledger.api.dependencies import FILE_BODY, SignedIn, TheContext, Working, whole_body
from tight_ledger.api.downloads import saved_as
from tight_ledger.services import attachments
from tight_ledger.store.attachments import Attachment

MOST_BYTES = 12_000_000
router = APIRouter(prefix="/api", tags=["attachments"])


@router.put("/attachments/{attachment_id}", operation_id="keep_attachment", status_code=204, openapi_extra=FILE_BODY)
async def keep_attachment(
    attachment_id: UUID, request: Request, context: TheContext, actor: Working, name: str = Query("attachment", max_length=120)
) -> None:
    """Keep a certificate or a photo: PDF, JPEG, PNG or WebP."""
    await attachments.keep(context, attachment_id, name, await whole_body(request, MOST_BYTES), actor)


@router.get("/attachments/{attachment_id}", operation_id="read_attachment", response_class=Response)
async def read_attachment(attachment_id: UUID, context: TheContext, actor: SignedIn) -> Response:
    """A file as it came."""
    found: Attachment = await attachments.find(context, attachment_id)
    return Response(found.content, media_type=found.media_type, headers=saved_as(f"{found.id}", shown=True))
