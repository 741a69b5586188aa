"""The crib's tools, each stored whole as JSON, and what the ledger knows of their pulls."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import and_, case, func, or_, select
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile
from tight_ledger.core.base.models import canonical
from tight_ledger.core.tool_care.care import RATE_DAYS, Use
from tight_ledger.core.tools.inventory import TOOL, Tool, tool_id
from tight_ledger.store.ledger import moment
from tight_ledger.store.runs import RunRow, row_of
from tight_ledger.store.tables import ledger, runs
from tight_ledger.store.tables import tools as table
from tight_ledger.store.unique import insert_once

ALWAYS = datetime(1970, 1, 1)


async def add(connection: AsyncConnection, tool: Tool) -> bool:
    """Put a tool into the crib; whether it was new.

    Raises:
        Invalid: the name is taken, or it has no id.
    """
    taken = Invalid("name", f"{tool.name} is in the crib already.", "Give another name.")
    return await insert_once(
        connection, table, "name", taken, id=tool_id(tool), name=tool.name, kind=tool.kind, content=canonical(tool).decode()
    )


async def tools(connection: AsyncConnection) -> list[Tool]:
    """Every tool, by name."""
    rows = await connection.execute(select(table.c.content).order_by(table.c.name))
    return [TOOL.validate_json(row.content) for row in rows]


async def tool(connection: AsyncConnection, wanted: UUID) -> Tool:
    """One tool.

    Raises:
        NotOnFile: none has this id.
    """
    row = (await connection.execute(select(table.c.content).where(table.c.id == wanted))).first()
    if row is None:
        raise NotOnFile("tool", "No tool in the crib has this id.", "Pick one from the list.")
    return TOOL.validate_json(row.content)


async def use(connection: AsyncConnection, since: Mapping[UUID, datetime | None], now: datetime) -> dict[UUID, Use]:
    """Number of pulls with each tool: lately, and since a moment for each. Only what came since the earlier of the two is read.

    Args:
        since: by tool, when it was last known to be right.
    """
    if not since:
        return {}
    starts = {wanted: moment(at) if at is not None else ALWAYS for wanted, at in since.items()}
    lately = moment(now - timedelta(days=RATE_DAYS))
    query = (
        select(
            ledger.c.tool,
            func.sum(case((ledger.c.at_server >= case(starts, value=ledger.c.tool), 1), else_=0)).label("since"),
            func.sum(case((ledger.c.at_server >= lately, 1), else_=0)).label("lately"),
        )
        .where(or_(*(and_(ledger.c.tool == wanted, ledger.c.at_server >= min(start, lately)) for wanted, start in starts.items())))
        .group_by(ledger.c.tool)
    )
    began = select(ledger.c.tool, func.min(ledger.c.at_server).label("first")).where(ledger.c.tool.in_(starts)).group_by(ledger.c.tool)
    first = {row.tool: row.first for row in await connection.execute(began)}
    found = {}
    for row in await connection.execute(query):
        days = max((moment(now) - max(first[row.tool], lately)).total_seconds() / 86_400, 1.0)
        found[row.tool] = Use(since_check=int(row.since), lately=int(row.lately), lately_days=days)
    return found


async def pulls(connection: AsyncConnection, wanted: UUID) -> int:
    """The number of pulls with a tool since it is on file."""
    return int((await connection.execute(select(func.count()).where(ledger.c.tool == wanted))).scalar_one())


async def runs_with(connection: AsyncConnection, wanted: UUID, since: datetime | None, until: datetime | None = None) -> list[RunRow]:
    """The runs in which a tool was pulled with in a time, newest first."""
    pulled = select(ledger.c.stream).where(ledger.c.tool == wanted, ledger.c.at_server >= (moment(since) if since else ALWAYS))
    if until is not None:
        pulled = pulled.where(ledger.c.at_server <= moment(until))
    query = select(runs).where(runs.c.id.in_(pulled.distinct().scalar_subquery())).order_by(runs.c.number.desc())
    return [row_of(row) for row in await connection.execute(query)]


async def last_pulls(connection: AsyncConnection, since: datetime) -> dict[UUID, datetime]:
    """By tool, when it was last pulled with, if that was since a moment."""
    query = select(ledger.c.tool, func.max(ledger.c.at_server).label("last")).where(
        ledger.c.tool.is_not(None), ledger.c.at_server >= moment(since)
    )
    return {row.tool: row.last for row in await connection.execute(query.group_by(ledger.c.tool))}
