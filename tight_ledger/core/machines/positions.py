"""Where on a machine a joint sits."""

from itertools import product
from typing import Literal

from pydantic import Field

from tight_ledger.core.base.models import Model

Side = Literal["left", "right"]


class Position(Model):
    """Where on the machine; runs, follow-ups and history key on machine and position."""

    axle: str = Field(default="", max_length=40)
    side: Side | None = None
    place: str = Field(default="", max_length=40)

    @property
    def key(self) -> str:
        """A stable key, `rear/left/outer`; parts that do not apply stay empty."""
        return f"{self.axle}/{self.side or ''}/{self.place}"

    @property
    def words(self) -> str:
        """As a mechanic says it: `rear left, outer`."""
        return _words(self.axle, self.side or "", self.place)


def _words(axle: str, side: str, place: str) -> str:
    near = " ".join(part for part in (axle, side) if part)
    return ", ".join(part for part in (near, place) if part)


def words_of_key(key: str) -> str:
    """A position as a mechanic says it, from its key."""
    axle, side, place = key.split("/", 2)
    return _words(axle, side, place)


class Positions(Model):
    """The positions at which a joint occurs; an empty part does not apply."""

    axles: tuple[str, ...] = ()
    sides: tuple[Side, ...] = ()
    places: tuple[str, ...] = ()

    def holds(self, position: Position) -> bool:
        """Whether the position is one of these, every part given that applies."""
        return (
            (position.axle in self.axles if self.axles else not position.axle)
            and (position.side in self.sides if self.sides else position.side is None)
            and (position.place in self.places if self.places else not position.place)
        )

    @property
    def every(self) -> tuple[Position, ...]:
        """Each of them, axle by axle; one without any part if none applies."""
        parts = (self.axles or ("",), self.sides or (None,), self.places or ("",))
        return tuple(Position(axle=axle, side=side, place=place) for axle, side, place in product(*parts))

    @property
    def words(self) -> str:
        """All of them: `rear · left or right`."""
        return " · ".join(" or ".join(part) for part in (self.axles, self.sides, self.places) if part)
