"""Each run in short, derived from its entries; what is out of date is marked in the transaction that makes it so."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy import Uuid, and_, delete, func, literal, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import canonical
from tight_ledger.core.records.entries import WELL
from tight_ledger.core.runs.summary import RunSummary
from tight_ledger.store import ledger
from tight_ledger.store.ids import new_id
from tight_ledger.store.runs import RunRow, row_of
from tight_ledger.store.tables import run_now, run_stale, run_terms, runs


@dataclass(frozen=True, slots=True)
class OutOfDate:
    """A run whose short form is to be made again, and the mark that said so."""

    run: UUID
    mark: UUID


async def mark(connection: AsyncConnection, run_id: UUID) -> None:
    """Say that a run's short form is out of date; in the transaction that makes it so."""
    statement = insert(run_stale).values(run_id=run_id, mark=new_id())
    await connection.execute(statement.on_duplicate_key_update(mark=statement.inserted.mark))


async def mark_all(connection: AsyncConnection) -> None:
    """Say so of every run."""
    statement = insert(run_stale).from_select(["run_id", "mark"], select(runs.c.id, literal(new_id(), Uuid())))
    await connection.execute(statement.on_duplicate_key_update(mark=statement.inserted.mark))


async def out_of_date(connection: AsyncConnection) -> list[OutOfDate]:
    """The runs whose short form is out of date."""
    return [OutOfDate(row.run_id, row.mark) for row in await connection.execute(select(run_stale))]


async def keep(connection: AsyncConnection, of: OutOfDate, summary: RunSummary, terms: Collection[str]) -> None:
    """Write a run's short form, and what it is found by; if it was marked again meanwhile, it stays marked."""
    given = {
        "standing": summary.standing, "content": canonical(summary).decode(),
        "ended_at": ledger.moment(summary.ended_at) if summary.ended_at is not None else None,
    }  # fmt: skip
    await connection.execute(insert(run_now).values(run_id=of.run, **given).on_duplicate_key_update(**given))
    await connection.execute(delete(run_terms).where(run_terms.c.run_id == of.run))
    if terms:
        await connection.execute(insert(run_terms), [{"term": term, "run_id": of.run} for term in sorted(terms)])
    await connection.execute(delete(run_stale).where(run_stale.c.run_id == of.run, run_stale.c.mark == of.mark))


async def read(connection: AsyncConnection, run_ids: Collection[UUID]) -> dict[UUID, RunSummary]:
    """By run, its short form."""
    query = select(run_now.c.run_id, run_now.c.content).where(run_now.c.run_id.in_(run_ids))
    return {row.run_id: RunSummary.model_validate_json(row.content) for row in await connection.execute(query)}


async def settled(connection: AsyncConnection, run_ids: Collection[UUID]) -> set[UUID]:
    """Those that stand as good or released."""
    query = select(run_now.c.run_id).where(run_now.c.run_id.in_(run_ids), run_now.c.standing.in_(WELL))
    return set((await connection.execute(query)).scalars())


async def done_again(connection: AsyncConnection, run_ids: Collection[UUID]) -> dict[UUID, datetime]:
    """By run after which others of the same place and procedure began that stand as good or released: when the last of them began, as
    the database keeps a moment."""
    later = runs.alias()
    same = and_(*(later.c[name] == runs.c[name] for name in ("machine_id", "position_key", "joint", "procedure")))
    began = later.c.started_at
    query = select(runs.c.id, func.max(began).label("last")).join(later, same)
    query = query.join(run_now, run_now.c.run_id == later.c.id)
    query = query.where(runs.c.id.in_(run_ids), began > runs.c.started_at, run_now.c.standing.in_(WELL)).group_by(runs.c.id)
    return {row.id: row.last for row in await connection.execute(query)}


async def terms(connection: AsyncConnection, run_ids: Collection[UUID]) -> dict[UUID, set[str]]:
    """By run, what it is found by besides its place."""
    found: dict[UUID, set[str]] = {}
    for row in await connection.execute(select(run_terms.c.run_id, run_terms.c.term).where(run_terms.c.run_id.in_(run_ids))):
        found.setdefault(row.run_id, set()).add(row.term)
    return found


async def red(connection: AsyncConnection, machine_id: UUID | None = None) -> list[RunRow]:
    """The runs that stand as `do not move`, of one machine or of all, newest first."""
    query = select(runs).join(run_now, run_now.c.run_id == runs.c.id).where(run_now.c.standing == "do not move")
    if machine_id is not None:
        query = query.where(runs.c.machine_id == machine_id)
    return [row_of(row) for row in await connection.execute(query.order_by(runs.c.number.desc()))]


async def ended_between(connection: AsyncConnection, since: datetime, until: datetime) -> list[tuple[RunRow, RunSummary]]:
    """The runs that ended in a time, in that sequence."""
    query = select(runs, run_now.c.content).join(run_now, run_now.c.run_id == runs.c.id)
    query = query.where(run_now.c.ended_at >= ledger.moment(since), run_now.c.ended_at < ledger.moment(until)).order_by(run_now.c.ended_at)
    return [(row_of(row), RunSummary.model_validate_json(row.content)) for row in await connection.execute(query)]
