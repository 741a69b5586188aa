"""`./tight bench adjust`: the adjusters beside a careful rule of fixed steps, on simulated joints.

Moves are counted after the first reading. Assumed: `core/simulation/adjustables.py`; a gauge that scatters by 0.35 graduations
and slips once in a hundred readings; and, beside it, the same with twice the scatter.
"""

import random
import statistics
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from uuid import UUID

from tight_ledger.core.adjust import carrier, hub, sleeve, spacer, stretch
from tight_ledger.core.adjust.agreement import believed
from tight_ledger.core.adjust.proposals import Proposal, Try
from tight_ledger.core.base.bands import Band
from tight_ledger.core.simulation.adjustables import (
    ScatteredGauge,
    SimulatedBolt,
    SimulatedCarrier,
    SimulatedHub,
    SimulatedSleeve,
    SimulatedSpacer,
)
from tight_ledger.core.tools.pieces import Piece, PieceNow

MOST_MOVES = 25
TRAVELS_MM = (2.117 / 24, 2.117 / 36, 2.117 / 48, 2.117 / 72)


@dataclass(slots=True)
class Endings:
    """How a number of adjustments ended."""

    moves: list[int] = field(default_factory=list)
    """Of those that were accepted."""
    counts: Counter[str] = field(default_factory=Counter)

    def told(self) -> dict[str, float]:
        """Moves and shares, for a report."""
        ordered, whole = sorted(self.moves), sum(self.counts[name] for name in ("accept", "stop", "replace", "never"))
        spread = {"median_moves": statistics.median(ordered), "nine_in_ten_within": ordered[int(len(ordered) * 0.9)]} if ordered else {}
        return {"joints": whole, **spread, **dict(self.counts)}


def read(gauge: ScatteredGauge, truth: Callable[[], float]) -> float:
    """A reading that is believed: two that agree, or the middle one of three."""
    readings: list[float] = []
    while (agreed := believed(readings, gauge.graduation)) is None:
        readings.append(gauge.shows(truth()))
    return agreed


def adjusted(
    first: float, reads: Callable[[float], float], advise: Callable[[tuple[Try, ...]], Proposal], ends: Endings
) -> tuple[str, float]:
    """Follow the advice to its end.

    Args:
        first: the setting to begin with.
        reads: what is read at a setting that is reached now.

    Returns:
        How it ended, and where it stands.
    """
    tries = [Try(at=first, reading=reads(first))]
    for moves in range(MOST_MOVES):
        proposal = advise(tuple(tries))
        if proposal.do != "move" or proposal.to is None:
            ends.counts[proposal.do] += 1
            if proposal.do == "accept":
                ends.moves.append(moves)
            return proposal.do, tries[-1].at
        tries.append(Try(at=proposal.to, reading=reads(proposal.to)))
    ends.counts["never"] += 1
    return "never", tries[-1].at


def hubs(count: int, seed: int = 1, scatter: float = 0.35) -> Endings:
    """Hubs with locks of several finenesses; the band is 0.025 to 0.127 mm. Counts those left in preload, and wrong refusals."""
    chance, ends, band = random.Random(seed), Endings(), Band(quantity="length", low=0.025, high=0.127)
    for _ in range(count):
        travel = chance.choice(TRAVELS_MM)
        figures = hub.HubFigures(by="hub", band=band, graduation=0.01, pitch_mm=2.117, positions=round(2.117 / travel))
        joint, gauge, at = SimulatedHub.made(chance, travel), ScatteredGauge(chance, 0.01, scatter), 0.0
        give = joint.give_mm

        def reads(to: float, joint: SimulatedHub = joint, gauge: ScatteredGauge = gauge, give: float = give) -> float:
            nonlocal at
            joint.turn(to - at)
            at = to
            return max(0.0, read(gauge, joint.dial) - give)

        end, _ = adjusted(0.0, reads, lambda tries, figures=figures: hub.advise(figures, tries), ends)  # type: ignore[misc]
        if end == "accept" and joint.play_mm <= 0:
            ends.counts["left in preload"] += 1
        if end == "accept" and not band.low - 0.01 <= joint.play_mm <= band.high + 0.01:
            ends.counts["a graduation out of the band"] += 1
        if end == "stop" and _could_land(joint, band):
            ends.counts["refused without need"] += 1
    return ends


def _could_land(joint: SimulatedHub, band: Band) -> bool:
    """Whether a position lies in the band by more than a graduation on either side."""
    step = joint.travel_mm * joint.follows
    places = (joint.play_mm + step * n for n in range(-80, 81))
    return any(band.low + 0.01 < place < band.high - 0.01 for place in places)


