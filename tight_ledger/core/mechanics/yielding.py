"""A bolt beyond its yield: how its load goes on with the nut's turn until it breaks, and what is left after a release.

The shape beyond yield is drawn, not measured: the load rises as a quarter sine to the most at half of the elongation after
fracture, and falls by a fifth until the bolt breaks (common practice, no source). What holds is that it bends, rises a
little, falls, and breaks.
"""

import math
from typing import NamedTuple

from tight_ledger.core.mechanics.stress import Bears

FALLS_TO = 0.8
HALVINGS = 50
AT_MOST = 0.5
"""Share of the elongation after fracture at which the load is the most."""


class Turning(NamedTuple):
    """A bolt as a nut's turn sees it."""

    bears: Bears
    compliance_mm_per_n: float
    """Of bolt and joint together."""
    pitch_mm: float
    ductile_mm: float
    """How far it stretches for good until it breaks: elongation after fracture times the thread that is free."""

    @property
    def yields_at_deg(self) -> float:
        """From snug [°]."""
        return self.turned_deg(0.0)

    @property
    def breaks_at_deg(self) -> float:
        """From snug [°]."""
        return self.turned_deg(self.ductile_mm)

    def after_set_n(self, set_mm: float) -> float:
        """The load at which a bolt yields on that has stretched for good so far [N]; 0 once it is broken.

        Args:
            set_mm: [mm], 0 or more.
        """
        share = set_mm / self.ductile_mm
        if share > 1:
            return 0.0
        if share <= AT_MOST:
            return self.bears.yield_n + (self.bears.most_n - self.bears.yield_n) * math.sin(math.pi / 2 * share / AT_MOST)
        return self.bears.most_n * (1 - (1 - FALLS_TO) * (share - AT_MOST) / (1 - AT_MOST))

    def set_at_mm(self, load_n: float) -> float:
        """How far it has stretched for good when it is first pulled to a load [mm].

        Args:
            load_n: [N]; from its yield to the most that it bears.
        """
        share = (load_n - self.bears.yield_n) / (self.bears.most_n - self.bears.yield_n)
        return self.ductile_mm * AT_MOST * math.asin(min(max(share, 0.0), 1.0)) * 2 / math.pi

    def turned_deg(self, set_mm: float) -> float:
        """How far the nut was turned from snug when it has stretched for good so far [°].

        Args:
            set_mm: [mm], 0 to what breaks it.
        """
        return 360 * (set_mm + self.after_set_n(set_mm) * self.compliance_mm_per_n) / self.pitch_mm

    def set_after_mm(self, way_mm: float, before_mm: float) -> float:
        """How far it has stretched for good after the nut was turned by a way once more from snug [mm].

        Args:
            way_mm: the way of the thread from snug [mm], 0 or more.
            before_mm: how far it had stretched for good before [mm].
        """
        if way_mm <= self.after_set_n(before_mm) * self.compliance_mm_per_n:
            return before_mm
        low, high = before_mm, self.ductile_mm
        if way_mm >= high - before_mm + self.after_set_n(high) * self.compliance_mm_per_n:
            return high
        for _ in range(HALVINGS):  # what stays and what springs together grow with what stays
            middle = (low + high) / 2
            beyond = middle - before_mm + self.after_set_n(middle) * self.compliance_mm_per_n >= way_mm
            low, high = (low, middle) if beyond else (middle, high)
        return low

    def curve(self, points: int) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Turn from snug [°] and load [N] until it breaks: straight to the yield, then point by point.

        Args:
            points: after the yield, 1 or more.
        """
        sets = [self.ductile_mm * n / points for n in range(points + 1)]
        return (0.0, *map(self.turned_deg, sets)), (0.0, *map(self.after_set_n, sets))
