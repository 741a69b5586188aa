"""Runs: start, watch, record, end, sign; the job card in three forms."""

from uuid import UUID

from fastapi import APIRouter, Response
from starlette.concurrency import run_in_threadpool

from tight_ledger.api.desk import SignedIn, TheOffice
from tight_ledger.core.base.models import Model
from tight_ledger.core.records.entries import Report
from tight_ledger.formats.exports import run_json
from tight_ledger.formats.job_card import job_card_pdf
from tight_ledger.work import recording, retooling, starting, viewing
from tight_ledger.work.recording import Accepted, Finish, Sign
from tight_ledger.work.retooling import Retool
from tight_ledger.work.starting import Start
from tight_ledger.work.viewing import Card, EntryLine, Now, RunSheet

router = APIRouter(prefix="/api/runs", tags=["runs"])


class Recorded(Model):
    """Where the entry stands, and the run after it."""

    accepted: Accepted
    now: Now


class RunStarted(Model):
    """A run that is now on file."""

    id: UUID


@router.post("", operation_id="start_run", status_code=201)
async def start_run(request: Start, office: TheOffice, actor: SignedIn) -> RunStarted:
    """Start a run from what was prepared."""
    return RunStarted(id=await starting.start(office, actor, request))


@router.get("/{run_id}/sheet", operation_id="read_run_sheet")
async def read_run_sheet(run_id: UUID, office: TheOffice, actor: SignedIn) -> RunSheet:
    """What does not change in a run."""
    return await viewing.sheet(office, run_id)


@router.get("/{run_id}/now", operation_id="read_run_now")
async def read_run_now(run_id: UUID, office: TheOffice, actor: SignedIn) -> Now:
    """A run as it stands."""
    return await viewing.now(office, run_id)


@router.get("/{run_id}/entries", operation_id="list_entries")
async def list_entries(run_id: UUID, office: TheOffice, actor: SignedIn) -> tuple[EntryLine, ...]:
    """Every entry, in words."""
    return await viewing.lines(office, run_id)


@router.post("/{run_id}/entries", operation_id="record_entry", status_code=201, response_model=Recorded)
async def record_entry(run_id: UUID, request: Report, office: TheOffice, actor: SignedIn) -> Response:
    """What happened. The same id twice is one entry."""
    accepted = await recording.record(office, actor, run_id, request)
    recorded = Recorded(accepted=accepted, now=await viewing.now(office, run_id, fresh=False))
    return Response(recorded.model_dump_json(), 201, media_type="application/json")


@router.post("/{run_id}/retool", operation_id="retool_run", status_code=201)
async def retool_run(run_id: UUID, request: Retool, office: TheOffice, actor: SignedIn) -> Recorded:
    """Go on with other tools: other settings, the same pulls."""
    accepted = await retooling.retool(office, actor, run_id, request)
    return Recorded(accepted=accepted, now=await viewing.now(office, run_id, fresh=False))


@router.post("/{run_id}/finish", operation_id="finish_run", status_code=201)
async def finish_run(run_id: UUID, request: Finish, office: TheOffice, actor: SignedIn) -> Recorded:
    """End a run: good, released by the lead, do not move, or abandoned."""
    accepted = await recording.finish(office, actor, run_id, request)
    return Recorded(accepted=accepted, now=await viewing.now(office, run_id, fresh=False))


@router.post("/{run_id}/sign", operation_id="sign_run", status_code=201)
async def sign_run(run_id: UUID, request: Sign, office: TheOffice, actor: SignedIn) -> Recorded:
    """Sign a finished run."""
    accepted = await recording.sign(office, actor, run_id, request)
    return Recorded(accepted=accepted, now=await viewing.now(office, run_id, fresh=False))


@router.get("/{run_id}/card", operation_id="read_card")
async def read_card(run_id: UUID, office: TheOffice, actor: SignedIn) -> Card:
    """The job card."""
    return await viewing.card(office, run_id)


@router.get("/{run_id}/card.pdf", operation_id="read_card_pdf", response_class=Response)
async def read_card_pdf(run_id: UUID, office: TheOffice, actor: SignedIn) -> Response:
    """The job card as PDF."""
    card = await viewing.card(office, run_id)
    pdf = await run_in_threadpool(job_card_pdf, card)
    name = f"{card.sheet.machine.fleet_number}-{str(run_id)[-8:]}.pdf"
    return Response(pdf, media_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}"'})


@router.get("/{run_id}/card.json", operation_id="read_card_json", response_class=Response)
async def read_card_json(run_id: UUID, office: TheOffice, actor: SignedIn) -> Response:
    """The run's data: the card, and every entry's stored bytes with its seal, to be verified elsewhere."""
    data = await run_json(office, run_id)
    name = f"{run_id!s}.json"
    return Response(data, media_type="application/json", headers={"Content-Disposition": f'attachment; filename="{name}"'})
