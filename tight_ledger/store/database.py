"""The connection pool, and what happens when the database is away for a moment."""

import asyncio
import random
import time
from collections.abc import Awaitable, Callable, Sequence
from typing import Any, TypeVar

import asyncmy.errors
from sqlalchemy import URL
from sqlalchemy.exc import DBAPIError, IntegrityError, InterfaceError, OperationalError
from sqlalchemy.ext.asyncio import AsyncConnection, AsyncEngine, create_async_engine

from tight_ledger.core.proof.keys import SigningKey
from tight_ledger.store import addresses

KEY = "tight_key"
"""The execution option that holds the key of the installation."""
DUPLICATE, DEADLOCK, LOCK_WAIT, DISK_FULL = 1062, 1213, 1205, {1021, 1114, 3, 28}
AGAIN = {LOCK_WAIT, addresses.NOT_READY, addresses.SHUTTING_DOWN, addresses.ENDED, addresses.FULL, 0, 2003, 2006, 2013}
"""What says that the work may be done or not: a lock, a node or a connection was lost. After 1213 it is not done: another was first."""
MOST_LOST, MOST_TAKEN = 4, 50
"""How often work is repeated for a lost connection or lock, and for a key that another transaction took."""
LEAVES_OUT_S, PAUSES_S = 5.0, 0.3
"""How long work is repeated where there are other nodes: a dead one must be left out first (deploy/galera.cnf); and the longest pause."""
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

    def __init__(self, url: URL, *, pool_size: int = 16, key: SigningKey | None = None) -> None:
        """Connect when it is used first.

        Args:
            key: of the installation; entries that are written here carry its mark. Without it they carry none.
        """
        self._options = {KEY: key}
        self._patience_s = LEAVES_OUT_S if len(addresses.addresses(url)) > 1 else 0.0
        self.single = self._pool(url, pool_size, isolation_level="AUTOCOMMIT", pool_reset_on_return=None)
        self.transaction = self._pool(url, pool_size)

    def _pool(self, url: URL, size: int, **more: Any) -> AsyncEngine:
        first = addresses.at(url, addresses.addresses(url)[0]).set(drivername="mysql+asyncmy")
        engine = create_async_engine(
            first, pool_size=size, max_overflow=8, pool_recycle=1800, pool_timeout=10, skip_autocommit_rollback=True,
            execution_options=self._options, **more,
        )  # fmt: skip
        addresses.ask_each(engine.sync_engine, url)
        return engine

    async def run(self, work: Callable[[AsyncConnection], Awaitable[_T]], *, transaction: bool = False) -> _T:
        """Run work on a connection; it is repeated if the connection or a lock is lost, or if another transaction took a key first.

        The work must be safe to repeat: reads, and inserts whose ids come from the caller. A transaction must look before it
        inserts, so that on a repeat it sees who was first, and refuses or goes on after it.

        Raises:
            DatabaseAway: it stays away.
        """
        lost, taken, began = 0, 0, time.monotonic()
        while lost < MOST_LOST or time.monotonic() - began < self._patience_s:
            try:
                async with self.transaction.begin() if transaction else self.single.connect() as connection:
                    return await work(connection)
            except IntegrityError as error:
                taken += 1
                if not transaction or error_code(error) != DUPLICATE or taken == MOST_TAKEN:
                    raise
                lost -= 1
            except (OperationalError, InterfaceError) as error:
                if error_code(error) == DEADLOCK and taken < MOST_TAKEN:
                    taken, lost = taken + 1, lost - 1
                elif not (error.connection_invalidated or error_code(error) in AGAIN):
                    raise
            except (ConnectionError, OSError, asyncmy.errors.OperationalError):  # while connecting
                pass
            lost += 1
            await asyncio.sleep(random.uniform(0, min(0.02 * 2**lost, PAUSES_S)))
        raise DatabaseAway

    async def close(self) -> None:
        """Close every connection."""
        await self.single.dispose()
        await self.transaction.dispose()


async def fetch(connection: AsyncConnection, sql: str, parameters: Sequence[object] = ()) -> list[tuple[Any, ...]]:
    """The rows of a statement, asked of the driver itself: for a person's question that takes many small statements.

    What the driver refuses is asked again through SQLAlchemy, which knows a lost connection and gives it up.
    """
    opened = connection.sync_connection
    assert opened is not None
    raw: Any = opened.connection.driver_connection
    try:
        async with raw.cursor() as cursor:
            await cursor.execute(sql, parameters or None)
            return list(await cursor.fetchall())
    except asyncio.CancelledError:
        await connection.invalidate()  # its answer is still to come, and would be taken for that of the next question
        raise
    except (asyncmy.errors.MySQLError, OSError):
        return [tuple(row) for row in await connection.exec_driver_sql(sql, tuple(parameters) or None)]


def key_of(connection: AsyncConnection) -> SigningKey | None:
    """The key of the installation under which this connection was opened."""
    opened = connection.sync_connection
    key = opened.get_execution_options().get(KEY) if opened is not None else None
    return key if isinstance(key, SigningKey) else None
