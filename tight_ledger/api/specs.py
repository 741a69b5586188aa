"""Finding and entering specs; the wrenches that can do them."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Query

from tight_ledger.api.dependencies import SignedIn, TheContext, Working
from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.threads import classes
from tight_ledger.core.library.revisions import Difference
from tight_ledger.core.mechanics.estimates import Estimate, conditions, estimate
from tight_ledger.core.planning.choosing import Asked, Offered
from tight_ledger.core.specs.spec import Spec
from tight_ledger.services.commands import Command
from tight_ledger.services.runs import preparing
from tight_ledger.services.specs import editing, revisions, search
from tight_ledger.services.specs.editing import EnterRows, ModelFile, Preview, SpecFile, Written
from tight_ledger.services.specs.revisions import EnterMinimal, History, Withdraw
from tight_ledger.services.specs.search import Facets, Narrow, SearchAnswer

Words = Annotated[str, Query(max_length=200)]
Affirmed = Annotated[tuple[str, ...], Query(description="what was asked, and answered with yes")]
router = APIRouter(prefix="/api", tags=["specs"])


async def narrowed(
    system: str = Query("", max_length=40),
    maker: str = Query("", max_length=80),
    model: str = Query("", max_length=80),
    year: int | None = Query(None, ge=1900, le=2100),
) -> Narrow:
    """Facets that were tapped."""
    return Narrow(system=system, maker=maker, model=model, year=year)


Narrowed = Annotated[Narrow, Depends(narrowed)]


class Entered(Model):
    """A spec that is now on file."""

    id: UUID


@router.get("/find", operation_id="find")
async def find(context: TheContext, actor: SignedIn, narrow: Narrowed, asked: Words = "", machine: UUID | None = None) -> SearchAnswer:
    """What fits the words."""
    return await search.find(context, asked, machine, narrow)


@router.get("/facets", operation_id="read_facets")
async def read_facets(context: TheContext, actor: SignedIn, narrow: Narrowed, asked: Words = "", machine: UUID | None = None) -> Facets:
    """Ways to narrow what fits the words."""
    return await search.facets(context, asked, machine, narrow)


@router.get("/models", operation_id="read_model")
async def read_model(maker: str, model: str, context: TheContext, actor: SignedIn) -> ModelFile:
    """A model, and what is on file for it."""
    return await editing.model_file(context, maker, model)


@router.get("/specs/{spec_id}", operation_id="read_spec")
async def read_spec(spec_id: UUID, context: TheContext, actor: SignedIn, revision: int | None = None) -> SpecFile:
    """A spec with its sheet: the revision named, or the one in force."""
    return await editing.spec_file(context, spec_id, revision)


@router.get("/specs/{spec_id}/history", operation_id="read_spec_history")
async def read_spec_history(spec_id: UUID, context: TheContext, actor: SignedIn) -> History:
    """A spec's revisions, and the places tightened to an older one."""
    return await revisions.history(context, spec_id)


@router.get("/specs/{spec_id}/compare", operation_id="compare_revisions")
async def compare_revisions(spec_id: UUID, old: int, new: int, context: TheContext, actor: SignedIn) -> tuple[Difference, ...]:
    """Two revisions, line by line."""
    return await revisions.differences(context, spec_id, old, new)


@router.post("/specs/{spec_id}/revisions/{revision}/check", operation_id="check_spec", status_code=204)
async def check_spec(spec_id: UUID, revision: int, request: Command, context: TheContext, actor: Working) -> None:
    """A second person has held it against its document."""
    await revisions.check(context, actor, spec_id, revision, request)


@router.post("/specs/{spec_id}/revisions/{revision}/withdraw", operation_id="withdraw_spec", status_code=204)
async def withdraw_spec(spec_id: UUID, revision: int, request: Withdraw, context: TheContext, actor: Working) -> None:
    """A lead takes it out of use."""
    await revisions.withdraw(context, actor, spec_id, revision, request)


@router.post("/specs", operation_id="enter_spec", status_code=201)
async def enter_spec(request: Spec, context: TheContext, actor: Working, affirmed: Affirmed = ()) -> Entered:
    """A whole spec, as JSON; it is unchecked."""
    return Entered(id=await revisions.enter_spec(context, actor, request, affirmed=affirmed))


@router.post("/specs/preview", operation_id="preview_spec")
async def preview_spec(request: Written, context: TheContext, actor: Working) -> Preview:
    """What the rows of a table would be as a spec. Nothing is written."""
    return await editing.preview(context, request)


@router.post("/specs/rows", operation_id="enter_spec_rows", status_code=201)
async def enter_spec_rows(request: EnterRows, context: TheContext, actor: Working, affirmed: Affirmed = ()) -> Entered:
    """A spec as the rows of a table; it is unchecked."""
    return Entered(id=await editing.enter_rows(context, actor, request, affirmed))


@router.get("/specs/{spec_id}/rows", operation_id="read_spec_rows")
async def read_spec_rows(spec_id: UUID, context: TheContext, actor: SignedIn) -> Written:
    """A spec as the rows of its next revision."""
    return await editing.rows_of(context, spec_id)


@router.post("/specs/minimal", operation_id="enter_minimal_spec", status_code=201)
async def enter_minimal_spec(request: EnterMinimal, context: TheContext, actor: Working, affirmed: Affirmed = ()) -> Entered:
    """The least that a spec takes; it is unchecked."""
    return Entered(id=await revisions.enter_minimal(context, actor, request, affirmed))


class EstimateChoices(Model):
    """The classes and conditions that an estimate knows."""

    property_classes: tuple[str, ...]
    conditions: tuple[str, ...]


@router.get("/estimate/choices", operation_id="list_estimate_choices")
async def list_estimate_choices(actor: SignedIn) -> EstimateChoices:
    """What an estimate can be made for."""
    return EstimateChoices(property_classes=classes(), conditions=conditions())


@router.get("/estimate", operation_id="estimate_torque")
async def estimate_torque(
    actor: SignedIn,
    thread: str = Query(max_length=40),
    property_class: str = Query(max_length=20),
    condition: str = Query(max_length=20),
) -> Estimate:
    """What thread, class and friction would give: an estimate that no run can start from."""
    return estimate(thread, property_class, condition)


@router.post("/specs/{spec_id}/tooling", operation_id="offer_tooling")
async def offer_tooling(spec_id: UUID, request: Asked, context: TheContext, actor: Working) -> Offered:
    """The crib's wrenches, with what is on the end: what each is set to, or why it cannot do it. Nothing is written."""
    return await preparing.offered(context, spec_id, request)
