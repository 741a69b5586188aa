"""Who asks."""

from dataclasses import dataclass
from uuid import UUID

from tight_ledger.core.base.people import Person


@dataclass(frozen=True, slots=True)
class Actor:
    """Who is signed in, and where."""

    person: Person
    device: UUID
