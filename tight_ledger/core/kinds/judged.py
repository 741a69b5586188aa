"""The result of judging one entry at one pull."""

from collections.abc import Callable
from typing import NamedTuple

from tight_ledger.core.base.display import show_band
from tight_ledger.core.records.plans import Pull
from tight_ledger.core.records.verdicts import VerdictCode

OPEN = "open"
"""In the place of an outcome: the pull stays open."""


class JudgedVerdict(NamedTuple):
    """A verdict that an entry gets."""

    code: VerdictCode
    detail: str = ""
    """Words that replace the code's own."""


def held_to_limit(pull: Pull, value: float | None, told: Callable[[float], str]) -> tuple[JudgedVerdict, ...]:
    """What is said of a pull whose watched value is a limit of the spec; nothing if it was read and lies inside.

    Args:
        pull: with what is watched.
        value: in the stored unit of what is watched; None if nobody read it.
        told: says a value in words: `turned 31°`.
    """
    if pull.watch is None or (value is not None and pull.watch.judge(value) == "ok"):
        return ()
    limits = show_band(pull.watch).limits
    if value is None:
        return (JudgedVerdict("outside_limit", f"its limit was not read: {limits}"),)
    return (JudgedVerdict("outside_limit", f"{told(value)}, where {limits} is the limit"),)


class Judged(NamedTuple):
    """What an entry means for its pull."""

    outcome: str
    value: float | None = None
    """In stored units; None if nothing was read or set."""
    verdicts: tuple[JudgedVerdict, ...] = ()
    closes: bool = True
    """Whether the pull is done with this outcome; a torque below its band is not."""

    @staticmethod
    def stays_open(*codes: VerdictCode) -> "Judged":
        """The pull stays open, with some verdicts."""
        return Judged(OPEN, verdicts=tuple(JudgedVerdict(code) for code in codes), closes=False)
