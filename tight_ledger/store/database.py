"""The connection pool, and what happens when the database is away for a moment."""

import asyncio
import random
from collections.abc import Awaitable, Callable
from typing import Any, TypeVar

import asyncmy.errors
from sqlalchemy import URL
from sqlalchemy.exc import DBAPIError, IntegrityError, InterfaceError, OperationalError
from sqlalchemy.ext.asyncio import AsyncConnection, AsyncEngine, create_async_engine

DUPLICATE, DEADLOCK, LOCK_WAIT, DISK_FULL = 1062, 1213, 1205, {1021, 1114, 3, 28}
MOST_LOST, MOST_TAKEN = 4, 50
"""How often work is repeated for a lost connection or lock, and for a key that another transaction took."""
_T = TypeVar("_T")


class DatabaseAway(Exception):
    """The database does not answer. Nothing was lost: what was not acknowledged is sent again."""


def error_code(error: DBAPIError) -> int:
    """MariaDB's own number of an error; 0 if there is none."""
    arguments = getattr(error.orig, "args", ())
    return arguments[0] if arguments and isinstance(arguments[0], int) else 0


class Database:
    """Two connection pools: one in which each statement commits by itself, one for transactions.

    A connection's mode is set once, when it is opened, so that a statement costs one trip to the server.
    """

    def __init__(self, url: URL, *, pool_size: int = 16) -> None:
        address = url.set(drivername="mysql+asyncmy")
        self.single = self._pool(address, pool_size, isolation_level="AUTOCOMMIT", pool_reset_on_return=None)
        self.transaction = self._pool(address, pool_size)

    @staticmethod
    def _pool(address: URL, size: int, **more: Any) -> AsyncEngine:
        return create_async_engine(
            address, pool_size=size, max_overflow=8, pool_recycle=1800, pool_timeout=10, skip_autocommit_rollback=True, **more
        )

    async def run(self, work: Callable[[AsyncConnection], Awaitable[_T]], *, transaction: bool = False) -> _T:
        """Run work on a connection; it is repeated if the connection or a lock is lost, or if another transaction took a key first.

        The work must be safe to repeat: reads, and inserts whose ids come from the caller. A transaction must look before it
        inserts, so that on a repeat it sees who was first, and refuses or goes on after it.

        Raises:
            DatabaseAway: it stays away.
        """
        lost, taken = 0, 0
        while lost < MOST_LOST:
            try:
                async with self.transaction.begin() if transaction else self.single.connect() as connection:
                    return await work(connection)
            except IntegrityError as error:
                taken += 1
                if not transaction or error_code(error) != DUPLICATE or taken == MOST_TAKEN:
                    raise
                lost -= 1
            except (OperationalError, InterfaceError) as error:
                if not (error.connection_invalidated or error_code(error) in (DEADLOCK, LOCK_WAIT, 0, 2003, 2006, 2013)):
                    raise
            except (ConnectionError, OSError, asyncmy.errors.OperationalError):  # while connecting
                pass
            lost += 1
            await asyncio.sleep(random.uniform(0, 0.02 * 2**lost))
        raise DatabaseAway

    async def close(self) -> None:
        """Close every connection."""
        await self.single.dispose()
        await self.transaction.dispose()
