"""The result of judging one entry at one pull."""

from dataclasses import dataclass

from tight_ledger.core.records.verdicts import Code

OPEN = "open"
"""In the place of an outcome: the pull stays open."""


@dataclass(frozen=True, slots=True)
class Found:
    """A verdict that an entry gets."""

    code: Code
    detail: str = ""
    """Words that replace the code's own."""


@dataclass(frozen=True, slots=True)
class Judged:
    """What an entry means for its pull."""

    outcome: str
    value: float | None = None
    """In stored units; None if nothing was read or set."""
    verdicts: tuple[Found, ...] = ()
    closes: bool = True
    """Whether the pull is done with this outcome; a torque below its band is not."""

    @staticmethod
    def stays_open(*codes: Code) -> "Judged":
        """The pull stays open, with some verdicts."""
        return Judged(OPEN, verdicts=tuple(Found(code) for code in codes), closes=False)
