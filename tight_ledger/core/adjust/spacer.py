"""A solid spacer, shims in its place, or a shim under a used sleeve: the thickness by interpolation, from what is at hand.

Two tries give the third on a straight line: 0.245 in reads 5, 0.240 reads 25, for 15 it is 0.2425 (derived).
"""

from collections.abc import Sequence
from typing import Literal

from pydantic import Field

from tight_ledger.core.adjust.lines import Line, line_through
from tight_ledger.core.adjust.packs import ANY, choose_pack
from tight_ledger.core.adjust.proposals import AdjustFigures, Around, Proposal, Try, last
from tight_ledger.core.tools.pieces import PieceNow

CAUTIOUS_MM = 0.05
"""How far the first change goes where the spec says nothing. Common practice, no source."""
SAME_MM = 0.002
"""Two packs nearer than this are the same to a micrometer."""


class SpacerFigures(AdjustFigures):
    """A setting is a thickness [mm]; a thicker spacer leaves less preload and more play."""

    by: Literal["spacer"]
    bore_mm: float = Field(gt=0, le=1_000)
    rim_mm: float = Field(gt=0, le=2_000)
    """Of the ring that goes there."""
    thicker_reads: Literal["less", "more"] = "less"
    """What the gauge shows with a thicker one: less drag, or more play."""
    per_mm: float | None = Field(default=None, gt=0, le=10_000)
    """How much the reading changes by a millimetre, where the spec says it."""
    most_pieces: int = Field(default=1, ge=1, le=4)

    @property
    def ring(self) -> tuple[float, float]:
        """Bore and rim [mm] of what is fitted."""
        return self.bore_mm, self.rim_mm


def advise(figures: SpacerFigures, tries: tuple[Try, ...], stock: Sequence[PieceNow] = ()) -> Proposal:
    """The next thickness and the piece or pack for it.

    Args:
        tries: oldest first; `at` is the measured thickness that was fitted.
        stock: all that the shop has; only what goes there and is at hand is proposed.
    """
    now = last(tries)
    if figures.band.judge(now.reading) == "ok":
        return Proposal(do="accept", say=f"{now.reading:.3g} lies in the band: this spacer stays.", to=now.at)
    line = line_through(tries, figures.middle)
    sign = -1 if figures.thicker_reads == "less" else 1
    if line is not None and line.slope * sign <= 0:
        return Proposal(
            do="stop", say="A thicker spacer ought to read " + figures.thicker_reads + "; these tries say otherwise.",
            why="A pack was measured wrong, something is not seated, or a bearing is bad. Look before going on.",
        )  # fmt: skip
    if line is None:
        if figures.per_mm is not None:
            line = Line(sign * figures.per_mm, now.at, now.reading, now.at, now.at)
            wanted = line.setting_for(figures.middle)
        else:
            wanted = now.at + sign * CAUTIOUS_MM * (1 if figures.band.judge(now.reading) == "low" else -1)
    else:
        wanted = line.setting_for(figures.middle)
    return _from_stock(figures, tries, stock, wanted, line)


def begin(figures: SpacerFigures, around: Around) -> Proposal | None:
    """The spacer to fit first, where the spec calculates its thickness from a depth or a mark."""
    if around.computed is None:
        return None
    here = [each for each in around.stock if each.goes_with(*figures.ring)]
    pack = choose_pack(around.computed, here, figures.most_pieces)
    if pack is None:
        return Proposal(do="stop", say=f"Nothing that goes there is at hand; {around.computed:.3f} mm is calculated.")
    off = abs(pack.sum_mm - around.computed)
    return Proposal(
        do="move", to=pack.sum_mm, pieces=tuple(each.piece.id for each in pack.pieces),
        say=f"Fit {pack.words}: {around.computed:.3f} mm is calculated.", why="Measure it before it goes in: the mark may be another's.",
        better=f"{around.computed:.3f} mm would be nearer, if it were at hand." if off > SAME_MM else "",
    )  # fmt: skip


def _between(figures: SpacerFigures, tries: tuple[Try, ...]) -> tuple[float, float]:
    """The thicknesses between which the right one lies, judging by the tries."""
    low, high = ANY
    for each in tries:
        placed = figures.band.judge(each.reading)
        if placed == "ok":
            continue
        if (placed == "low") == (figures.thicker_reads == "more"):
            low = max(low, each.at + SAME_MM)
        else:
            high = min(high, each.at - SAME_MM)
    return low, high


def _from_stock(figures: SpacerFigures, tries: tuple[Try, ...], stock: Sequence[PieceNow], wanted: float, line: Line | None) -> Proposal:
    now = tries[-1]
    here, between = [each for each in stock if each.goes_with(*figures.ring)], _between(figures, tries)
    pack = choose_pack(wanted, here, figures.most_pieces, between)
    if pack is None:
        nearer = f"between {between[0]:.3f} and {between[1]:.3f} mm " if between[0] > 0 and between[1] < ANY[1] else ""
        return Proposal(
            do="stop", say=f"Nothing {nearer}that goes there is at hand; about {wanted:.3f} mm is wanted.", to=wanted,
            why="What is nearer was tried already, or lies on the wrong side.",
        )  # fmt: skip
    expect = line.reads(pack.sum_mm) if line is not None else None
    outside = line is not None and not line.was_seen(pack.sum_mm) and len(tries) > 1
    why = "Outside what was tried: the line may bend there." if outside else ""
    by_spec = "By the slope that the spec says." if line is not None else "One try says nothing of the slope yet."
    why = why or ("By the two tries nearest to the band." if len(tries) > 1 else by_spec)
    off = abs(pack.sum_mm - wanted)
    return Proposal(
        do="move", by=pack.sum_mm - now.at, to=pack.sum_mm, expect=expect, pieces=tuple(each.piece.id for each in pack.pieces),
        say=f"Fit {pack.words}" + (f": it should read about {expect:.3g}." if expect is not None else ": one careful step."), why=why,
        better=f"{wanted:.3f} mm would be nearer, if it were at hand." if off > SAME_MM else "",
    )  # fmt: skip
