"""The shop, its people, sessions."""

from uuid import UUID

from fastapi import APIRouter, Request, Response

from tight_ledger.api.dependencies import COOKIE, SignedIn, TheContext, forget
from tight_ledger.core.base.choices import ShopChoice
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import Person
from tight_ledger.services import people as signing_in
from tight_ledger.services import shop
from tight_ledger.services.people import NewPerson, SetUp, SignIn
from tight_ledger.services.shop import Chosen
from tight_ledger.store import people as people_store
from tight_ledger.store import shop as shop_store

router = APIRouter(prefix="/api", tags=["people"])


class Door(Model):
    """What the sign-in screen shows."""

    shop: str | None
    time_zone: str
    people: tuple[Person, ...]


class Me(Model):
    """Who is signed in, and on which device."""

    person: Person
    device: UUID


@router.get("/door", operation_id="read_door")
async def read_door(context: TheContext) -> Door:
    """The shop's name and the people to pick from; no shop before it is set up."""
    found = await context.database.run(shop_store.read)
    everybody = await context.database.run(people_store.everybody)
    return Door(shop=found.name if found else None, time_zone=found.time_zone if found else "UTC", people=tuple(everybody))


@router.post("/shop", operation_id="set_up_shop", status_code=201)
async def set_up_shop(request: SetUp, context: TheContext) -> Person:
    """The first person sets the shop up and becomes its first lead."""
    return await signing_in.set_up(context, request)


@router.get("/shop/choices", operation_id="read_choices")
async def read_choices(context: TheContext, actor: SignedIn) -> tuple[ShopChoice, ...]:
    """Where mechanics disagree, and what this shop has chosen."""
    return await shop.choices(context)


@router.put("/shop/choices", operation_id="choose")
async def choose(request: Chosen, context: TheContext, actor: SignedIn) -> tuple[ShopChoice, ...]:
    """A lead answers a question otherwise."""
    return await shop.answer(context, actor, request)


@router.post("/people", operation_id="add_person", status_code=201)
async def add_person(request: NewPerson, context: TheContext, actor: SignedIn) -> Person:
    """A lead puts somebody on the list."""
    return await signing_in.add_person(context, actor, request)


@router.post("/sessions", operation_id="sign_in", status_code=201)
async def sign_in(request: SignIn, http: Request, response: Response, context: TheContext) -> Me:
    """A name, a PIN, a device."""
    token, actor = await signing_in.sign_in(context, request)
    if (before := http.cookies.get(COOKIE)) is not None:
        forget(before)
        await signing_in.sign_out(context, before)
    response.set_cookie(COOKIE, token, max_age=int(signing_in.SESSION.total_seconds()), httponly=True, samesite="strict", path="/")
    return Me(person=actor.person, device=actor.device)


@router.get("/me", operation_id="read_me")
async def read_me(actor: SignedIn) -> Me:
    """Who is signed in."""
    return Me(person=actor.person, device=actor.device)


@router.delete("/sessions", operation_id="sign_out", status_code=204)
async def sign_out(http: Request, response: Response, context: TheContext) -> None:
    """End the session."""
    if (token := http.cookies.get(COOKIE)) is not None:
        forget(token)
        await signing_in.sign_out(context, token)
    response.delete_cookie(COOKIE, path="/")
