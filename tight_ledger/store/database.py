"""The connection pool, and what happens when the database is away for a moment."""

import asyncio
import random
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from typing import TypeVar

from sqlalchemy import URL
from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError
from sqlalchemy.ext.asyncio import AsyncConnection, AsyncEngine, create_async_engine

DUPLICATE, DEADLOCK, LOCK_WAIT, DISK_FULL = 1062, 1213, 1205, {1021, 1114, 3, 28}
_T = TypeVar("_T")


class DatabaseAway(Exception):
    """The database does not answer. Nothing was lost: what was not acknowledged is sent again."""


def error_code(error: DBAPIError) -> int:
    """MariaDB's own number of an error; 0 if there is none."""
    arguments = getattr(error.orig, "args", ())
    return arguments[0] if arguments and isinstance(arguments[0], int) else 0


class Database:
    """One pool. Single statements commit by themselves; `transaction` groups several."""

    def __init__(self, url: URL, *, pool_size: int = 16) -> None:
        self.engine: AsyncEngine = create_async_engine(
            url.set(drivername="mysql+asyncmy"), pool_size=pool_size, max_overflow=8, pool_recycle=1800, pool_timeout=10
        )
        self._single = self.engine.execution_options(isolation_level="AUTOCOMMIT")

    async def run(self, work: Callable[[AsyncConnection], Awaitable[_T]], *, transaction: bool = False) -> _T:
        """Do some work on a connection; again if the connection or a lock was lost.

        The work must be safe to repeat: reads, and inserts whose ids come from the caller.

        Raises:
            DatabaseAway: it stays away.
        """
        for attempt in range(4):
            try:
                async with self._transaction() if transaction else self._single.connect() as connection:
                    return await work(connection)
            except (OperationalError, InterfaceError) as error:
                if not (error.connection_invalidated or error_code(error) in (DEADLOCK, LOCK_WAIT, 0, 2003, 2006, 2013)):
                    raise
            except (ConnectionError, OSError):
                pass
            await asyncio.sleep(random.uniform(0, 0.02 * 2**attempt))
        raise DatabaseAway

    @asynccontextmanager
    async def _transaction(self) -> AsyncIterator[AsyncConnection]:
        async with self.engine.begin() as connection:
            yield connection

    async def close(self) -> None:
        """Let go of every connection."""
        await self.engine.dispose()
