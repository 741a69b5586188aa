"""The person who makes a request, and the device."""

from dataclasses import dataclass
from uuid import UUID

from tight_ledger.core.base.people import Person
from tight_ledger.store.people import SessionKey


@dataclass(frozen=True, slots=True)
class Actor:
    """The person who is signed in, and the device."""

    person: Person
    device: UUID
    must_change: bool = False
    """Whether a new PIN is to be chosen before anything else."""
    key: SessionKey | None = None
    """Of the key pair with which the tablet signs what is pressed in the session; None if it signs nothing."""
    unproven: bool = False
    """Whether a tablet sent this without showing that this person pressed it."""
