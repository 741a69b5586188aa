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
    signs: bool = False
    """Whether the session has a key with which its tablet signs what is pressed in it."""
    unproven: bool = False
    """Whether a tablet delivers something of which it cannot show that it was pressed in a session of this person."""
