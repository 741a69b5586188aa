"""Runs: start, watch, record, end, sign; the job card in three forms."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response

from tight_ledger.api.dependencies import Recording, SignedIn, TheContext, WaitedMs, Working
from tight_ledger.api.downloads import saved_as
from tight_ledger.api.papers import drawn
from tight_ledger.core.base.errors import Unreadable
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.texts import file_name
from tight_ledger.core.records.entries import MOST_SEQ, Report
from tight_ledger.core.runs.pack import Begun
from tight_ledger.core.runs.paper import PaperRun
from tight_ledger.core.runs.starting import Start
from tight_ledger.core.runs.view import EntryLine, Now, RunSheet
from tight_ledger.services import along
from tight_ledger.services.along import Along, Parts, PartsAsked
from tight_ledger.services.proof.cards import card_file
from tight_ledger.services.runs import recording, retooling, safe, starting, views, vouching
from tight_ledger.services.runs.recording import Accepted, Finish, Sender, Sign
from tight_ledger.services.runs.retooling import Retool
from tight_ledger.services.runs.safe import Kept, Safe
from tight_ledger.services.runs.views import Card, Stream
from tight_ledger.services.runs.vouching import Vouch

router = APIRouter(prefix="/api/runs", tags=["runs"])


class Recorded(Model):
    """Where the entry stands, and the run after it; without the run in a brief answer."""

    accepted: Accepted
    now: Now | None


class RunStarted(Model):
    """A run that is now on file."""

    id: UUID


@router.post("", operation_id="start_run", status_code=201)
async def start_run(request: Start, context: TheContext, actor: Working) -> RunStarted:
    """Start a run from what was prepared."""
    await starting.start(context, actor, [request])
    return RunStarted(id=request.id)


@router.post("/begun", operation_id="take_in_run", status_code=201)
async def take_in_run(request: Begun, context: TheContext, actor: Recording, again: bool = False, waited_ms: WaitedMs = 0) -> RunStarted:
    """Take in a run that a tablet started without the server. `again`: it brings back what was lost with a restore."""
    return RunStarted(id=await starting.begun(context, actor, request, waited_ms=waited_ms, again=again))


@router.get("/along", operation_id="read_along", response_model=Along, responses={304: {"description": "Nothing has changed"}})
async def read_along(request: Request, context: TheContext, actor: SignedIn) -> Response:
    """What there is to take along, so that a tablet works without the server. Asked with the tag of what it took last, it is told
    when nothing has changed."""
    tag = f'"{await along.tag_of(context, actor.device)}"'
    if request.headers.get("if-none-match") == tag:
        return Response(status_code=304, headers={"ETag": tag})
    return Response(await along.along(context, actor.device), media_type="application/json", headers={"ETag": tag})


@router.post("/along/parts", operation_id="read_parts_along", response_model=Parts)
async def read_parts_along(request: PartsAsked, context: TheContext, actor: SignedIn) -> Response:
    """Parts of what is taken along. Nothing is written."""
    return Response(await along.parts_of(context, request.names), media_type="application/json")


@router.post("/safe", operation_id="ask_what_is_safe")
async def ask_what_is_safe(request: Kept, context: TheContext, actor: Working) -> Safe:
    """Which entries a tablet need not keep any more, and which this server lost. Nothing is written."""
    return await safe.safe(context, request)


@router.get("/{run_id}/paper", operation_id="read_paper")
async def read_paper(run_id: UUID, context: TheContext, actor: SignedIn) -> PaperRun:
    """A run as it stands, to be printed."""
    return await views.paper(context, run_id)


@router.post("/{run_id}/vouch", operation_id="vouch", status_code=201)
async def vouch(run_id: UUID, request: Vouch, context: TheContext, actor: Working) -> Recorded:
    """Confirm with a PIN what was recorded under a name without it."""
    accepted = await vouching.vouch(context, actor, run_id, request)
    return Recorded(accepted=accepted, now=await views.now(context, run_id, fresh=False))


@router.get("/{run_id}/sheet", operation_id="read_run_sheet")
async def read_run_sheet(run_id: UUID, context: TheContext, actor: SignedIn) -> RunSheet:
    """What does not change in a run."""
    return await views.sheet(context, run_id)


@router.get("/{run_id}/now", operation_id="read_run_now")
async def read_run_now(run_id: UUID, context: TheContext, actor: SignedIn) -> Now:
    """A run as it stands."""
    return await views.now(context, run_id)


@router.get("/{run_id}/stream", operation_id="read_stream", response_model=Stream)
async def read_stream(run_id: UUID, context: TheContext, actor: SignedIn, after: Annotated[int, Query(ge=0, le=MOST_SEQ)] = 0) -> Response:
    """What a tablet needs to hold the run itself: its entries after a number, as they were sealed."""
    return Response(await views.stream(context, run_id, after), media_type="application/json")


@router.get("/{run_id}/entries", operation_id="list_entries")
async def list_entries(run_id: UUID, context: TheContext, actor: SignedIn) -> tuple[EntryLine, ...]:
    """Every entry, in words."""
    return await views.lines(context, run_id)


@router.post("/{run_id}/entries", operation_id="record_entry", status_code=201, response_model=Recorded)
async def record_entry(
    run_id: UUID,
    request: Report,
    context: TheContext,
    actor: Recording,
    brief: bool = False,
    again: bool = False,
    trial: bool = False,
    waited_ms: WaitedMs = 0,
) -> Response:
    """What happened. The same id twice is one entry.

    A tablet that judges the run itself asks for a brief answer; `again`: it brings back what was lost with a restore; `trial`:
    the simulated wrench of its page told it, which is practice.
    """
    accepted = await recording.record(context, actor, run_id, request, Sender(None) if trial else None, again=again, waited_ms=waited_ms)
    recorded = Recorded(accepted=accepted, now=None if brief else await views.now(context, run_id, fresh=False))
    return Response(recorded.model_dump_json(), 201, media_type="application/json")


@router.post("/{run_id}/retool", operation_id="retool_run", status_code=201)
async def retool_run(run_id: UUID, request: Retool, context: TheContext, actor: Working) -> Recorded:
    """Go on with other tools: other settings, the same pulls."""
    accepted = await retooling.retool(context, actor, run_id, request)
    return Recorded(accepted=accepted, now=await views.now(context, run_id, fresh=False))


@router.post("/{run_id}/finish", operation_id="finish_run", status_code=201)
async def finish_run(run_id: UUID, request: Finish, context: TheContext, actor: Working) -> Recorded:
    """End a run: good, released by the lead, do not move, or abandoned."""
    accepted = await recording.finish(context, actor, run_id, request)
    try:
        now = await views.now(context, run_id, fresh=False)
    except Unreadable:  # it was ended by a lead because nobody can read it
        now = None
    return Recorded(accepted=accepted, now=now)


@router.post("/{run_id}/sign", operation_id="sign_run", status_code=201)
async def sign_run(run_id: UUID, request: Sign, context: TheContext, actor: Working) -> Recorded:
    """Sign a finished run."""
    accepted = await recording.sign(context, actor, run_id, request)
    return Recorded(accepted=accepted, now=await views.now(context, run_id, fresh=False))


@router.get("/{run_id}/card", operation_id="read_card")
async def read_card(run_id: UUID, context: TheContext, actor: SignedIn) -> Card:
    """The job card."""
    return await views.card(context, run_id)


@router.get("/{run_id}/card.pdf", operation_id="read_card_pdf", response_class=Response)
async def read_card_pdf(run_id: UUID, context: TheContext, actor: SignedIn) -> Response:
    """The job card as PDF."""
    from tight_ledger.formats.job_card import job_cards_pdf

    card = await views.card(context, run_id)
    pdf = await drawn(len(card.entries), job_cards_pdf, [card])
    name = file_name(f"{card.sheet.machine.fleet_number}-{str(run_id)[-8:]}", "pdf")
    return Response(pdf, media_type="application/pdf", headers=saved_as(name, shown=True))


@router.get("/{run_id}/card.json", operation_id="read_card_json", response_class=Response)
async def read_card_json(run_id: UUID, context: TheContext, actor: SignedIn) -> Response:
    """The run's data: the card, and every entry's stored bytes with its seal, to be verified elsewhere."""
    data = await card_file(context, run_id)
    name = f"{run_id!s}.json"
    return Response(data, media_type="application/json", headers=saved_as(name))
