"""What is due: as a list, a calendar, paper; meters from a file."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Path, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from tight_ledger.api.dependencies import FILE_BODY, SignedIn, TheContext, Working, while_connected, whole_body
from tight_ledger.api.downloads import saved_as
from tight_ledger.core.base.models import Model
from tight_ledger.core.specs.followups import DueStatus
from tight_ledger.formats.calendar import followups_ics
from tight_ledger.formats.named_tables import read_named
from tight_ledger.services import feeds, followups, meter_files
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context
from tight_ledger.services.meter_files import COLUMNS, MOST_ROWS, MeterLine
from tight_ledger.services.runs import views
from tight_ledger.services.standing import OpenFollowup

router = APIRouter(prefix="/api", tags=["followups"])
MOST_BYTES = 2_000_000
Statuses = Annotated[tuple[DueStatus, ...], Query(max_length=4)]


@router.get("/followups", operation_id="list_followups")
async def list_followups(context: TheContext, actor: SignedIn, status: Statuses = ()) -> tuple[OpenFollowup, ...]:
    """The open follow-ups, the most urgent first."""
    return await followups.followups(context, status)


@router.get("/followups.pdf", operation_id="print_followups", response_class=Response)
async def print_followups(context: TheContext, actor: SignedIn, status: Statuses = ()) -> Response:
    """What is due, by machine, to be printed."""
    from tight_ledger.formats.documents import due_document

    shop, found = await context.shop(), await followups.followups(context, status)
    return _pdf(await run_in_threadpool(due_document, shop, found, context.now()), "re-torques")


@router.get("/followups.ics", operation_id="follow_followups", response_class=Response)
async def follow_followups(request: Request, context: TheContext, actor: SignedIn) -> Response:
    """The follow-ups that have a date, as a calendar file."""
    return await _feed(request, context)


async def _feed(request: Request, context: Context) -> Response:
    shop, found = await context.shop(), await followups.followups(context)
    feed = followups_ics(shop.name, shop.time_zone, found, context.now(), str(request.base_url).rstrip("/"))
    return Response(feed, media_type="text/calendar; charset=utf-8")


class Feed(Model):
    """Where a calendar program follows what is due."""

    address: str


@router.post("/feeds", operation_id="make_feed", status_code=201)
async def make_feed(body: Command, request: Request, context: TheContext, actor: Working) -> Feed:
    """Make an address at which a calendar program reads what is due. Only this answer shows the key in it."""
    key = await feeds.make(context, actor, body)
    return Feed(address=f"{str(request.base_url).rstrip('/')}/api/feeds/{body.id}/{key}/re-torques.ics")


@router.post("/feeds/end", operation_id="end_feeds", status_code=204)
async def end_feeds(context: TheContext, actor: Working) -> None:
    """End every calendar address that this person made."""
    await feeds.end(context, actor)


@router.get("/feeds/{feed_id}/{key}/re-torques.ics", operation_id="read_feed", response_class=Response)
async def read_feed(feed_id: UUID, key: Annotated[str, Path(max_length=80)], request: Request, context: TheContext) -> Response:
    """What has a date, as a calendar. Nobody is signed in here; the key in the address is checked instead."""
    await feeds.require(context, feed_id, key)
    return await _feed(request, context)


@router.get("/followups/{root}/{name}", operation_id="read_followup")
async def read_followup(root: UUID, name: str, context: TheContext, actor: SignedIn) -> OpenFollowup:
    """One follow-up, as the code on its tag opens it."""
    return await followups.followup(context, root, name)


@router.get("/followups/{root}/{name}/tag.pdf", operation_id="print_followup_tag", response_class=Response)
async def print_followup_tag(root: UUID, name: str, request: Request, context: TheContext, actor: SignedIn) -> Response:
    """A tag for the cab or the wheel, with a code that opens this very follow-up."""
    from tight_ledger.formats.documents import followup_tag

    shop, found = await context.shop(), await followups.followup(context, root, name)
    return _pdf(await run_in_threadpool(followup_tag, shop, found, str(request.base_url).rstrip("/")), f"re-torque-{found.fleet_number}")


@router.get("/runs/{run_id}/tag.pdf", operation_id="print_red_tag", response_class=Response)
async def print_red_tag(run_id: UUID, request: Request, context: TheContext, actor: SignedIn) -> Response:
    """A tag for the cab of a machine that must not move."""
    from tight_ledger.formats.documents import red_tag

    card = await views.card(context, run_id)
    return _pdf(await run_in_threadpool(red_tag, card, str(request.base_url).rstrip("/")), f"do-not-move-{card.sheet.machine.fleet_number}")


@router.put("/meters/{file_id}", operation_id="read_meters", openapi_extra=FILE_BODY)
async def read_meters(file_id: UUID, request: Request, context: TheContext, actor: Working) -> tuple[MeterLine, ...]:
    """Meter readings from a CSV or XLSX file: machine, meter, figure."""
    rows = await run_in_threadpool(read_named, await whole_body(request, MOST_BYTES), COLUMNS, MOST_ROWS)
    return await while_connected(request, meter_files.read_meters(context, actor, file_id, rows))


def _pdf(content: bytes, name: str) -> Response:
    return Response(content, media_type="application/pdf", headers=saved_as(f"{name}.pdf", shown=True))
