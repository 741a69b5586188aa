"""Practice: drills, and a person's own progress."""

from fastapi import APIRouter

from tight_ledger.api.dependencies import SignedIn, TheContext, Working
from tight_ledger.core.practice.drills import DrillNow
from tight_ledger.services import practice
from tight_ledger.services.practice import DrillDone, DrillTried, PracticePage, Trained

router = APIRouter(prefix="/api/practice", tags=["practice"])


@router.get("", operation_id="read_practice")
async def read_practice(context: TheContext, actor: SignedIn) -> PracticePage:
    """One's own page: the drills, what was done, what comes again."""
    return await practice.page(context, actor)


@router.get("/people", operation_id="list_trained")
async def list_trained(context: TheContext, actor: SignedIn) -> tuple[Trained, ...]:
    """For a lead: which drills each person passed, and when."""
    return await practice.trained(context, actor)


@router.post("/{drill}", operation_id="try_drill")
async def try_drill(drill: str, tried: DrillTried, context: TheContext, actor: SignedIn) -> DrillNow:
    """A drill after some answers. Nothing is kept."""
    return await practice.now(context, actor, drill, tried)


@router.post("/{drill}/results", operation_id="keep_practice")
async def keep_practice(drill: str, done: DrillDone, context: TheContext, actor: Working) -> DrillNow:
    """A drill that is over: judged, and kept for the person alone."""
    return await practice.keep(context, actor, drill, done)
