"""The shop and its choices."""

from fastapi import APIRouter, Request, Response

from tight_ledger.api.dependencies import TABLET_COOKIE, TABLET_KEPT_S, SignedIn, TheContext, keep_cookie
from tight_ledger.core.base.choices import ShopChoice
from tight_ledger.core.base.people import Person
from tight_ledger.services import shop
from tight_ledger.services.shop import Chosen, Moved, SetUp

router = APIRouter(prefix="/api", tags=["shop"])


@router.post("/shop", operation_id="set_up_shop", status_code=201)
async def set_up_shop(request: SetUp, http: Request, response: Response, context: TheContext) -> Person:
    """The first person sets the shop up and becomes its first lead and keeper; their tablet is introduced."""
    person, secret = await shop.set_up(context, request)
    if secret is not None:
        keep_cookie(http, response, TABLET_COOKIE, secret, TABLET_KEPT_S)
    return person


@router.get("/shop/choices", operation_id="read_choices")
async def read_choices(context: TheContext, actor: SignedIn) -> tuple[ShopChoice, ...]:
    """Where mechanics disagree, and what this shop has chosen."""
    return await shop.choices(context)


@router.put("/shop/choices", operation_id="choose")
async def choose(request: Chosen, context: TheContext, actor: SignedIn) -> tuple[ShopChoice, ...]:
    """A keeper answers a question otherwise."""
    return await shop.answer(context, actor, request)


@router.put("/shop/zone", operation_id="move_shop", status_code=204)
async def move_shop(request: Moved, context: TheContext, actor: SignedIn) -> None:
    """A keeper says which time zone the shop is in."""
    await shop.move(context, actor, request)
