"""Holds: what a lead keeps from every erasure, a machine, a period, or a machine in a period."""

from collections.abc import Iterable, Sequence
from datetime import datetime
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.records.notes import Note


class Hold(Model):
    """What is kept, by whom and why."""

    id: UUID
    machine: UUID | None
    since: datetime | None
    until: datetime | None
    """From a moment on, and up to, but without, another; None where it is open."""
    by: UUID | None
    at: datetime
    reason: str

    def keeps(self, machine: UUID | None, at: datetime) -> bool:
        """Whether something of a machine, from a moment, is kept. What belongs to no machine is kept by a period alone."""
        if self.machine is not None and machine != self.machine:
            return False
        return (self.since is None or at >= self.since) and (self.until is None or at < self.until)


def holds_of(streams: Iterable[Sequence[Note]]) -> tuple[Hold, ...]:
    """The holds in force, the newest first.

    Args:
        streams: the entries of each hold.
    """
    found = [
        Hold(
            id=first.stream, machine=first.machine, since=first.since, until=first.until, by=first.by, at=first.at_server,
            reason=first.text or "",
        )
        for first, *later in streams
        if not any(note.kind == "lifted" for note in later)
    ]  # fmt: skip
    return tuple(sorted(found, key=lambda hold: hold.at, reverse=True))
