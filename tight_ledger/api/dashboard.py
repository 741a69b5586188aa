"""The home screen."""

from fastapi import APIRouter

from tight_ledger.api.dependencies import SignedIn, TheContext
from tight_ledger.services import dashboard
from tight_ledger.services.dashboard import Dashboard

router = APIRouter(prefix="/api", tags=["dashboard"])


@router.get("/dashboard", operation_id="read_dashboard")
async def read_dashboard(context: TheContext, actor: SignedIn) -> Dashboard:
    """What must not move, what is unfinished, what is due."""
    return await dashboard.dashboard(context)
