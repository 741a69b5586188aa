"""Who listens: screens that look at a run, wrenches that wait for what comes."""

import asyncio
import json
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any
from uuid import UUID

from tight_ledger.services.actors import Actor

MOST_WAITING = 200
"""So many messages wait for a screen that does not read; what comes after is dropped, and it looks again by itself."""


@dataclass(slots=True)
class Pairing:
    """A run that a wrench may speak for, in somebody's name."""

    run: UUID
    actor: Actor
    until: datetime
    command: UUID | None = None
    """With which the code was asked for."""


@dataclass(slots=True)
class Listeners:
    """One per process: codes, and who looks on."""

    pairings: dict[str, Pairing] = field(default_factory=dict)
    looking: dict[UUID, set["asyncio.Queue[str]"]] = field(default_factory=dict)
    waiting: dict[UUID, set[asyncio.Event]] = field(default_factory=dict)

    def tell(self, run: UUID, message: dict[str, Any]) -> None:
        """Everybody who looks at a run."""
        text = json.dumps(message)
        for queue in self.looking.get(run, ()):
            if queue.qsize() < MOST_WAITING:
                queue.put_nowait(text)

    def changed(self, run: UUID) -> None:
        """Something was recorded: screens look again, wrenches are told what comes."""
        self.tell(run, {"type": "changed"})
        for event in self.waiting.get(run, ()):
            event.set()
