"""What was read in a run so far, by pull."""

import math
from dataclasses import dataclass, field
from datetime import datetime
from typing import Protocol
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.base.rounding import nine_digits
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Pull, Refs

CLOCKS_AGREE_S = 30.0
"""What was long on its way makes two clocks differ by no more than this."""


@dataclass(slots=True)
class PullProgress:
    """What is known of a pull that takes several entries: swings of an angle, readings of a measurement."""

    degrees: float = 0.0
    readings: list[float] = field(default_factory=list)
    last: Entry | None = None


@dataclass(slots=True)
class Readings:
    """Values, picked rungs and progress of the pulls so far."""

    by_pass: dict[str, Pass]
    values: dict[str, float] = field(default_factory=dict)
    """By pull id, in stored units."""
    rungs: dict[str, str] = field(default_factory=dict)
    """By pull id, the key of the rung that was used."""
    uncertainty: dict[str, float] = field(default_factory=dict)
    """By pull id, that of the gauge, in stored units."""
    progress: dict[str, PullProgress] = field(default_factory=dict)
    closed_by: dict[str, Entry] = field(default_factory=dict)
    """By pull id, the entry that closed it."""

    def last_value(self, passes: Refs, fastener: str | None) -> float | None:
        """The value last read in some passes, at a fastener if one is named; None if nothing was read."""
        found = [
            self.values[pull.id]
            for pull in self._pulls(passes)
            if pull.id in self.values and (fastener is None or pull.fastener in (None, fastener))
        ]
        return found[-1] if found else None

    def computed(self, pass_: Pass) -> float | None:
        """Constant + Σ coefficient × reading; None while a reading is missing or nothing is computed."""
        values = {name: self.last_value(passes, None) for name, passes in pass_.by.items()}
        if not values or None in values.values():
            return None
        return nine_digits(math.fsum((pass_.const, *(pass_.coef[name] * value for name, value in values.items() if value is not None))))

    def offset(self, pass_: Pass, pull: Pull) -> float | None:
        """Added to each reading: what an earlier step read, less what the gauge showed at zero. None while it was not read."""
        total = 0.0
        for pick, sign in ((pass_.plus, 1), (pass_.less, -1)):
            if pick is not None:
                value = self.last_value(pick.passes, pull.fastener)
                if value is None:
                    return None
                total += sign * value
        return total

    def last_rung(self, passes: Refs, fastener: str | None) -> str | None:
        """The key of the rung last used in some passes; None if none was."""
        found = [self.rungs[pull.id] for pull in self._pulls(passes) if pull.id in self.rungs and fastener in (None, pull.fastener)]
        return found[-1] if found else None

    def _pulls(self, passes: Refs) -> list[Pull]:
        return [pull for rounds in passes for pass_id in rounds for pull in self.by_pass[pass_id].pulls]

    def forget(self, pull_id: str) -> None:
        """Remove what was read at a pull that was reopened."""
        for known in (self.values, self.rungs, self.uncertainty, self.progress, self.closed_by):
            known.pop(pull_id, None)


class Timed(Protocol):
    """What happened at a moment: by the clock of its device, and by the server's."""

    @property
    def device(self) -> UUID: ...
    @property
    def at_device(self) -> datetime: ...
    @property
    def done_at(self) -> datetime: ...
    @property
    def waited_ms(self) -> int | None: ...


@dataclass(frozen=True, slots=True)
class Instant:
    """When a device did something that is not in the ledger yet."""

    device: UUID
    at_device: datetime
    done_at: datetime
    """By the server's clock, as far as it is known."""
    waited_ms: int | None = None


class RunningTime(Model):
    """A time that runs since an entry."""

    device: UUID
    at_device: datetime
    done_at: datetime
    waited_ms: int | None = None
    seconds: float

    @staticmethod
    def since(entry: Entry, seconds: float) -> "RunningTime":
        """The time that runs since an entry.

        Args:
            seconds: how long it is [s].
        """
        return RunningTime(
            device=entry.device, at_device=entry.at_device, done_at=entry.done_at, waited_ms=entry.waited_ms, seconds=seconds
        )


def seconds_between(earlier: Timed, later: Timed) -> float:
    """Time between two moments [s]: by the clock of the device if both come from one device and the server saw as much time pass;
    else by the server's clock."""
    if earlier.device == later.device and not clocks_differ(earlier, later):
        return (later.at_device - earlier.at_device).total_seconds()
    return (later.done_at - earlier.done_at).total_seconds()


def clocks_differ(earlier: Timed, later: Timed) -> bool:
    """Whether a device's clock tells another time between two entries than the server's; never where it is not known how long
    both had waited."""
    if earlier.waited_ms is None or later.waited_ms is None:
        return False
    told, passed = later.at_device - earlier.at_device, later.done_at - earlier.done_at
    return abs((told - passed).total_seconds()) > CLOCKS_AGREE_S
