"""Keeping the short forms of runs and of streams: made again when they are out of date, or all of them at once."""

from collections.abc import Collection, Iterable, Iterator
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.records.entries import WELL
from tight_ledger.core.runs.summary import RunSummary, summary_of, terms_of
from tight_ledger.services.context import Context
from tight_ledger.services.standing import in_short
from tight_ledger.store import places, summaries, told
from tight_ledger.store import runs as run_store
from tight_ledger.store.runs import RunRow
from tight_ledger.store.summaries import OutOfDate


async def catch_up(context: Context) -> int:
    """Make the short forms again that are out of date, before a list is read from them. Returns how many of runs.

    Each run in its own transaction, so that a run that is being started at the same time does not wait for this.
    """
    for stream in await context.database.run(told.out_of_date):
        await context.database.run(lambda connection, of=stream: told.again(connection, of), transaction=True)  # type: ignore[misc]
    made = 0
    for each in await context.database.run(summaries.out_of_date):
        made += await context.database.run(lambda connection, of=each: _again(context, connection, of), transaction=True)  # type: ignore[misc]
    return made


async def _again(context: Context, connection: AsyncConnection, of: OutOfDate) -> bool:
    """Make one of them again, and how its place stands; whether its record could be read."""
    row = await context.database.run(lambda aside: run_store.find(aside, of.run))  # a row of the runs never changes
    await places.hold(connection, row)
    run = await context.readable(connection, of.run)
    if run is not None:
        short = summary_of(run.started, run.state, run.entries)
        terms = terms_of(short, run.entries)
        await _ask_again(connection, row, short, terms)
        await summaries.keep(connection, of, short, terms)
    await places.keep(connection, row, await in_short(context, connection, row))
    return run is not None


async def _ask_again(connection: AsyncConnection, row: RunRow, short: RunSummary, terms: Collection[str]) -> None:
    """Ask again whether notices are worked off that this run bears on: those after its start; and, if it is not good any more,
    those about the runs before it, which it had put right."""
    before = (await summaries.read(connection, [row.id])).get(row.id)
    about = {row.id: (row, set(terms))}
    if before is not None and before.standing in WELL and short.standing not in WELL:
        earlier = await run_store.at_place(connection, row.machine_id, row.position_key, row.joint)
        known = await summaries.terms(connection, [each.id for each in earlier])
        about |= {each.id: (each, known.get(each.id, set())) for each in earlier}
    streams = {stream for each, named in about.values() for stream in (each.spec_id, each.machine_id, *_streams(named))}
    await told.unsettle(connection, streams, min(each.started_at for each, _ in about.values()))


def _streams(terms: Iterable[str]) -> Iterator[UUID]:
    """The people and the tools by which a run is found."""
    for term in terms:
        kind, _, known = term.partition(":")
        if kind in ("person", "tool"):
            yield UUID(known)


async def rebuild(context: Context) -> int:
    """Make all of them again from the ledger. Returns how many."""
    await context.database.run(summaries.mark_all, transaction=True)
    await context.database.run(told.mark_all, transaction=True)
    return await catch_up(context)
