"""The data directory of one machine, the databases in it, and what is done to them before they serve."""

import asyncio
import fcntl
import os
import secrets
import tempfile
import time
from collections.abc import Awaitable, Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TypeVar

from sqlalchemy import URL
from sqlalchemy.exc import OperationalError

from tight_ledger.core.base.errors import Invalid
from tight_ledger.services.context import Context, index
from tight_ledger.services.people import seal_names
from tight_ledger.store import backups, schema
from tight_ledger.store.addresses import read_url
from tight_ledger.store.database import Database, DatabaseAway
from tight_ledger.store.keeper import Keeper, keeper
from tight_ledger.store.server import BACKUP, OWNER, RESTORING, SERVING, PrivateServer
from tight_ledger.store.verification import KnownOutside

DATA = Path(__file__).parents[2] / ".tight" / "data"
MOST_BACKUPS = 14
TRIES = 10
"""How often a start waits a second for the database."""
_T = TypeVar("_T")


@contextmanager
def lock(data: Path) -> Iterator[None]:
    """One program at a time works on a data directory."""
    data.mkdir(parents=True, exist_ok=True)
    with (data / "lock").open("a+") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            file.seek(0)
            where = file.read().strip() or "elsewhere"
            raise Invalid("data", f"Tight Ledger is running on {data} already, at {where}.", "Use that one, or stop it first.") from error
        file.truncate(0)
        yield


@dataclass(frozen=True, slots=True)
class Databases:
    """The URLs of the accounts that own, serve, and load backups aside; the last is missing where an existing server has none."""

    owner: URL
    serving: URL
    restoring: URL | None
    disk: Path | None = None
    """Where our own server keeps its files."""
    keeper: Keeper | None = None
    """The key of the installation, and its checkpoints."""

    @property
    def places(self) -> backups.Places:
        """Where backups are made and restored.

        Raises:
            Invalid: there is no account for it.
        """
        if self.restoring is None:
            raise Invalid("TIGHT_RESTORE_DATABASE_URL", "There is no database to load a backup aside.", "Set its address and account.")
        return backups.Places(self.owner, self.restoring)


def _of(server: PrivateServer, kept: Keeper | None = None) -> Databases:
    return Databases(server.url(OWNER), server.url(SERVING), server.url(RESTORING, BACKUP), server.directory, kept)


def keeper_of(data: Path) -> Keeper:
    """The keeper of a data directory; several servers over one database share a folder, which TIGHT_PROOF names.

    TIGHT_CHECKPOINTS names further folders, best on another disk, that get each checkpoint too.
    """
    copies = [Path(each) for each in os.environ.get("TIGHT_CHECKPOINTS", "").split(os.pathsep) if each]
    return keeper(Path(os.environ.get("TIGHT_PROOF") or data / "proof"), copies)


@contextmanager
def databases(data: Path) -> Iterator[Databases]:
    """The databases: an existing server's, or our own, started for the while."""
    serving, owner = os.environ.get("TIGHT_DATABASE_URL"), os.environ.get("TIGHT_OWNER_DATABASE_URL")
    restoring = os.environ.get("TIGHT_RESTORE_DATABASE_URL")
    if serving and owner:
        aside = read_url(restoring, "TIGHT_RESTORE_DATABASE_URL") if restoring else None
        yield Databases(read_url(owner, "TIGHT_OWNER_DATABASE_URL"), read_url(serving, "TIGHT_DATABASE_URL"), aside, keeper=keeper_of(data))
        return
    if serving or owner:
        raise Invalid("TIGHT_DATABASE_URL", "One of two addresses is missing.", "Set TIGHT_DATABASE_URL and TIGHT_OWNER_DATABASE_URL.")
    server = PrivateServer(data)
    server.start()
    server.watch()
    try:
        yield _of(server, keeper_of(data))
    finally:
        server.stop()


def prepare(found: Databases, keep: Path | None = None) -> list[str]:
    """Tables up to date, rights exactly as they should be, specs indexed as this version searches them. Returns what to tell.

    Args:
        keep: the folder for a backup that is made, and tried, before the tables are changed.
    """
    told: list[str] = []
    if keep is not None and found.restoring is not None and schema.is_older(found.owner):
        told.append(f"Before the update: {backups.keep(found.places, keep, KnownOutside(), MOST_BACKUPS).file}")
    schema.migrate(found.owner)
    schema.grant(found.owner, found.serving)
    schema.check_rights(found.serving)
    asyncio.run(with_context(found, seal_names))
    if indexed := asyncio.run(with_context(found, index)):
        told.append(f"{indexed} spec revisions were indexed.")
    return told


async def with_context(found: Databases, work: Callable[[Context], Awaitable[_T]]) -> _T:
    """Do work with a context of its own."""
    database = Database(found.serving, key=found.keeper.key if found.keeper is not None else None)
    try:
        return await work(Context(database, keeper=found.keeper))
    finally:
        await database.close()


@contextmanager
def bench_databases() -> Iterator[Databases]:
    """The databases of one measurement, removed after it."""
    DATA.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="bench-", dir=DATA.parent) as made:
        server = PrivateServer(Path(made))
        server.start()
        try:
            found = _of(server, keeper_of(Path(made)))
            prepare(found)
            yield found
        finally:
            server.stop()


@contextmanager
def running_or_started(data: Path) -> Iterator[Databases]:
    """The running databases, or those of a server started for the while."""
    running = PrivateServer(data).running_port()
    if running is None or "TIGHT_DATABASE_URL" in os.environ:
        with databases(data) as found:
            schema.migrate(found.owner)
            yield found
    else:
        server = PrivateServer(data)
        server.port = running
        yield _of(server, keeper_of(data))


def while_the_database_comes_back(work: Callable[[], _T]) -> _T:
    """Do work that is safe to repeat; it is repeated if the database goes away in the middle of a start."""
    for _ in range(TRIES):
        try:
            return work()
        except (OperationalError, DatabaseAway):
            time.sleep(1)
    return work()


def setup_code(data: Path) -> str:
    """The code with which the shop is set up; kept, so that it is the same after another start."""
    file = data / "setup-code"
    if not file.exists():
        with os.fdopen(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as new:
            new.write(f"{secrets.randbelow(100_000_000):08d}")
    return file.read_text().strip()
