"""Carrier shims: what is taken from one side is given to the other, so that the sum and with it the preload stays."""

from collections.abc import Sequence
from typing import Literal
from uuid import UUID

from pydantic import Field, model_validator

from tight_ledger.core.adjust.lines import line_through
from tight_ledger.core.adjust.packs import MOST_PIECES, choose_pack
from tight_ledger.core.adjust.proposals import AdjustFigures, Proposal, Try, last
from tight_ledger.core.base.rounding import nine_digits
from tight_ledger.core.tools.pieces import PieceNow

USUAL_RATIO = 0.7
"""Change of the backlash by the thickness that is moved (common practice, from memory)."""
RATIOS = (0.3, 1.2)
"""A learned ratio outside of these comes from a reading that was wrong."""
SAME_MM = 0.002
"""Two settings nearer than this are the same to a micrometer."""


class CarrierFigures(AdjustFigures):
    """A setting is the thickness on the ring gear's side [mm]; a reading the backlash [mm], which shrinks as it grows."""

    by: Literal["carrier"]
    ratio: float | None = Field(default=None, gt=0, le=2)
    step_mm: float = Field(default=0.05, gt=0, le=1)
    """The finest difference that shims can make, where the spec does not name their ring."""
    bore_mm: float | None = Field(default=None, gt=0, le=1_000)
    rim_mm: float | None = Field(default=None, gt=0, le=2_000)
    """Of the ring that goes there: only what is at hand of it is moved."""
    most_mm: float = Field(default=2.0, gt=0, le=20)
    """That can be moved from side to side."""
    thinner_on: Literal["", "the ring gear's side", "the other side"] = ""
    """Of several shims in a pack, where the thinner one goes, where the spec says it."""

    @model_validator(mode="after")
    def _has_the_whole_ring(self) -> "CarrierFigures":
        if (self.bore_mm is None) != (self.rim_mm is None):
            raise ValueError("a ring has a bore_mm and a rim_mm; give both, or neither")
        return self

    @property
    def ring(self) -> tuple[float, float] | None:
        """Bore and rim [mm] of the shims; None where the spec does not name them."""
        return None if self.bore_mm is None or self.rim_mm is None else (self.bore_mm, self.rim_mm)


def advise(figures: CarrierFigures, tries: tuple[Try, ...], stock: Sequence[PieceNow] = ()) -> Proposal:
    """How much to move from one side to the other: a pack of the shims at hand, or a multiple of `step_mm`.

    Args:
        tries: oldest first.
        stock: all that the shop has; only what goes there and is at hand is proposed.
    """
    now = last(tries)
    if figures.band.judge(now.reading) == "ok":
        return Proposal(do="accept", say=f"{now.reading:.3f} mm lies in the band: the shims stay.", to=now.at)
    ratio, source = _ratio(figures, tries)
    wanted = (now.reading - figures.middle) / ratio
    found = _amount(figures, abs(wanted), stock)
    if found is None:
        return Proposal(do="stop", say=f"No shim that goes there is at hand; {abs(wanted):.3f} mm would have to be moved.")
    size, words, pieces = found
    moved = size if wanted > 0 else -size
    to = nine_digits(now.at + moved)
    if abs(to - tries[0].at) > figures.most_mm:
        return Proposal(do="stop", say="So much cannot be moved from side to side.", why="Look at the readings and at the bearings' seats.")
    if any(abs(each.at - to) < SAME_MM for each in tries):
        return Proposal(
            do="stop", say=f"The shims at hand land on either side of the band; {abs(wanted):.3f} mm would have to be moved.",
            why=f"What comes nearest is {words}.",
        )  # fmt: skip
    where = "to the ring gear's side" if moved > 0 else "from the ring gear's side"
    expect = now.reading - ratio * moved
    thinner = f" Of two, the thinner one goes on {figures.thinner_on}." if figures.thinner_on else ""
    return Proposal(
        do="move", by=moved, to=to, expect=expect, why=f"{source}{thinner}", pieces=pieces,
        say=f"Move {words} {where}, the same off the other: it should read about {expect:.3f} mm.",
        better=f"{abs(wanted):.3f} mm would be nearer, if it were at hand." if pieces and abs(size - abs(wanted)) > SAME_MM else "",
    )  # fmt: skip


def _amount(figures: CarrierFigures, wanted_mm: float, stock: Sequence[PieceNow]) -> tuple[float, str, tuple[UUID, ...]] | None:
    """What can be moved that is nearest to a thickness [mm], in words, and its pieces; None if nothing at hand goes there."""
    if figures.ring is None:
        size = nine_digits(max(figures.step_mm, round(wanted_mm / figures.step_mm) * figures.step_mm))
        return size, f"{size:g} mm", ()
    pack = choose_pack(wanted_mm, [each for each in stock if each.goes_with(*figures.ring)], MOST_PIECES)
    return None if pack is None else (pack.sum_mm, pack.words, tuple(each.piece.id for each in pack.pieces))


def _ratio(figures: CarrierFigures, tries: tuple[Try, ...]) -> tuple[float, str]:
    line = line_through(tries, figures.middle)
    if line is not None and RATIOS[0] <= -line.slope <= RATIOS[1]:
        return -line.slope, f"Two tries moved it by {-line.slope:.2f} for each millimetre."
    if figures.ratio is not None:
        return figures.ratio, f"The spec says {figures.ratio:g} for each millimetre."
    return USUAL_RATIO, f"About {USUAL_RATIO:g} for each millimetre (common practice) until two tries say more."
