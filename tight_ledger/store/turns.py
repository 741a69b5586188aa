"""Taking turns: what must not happen side by side, on one server or on several nodes."""

from sqlalchemy.dialects.mysql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.store.tables import turns

KEEPERS = "keepers"
"""Who changes which people are keepers."""


async def take(connection: AsyncConnection, name: str) -> None:
    """Keep others out until this transaction ends.

    The row is written, not only locked: a node of a cluster does not see the locks of another, but of two transactions that write
    the same row the second is refused when it ends, and is done again after the first.
    """
    statement = insert(turns).values(name=name, number=1)
    await connection.execute(statement.on_duplicate_key_update(number=turns.c.number + 1))
