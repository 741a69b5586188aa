"""What the crib can pull and what it cannot: the shop's figures against its wrenches, and what to buy first."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from tight_ledger.core.base.models import Model
from tight_ledger.core.base.units import NM_PER_UNIT, TorqueUnit
from tight_ledger.core.tools.wrenches import VERIFIED_FROM, Wrench

STEPS = 48
"""Number of steps on the logarithmic axis, by which the shop's figures are counted."""


AXES: tuple[TorqueUnit, ...] = ("N·m", "lbf·ft")
TICKS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1_000, 2_000, 5_000)


class Offer(Model):
    """A kind of wrench that could be bought."""

    drive: str
    unit: TorqueUnit
    lowest: float
    highest: float
    graduation: float


OFFERS: tuple[Offer, ...] = (
    Offer(drive="1/4 in", unit="N·m", lowest=1, highest=6, graduation=0.1),
    Offer(drive="1/4 in", unit="N·m", lowest=5, highest=25, graduation=0.5),
    Offer(drive="3/8 in", unit="N·m", lowest=10, highest=60, graduation=0.5),
    Offer(drive="3/8 in", unit="lbf·ft", lowest=10, highest=80, graduation=0.5),
    Offer(drive="1/2 in", unit="N·m", lowest=30, highest=210, graduation=1),
    Offer(drive="1/2 in", unit="lbf·ft", lowest=50, highest=250, graduation=1),
    Offer(drive="3/4 in", unit="N·m", lowest=100, highest=550, graduation=5),
    Offer(drive="1 in", unit="N·m", lowest=200, highest=1_000, graduation=10),
    Offer(drive="1 in", unit="N·m", lowest=400, highest=2_000, graduation=20),
)
"""Ranges that are usual. Common practice, no source."""


class Bar(Model):
    """A wrench as it stands on the axis [N·m], and how many of the shop's figures it can pull."""

    name: str
    lowest_nm: float
    verified_nm: float
    highest_nm: float
    pulls: int


class Purchase(Model):
    """A wrench to buy, and how many figures that nothing reaches now it would reach."""

    offer: Offer
    more: int


class Tick(Model):
    """A figure on the axis, and where it stands [N·m]."""

    figure: int
    unit: TorqueUnit
    at_nm: float


class Coverage(Model):
    """The picture: the axis, the figures on it, the wrenches, the holes."""

    edges_nm: tuple[float, ...]
    ticks: tuple[Tick, ...]
    figures: tuple[int, ...]
    """How many of the shop's figures lie in each step of the axis."""
    uncovered: tuple[int, ...]
    """Number of figures in each step that nothing in the crib can pull."""
    bars: tuple[Bar, ...]
    missing: tuple[int, ...]
    """Indexes of the bands that nothing can pull."""
    purchase: Purchase | None = None


Numbers = NDArray[np.float64]


def reaches(low_nm: Numbers, high_nm: Numbers, tool: Wrench | Offer) -> NDArray[np.bool_]:
    """Which bands a wrench has a mark inside of, within its verified range.

    Args:
        low_nm: lower limits [N·m], shape (n,).
        high_nm: upper limits [N·m], shape (n,).
    """
    factor = NM_PER_UNIT[tool.unit]
    least = max(tool.lowest, VERIFIED_FROM * tool.highest)
    first = np.ceil((np.maximum(low_nm / factor, least) - tool.lowest) / tool.graduation - 1e-9)
    last = np.floor((np.minimum(high_nm / factor, tool.highest) - tool.lowest) / tool.graduation + 1e-9)
    found: NDArray[np.bool_] = first <= last
    return found


def coverage(bands_nm: Sequence[tuple[float, float]], wrenches: Sequence[Wrench]) -> Coverage:
    """The shop's figures against its crib.

    Args:
        bands_nm: (low, high) of each spec's last torque [N·m], above 0.
    """
    low = np.array([band[0] for band in bands_nm], dtype=np.float64)
    high = np.array([band[1] for band in bands_nm], dtype=np.float64)
    can = [reaches(low, high, wrench) for wrench in wrenches]
    covered = np.logical_or.reduce(can) if can else np.zeros(len(low), dtype=bool)
    bars = tuple(_bar(wrench, each) for wrench, each in zip(wrenches, can, strict=True))
    ends = [*(low if len(low) else ()), *(high if len(high) else ()), *(bar.lowest_nm for bar in bars), *(bar.highest_nm for bar in bars)]
    edges = np.geomspace(min(ends, default=1.0) * 0.9, max(ends, default=1_000.0) * 1.1, STEPS + 1)
    middle = np.sqrt(low * high)
    return Coverage(
        edges_nm=tuple(edges.tolist()),
        ticks=tuple(
            Tick(figure=figure, unit=unit, at_nm=figure * NM_PER_UNIT[unit])
            for unit in AXES
            for figure in TICKS
            if edges[0] <= figure * NM_PER_UNIT[unit] <= edges[-1]
        ),
        figures=tuple(np.histogram(middle, edges)[0].tolist()),
        uncovered=tuple(np.histogram(middle[~covered], edges)[0].tolist()),
        bars=bars,
        missing=tuple(np.flatnonzero(~covered).tolist()),
        purchase=_purchase(low[~covered], high[~covered]),
    )


def _bar(wrench: Wrench, can: NDArray[np.bool_]) -> Bar:
    factor = NM_PER_UNIT[wrench.unit]
    return Bar(
        name=wrench.name if wrench.second is None else f"{wrench.name}, {wrench.unit}",
        lowest_nm=wrench.lowest * factor,
        verified_nm=wrench.verified_from * factor,
        highest_nm=wrench.highest * factor,
        pulls=int(can.sum()),
    )


def _purchase(low: Numbers, high: Numbers) -> Purchase | None:
    """The usual wrench that reaches most of the figures that nothing reaches; of equals the smallest."""
    found = [Purchase(offer=offer, more=int(reaches(low, high, offer).sum())) for offer in OFFERS]
    best = max(found, key=lambda addition: (addition.more, -addition.offer.highest * NM_PER_UNIT[addition.offer.unit]))
    return best if best.more > 0 else None
