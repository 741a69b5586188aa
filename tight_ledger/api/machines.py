"""Machines and their meters."""

from uuid import UUID

from fastapi import APIRouter

from tight_ledger.api.dependencies import SignedIn, TheContext, Working
from tight_ledger.core.machines.machine import Machine
from tight_ledger.services import machines
from tight_ledger.services.machines import Described, EventHappened, Formed, MachineNow, MeterRead, NewMachine

router = APIRouter(prefix="/api", tags=["machines"])


@router.get("/machines", operation_id="list_machines")
async def list_machines(context: TheContext, actor: SignedIn) -> list[Machine]:
    """Every machine."""
    return await machines.machines(context)


@router.post("/machines", operation_id="add_machine", status_code=201)
async def add_machine(request: NewMachine, context: TheContext, actor: Working) -> Machine:
    """Put a machine on file."""
    return await machines.add_machine(context, actor, request)


@router.get("/machines/{machine_id}", operation_id="read_machine")
async def read_machine(machine_id: UUID, context: TheContext, actor: SignedIn) -> MachineNow:
    """One machine as it stands."""
    return await machines.machine_now(context, machine_id)


@router.post("/machines/{machine_id}/variant", operation_id="describe_machine")
async def describe_machine(machine_id: UUID, request: Described, context: TheContext, actor: Working) -> Machine:
    """Keep what was found out about a machine."""
    return await machines.describe(context, actor, machine_id, request)


@router.post("/machines/{machine_id}/form", operation_id="form_machine")
async def form_machine(machine_id: UUID, request: Formed, context: TheContext, actor: Working) -> Machine:
    """Keep what a machine looks like from above."""
    return await machines.form(context, actor, machine_id, request)


@router.post("/machines/{machine_id}/events", operation_id="event_happened", status_code=204)
async def event_happened(machine_id: UUID, request: EventHappened, context: TheContext, actor: Working) -> None:
    """What a follow-up waits for has happened."""
    await machines.event_happened(context, actor, machine_id, request)


@router.post("/machines/{machine_id}/meters", operation_id="read_meter", status_code=204)
async def read_meter(machine_id: UUID, request: MeterRead, context: TheContext, actor: Working) -> None:
    """Write down a meter reading."""
    await machines.read_meter(context, actor, machine_id, request)
