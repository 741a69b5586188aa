"""Tablets: introduced once, and lost."""

from uuid import UUID

from fastapi import APIRouter, Request, Response

from tight_ledger.api.dependencies import TABLET_COOKIE, TABLET_KEPT_S, SignedIn, TheContext, forget_all, keep_cookie
from tight_ledger.services import tablets
from tight_ledger.services.commands import Command
from tight_ledger.services.tablets import Introduced
from tight_ledger.store.tablets import Tablet

router = APIRouter(prefix="/api", tags=["tablets"])


@router.post("/tablets", operation_id="introduce_tablet", status_code=204)
async def introduce_tablet(request: Introduced, http: Request, response: Response, context: TheContext) -> None:
    """A lead or a keeper introduces the tablet in their hands; from then on people sign in on it."""
    keep_cookie(http, response, TABLET_COOKIE, await tablets.introduce(context, request), TABLET_KEPT_S)


@router.get("/tablets", operation_id="list_tablets")
async def list_tablets(context: TheContext, actor: SignedIn) -> tuple[Tablet, ...]:
    """The tablets that were introduced here."""
    return await tablets.tablets(context)


@router.post("/tablets/{tablet_id}/lost", operation_id="lose_tablet", status_code=204)
async def lose_tablet(tablet_id: UUID, request: Command, context: TheContext, actor: SignedIn) -> None:
    """A tablet is lost or sold: nobody signs in on it any more."""
    await tablets.lost(context, actor, tablet_id, request)
    forget_all()
