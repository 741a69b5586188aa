"""Crankshaft thrust: washers in sizes; a thicker one takes as much off the end play as it is thicker."""

from collections.abc import Sequence
from typing import Literal

from pydantic import Field

from tight_ledger.core.adjust.packs import choose_pack
from tight_ledger.core.adjust.proposals import AdjustFigures, Proposal, Try, last
from tight_ledger.core.tools.pieces import PieceNow


class ThrustFigures(AdjustFigures):
    """A setting is the thickness of the washer [mm], a reading the end play [mm]."""

    by: Literal["thrust"]
    bore_mm: float = Field(gt=0, le=1_000)
    rim_mm: float = Field(gt=0, le=2_000)

    @property
    def ring(self) -> tuple[float, float]:
        """Bore and rim [mm] of what is fitted."""
        return self.bore_mm, self.rim_mm


def advise(figures: ThrustFigures, tries: tuple[Try, ...], stock: Sequence[PieceNow] = ()) -> Proposal:
    """The washer to fit, from the sizes at hand."""
    now = last(tries)
    if figures.band.judge(now.reading) == "ok":
        return Proposal(do="accept", say=f"{now.reading:.3f} mm lies in the band: the washers stay.", to=now.at)
    wanted = now.at + now.reading - figures.middle
    fits = [each for each in stock if each.goes_with(*figures.ring)]
    pack = choose_pack(wanted, fits, most=1)
    expect = now.reading - (pack.sum_mm - now.at) if pack is not None else None
    if pack is None or expect is None or figures.band.judge(expect) != "ok":
        return Proposal(
            do="stop", to=wanted, say=f"No washer at hand lands in the band; about {wanted:.3f} mm is wanted.",
            why=f"The nearest is {pack.words}." if pack is not None else "",
        )  # fmt: skip
    thicker = pack.sum_mm > now.at
    why = "It is as much thicker as the play is too large." if thicker else "It is as much thinner as the play is too small."
    return Proposal(
        do="move", by=pack.sum_mm - now.at, to=pack.sum_mm, expect=expect, pieces=tuple(each.piece.id for each in pack.pieces),
        say=f"Fit {pack.words}: the end play should be about {expect:.3f} mm.", why=why,
    )  # fmt: skip
