"""A pack of shims, or one spacer, chosen from what is at hand: nearest sum, fewest pieces, measured ones first."""

from collections.abc import Sequence
from itertools import combinations
from typing import NamedTuple

from tight_ledger.core.base.rounding import nine_digits
from tight_ledger.core.tools.pieces import PieceNow

MOST_PIECES = 4
ANY = (0.0, 1e9)
MOST_CONSIDERED = 24
"""So many pieces are combined with one another at the most."""


class ShimPack(NamedTuple):
    """Pieces and what they add up to."""

    pieces: tuple[PieceNow, ...]
    sum_mm: float

    @property
    def words(self) -> str:
        """`PS-02 pinion spacer (11.982 mm)`; `CS-01 + CS-05 (0.604 mm)`."""
        return f"{' + '.join(now.piece.name for now in self.pieces)} ({self.sum_mm:.3f} mm)"


def choose_pack(
    wanted_mm: float, stock: Sequence[PieceNow], most: int = MOST_PIECES, between: tuple[float, float] = ANY
) -> ShimPack | None:
    """The pack nearest to a thickness; None if nothing is at hand.

    Args:
        stock: of one ring. What is not at hand is left out.
        most: number of pieces in a pack, 1 to 4.
        between: sums on or outside of these are left out [mm].
    """
    at_hand = [now for now in stock if now.at_hand]
    single = [_pack((now,)) for now in at_hand]
    several = [_pack(few) for n in range(2, most + 1) for few in combinations(_spread(at_hand, most), n)]
    fitting = (pack for pack in (*single, *several) if between[0] < pack.sum_mm < between[1])
    return min(fitting, key=lambda pack: _rank(pack, wanted_mm), default=None)


def _spread(pieces: Sequence[PieceNow], most: int) -> list[PieceNow]:
    """Pieces to combine: of each thickness no more than a pack holds, measured ones first; of a long list an even choice."""
    by_thickness: dict[float, list[PieceNow]] = {}
    for now in sorted(pieces, key=lambda now: (now.thickness_mm, now.measured_mm is None, now.piece.name)):
        by_thickness.setdefault(round(now.thickness_mm, 3), []).append(now)
    kept = [now for alike in by_thickness.values() for now in alike[:most]]
    return kept[:: -(-len(kept) // MOST_CONSIDERED) or 1]


def _pack(pieces: tuple[PieceNow, ...]) -> ShimPack:
    return ShimPack(pieces, nine_digits(sum(now.thickness_mm for now in pieces)))


def _rank(pack: ShimPack, wanted_mm: float) -> tuple[float, int, int, float, tuple[str, ...]]:
    """Nearest, to a micrometre; then fewest pieces, measured ones, the thinner on a tie."""
    guessed = sum(now.measured_mm is None for now in pack.pieces)
    off = round(abs(pack.sum_mm - wanted_mm), 3)
    return off, len(pack.pieces), guessed, pack.sum_mm, tuple(sorted(now.piece.name for now in pack.pieces))
