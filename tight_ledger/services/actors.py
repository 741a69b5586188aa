"""The person who makes a request, and the device."""

from dataclasses import dataclass
from uuid import UUID

from tight_ledger.core.base.people import Person


@dataclass(frozen=True, slots=True)
class Actor:
    """The person who is signed in, and the device."""

    person: Person
    device: UUID
    must_change: bool = False
    """Whether a new PIN is to be chosen before anything else."""
