"""Commands: each carries an id that is made at the press, so that a command that is sent twice is carried out once."""

from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import Model
from tight_ledger.store import ledger


class Command(Model):
    """A request to change something."""

    id: UUID


async def done_before(connection: AsyncConnection, command: UUID, stream: UUID, build: ledger.Build) -> bool:
    """Whether a command was carried out: its entry is in the ledger.

    Args:
        stream: where its entry stands.
        build: makes its entry.

    Raises:
        Stale: the id belongs to another entry, or to one that says something else.
    """
    return await ledger.recorded(connection, stream, command, build) is not None
