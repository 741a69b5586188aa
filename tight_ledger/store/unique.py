"""Rows with a name that must be free."""

from typing import Any

from sqlalchemy import Table, insert, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, Stale


async def insert_once(connection: AsyncConnection, table: Table, taken: Invalid, **values: Any) -> bool:
    """Insert a row whose name must be free; whether it was new, or the same row is there already.

    Raises:
        Invalid: `taken`, if its name is not free.
        Stale: another row has its id.
    """
    row = (await connection.execute(select(table).where(table.c.id == values["id"]))).first()
    if row is not None:
        if any(getattr(row, name) != value for name, value in values.items()):
            raise Stale("id", "This id stands for something else already.", "Press again; a new one is made.")
        return False
    try:
        await connection.execute(insert(table).values(**values))
    except IntegrityError as error:
        raise taken from error
    return True
