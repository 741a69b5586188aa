"""Refusals of the core: which field, what was wrong, what would be right."""

from collections.abc import Sequence


class Fault(Exception):
    """A refusal: which field, what was wrong, what would be right."""

    def __init__(self, field: str, fault: str, remedy: str) -> None:
        super().__init__(f"{field}: {fault} {remedy}".strip())
        self.field = field
        self.fault = fault
        self.remedy = remedy


class Invalid(Fault):
    """The input cannot be used as it is."""


class InYield(Invalid):
    """What is at its place was turned into yield by earlier work, and nobody has replaced it."""


class NotOnFile(Fault):
    """What was named is not on file."""


class Unreadable(Fault):
    """A record that cannot be read, or is not what was sealed."""


class NotSignedIn(Fault):
    """Nobody is signed in."""


class NotAllowed(Fault):
    """This person may not do this."""


class Stale(Fault):
    """Something changed meanwhile: look again before deciding."""


class Busy(Fault):
    """Too much at once: wait, then try again."""


class MustAsk(Fault):
    """Possible, but unlikely: ask the person, then send the same again with the answer."""

    def __init__(self, ask: str, field: str, fault: str, remedy: str, choices: Sequence[str] = ()) -> None:
        super().__init__(field, fault, remedy)
        self.ask = ask
        self.choices = tuple(choices)
        """The possible answers, where they are few."""
