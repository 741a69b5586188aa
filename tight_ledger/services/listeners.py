"""Listeners: screens that watch a run, wrenches that wait for its next target."""

import asyncio
import json
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any
from uuid import UUID

from tight_ledger.services.actors import Actor

MOST_WAITING = 200
"""Number of messages that are queued for a screen; later ones are dropped, and the screen reads the run again by itself."""


@dataclass(slots=True)
class Pairing:
    """A run that a wrench may speak for, in somebody's name."""

    run: UUID
    actor: Actor
    until: datetime
    command: UUID | None = None
    """The command that asked for the code."""


@dataclass(slots=True)
class Listeners:
    """The pairing codes and the listeners of a process."""

    pairings: dict[str, Pairing] = field(default_factory=dict)
    looking: dict[UUID, set["asyncio.Queue[str]"]] = field(default_factory=dict)
    waiting: dict[UUID, set[asyncio.Event]] = field(default_factory=dict)

    def tell(self, run: UUID, message: dict[str, Any]) -> None:
        """Send a message to every screen that watches a run."""
        text = json.dumps(message)
        for queue in self.looking.get(run, ()):
            if queue.qsize() < MOST_WAITING:
                queue.put_nowait(text)

    def changed(self, run: UUID) -> None:
        """Tell screens and wrenches that something was recorded in a run."""
        self.tell(run, {"type": "changed"})
        for event in self.waiting.get(run, ()):
            event.set()
