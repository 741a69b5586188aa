"""The week: as data, as PDF, as CSV; labels."""

from datetime import date
from uuid import UUID

from fastapi import APIRouter, Request, Response
from starlette.concurrency import run_in_threadpool

from tight_ledger.api.dependencies import SignedIn, TheContext
from tight_ledger.api.downloads import saved_as
from tight_ledger.formats.labels import Labelled, labels_for
from tight_ledger.services import week
from tight_ledger.services.week import Week

router = APIRouter(prefix="/api", tags=["week"])


@router.get("/week", operation_id="read_week")
async def read_week(context: TheContext, actor: SignedIn, day: date | None = None) -> Week:
    """The week of a day; by default this one."""
    return await week.week(context, day)


@router.get("/week.pdf", operation_id="print_week", response_class=Response)
async def print_week(context: TheContext, actor: SignedIn, day: date | None = None) -> Response:
    """The week, to be printed."""
    from tight_ledger.formats.week import week_pdf

    found = await week.week(context, day)
    return Response(await run_in_threadpool(week_pdf, found), media_type="application/pdf", headers=_named(f"week-{found.monday}.pdf"))


@router.get("/week.csv", operation_id="export_week", response_class=Response)
async def export_week(context: TheContext, actor: SignedIn, day: date | None = None) -> Response:
    """What was done in the week, a line a run."""
    from tight_ledger.formats.week import week_csv

    found = await week.week(context, day)
    return Response(week_csv(found), media_type="text/csv; charset=utf-8", headers=_named(f"week-{found.monday}.csv"))


@router.get("/labels.pdf", operation_id="print_labels", response_class=Response)
async def print_labels(
    request: Request, context: TheContext, actor: SignedIn, of: Labelled = "machines", machine: UUID | None = None
) -> Response:
    """Labels with codes for machines, positions, tools or specs."""
    content = await labels_for(context, of, machine, str(request.base_url).rstrip("/"))
    return Response(content, media_type="application/pdf", headers=_named(f"labels-{of}.pdf"))


def _named(name: str) -> dict[str, str]:
    return saved_as(name, shown=True)
