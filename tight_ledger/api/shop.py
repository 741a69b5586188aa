"""The shop and its choices."""

from fastapi import APIRouter

from tight_ledger.api.dependencies import SignedIn, TheContext
from tight_ledger.core.base.choices import ShopChoice
from tight_ledger.core.base.people import Person
from tight_ledger.services import shop
from tight_ledger.services.shop import Chosen, SetUp

router = APIRouter(prefix="/api", tags=["shop"])


@router.post("/shop", operation_id="set_up_shop", status_code=201)
async def set_up_shop(request: SetUp, context: TheContext) -> Person:
    """The first person sets the shop up and becomes its first lead."""
    return await shop.set_up(context, request)


@router.get("/shop/choices", operation_id="read_choices")
async def read_choices(context: TheContext, actor: SignedIn) -> tuple[ShopChoice, ...]:
    """Where mechanics disagree, and what this shop has chosen."""
    return await shop.choices(context)


@router.put("/shop/choices", operation_id="choose")
async def choose(request: Chosen, context: TheContext, actor: SignedIn) -> tuple[ShopChoice, ...]:
    """A lead answers a question otherwise."""
    return await shop.answer(context, actor, request)
