"""Who may do what."""

import re
from collections.abc import Collection, Iterable
from itertools import pairwise
from typing import Literal
from uuid import UUID

from pydantic import Field, field_validator

from tight_ledger.core.base.errors import Invalid, NotAllowed
from tight_ledger.core.base.models import Model

Role = Literal["mechanic", "lead", "keeper", "auditor"]
Right = Literal["work", "decide", "clear_tool", "withdraw_spec", "hold", "unlock", "introduce", "instruments", "people", "shop", "training"]


class Person(Model):
    """Somebody who works here."""

    id: UUID
    name: str
    roles: tuple[Role, ...] = Field(min_length=1)
    """Each once; a person may hold several."""

    @field_validator("roles")
    @classmethod
    def _each_once(cls, roles: tuple[Role, ...]) -> tuple[Role, ...]:
        if len(set(roles)) != len(roles):
            raise ValueError("name each role once")
        return roles


class RightLine(Model):
    """Something that only certain roles may do."""

    right: Right
    words: str
    """Reads on after “may”."""
    roles: tuple[Role, ...]


RIGHTS: tuple[RightLine, ...] = (
    RightLine(right="work", words="record work: runs, machines, tools, checks, specs", roles=("mechanic", "lead")),
    RightLine(right="decide", words="decide a deviation, release a run that is not good, use a barred tool", roles=("lead",)),
    RightLine(right="clear_tool", words="let a tool be used again that was set aside", roles=("lead",)),
    RightLine(right="withdraw_spec", words="withdraw a spec", roles=("lead",)),
    RightLine(right="hold", words="keep the records of a machine or a period from being erased, or lift that", roles=("lead",)),
    RightLine(right="training", words="see which drills somebody passed, and when", roles=("lead",)),
    RightLine(right="unlock", words="lift the wait after wrong PINs", roles=("lead", "keeper")),
    RightLine(right="introduce", words="introduce a tablet, or say that it is lost", roles=("lead", "keeper")),
    RightLine(right="instruments", words="register an instrument, or retire it", roles=("keeper",)),
    RightLine(right="people", words="put people on the list, change their roles, reset a PIN, end a session", roles=("keeper",)),
    RightLine(right="shop", words="change the shop's choices", roles=("keeper",)),
)
"""The one table of rights. Everybody who is signed in, an auditor too, reads everything and verifies the ledger."""


def rights_of(roles: Collection[Role]) -> frozenset[Right]:
    """What somebody with these roles may do."""
    return frozenset(line.right for line in RIGHTS if set(line.roles) & set(roles))


def require_right(roles: Collection[Role], right: Right, field: str) -> None:
    """Refuse what somebody with these roles may not do.

    Args:
        field: that the refusal is tied to.

    Raises:
        NotAllowed: none of the roles has the right.
    """
    if right in rights_of(roles):
        return
    line = next(line for line in RIGHTS if line.right == right)
    who = " or ".join(line.roles)
    raise NotAllowed(field, f"Only a {who} may {line.words}.", f"Call a {who} to this tablet; they sign in with their PIN.")


def require_keeper_stays(keepers: Iterable[Person], leaving: Person) -> None:
    """Refuse to lose the last keeper: nobody could put people on the list any more.

    Args:
        keepers: everybody who works here.
        leaving: who leaves, or is to be keeper no more.

    Raises:
        Invalid: no other keeper is left.
    """
    if "keeper" in leaving.roles and all(each.id == leaving.id or "keeper" not in each.roles for each in keepers):
        raise Invalid("person", f"{leaving.name} is the last keeper.", "Make somebody else a keeper first.")


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
