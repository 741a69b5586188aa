"""The drill of measuring: read the dial, believe it or not, choose the next move, on simulated hubs, sleeves and bolts."""

import random
from collections.abc import Callable
from dataclasses import dataclass

from tight_ledger.core.adjust.agreement import believed
from tight_ledger.core.adjust.hub import HubFigures
from tight_ledger.core.adjust.proposals import Proposal, Try
from tight_ledger.core.adjust.registry import Adjust, advise
from tight_ledger.core.adjust.sleeve import SleeveFigures
from tight_ledger.core.adjust.stretch import StretchFigures
from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.rounding import nine_digits
from tight_ledger.core.practice.drills import Course, DialShown, DrillKey, DrillQuestion, LinesShown, Marks, Materials, keys
from tight_ledger.core.simulation.adjustables import ScatteredGauge
from tight_ledger.core.simulation.gauges import SimulatedJoint, ToRead

MOST_MOVES = 8
BELIEVE, AGAIN = "I believe it", "Read again"
ACCEPT, REPLACE, STOP = "It is right: leave it", "Replace it", "Stop: something is wrong"
ENDS = {"accept": ACCEPT, "replace": REPLACE, "stop": STOP}


@dataclass(frozen=True)
class ToAdjust:
    """Something to be adjusted in the drill."""

    name: str
    figures: Adjust
    unit: str
    divisions: int
    start: float
    """The first setting."""
    told_by: Callable[[float, float], str]
    """How a move from a setting to another is said."""


def _hub_move(here: float, then: float) -> str:
    many = round(abs(then - here))
    return f"{many} position{'' if many == 1 else 's'} {'looser' if then > here else 'tighter'}" if many else "to and fro, read again"


THINGS = (
    ToAdjust(
        "A hub, end play",
        HubFigures(by="hub", band=Band(quantity="length", low=0.03, high=0.13), graduation=0.01, pitch_mm=1.5, positions=30),
        "mm",
        100,
        0.0,
        _hub_move,
    ),
    ToAdjust(
        "A pinion on a crush sleeve, drag",
        SleeveFigures(by="sleeve", band=Band(quantity="torque", low=1.6, high=2.8), graduation=0.1),
        "N·m",
        60,
        0.0,
        lambda here, then: f"{then - here:.0f}° further",
    ),
    ToAdjust(
        "A rod bolt, stretch",
        StretchFigures(by="stretch", band=Band(quantity="length", low=0.13, high=0.18), graduation=0.005, most_nm=90, start_nm=40),
        "mm",
        100,
        40.0,
        lambda _here, then: f"to {then:.0f} N·m",
    ),
)


def measure(chance: random.Random, _materials: Materials, marks: Marks) -> Course:
    """Read, believe, move, until it is right."""
    thing = chance.choice(THINGS)
    figures = thing.figures
    joint = SimulatedJoint(seed=chance.randint(1, 9_999), graduation=figures.graduation)
    gauge = ScatteredGauge(chance, figures.graduation, slips=0.12)
    at, tries = thing.start, list[Try]()
    band = f"{figures.band.low:g} to {figures.band.high:g} {thing.unit}"
    for move in range(MOST_MOVES):
        travel = figures.travel_mm if isinstance(figures, HubFigures) else 0.05
        truth = joint.truth(ToRead(by=figures.by, at=at, travel=travel, low=figures.band.low, high=figures.band.high), "1")
        if move == 0:
            yield from _read(thing, gauge.shows(truth), marks)
        readings = [gauge.shows(truth), gauge.shows(truth)]
        while True:
            lines = tuple(f"reading {n}: {nine_digits(each):g} {thing.unit}" for n, each in enumerate(readings, start=1))
            counts = believed(readings, figures.graduation)
            answer = yield DrillQuestion(
                ask=f"{thing.name}, {band}; the dial shows {figures.graduation:g}. Do you believe these?",
                picture=LinesShown(lines=lines),
                keys=keys(BELIEVE, AGAIN),
            )
            agree = "Two agree within a mark" if len(readings) == 2 else "Of three the middle one counts"
            if counts is None:
                marks.tell("They are more than a mark apart: a third is read.", right=answer.key == AGAIN)
                readings.append(gauge.shows(truth))
                continue
            marks.tell(f"{agree}: {counts:g} {thing.unit}.", right=answer.key == BELIEVE)
            break
        tries.append(Try(at=at, reading=nine_digits(counts)))
        proposal = advise(figures, tuple(tries))
        assert proposal is not None
        right = _said(thing, at, proposal)
        answer = yield DrillQuestion(
            ask=f"{thing.name}: {counts:g} {thing.unit}, wanted {band}. What now?", keys=_moves(chance, thing, at, proposal, right)
        )
        marks.tell(f"{proposal.say} {proposal.why}".strip(), right=answer.key == right)
        if proposal.do != "move" or proposal.to is None:
            return
        at = nine_digits(proposal.to)


def _said(thing: ToAdjust, at: float, proposal: Proposal) -> str:
    if proposal.do != "move" or proposal.to is None:
        return ENDS.get(proposal.do, STOP)
    return thing.told_by(at, proposal.to)


def _moves(chance: random.Random, thing: ToAdjust, at: float, proposal: Proposal, right: str) -> tuple[DrillKey, ...]:
    """The right move among others that would be too far, the wrong way, or none."""
    to = proposal.to if proposal.do == "move" and proposal.to is not None else at + (1 if thing.unit == "mm" else 10)
    by = to - at or 1.0
    others = {thing.told_by(at, nine_digits(at + by * 3)), ACCEPT, STOP}
    if thing.figures.by == "hub":
        others.add(thing.told_by(at, at - round(by)))
    elif thing.figures.by == "sleeve":
        others.add("a little back")
    else:
        others.add(REPLACE)
    offered = [right, *sorted(others - {right})]
    chance.shuffle(offered)
    return keys(*offered)


def _read(thing: ToAdjust, figure: float, marks: Marks) -> Course:
    graduation = thing.figures.graduation
    answer = yield DrillQuestion(
        ask=f"{thing.name}: what does the dial show, in {thing.unit}?",
        unit=thing.unit,
        picture=DialShown(graduation=graduation, divisions=thing.divisions, unit=thing.unit, figure=figure),
    )
    right = answer.figure is not None and abs(answer.figure - figure) <= graduation * 0.51
    said = "" if answer.figure is None else f"{answer.figure:g} was said. "
    turns, left = divmod(figure / graduation, thing.divisions)
    where = f"{turns:.0f} turns and {left:g} marks of {graduation:g}"
    marks.tell(f"{figure:g} {thing.unit}: {where}." if right else f"{said}It shows {figure:g} {thing.unit}: {where}.", right=right)
