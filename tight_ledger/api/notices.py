"""Notices: what happened elsewhere, and the list that is worked off."""

from uuid import UUID

from fastapi import APIRouter

from tight_ledger.api.dependencies import SignedIn, TheContext, Working
from tight_ledger.services import notices
from tight_ledger.services.notices import NoticeNow, Reviewed

router = APIRouter(prefix="/api/notices", tags=["notices"])


@router.get("", operation_id="list_notices")
async def list_notices(context: TheContext, actor: SignedIn, machine: UUID | None = None) -> tuple[NoticeNow, ...]:
    """Every notice that reaches a run, or those that reach one machine."""
    return await notices.notices(context, machine)


@router.post("/{notice_id}/reviewed", operation_id="review_place", status_code=204)
async def review_place(notice_id: UUID, request: Reviewed, context: TheContext, actor: Working) -> None:
    """Say what was found at a place that a notice is about."""
    await notices.review(context, actor, notice_id, request)
