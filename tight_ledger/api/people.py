"""The shop, its people, sessions."""

from uuid import UUID

from fastapi import APIRouter, Request, Response

from tight_ledger.api.desk import COOKIE, SignedIn, TheOffice, forget
from tight_ledger.core.base.choices import ShopChoice
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import Person
from tight_ledger.store import files, people
from tight_ledger.work import shop, signing_in
from tight_ledger.work.shop import Chosen
from tight_ledger.work.signing_in import NewPerson, SetUp, SignIn

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
async def read_door(office: TheOffice) -> Door:
    """The shop's name and the people to pick from; no shop before it is set up."""
    found = await office.database.run(files.shop)
    everybody = await office.database.run(people.everybody)
    return Door(shop=found.name if found else None, time_zone=found.time_zone if found else "UTC", people=tuple(everybody))


@router.post("/shop", operation_id="set_up_shop", status_code=201)
async def set_up_shop(request: SetUp, office: TheOffice) -> Person:
    """The first person sets the shop up and becomes its first lead."""
    return await signing_in.set_up(office, request)


@router.get("/shop/choices", operation_id="read_choices")
async def read_choices(office: TheOffice, actor: SignedIn) -> tuple[ShopChoice, ...]:
    """Where mechanics disagree, and what this shop has chosen."""
    return await shop.choices(office)


@router.put("/shop/choices", operation_id="choose")
async def choose(request: Chosen, office: TheOffice, actor: SignedIn) -> tuple[ShopChoice, ...]:
    """A lead answers a question otherwise."""
    return await shop.answer(office, actor, request)


@router.post("/people", operation_id="add_person", status_code=201)
async def add_person(request: NewPerson, office: TheOffice, actor: SignedIn) -> Person:
    """A lead puts somebody on the list."""
    return await signing_in.add_person(office, actor, request)


@router.post("/sessions", operation_id="sign_in", status_code=201)
async def sign_in(request: SignIn, http: Request, response: Response, office: TheOffice) -> Me:
    """A name, a PIN, a device."""
    token, actor = await signing_in.sign_in(office, request)
    if (before := http.cookies.get(COOKIE)) is not None:
        forget(before)
        await signing_in.sign_out(office, before)
    response.set_cookie(COOKIE, token, max_age=int(signing_in.SESSION.total_seconds()), httponly=True, samesite="strict", path="/")
    return Me(person=actor.person, device=actor.device)


@router.get("/me", operation_id="read_me")
async def read_me(actor: SignedIn) -> Me:
    """Who is signed in."""
    return Me(person=actor.person, device=actor.device)


@router.delete("/sessions", operation_id="sign_out", status_code=204)
async def sign_out(http: Request, response: Response, office: TheOffice) -> None:
    """End the session."""
    if (token := http.cookies.get(COOKIE)) is not None:
        forget(token)
        await signing_in.sign_out(office, token)
    response.delete_cookie(COOKIE, path="/")
