"""People and sessions."""

from uuid import UUID

from fastapi import APIRouter, Request, Response

from tight_ledger.api.dependencies import COOKIE, TABLET_COOKIE, SignedIn, SignedInAtAll, TheContext, forget, forget_all, keep_cookie
from tight_ledger.api.downloads import saved_as
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import RIGHTS, Person, Right, RightLine, rights_of
from tight_ledger.core.base.settings import Dates, ShopSettings
from tight_ledger.services import people as people_service
from tight_ledger.services import pins, tablets
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.people import NewPerson, SignIn
from tight_ledger.services.pins import ChangePin, ResetPin, Session, SetRoles
from tight_ledger.services.proof import privacy
from tight_ledger.store import people as people_store
from tight_ledger.store import shop as shop_store

router = APIRouter(prefix="/api", tags=["people"])


class SignInPage(Model):
    """What the sign-in screen shows."""

    shop: str | None
    time_zone: str
    dates: Dates
    """The language and country whose way of writing dates is used."""
    tablet: str | None
    """The name of this tablet; none before a lead or a keeper has introduced it."""
    people: tuple[Person, ...]
    """Those who can sign in here, or introduce it."""


class Me(Model):
    """Who is signed in, and on which device."""

    person: Person
    device: UUID
    must_change: bool
    """Whether a new PIN is to be chosen before anything else."""
    rights: tuple[Right, ...]


class SignedInNow(Me):
    """Who signed in now."""

    press_key: UUID | None
    """By what id the key of this session is known; none if none was given."""


def _held(actor: Actor) -> tuple[Right, ...]:
    rights = rights_of(actor.person.roles)
    return tuple(line.right for line in RIGHTS if line.right in rights)


@router.get("/sign-in", operation_id="read_sign_in")
async def read_sign_in(http: Request, context: TheContext) -> SignInPage:
    """The shop's name and the people to pick from; no shop before it is set up."""
    found = await context.database.run(shop_store.read)
    everybody, tablet = await context.database.run(people_store.here), await tablets.name_of(context, http.cookies.get(TABLET_COOKIE))
    return SignInPage(
        shop=found.name if found else None, time_zone=found.time_zone if found else "UTC",
        dates=(found.settings if found else ShopSettings()).dates, tablet=tablet[1] if tablet is not None else None,
        people=tuple(each for each in everybody if tablet is not None or "introduce" in rights_of(each.roles)),
    )  # fmt: skip


@router.get("/rights", operation_id="read_rights")
async def read_rights(actor: SignedIn) -> tuple[RightLine, ...]:
    """Who may do what."""
    return RIGHTS


@router.post("/people", operation_id="add_person", status_code=201)
async def add_person(request: NewPerson, context: TheContext, actor: SignedIn) -> Person:
    """A keeper puts somebody on the list."""
    return await people_service.add_person(context, actor, request)


@router.post("/sessions", operation_id="sign_in", status_code=201)
async def sign_in(request: SignIn, http: Request, response: Response, context: TheContext) -> SignedInNow:
    """A name and a PIN, on a tablet that was introduced."""
    tablet = await tablets.require_known(context, http.cookies.get(TABLET_COOKIE))
    token, actor, key = await people_service.sign_in(context, request, tablet)
    if (before := http.cookies.get(COOKIE)) is not None:
        forget(before)
        await people_service.sign_out(context, before)
    keep_cookie(http, response, COOKIE, token, int(people_service.SESSION.total_seconds()))
    return SignedInNow(person=actor.person, device=actor.device, must_change=actor.must_change, rights=_held(actor), press_key=key)


@router.get("/me", operation_id="read_me")
async def read_me(actor: SignedInAtAll) -> Me:
    """Who is signed in."""
    return Me(person=actor.person, device=actor.device, must_change=actor.must_change, rights=_held(actor))


@router.post("/me/pin", operation_id="change_pin", status_code=204)
async def change_pin(request: ChangePin, context: TheContext, actor: SignedInAtAll) -> None:
    """Take another PIN."""
    await pins.change_pin(context, actor, request)
    forget_all()


@router.post("/people/{person_id}/pin", operation_id="reset_pin", status_code=204)
async def reset_pin(person_id: UUID, request: ResetPin, context: TheContext, actor: SignedIn) -> None:
    """A keeper gives somebody a PIN for one sign-in."""
    await pins.reset_pin(context, actor, person_id, request)
    forget_all()


@router.post("/people/{person_id}/unlock", operation_id="unlock", status_code=204)
async def unlock(person_id: UUID, request: Command, context: TheContext, actor: SignedIn) -> None:
    """A lead or a keeper lifts the wait after wrong PINs."""
    await pins.unlock(context, actor, person_id, request)


@router.post("/people/{person_id}/roles", operation_id="set_roles", status_code=204)
async def set_roles(person_id: UUID, request: SetRoles, context: TheContext, actor: SignedIn) -> None:
    """A keeper says what somebody may do from now on."""
    await pins.set_roles(context, actor, person_id, request)
    forget_all()


@router.post("/people/{person_id}/leave", operation_id="leave", status_code=204)
async def leave(person_id: UUID, request: Command, context: TheContext, actor: SignedIn) -> None:
    """Somebody does not work here any more."""
    await pins.leave(context, actor, person_id, request)
    forget_all()


@router.post("/people/{person_id}/erase", operation_id="erase_person", status_code=204)
async def erase_person(person_id: UUID, request: Command, context: TheContext, actor: SignedIn) -> None:
    """A keeper erases the name of somebody who has left; every seal still holds."""
    await pins.erase(context, actor, person_id, request)


@router.get("/people/{person_id}/data.json", operation_id="read_personal_data", response_class=Response)
async def read_personal_data(person_id: UUID, context: TheContext, actor: SignedIn) -> Response:
    """Everything that is held about a person: for themselves, and for a keeper."""
    content = await privacy.held_about(context, actor, person_id)
    named = saved_as(f"{person_id}.json")
    return Response(content, media_type="application/json", headers=named)


@router.get("/sessions", operation_id="list_sessions")
async def list_sessions(context: TheContext, actor: SignedIn) -> tuple[Session, ...]:
    """Who is signed in where."""
    return await pins.sessions(context, actor)


@router.delete("/sessions/{session_id}", operation_id="end_session", status_code=204)
async def end_session(session_id: str, context: TheContext, actor: SignedIn) -> None:
    """End a session."""
    await pins.end_session(context, actor, session_id)
    forget_all()


@router.delete("/sessions", operation_id="sign_out", status_code=204)
async def sign_out(http: Request, response: Response, context: TheContext) -> None:
    """End the session."""
    if (token := http.cookies.get(COOKIE)) is not None:
        forget(token)
        await people_service.sign_out(context, token)
    response.delete_cookie(COOKIE, path="/")
