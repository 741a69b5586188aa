"""What use cases are given: the database, the clock, cached runs, imports and listeners."""

import asyncio
from collections.abc import Callable, Coroutine, MutableMapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import Any
from uuid import UUID

import structlog
from cachetools import LRUCache, TTLCache
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Busy, Unreadable
from tight_ledger.core.base.models import canonical
from tight_ledger.core.kinds.acts import Advised
from tight_ledger.core.library.sheet import Sheet, sheet
from tight_ledger.core.records.entries import Entry, Started
from tight_ledger.core.records.upcasting import read_entry
from tight_ledger.core.runs.outcomes import reasons
from tight_ledger.core.runs.run import Run, RunState
from tight_ledger.core.specs.spec import Hand, Spec
from tight_ledger.services.answering import Answering
from tight_ledger.services.listeners import Listeners
from tight_ledger.store import clock, ledger, schema
from tight_ledger.store import runs as run_store
from tight_ledger.store import search as search_store
from tight_ledger.store import shop as shop_store
from tight_ledger.store.database import Database
from tight_ledger.store.keeper import Keeper
from tight_ledger.store.ledger import Appender
from tight_ledger.store.runs import RunRow
from tight_ledger.store.shop import Shop

log = structlog.get_logger()
SealedChain = Sequence[tuple[int, bytes, bytes]]
"""The seq, the stored bytes and the seal of each entry of a stream, by seq."""
MOST_REMEMBERED = 500
MOST_SHEETS = 1_000
MOST_SEARCHES, SEARCH_S = 100, 5.0
"""Number of questions whose facets may go on from what the hits found, and for how long."""


class Remembered:
    """A cached run; entries newer than `seq` are read from the ledger, which is authoritative."""

    def __init__(self, row: RunRow, entries: list[Entry]) -> None:
        self.row = row
        self.hand: Hand | None = None
        self._run = Run(next(e.started for e in entries if e.started is not None).plan)
        self._run.add(entries)
        self._state: RunState | None = None
        self._reasons: tuple[str, ...] | None = None

    @property
    def entries(self) -> list[Entry]:
        """The run's entries, by seq."""
        return self._run.entries

    @property
    def started(self) -> Started:
        """The plan and the tooling in force: from the start, or from the last change of tools."""
        return next(e.started for e in reversed(self.entries) if e.started is not None)

    @property
    def adjustments(self) -> tuple[Advised, ...]:
        """Every adjustment of which something was read."""
        return self._run.adjustments()

    def knows(self, entry_id: UUID) -> bool:
        """Whether an entry is among those that are cached."""
        return self._run.knows(entry_id)

    @property
    def seq(self) -> int:
        """The seq of the last entry; none before it is missing."""
        return self.entries[-1].seq

    def add(self, fresh: list[Entry]) -> None:
        """Add entries that follow without a gap; others are ignored."""
        for entry in fresh:
            if entry.seq == self.seq + 1:
                self._run.add([entry])
                self._state = None

    @property
    def state(self) -> RunState:
        """The state of the run; computed again after new entries."""
        if self._state is None:
            self._state, self._reasons = self._run.state(), None
        return self._state

    def fold(self) -> None:
        """Work out how it stands now, where what cannot be folded is caught."""
        self._reasons = self.reasons

    @property
    def reasons(self) -> tuple[str, ...]:
        """Why it stands as it does: as it ended, or as it is now; computed again after new entries."""
        if self._reasons is None:
            self._reasons = self.state.reasons or reasons(self.started.plan, self.state)
        return self._reasons


async def index(context: "Context") -> int:
    """Rebuild the search index if its form is of another version. Returns the number of revisions that were indexed."""
    return await context.database.run(search_store.rebuild, transaction=True)


