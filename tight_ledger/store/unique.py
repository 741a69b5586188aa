"""Rows with a name that must be free."""

from typing import Any

from sqlalchemy import Table, insert, select
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, Stale


async def insert_once(connection: AsyncConnection, table: Table, unique: str, taken: Invalid, **values: Any) -> bool:
    """Insert a row whose name must be free; whether it was new, or the same row is there already.

    In a transaction: if another one inserts at the same moment, this one is repeated and sees it.

    Args:
        unique: the column of the name.

    Raises:
        Invalid: `taken`, if its name is not free.
        Stale: another row has its id.
    """
    row = (await connection.execute(select(table).where(table.c.id == values["id"]))).first()
    if row is not None:
        if any(getattr(row, name) != value for name, value in values.items()):
            raise Stale("id", "This id stands for something else already.", "Press again; a new one is made.")
        return False
    if (await connection.execute(select(table.c.id).where(table.c[unique] == values[unique]))).first() is not None:
        raise taken
    await connection.execute(insert(table).values(**values))
    return True
