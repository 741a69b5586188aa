"""What an adjuster is given and what it answers. A proposal is shown, never forced."""

from dataclasses import dataclass
from typing import Literal
from uuid import UUID

from pydantic import Field

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.policy import PinionSchool
from tight_ledger.core.tools.pieces import PieceNow

WhatToDo = Literal["accept", "move", "replace", "stop"]
SettingUnit = Literal["positions", "°", "mm", "N·m"]


class Try(Model):
    """A setting and what was read there, both in stored units."""

    at: float
    """Where it was set: positions or degrees from the start, a thickness, a torque. More is what `Adjuster.more` says."""
    reading: float
    """Less the hub's own give, or what the gauge showed at nought."""


class Proposal(Model):
    """The one thing to do now."""

    do: WhatToDo
    say: str
    """In a sentence, with the figures."""
    why: str = ""
    by: float | None = None
    """How far from where it is, in the unit of the setting."""
    to: float | None = None
    """Where that leads."""
    expect: float | None = None
    """What it should then read."""
    expect_low: float | None = None
    expect_high: float | None = None
    pieces: tuple[UUID, ...] = ()
    """Of the stock, which to fit."""
    optional: bool = False
    """Whether it may stay as it is too: the reading lies in the band, at its limit."""
    better: str = ""
    """What would be better if it were at hand."""


@dataclass(frozen=True, slots=True)
class Around:
    """What an adjuster may look at besides its own tries."""

    stock: tuple[PieceNow, ...] = ()
    """All that the shop has; only what goes there and is at hand is proposed."""
    computed: float | None = None
    """Where the spec's own calculation begins."""
    found: tuple[float, ...] = ()
    """The settings that were accepted at the joint's other fasteners."""
    straight: bool = False
    """Whether the shop uses what was found for the others as it is."""


NOTHING_AROUND = Around()


class AdjustFigures(Model):
    """What a spec says about an adjustment; each adjuster has its own further figures."""

    band: Band
    """That the reading has to meet."""
    graduation: float = Field(gt=0, le=10)
    """Of the instrument, in the stored unit."""
    school: PinionSchool | None = None
    """Where it sets a pinion: by what."""

    @property
    def ring(self) -> tuple[float, float] | None:
        """Bore and rim [mm] of what is fitted; None where nothing of the stock is."""
        return None

    @property
    def middle(self) -> float:
        """Where a reading is best."""
        return self.band.aim()

    @property
    def width(self) -> float:
        """From limit to limit."""
        return self.band.high - self.band.low


def last(tries: tuple[Try, ...]) -> Try:
    """The newest try.

    Raises:
        Invalid: there is none.
    """
    if not tries:
        raise Invalid("tries", "Nothing was read yet.", "Take a reading first.")
    return tries[-1]
