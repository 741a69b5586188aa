"""What is chosen by its thickness: shims, spacers, washers, sleeves. Which are at hand, and what they really measure."""

from typing import Literal
from uuid import UUID

from pydantic import Field

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model

PieceKind = Literal["shim", "spacer", "washer", "sleeve"]
PieceAct = Literal["used_up", "returned", "sized"]
FITS_MM = 0.5
"""How far bores and rims may differ for two pieces to go in the same place. Common practice, no source."""
FARTHEST_SHARE = 0.15
FARTHEST_MM = 0.05
"""A thickness that is further off its nominal than both of these is another piece, or a slip. Common practice, no source."""


class Piece(Model):
    """A shim, spacer, washer or sleeve, marked so that it is known from its like. Counting stock is another program's work."""

    kind: Literal["piece"]
    id: UUID
    name: str = Field(min_length=1, max_length=80)
    what: PieceKind
    bore_mm: float = Field(gt=0, le=1_000)
    rim_mm: float = Field(gt=0, le=2_000)
    """Bore and rim say where it goes: pieces of the same ring are alternatives to one another."""
    nominal_mm: float = Field(gt=0, le=200)
    """As it is marked or ordered; of a sleeve, its length."""
    measured_mm: float | None = Field(default=None, gt=0, le=200)
    """By micrometer, where somebody has measured it."""
    serial: str = Field(default="", max_length=40)
    owner: str = Field(default="", max_length=80)


class PieceNow(Model):
    """How a piece stands."""

    piece: Piece
    measured_mm: float | None = None
    at_hand: bool = True

    @property
    def thickness_mm(self) -> float:
        """What it adds to a pack: as measured, else as marked."""
        return self.measured_mm if self.measured_mm is not None else self.piece.nominal_mm

    def goes_with(self, bore_mm: float, rim_mm: float) -> bool:
        """Whether it goes where a ring of these sizes does."""
        return abs(self.piece.bore_mm - bore_mm) <= FITS_MM and abs(self.piece.rim_mm - rim_mm) <= FITS_MM


def require_thickness(piece: Piece, figure_mm: float | None) -> float:
    """A thickness that can be this piece's.

    Raises:
        Invalid: none, or one that is another piece's or was read in another unit.
    """
    if figure_mm is None:
        raise Invalid("measured_mm", "No thickness was typed.", "Type what the micrometer shows, in mm.")
    off = abs(figure_mm - piece.nominal_mm)
    if off > max(FARTHEST_MM, FARTHEST_SHARE * piece.nominal_mm):
        raise Invalid(
            "measured_mm", f"{figure_mm:g} mm is far from the {piece.nominal_mm:g} mm that {piece.name} is marked with.",
            "Type millimetres, as 1.245; or put it on the list as another piece.",
        )  # fmt: skip
    return figure_mm


def piece_words(piece: Piece, measured_mm: float | None = None) -> str:
    """`shim 38 × 48 mm, 0.5 mm, measured 0.503 mm`."""
    shown = measured_mm if measured_mm is not None else piece.measured_mm
    measured = f", measured {shown:.3f} mm" if shown is not None else ""
    return f"{piece.what} {piece.bore_mm:g} × {piece.rim_mm:g} mm, {piece.nominal_mm:g} mm{measured}"
