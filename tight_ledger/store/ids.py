"""Ids made here: UUID version 7, so that they sort by time."""

from uuid import UUID

from uuid6 import uuid7


def new_id() -> UUID:
    """A fresh id."""
    return UUID(int=uuid7().int)
