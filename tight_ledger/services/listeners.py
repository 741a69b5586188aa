"""Listeners of a process: screens that watch a run, wrenches that wait for its next target.

What another process recorded is heard from the ledger: each process asks it for the heads of the runs that it shows.
"""

import asyncio
import json
from collections.abc import Collection, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any
from uuid import UUID

import structlog

log = structlog.get_logger()
MOST_WAITING = 200
"""Number of messages that are queued for a screen; later ones are dropped, and the screen reads the run again by itself."""


@dataclass(slots=True)
class Listeners:
    """Who listens to which run, and the newest seq that they were told."""

    screens: dict[UUID, set["asyncio.Queue[str]"]] = field(default_factory=dict)
    wrenches: dict[UUID, set[asyncio.Event]] = field(default_factory=dict)
    heads: dict[UUID, int] = field(default_factory=dict)

    @property
    def runs(self) -> set[UUID]:
        """The runs that somebody listens to."""
        return {*self.screens, *self.wrenches}

    def tell(self, run: UUID, message: dict[str, Any]) -> None:
        """Send a message to every screen that watches a run."""
        text = json.dumps(message)
        for queue in self.screens.get(run, ()):
            if queue.qsize() < MOST_WAITING:
                queue.put_nowait(text)

    def changed(self, run: UUID, seq: int) -> None:
        """Tell screens and wrenches that a run has entries up to `seq`; once for each."""
        if run not in self.runs or self.heads.get(run, 0) >= seq:
            return
        self.heads[run] = seq
        self.tell(run, {"type": "changed", "run": str(run), "seq": seq})
        for event in self.wrenches.get(run, ()):
            event.set()
        log.info("told", run=str(run), seq=seq, screens=len(self.screens.get(run, ())), wrenches=len(self.wrenches.get(run, ())))

    @contextmanager
    def screen(self, runs: Collection[UUID]) -> Iterator["asyncio.Queue[str]"]:
        """A screen that watches runs, for as long as the block lasts."""
        queue: asyncio.Queue[str] = asyncio.Queue()
        for run in runs:
            self.screens.setdefault(run, set()).add(queue)
        try:
            yield queue
        finally:
            for run in runs:
                self._leave(self.screens, run, queue)

    @contextmanager
    def wrench(self, run: UUID) -> Iterator[asyncio.Event]:
        """A wrench that waits for the next target of a run; its event is set whenever that may have changed."""
        event = asyncio.Event()
        event.set()
        self.wrenches.setdefault(run, set()).add(event)
        try:
            yield event
        finally:
            self._leave(self.wrenches, run, event)

    def _leave(self, listening: dict[UUID, set[Any]], run: UUID, listener: object) -> None:
        listening[run].discard(listener)
        if not listening[run]:
            del listening[run]
        if run not in self.runs:
            self.heads.pop(run, None)
