"""Keeping the short forms of runs: made again when they are out of date, or all of them at once."""

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.runs.summary import summary_of
from tight_ledger.services.context import Context
from tight_ledger.store import summaries


async def catch_up(context: Context, connection: AsyncConnection) -> int:
    """Make the short forms again that are out of date, before a list is read from them. Returns how many."""
    made = 0
    for each in await summaries.out_of_date(connection):
        run = await context.readable(connection, each.run)
        if run is not None:
            await summaries.keep(connection, each, summary_of(run.started, run.state, run.entries))
            made += 1
    return made


async def rebuild(context: Context) -> int:
    """Make all of them again from the ledger. Returns how many."""

    async def work(connection: AsyncConnection) -> int:
        await summaries.mark_all(connection)
        return await catch_up(context, connection)

    return await context.database.run(work, transaction=True)
