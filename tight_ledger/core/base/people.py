"""Who may do what."""

import re
from itertools import pairwise
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


def check_new_pin(pin: str, field: str = "pin") -> None:
    """Refuse a PIN that is not 4 to 8 digits, or is among those that are guessed first.

    Those are: digits repeated (1111, 1212, 123123), up or down by one (1234, 9876), a year of somebody's life, and the middle
    row of a keypad (common practice, no source).

    Args:
        field: that the refusal is tied to.

    Raises:
        Invalid: see above.
    """
    if not re.fullmatch(r"\d{4,8}", pin, re.ASCII):
        raise Invalid(field, "This is not a PIN.", "Take 4 to 8 digits.")
    if is_common_pin(pin):
        raise Invalid(field, "This PIN is among the first that are guessed.", "Take one without a pattern, and not a year.")


def is_common_pin(pin: str) -> bool:
    """Whether digits are among those that are guessed first; see `check_new_pin`."""
    repeated = any(len(pin) % part == 0 and pin == pin[:part] * (len(pin) // part) for part in range(1, len(pin) // 2 + 1))
    steps = {(int(after) - int(before)) % 10 for before, after in pairwise(pin)}
    year = len(pin) == 4 and 1930 <= int(pin) <= 2030
    return repeated or steps in ({1}, {9}) or year or pin in _COLUMNS


_COLUMNS = frozenset({"2580", "0852", "1470", "3690"})


FREE_TRIES = 5


def pin_wait_s(failures: int) -> int:
    """How long to wait after so many failures in a row [s]: five are free, then 30 s doubling up to 15 minutes."""
    return 0 if failures < FREE_TRIES else min(900, 30 * 2 ** min(failures - FREE_TRIES, 5))
