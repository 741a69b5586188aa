"""The lab: a joint to play with."""

from fastapi import APIRouter

from tight_ledger.api.dependencies import SignedIn, TheContext
from tight_ledger.core.lab.pages import LabPage
from tight_ledger.services import lab
from tight_ledger.services.lab import LabAsked

router = APIRouter(prefix="/api/lab", tags=["lab"])


@router.post("/{page}", operation_id="read_lab_page")
async def read_lab_page(page: str, asked: LabAsked, context: TheContext, actor: SignedIn) -> LabPage:
    """A page of the lab as its knobs stand: estimates for learning, from which no run can start."""
    return await lab.page(context, page, asked)
