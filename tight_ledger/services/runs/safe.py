"""Which entries a tablet need not keep any more, and which this server lost."""

from datetime import timedelta
from uuid import UUID

from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import Model
from tight_ledger.services.context import Context
from tight_ledger.store.tables import backups, ledger

MOST_IDS = 1_000
UNDER_WAY = timedelta(minutes=1)
"""An entry of this age was in the tables when the backup began."""


class Kept(Model):
    """The entries that a tablet keeps although they were acknowledged."""

    ids: tuple[UUID, ...] = Field(max_length=MOST_IDS)


class Safe(Model):
    """What is to become of them."""

    safe: tuple[UUID, ...]
    """A backup that was tried holds them."""
    lost: tuple[UUID, ...]
    """This server does not know them: it was restored from an older backup. They are to be sent again."""


async def safe(context: Context, kept: Kept) -> Safe:
    """Say of each entry whether a backup holds it, or whether this server lost it."""

    async def work(connection: AsyncConnection) -> Safe:
        made = (await connection.execute(select(func.max(backups.c.at)))).scalar()
        rows = await connection.execute(select(ledger.c.id, ledger.c.at_server).where(ledger.c.id.in_(kept.ids)))
        known = {row.id: row.at_server for row in rows}
        return Safe(
            safe=tuple(each for each in kept.ids if each in known and made is not None and known[each] + UNDER_WAY <= made),
            lost=tuple(each for each in kept.ids if each not in known),
        )

    return await context.database.run(work)
