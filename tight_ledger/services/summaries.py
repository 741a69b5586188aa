"""Keeping the short forms of runs: made again when they are out of date, or all of them at once."""

from tight_ledger.core.runs.summary import summary_of
from tight_ledger.services.context import Context
from tight_ledger.store import summaries


async def catch_up(context: Context) -> int:
    """Make the short forms again that are out of date, before a list is read from them. Returns how many.

    Each in a transaction of its own: whoever starts a run at the same moment is not made to wait for it.
    """
    made = 0
    for each in await context.database.run(summaries.out_of_date):
        run = await context.database.run(lambda connection, of=each: context.readable(connection, of.run))  # type: ignore[misc]
        if run is not None:
            short = summary_of(run.started, run.state, run.entries)
            await context.database.run(lambda c, of=each, kept=short: summaries.keep(c, of, kept), transaction=True)  # type: ignore[misc]
            made += 1
    return made


async def rebuild(context: Context) -> int:
    """Make all of them again from the ledger. Returns how many."""
    await context.database.run(summaries.mark_all, transaction=True)
    return await catch_up(context)
