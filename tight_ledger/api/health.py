"""Whether the program lives, and whether it can serve."""

from datetime import datetime

from fastapi import APIRouter

from tight_ledger import __version__
from tight_ledger.api.dependencies import TheContext
from tight_ledger.core.base.models import Model

router = APIRouter(prefix="/api", tags=["health"])


class Health(Model):
    """A sign of life."""

    version: str
    now: datetime
    """By the server's clock."""


@router.get("/health", operation_id="read_health")
async def read_health(context: TheContext) -> Health:
    """The process answers, and says what time it is; nothing else is asked."""
    return Health(version=__version__, now=context.now())


@router.get("/ready", operation_id="read_ready")
async def read_ready(context: TheContext) -> Health:
    """The process can serve: the database answers, its tables are of this version, and it is not about to stop."""
    await context.require_ready()
    return Health(version=__version__, now=context.now())
