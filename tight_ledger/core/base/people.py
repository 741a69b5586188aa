"""Who may do what."""

import re
from typing import Literal
from uuid import UUID

from tight_ledger.core.base.errors import Invalid, NotAllowed
from tight_ledger.core.base.models import Model

Role = Literal["mechanic", "lead"]


class Person(Model):
    """Somebody who works here."""

    id: UUID
    name: str
    role: Role


def require_lead(role: Role, field: str, what: str) -> None:
    """Refuse what only a lead may do.

    Raises:
        NotAllowed: the role is not lead.
    """
    if role != "lead":
        raise NotAllowed(field, f"Only a lead may {what}.", "Call the lead to this tablet; they sign in with their PIN.")


def check_new_pin(pin: str) -> None:
    """Refuse a PIN that is not 4 to 8 digits, or is one digit repeated.

    Raises:
        Invalid: see above.
    """
    if not re.fullmatch(r"\d{4,8}", pin, re.ASCII):
        raise Invalid("pin", "This is not a PIN.", "Take 4 to 8 digits.")
    if len(set(pin)) == 1:
        raise Invalid("pin", "One digit repeated is guessed first.", "Take at least two different digits.")


FREE_TRIES = 5


def pin_wait_s(failures: int) -> int:
    """How long to wait after so many failures in a row [s]: five are free, then 30 s doubling up to 15 minutes."""
    return 0 if failures < FREE_TRIES else min(900, 30 * 2 ** min(failures - FREE_TRIES, 5))
