"""Commands: each carries an id that is made at the press, so that a command that is sent twice is carried out once."""

from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import Model
from tight_ledger.store import ledger


class Command(Model):
    """A request to change something."""

    id: UUID


async def done_before(connection: AsyncConnection, command: UUID, stream: UUID, kind: str) -> bool:
    """Whether a command was carried out: its entry is in the ledger.

    Args:
        stream: where its entry stands.
        kind: of the entry.

    Raises:
        Stale: the id belongs to another entry.
    """
    place = await ledger.place_of(connection, command)
    if place is None:
        return False
    if place != (stream, kind):
        raise ledger.used_elsewhere()
    return True