@dataclass(slots=True)
class Context:
    """The context of a process."""

    database: Database
    now: Callable[[], datetime] = clock.now
    appender: Appender = field(init=False)
    disk: Path | None = None
    """Where the database keeps its files, if that is on this machine."""
    keeper: Keeper | None = None
    """The key of the installation and what lies outside the database; None where nothing is signed."""
    stopping: bool = False
    """Whether the process was asked to stop, and a proxy is to send it nothing more."""
    restored: int | None = None
    setup_code: str = ""
    """Printed where the program was started; whoever sets the shop up has it. Empty: nobody may."""
    remembered: MutableMapping[UUID, Remembered] = field(default_factory=lambda: LRUCache(MOST_REMEMBERED))
    sheets: MutableMapping[object, Sheet] = field(default_factory=lambda: LRUCache(MOST_SHEETS))
    tasks: set["asyncio.Task[None]"] = field(default_factory=set)
    known: search_store.Catalogue = field(default_factory=search_store.Catalogue)
    searches: MutableMapping[object, object] = field(default_factory=lambda: TTLCache(MOST_SEARCHES, SEARCH_S))
    listeners: Listeners = field(default_factory=Listeners)
    answering: Answering = field(default_factory=Answering)

    def __post_init__(self) -> None:
        self.appender = Appender(self.database)

    def begin(self, work: Coroutine[Any, Any, None]) -> None:
        """Begin work that goes on after the request."""
        task = asyncio.create_task(work)
        self.tasks.add(task)
        task.add_done_callback(self.tasks.discard)

    async def require_ready(self) -> None:
        """Check that the database answers and that its tables are those of this version.

        Raises:
            DatabaseAway: it does not answer.
            Busy: its tables are of another version, a migration may be under way; or the process is about to stop.
        """
        if self.stopping:
            raise Busy("process", "This process is about to stop.", "Ask another; what it has begun it finishes.")
        if await self.database.run(schema.revision) != schema.newest():
            raise Busy("database", "The tables are of another version.", "Wait for the migration, or start the version that wrote them.")

    async def epoch(self) -> int:
        """How often these tables were restored from a backup. Only while no server runs; so it is read once."""
        if self.restored is None:
            self.restored = await self.database.run(ledger.restores)
        return self.restored

    async def shop(self) -> Shop:
        """The shop.

        Raises:
            NotOnFile: it was not set up.
        """
        return await self.database.run(shop_store.require)

    def sheet(self, spec: Spec, shop: Shop) -> Sheet:
        """The sheet of a spec on file, as this shop shows it. A revision never changes, so its sheet is computed once and kept."""
        key = (spec.id, spec.revision, canonical(shop.policy), shop.settings.torque_unit)
        if (known := self.sheets.get(key)) is None:
            known = self.sheets[key] = sheet(spec, shop.policy, shop.settings.torque_unit)
        return known

    async def catalogue(self, connection: AsyncConnection) -> search_store.Catalogue:
        """The newest catalogue that searches match against."""
        self.known = await search_store.refresh(connection, self.known)
        return self.known

    async def load(self, connection: AsyncConnection, run_id: UUID) -> Remembered:
        """A run with all its entries; only those that are not cached are read.

        Raises:
            NotOnFile: no run has this id.
            Unreadable: its record is not one that this program can read.
        """
        known = self.remembered.get(run_id)
        row = await run_store.find(connection, run_id) if known is None else known.row
        bodies = await run_store.bodies(connection, run_id, known.seq if known is not None else 0)

        def made() -> Remembered:
            entries = [read_entry(body) for body in bodies]
            if known is not None:
                known.add(entries)
                return known
            self.remembered[run_id] = Remembered(row, entries)
            return self.remembered[run_id]

        return self._folded(run_id, made)

    async def sealed(self, connection: AsyncConnection, run_id: UUID) -> tuple[Remembered, SealedChain]:
        """A run as its record says now, with the chain of seals that its entries stand in: both from one reading of the ledger.

        Raises:
            NotOnFile: no run has this id.
            Unreadable: nothing is left of its record, or it is not one that this program can read.
        """
        row, chain = await run_store.find(connection, run_id), await ledger.read(connection, run_id)
        return self._folded(run_id, lambda: Remembered(row, [read_entry(body) for _, body, _ in chain])), chain

    def _folded(self, run_id: UUID, made: Callable[[], Remembered]) -> Remembered:
        try:
            run = made()
            run.fold()
        except Exception as error:  # whatever stands in the record, a list that it is in goes on without it
            log.error("unreadable", run=str(run_id), exc_info=error)
            raise Unreadable(
                "run", "The record of this run cannot be read.", "Nothing of it was changed; tell who keeps the server."
            ) from error
        return run

    async def readable(self, connection: AsyncConnection, run_id: UUID) -> Remembered | None:
        """Like `load`, for a list; None if its record cannot be read."""
        try:
            return await self.load(connection, run_id)
        except Unreadable:
            return None

    async def run(self, run_id: UUID) -> Remembered:
        """Like `load`, on a connection of its own."""
        return await self.database.run(lambda connection: self.load(connection, run_id))
