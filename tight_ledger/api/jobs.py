"""Jobs: several runs of one machine at once."""

from uuid import UUID

from fastapi import APIRouter, Response

from tight_ledger.api.dependencies import Recording, SignedIn, TheContext, WaitedMs, Working
from tight_ledger.api.downloads import saved_as
from tight_ledger.api.papers import drawn
from tight_ledger.core.runs.jobs import JobNow
from tight_ledger.services import jobs
from tight_ledger.services.jobs import Ends, Reports, Starts
from tight_ledger.services.runs.recording import Accepted

router = APIRouter(prefix="/api", tags=["jobs"])


@router.get("/machines/{machine_id}/job", operation_id="read_job")
async def read_job(machine_id: UUID, context: TheContext, actor: SignedIn) -> JobNow:
    """The open job of a machine, for the tablet that asks; without runs if none is open."""
    return await jobs.job_of(context, machine_id, actor.device)


@router.get("/jobs/{job_id}/cards.pdf", operation_id="read_job_cards", response_class=Response)
async def read_job_cards(job_id: UUID, context: TheContext, actor: SignedIn) -> Response:
    """The cards of a whole job as one PDF."""
    from tight_ledger.formats.job_card import job_cards_pdf

    cards = await jobs.cards(context, job_id)
    content = await drawn(sum(len(card.entries) for card in cards), job_cards_pdf, cards)
    named = saved_as(f"job-{str(job_id)[-8:]}.pdf", shown=True)
    return Response(content, media_type="application/pdf", headers=named)


@router.post("/jobs/runs", operation_id="start_each", status_code=201)
async def start_each(request: Starts, context: TheContext, actor: Working) -> tuple[UUID, ...]:
    """Start a run at each place, all of them or none."""
    return await jobs.start_each(context, actor, request)


@router.post("/jobs/entries", operation_id="record_each", status_code=201)
async def record_each(request: Reports, context: TheContext, actor: Recording, waited_ms: WaitedMs = 0) -> tuple[Accepted, ...]:
    """Record one thing in each run that it concerns."""
    return await jobs.record_each(context, actor, request.reports, waited_ms=waited_ms)


@router.post("/jobs/ends", operation_id="end_each", status_code=204)
async def end_each(request: Ends, context: TheContext, actor: Working) -> None:
    """End runs that are good, and sign them."""
    await jobs.end_each(context, actor, request)
