"""Finding records, and what proves them: the search, the audit pack, holds, checkpoints."""

from collections.abc import Iterator
from typing import IO, Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse
from starlette.background import BackgroundTask

from tight_ledger.api.dependencies import SignedIn, TheContext, Working
from tight_ledger.api.downloads import saved_as
from tight_ledger.core.base.people import require_right
from tight_ledger.services import checkpoints, records
from tight_ledger.services.commands import Command
from tight_ledger.services.proof import holds, standing
from tight_ledger.services.proof.holds import HoldLine, Lift, NewHold
from tight_ledger.services.proof.standing import ProofNow
from tight_ledger.services.records import Found, Wanted
from tight_ledger.store.pages import VERIFYING_PAGE

router = APIRouter(prefix="/api", tags=["records"])
PIECE_BYTES = 65_536


@router.get("/records", operation_id="find_records")
async def find_records(wanted: Annotated[Wanted, Query()], context: TheContext, actor: SignedIn) -> Found:
    """The runs that fit what somebody knows of them, the newest first."""
    return await records.find(context, wanted)


@router.get("/records.csv", operation_id="export_records", response_class=Response)
async def export_records(wanted: Annotated[Wanted, Query()], context: TheContext, actor: SignedIn) -> Response:
    """The same as CSV."""
    named = saved_as("records.csv")
    return Response(await records.export(context, wanted), media_type="text/csv; charset=utf-8", headers=named)


@router.get("/audit-pack.zip", operation_id="read_audit_pack", response_class=Response)
async def read_audit_pack(wanted: Annotated[Wanted, Query()], context: TheContext, actor: SignedIn) -> StreamingResponse:
    """Cards, specs, checks, checkpoints, recalls and what proves them, in one ZIP."""
    from tight_ledger.formats.audit_pack import audit_pack

    file = await audit_pack(context, wanted, VERIFYING_PAGE)
    named = saved_as("audit-pack.zip")
    return StreamingResponse(_pieces(file), media_type="application/zip", headers=named, background=BackgroundTask(file.close))


def _pieces(file: IO[bytes]) -> Iterator[bytes]:
    while piece := file.read(PIECE_BYTES):
        yield piece


@router.get("/holds", operation_id="list_holds")
async def list_holds(context: TheContext, actor: SignedIn) -> tuple[HoldLine, ...]:
    """What is kept from being erased."""
    return await holds.holds(context)


@router.post("/holds", operation_id="hold", status_code=204)
async def hold(request: NewHold, context: TheContext, actor: Working) -> None:
    """A lead keeps a machine, a period, or both."""
    await holds.hold(context, actor, request)


@router.post("/holds/{hold_id}/lift", operation_id="lift_hold", status_code=204)
async def lift_hold(hold_id: UUID, request: Lift, context: TheContext, actor: Working) -> None:
    """A lead lifts a hold."""
    await holds.lift(context, actor, hold_id, request)


@router.get("/proof", operation_id="read_proof")
async def read_proof(context: TheContext, actor: SignedIn) -> ProofNow:
    """The last checkpoint and the last verification, and the public key."""
    return await standing.proof_now(context)


@router.post("/checkpoints", operation_id="make_checkpoint", status_code=204)
async def make_checkpoint(request: Command, context: TheContext, actor: SignedIn) -> None:
    """A checkpoint over everything, now. Asked twice, the second finds nothing that moved."""
    require_right(actor.person.roles, "hold", "checkpoint")
    await checkpoints.make(context)
