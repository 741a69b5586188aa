"""How every place stands, derived from the runs there: its newest run, whether it needs somebody, whether something is to follow."""

from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.store.runs import RunRow, row_of
from tight_ledger.store.tables import places_now, runs


@dataclass(frozen=True, slots=True)
class PlaceInShort:
    """A joint at a position of a machine."""

    newest: UUID
    """Its newest run, whatever its procedure."""
    needs: bool
    """Whether somebody must look at it: it is unfinished, or not good."""
    root: UUID | None
    """The run whose follow-ups are still to come."""


async def hold(connection: AsyncConnection, run: RunRow) -> None:
    """Keep others from writing how a run's place stands. It comes first in a transaction, so that what others wrote is seen."""
    place = {"machine_id": run.machine_id, "position_key": run.position_key, "joint": run.joint}
    statement = insert(places_now).values(**place, run_id=run.id, needs=True, root_id=None)
    await connection.execute(statement.on_duplicate_key_update(joint=run.joint))


async def keep(connection: AsyncConnection, run: RunRow, place: PlaceInShort) -> None:
    """Write how a run's place stands."""
    where = {"machine_id": run.machine_id, "position_key": run.position_key, "joint": run.joint}
    said = {"run_id": place.newest, "needs": place.needs, "root_id": place.root}
    await connection.execute(insert(places_now).values(**where, **said).on_duplicate_key_update(**said))


async def needing(connection: AsyncConnection) -> list[RunRow]:
    """The newest runs of the places that need somebody, newest first."""
    query = select(runs).join(places_now, places_now.c.run_id == runs.c.id).where(places_now.c.needs.is_(True))
    return [row_of(row) for row in await connection.execute(query.order_by(runs.c.number.desc()))]


async def roots(connection: AsyncConnection) -> list[RunRow]:
    """The runs whose follow-ups are still to come."""
    query = select(runs).join(places_now, places_now.c.root_id == runs.c.id)
    return [row_of(row) for row in await connection.execute(query.order_by(runs.c.number.desc()))]


async def worked_to(connection: AsyncConnection, spec_id: UUID) -> list[RunRow]:
    """The newest runs of the places that were last worked on to a spec, newest first."""
    query = select(runs).join(places_now, places_now.c.run_id == runs.c.id).where(runs.c.spec_id == spec_id)
    return [row_of(row) for row in await connection.execute(query.order_by(runs.c.number.desc()))]
