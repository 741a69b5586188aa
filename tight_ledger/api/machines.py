"""Machines, their meters, and the bay."""

from uuid import UUID

from fastapi import APIRouter

from tight_ledger.api.desk import SignedIn, TheOffice
from tight_ledger.core.machines.machine import Machine
from tight_ledger.work import bay, fleet
from tight_ledger.work.bay import Bay, MachineNow
from tight_ledger.work.fleet import Described, MeterRead, NewMachine

router = APIRouter(prefix="/api", tags=["machines"])


@router.get("/bay", operation_id="read_bay")
async def read_bay(office: TheOffice, actor: SignedIn) -> Bay:
    """What must not move, what is unfinished, what is due."""
    return await bay.bay(office)


@router.get("/machines", operation_id="list_machines")
async def list_machines(office: TheOffice, actor: SignedIn) -> list[Machine]:
    """Every machine."""
    return await fleet.machines(office)


@router.post("/machines", operation_id="add_machine", status_code=201)
async def add_machine(request: NewMachine, office: TheOffice, actor: SignedIn) -> Machine:
    """Put a machine on file."""
    return await fleet.add_machine(office, actor, request)


@router.get("/machines/{machine_id}", operation_id="read_machine")
async def read_machine(machine_id: UUID, office: TheOffice, actor: SignedIn) -> MachineNow:
    """One machine as it stands."""
    return await bay.machine_now(office, machine_id)


@router.post("/machines/{machine_id}/variant", operation_id="describe_machine")
async def describe_machine(machine_id: UUID, request: Described, office: TheOffice, actor: SignedIn) -> Machine:
    """Keep what was found out about a machine."""
    return await fleet.describe(office, actor, machine_id, request)


@router.post("/machines/{machine_id}/meters", operation_id="read_meter", status_code=204)
async def read_meter(machine_id: UUID, request: MeterRead, office: TheOffice, actor: SignedIn) -> None:
    """Write down a meter reading."""
    await fleet.read_meter(office, actor, machine_id, request)
