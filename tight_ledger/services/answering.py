"""When this process answered a tablet: what is said to have waited on it is held against that."""

from collections import deque
from collections.abc import MutableMapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from uuid import UUID

from cachetools import LRUCache

APART = timedelta(seconds=10)
"""Moments nearer to each other than this are kept as one."""
MOST_MOMENTS, MOST_TABLETS = 100, 5_000
TO_SEND_IN = timedelta(seconds=60)
"""What a tablet has, it sends within this time once the server answers it."""


@dataclass(slots=True)
class _Heard:
    answered: deque[datetime] = field(default_factory=lambda: deque(maxlen=MOST_MOMENTS))
    delivered: datetime | None = None


@dataclass(slots=True)
class Answering:
    """What is known of each tablet since this process began. Where nothing is known, nothing is held against it."""

    tablets: MutableMapping[UUID, _Heard] = field(default_factory=lambda: LRUCache(MOST_TABLETS))

    def answers(self, tablet: UUID, now: datetime) -> None:
        """The server answers something that a tablet asked."""
        answered = self.tablets.setdefault(tablet, _Heard()).answered
        if not answered or now - answered[-1] >= APART:
            answered.append(now)

    def delivers(self, tablet: UUID, now: datetime, waited: timedelta) -> bool:
        """A tablet delivers what it had kept.

        Args:
            waited: how long, as the tablet says.

        Returns:
            Whether it had nothing else to deliver for a while, and was answered meanwhile: then it could have sent this.
        """
        heard = self.tablets.setdefault(tablet, _Heard())
        done = now - waited
        idle_since = max(done, heard.delivered) if heard.delivered is not None else done
        heard.delivered = now
        return any(idle_since + TO_SEND_IN <= at <= now - TO_SEND_IN for at in heard.answered)
