"""The state of a machine in the bay: the most serious state of its joints, and who has to act next."""

from collections.abc import Sequence
from typing import Literal

from tight_ledger.core.records.entries import WELL, Outcome
from tight_ledger.core.specs.followups import DueStatus

BayState = Literal["do not move", "in doubt", "open", "due", "to come", "done"]
MOST_SERIOUS_FIRST: tuple[BayState, ...] = ("do not move", "in doubt", "open", "due", "to come", "done")

WHO: dict[BayState, str] = {
    "do not move": "a lead decides", "in doubt": "a lead looks at it", "open": "a mechanic goes on", "due": "a mechanic",
    "to come": "", "done": "",
}  # fmt: skip
"""Who has to act next."""


def place_state(standing: Outcome | None, *, unreadable: bool) -> BayState:
    """The state of a place that needs attention.

    Args:
        standing: of the run that decides it; None while that is unfinished.
        unreadable: whether its record cannot be read.
    """
    if standing == "do not move":
        return "do not move"
    if standing in WELL:
        return "done"
    return "in doubt" if unreadable or standing is not None else "open"


def due_state(status: DueStatus) -> BayState:
    """The state of a follow-up that is not done yet."""
    return "due" if status in ("overdue", "due") else "to come"


def most_serious(states: Sequence[BayState]) -> BayState:
    """The most serious of several states of one machine; at least one."""
    return min(states, key=MOST_SERIOUS_FIRST.index)


def in_short(things: Sequence[str]) -> str:
    """The first of several things, and how many there are besides: `rear left: stage 1 of 3 done; 3 more`."""
    return things[0] if len(things) == 1 else f"{things[0]}; {len(things) - 1} more"
