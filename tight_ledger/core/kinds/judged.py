"""The result of judging one entry at one pull."""

from typing import NamedTuple

from tight_ledger.core.records.verdicts import VerdictCode

OPEN = "open"
"""In the place of an outcome: the pull stays open."""


class JudgedVerdict(NamedTuple):
    """A verdict that an entry gets."""

    code: VerdictCode
    detail: str = ""
    """Words that replace the code's own."""


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