def sleeves(count: int, seed: int = 2, scatter: float = 0.35, width: float = 0.2, *, fixed_deg: float | None = None) -> Endings:
    """Sleeves to 2 N·m ± a share; by the adjuster, or by a fixed step. Counts those that went over."""
    chance, ends = random.Random(seed), Endings()
    band = Band(quantity="drag", low=2 * (1 - width), high=2 * (1 + width))
    figures = sleeve.SleeveFigures(by="sleeve", band=band, graduation=0.1)
    for _ in range(count):
        joint, gauge, at = SimulatedSleeve.made(chance), ScatteredGauge(chance, 0.1, scatter), 0.0

        def reads(to: float, joint: SimulatedSleeve = joint, gauge: ScatteredGauge = gauge) -> float:
            nonlocal at
            if to > at:
                joint.turn(to - at)
            at = to
            return read(gauge, joint.drag_nm)

        def by_fixed_steps(tries: tuple[Try, ...]) -> Proposal:
            placed = band.judge(tries[-1].reading)
            if placed == "low":
                return Proposal(do="move", to=tries[-1].at + (fixed_deg or 0), say="")
            return Proposal(do="accept" if placed == "ok" else "replace", say="")

        adjusted(0.0, reads, by_fixed_steps if fixed_deg else lambda tries: sleeve.advise(figures, tries), ends)
        if joint.drag_nm() > band.high:
            ends.counts["truly over"] += 1
    return ends


def spacers(count: int, seed: int = 3, scatter: float = 0.35) -> Endings:
    """Spacers in hundredths to a drag of 2 N·m ± 20 %."""
    chance, ends = random.Random(seed), Endings()
    figures = spacer.SpacerFigures(
        by="spacer", band=Band(quantity="drag", low=1.6, high=2.4), graduation=0.1, bore_mm=45, rim_mm=58, per_mm=30
    )
    stock = _stock([11.80 + 0.01 * n for n in range(41)], 45, 58)
    for _ in range(count):
        joint, gauge = SimulatedSpacer.made(chance), ScatteredGauge(chance, 0.1, scatter)

        def reads(thickness: float, joint: SimulatedSpacer = joint, gauge: ScatteredGauge = gauge) -> float:
            fitted = joint.drag_nm(thickness)
            return read(gauge, lambda: fitted)

        adjusted(12.0, reads, lambda tries: spacer.advise(figures, tries, stock), ends)
    return ends


def carriers(count: int, seed: int = 4, scatter: float = 0.35) -> Endings:
    """Carriers to a backlash of 0.13 to 0.23 mm in steps of 0.05 mm."""
    chance, ends = random.Random(seed), Endings()
    figures = carrier.CarrierFigures(by="carrier", band=Band(quantity="length", low=0.13, high=0.23), graduation=0.01)
    for _ in range(count):
        joint, gauge = SimulatedCarrier.made(chance), ScatteredGauge(chance, 0.01, scatter)

        def reads(moved: float, joint: SimulatedCarrier = joint, gauge: ScatteredGauge = gauge) -> float:
            fitted = joint.reads(moved)
            return read(gauge, lambda: fitted)

        adjusted(0.0, reads, lambda tries: carrier.advise(figures, tries), ends)
    return ends


def bolts(count: int, seed: int = 5, scatter: float = 0.35, friction: float = 0.06, *, straight: bool = False) -> Endings:
    """Sets of four bolts: the first by its stretch, the others from somewhat below it, or straight."""
    chance, ends = random.Random(seed), Endings()
    band = Band(quantity="length", low=0.14, high=0.19)
    figures = stretch.StretchFigures(by="stretch", band=band, graduation=0.005, most_nm=80)
    for _ in range(count // 4):
        start = 45.0
        usual = 0.165 / 60 * chance.uniform(0.9, 1.1)
        for place in range(4):
            joint, gauge = SimulatedBolt.made(chance, friction, usual), ScatteredGauge(chance, 0.005, scatter)
            highest = 0.0

            def reads(setting: float, joint: SimulatedBolt = joint, gauge: ScatteredGauge = gauge) -> float:
                nonlocal highest
                highest = max(highest, joint.stretch_mm(setting))
                truth = highest
                return read(gauge, lambda: truth)

            end, at = adjusted(start, reads, lambda tries: stretch.advise(figures, tries), ends)
            ends.counts["yielded"] += highest > joint.yields_mm
            ends.counts["truly over"] += highest > band.high
            ends.counts["accepted short"] += end == "accept" and highest < band.low - 0.005
            if place == 0:
                start = stretch.rest_starts_at(at, straight=straight)
    return ends


def _stock(thicknesses: list[float], bore_mm: float, rim_mm: float) -> list[PieceNow]:
    return [
        PieceNow(
            piece=Piece(
                kind="piece", id=UUID(int=n + 1), name=f"P-{n:02}", what="spacer", bore_mm=bore_mm, rim_mm=rim_mm, nominal_mm=round(each, 3)
            ),
            measured_mm=round(each, 3),
            at_hand=True,
        )
        for n, each in enumerate(thicknesses)
    ]  # fmt: skip


def measured(count: int) -> dict[str, object]:
    """Every adjuster once with the usual scatter and once with twice as much."""
    found: dict[str, object] = {}
    for name, scatter in (("usual scatter", 0.35), ("twice the scatter", 0.7)):
        found[name] = {
            "hubs": hubs(10 * count, scatter=scatter).told(),
            "sleeves": sleeves(count, scatter=scatter).told(),
            "sleeves, ± 10 %": sleeves(count, scatter=scatter, width=0.1).told(),
            **{f"sleeves by {step:g}° each time": sleeves(count, scatter=scatter, fixed_deg=step).told() for step in (3.0, 6.0, 9.0)},
            "spacers": spacers(count, scatter=scatter).told(),
            "carriers": carriers(count, scatter=scatter).told(),
            "bolts": bolts(count, scatter=scatter).told(),
            "bolts, straight": bolts(count, scatter=scatter, straight=True).told(),
        }
    return found
