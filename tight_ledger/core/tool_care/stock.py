"""How a shim, spacer, washer or sleeve stands after what was written down about it."""

from collections.abc import Iterable

from tight_ledger.core.records.notes import Note
from tight_ledger.core.tools.pieces import Piece, PieceNow


def piece_now(piece: Piece, notes: Iterable[Note]) -> PieceNow:
    """A piece after what was written down about it."""
    measured, at_hand = piece.measured_mm, True
    for note in notes:
        if note.kind == "sized" and note.figure is not None:
            measured = note.figure
        elif note.kind in ("used_up", "quarantined"):
            at_hand = False
        elif note.kind in ("returned", "cleared"):
            at_hand = True
    return PieceNow(piece=piece, measured_mm=measured, at_hand=at_hand)
