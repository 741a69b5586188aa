"""What people practised."""

from datetime import UTC, date, datetime
from uuid import UUID

from sqlalchemy import delete, func, insert, select
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Stale
from tight_ledger.core.base.models import canonical
from tight_ledger.core.practice.drills import DrillName
from tight_ledger.core.practice.progress import DrillResult
from tight_ledger.store.ledger import moment
from tight_ledger.store.tables import practised


async def add(connection: AsyncConnection, command: UUID, person: UUID, at: datetime, result: DrillResult) -> None:
    """Keep a result, once.

    Raises:
        Stale: the id belongs to another result.
    """
    content = canonical(result).decode()
    known = (await connection.execute(select(practised).where(practised.c.id == command))).first()
    if known is None:
        passed_on = result.on if result.passed else None
        row = {"id": command, "person_id": person, "at": moment(at), "drill": result.drill, "passed_on": passed_on, "content": content}
        await connection.execute(insert(practised).values(row))
    elif (known.person_id, known.content) != (person, content):
        raise Stale("id", "This id belongs to another result.", "Press again; a new one is made.")


async def of_person(connection: AsyncConnection, person: UUID) -> list[tuple[datetime, DrillResult]]:
    """Somebody's results, the oldest first."""
    query = select(practised.c.at, practised.c.content).where(practised.c.person_id == person).order_by(practised.c.at, practised.c.id)
    rows = await connection.execute(query)
    return [(row.at.replace(tzinfo=UTC), DrillResult.model_validate_json(row.content)) for row in rows]


async def passed(connection: AsyncConnection) -> dict[UUID, dict[DrillName, date]]:
    """By person and drill, the last day on which it was passed."""
    query = select(practised.c.person_id, practised.c.drill, func.max(practised.c.passed_on).label("day"))
    query = query.where(practised.c.passed_on.is_not(None)).group_by(practised.c.person_id, practised.c.drill)
    found: dict[UUID, dict[DrillName, date]] = {}
    for row in await connection.execute(query):
        found.setdefault(row.person_id, {})[row.drill] = row.day
    return found


async def erase(connection: AsyncConnection, person: UUID) -> None:
    """Forget what somebody practised."""
    await connection.execute(delete(practised).where(practised.c.person_id == person))
