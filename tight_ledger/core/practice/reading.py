"""Drills of reading: set the scale, say it in units, which wrench at which mark."""

import random
from uuid import UUID

from tight_ledger.core.base.display import show
from tight_ledger.core.base.rounding import nine_digits
from tight_ledger.core.base.units import NM_PER_UNIT, TorqueUnit, from_nm, to_nm
from tight_ledger.core.planning.needs import needs
from tight_ledger.core.planning.ranking import Bench, in_sequence, judge
from tight_ledger.core.practice.drills import Course, DrillKey, DrillQuestion, Marks, Materials, ScaleShown, keys
from tight_ledger.core.tools.scales import scale
from tight_ledger.core.tools.wrenches import SET_BEFOREHAND, ScaleSide, Wrench

KINDS_OF_SCALE = (
    Wrench(
        id=UUID(int=1), name="a scale of upper edges", drive="1/2 in", unit="N·m", lowest=40, highest=200, graduation=1, body_graduation=10
    ),
    Wrench(
        id=UUID(int=2),
        name="a scale of lower edges",
        drive="3/8 in",
        unit="N·m",
        lowest=10,
        highest=60,
        graduation=0.5,
        body_graduation=5,
        face="lower edge",
    ),
    Wrench(
        id=UUID(int=3),
        name="a staggered scale",
        drive="1/2 in",
        unit="lbf·ft",
        lowest=20,
        highest=150,
        graduation=1,
        body_graduation=10,
        face="staggered",
        second=ScaleSide(unit="N·m", lowest=28, highest=204, graduation=2, body_graduation=20),
    ),
    Wrench(id=UUID(int=4), name="a scale in a window", drive="1/2 in", unit="N·m", lowest=30, highest=210, graduation=1, face="window"),
)
"""Where the crib has no scale of a kind."""
TASKS = 5
DONE = "It is set"


def _settable(materials: Materials) -> list[Wrench]:
    """A wrench for each kind of scale, the person's and the shop's own before ours; those with two scales by each."""
    found: dict[tuple[str, bool], Wrench] = {}
    for wrench in (*materials.wrenches, *KINDS_OF_SCALE):
        if wrench.has_spring and (wrench.face == "window" or wrench.body_graduation is not None):
            found.setdefault((wrench.face, wrench.second is not None), wrench)
    return list(found.values())


def _top(wrench: Wrench) -> float:
    """The highest mark that its steps come to."""
    return wrench.lowest + int((wrench.highest - wrench.lowest) / wrench.graduation + 1e-6) * wrench.graduation


def _mark(chance: random.Random, wrench: Wrench, *, edge: bool) -> float:
    """A mark of a scale: any, or the last of the thimble under a line."""
    count = int((wrench.highest - wrench.lowest) / wrench.graduation + 1e-6)
    place = chance.randint(1, count - 1)
    if edge and wrench.body_graduation is not None:
        round_ = round(wrench.body_graduation / wrench.graduation)
        place = min(place // round_ * round_ + round_ - 1, count)
    return nine_digits(wrench.lowest + place * wrench.graduation)


def set_the_scale(chance: random.Random, materials: Materials, marks: Marks) -> Course:
    """Set figures and read them back, on every kind of scale."""
    wrenches = _settable(materials)
    for number in range(TASKS):
        wrench = chance.choice(wrenches[number % len(wrenches) :] or wrenches)
        wrench = chance.choice(wrench.sides())
        wanted = _mark(chance, wrench, edge=number % 2 == 1)
        if number % 2 == 0:
            yield from _set(wrench, wanted, marks)
        else:
            yield from _read_back(wrench, wanted, marks)


def _shown(wrench: Wrench, figure: float) -> ScaleShown:
    return ScaleShown(scale=scale(wrench, figure), construction=wrench.construction, face=wrench.face, name=wrench.name)


def _set(wrench: Wrench, wanted: float, marks: Marks) -> Course:
    at, body = wrench.lowest, wrench.body_graduation or wrench.graduation * 10
    while True:
        ways = {f"{'−' if step < 0 else '+'}{abs(step):g}": step for step in (-body, -wrench.graduation, wrench.graduation, body)}
        question = DrillQuestion(ask=f"Set {wrench.name} to {wanted:g} {wrench.unit}.", picture=_shown(wrench, at), keys=keys(*ways, DONE))
        answer = yield question
        if answer.key == DONE:
            break
        at = nine_digits(min(max(at + ways.get(answer.key, 0.0), wrench.lowest), _top(wrench)))
    right = abs(at - wanted) < wrench.graduation / 100
    where = scale(wrench, wanted).words
    marks.tell(f"{wanted:g} {wrench.unit}: {where}" if right else f"It stands at {at:g}. {wanted:g} {wrench.unit} is: {where}", right=right)


def _read_back(wrench: Wrench, wanted: float, marks: Marks) -> Course:
    answer = yield DrillQuestion(ask=f"What is {wrench.name} set to, in {wrench.unit}?", picture=_shown(wrench, wanted), unit=wrench.unit)
    right = answer.figure is not None and abs(answer.figure - wanted) < wrench.graduation / 100
    said = "" if answer.figure is None else f"{answer.figure:g} was said. "
    marks.tell(
        f"{wanted:g} {wrench.unit}. {scale(wrench, wanted).words}" if right else f"{said}It is {wanted:g}: {scale(wrench, wanted).words}",
        right=right,
    )


UNITS: tuple[TorqueUnit, ...] = ("N·m", "lbf·ft", "lbf·in", "kgf·m")


def say_it_in_units(chance: random.Random, _materials: Materials, marks: Marks) -> Course:
    """Figures in another unit, among the slips that happen."""
    for _ in range(TASKS):
        written, wanted = chance.sample(UNITS, 2)
        figure = float(chance.choice((12, 15, 22, 27, 35, 48, 62, 80, 95, 110, 145, 210)))
        right = from_nm(to_nm(figure, written), wanted)
        slips = {
            show(right, wanted).figure if wanted == "N·m" else _round(right): "",
            _round(figure): "the figure was not converted",
            _round(figure * NM_PER_UNIT[wanted] / NM_PER_UNIT[written]): "it was converted the wrong way",
            _round(right * 12): "inches were taken for feet",
            _round(right / 12): "feet were taken for inches",
            _round(right * 9.80665): "kilograms were taken for newtons",
        }
        truth = next(iter(slips))
        others = [each for each in slips if each != truth]
        offered = sorted([truth, *chance.sample(others, 3)], key=float)
        answer = yield DrillQuestion(
            ask=f"The manual says {figure:g} {written}. Your wrench reads {wanted}. What do you set?",
            keys=tuple(DrillKey(key=each, say=f"{each} {wanted}") for each in offered),
        )
        good = answer.key == truth
        why = "" if good else f" {answer.key} would be if {slips.get(answer.key, 'something else happened')}."
        marks.tell(f"{figure:g} {written} is {truth} {wanted}.{why}", right=good)


def _round(figure: float) -> str:
    return f"{float(f'{figure:.3g}'):g}"


def which_wrench(chance: random.Random, materials: Materials, marks: Marks) -> Course:
    """A spec, the shop's own crib: which wrench, and at which mark."""
    bench = Bench(policy=materials.policy)
    known = [
        spec for spec in materials.specs if any(need.band is not None for need in needs(spec, next(iter(spec.procedures)), bench.policy))
    ]
    for _ in range(min(3, len(known))):
        spec = chance.choice(known)
        asked = [need for need in needs(spec, next(iter(spec.procedures)), bench.policy) if need.band is not None][-1:]
        choices = in_sequence(judge(asked, side, bench) for wrench in materials.wrenches for side in wrench.sides())
        able = [each for each in choices if not each.refused]
        if not able:
            continue
        band = asked[0].band
        assert band is not None
        offered = {f"{each.wrench.name}, {each.wrench.unit}": each for each in chance.sample(choices, min(5, len(choices)))}
        offered[f"{able[0].wrench.name}, {able[0].wrench.unit}"] = able[0]
        shown = show(band.aim(), band.unit if band.unit in NM_PER_UNIT else "N·m")  # type: ignore[arg-type]
        answer = yield DrillQuestion(
            ask=f"{spec.title}: {band.written or f'{shown.figure} {shown.unit}'}. Which wrench?", keys=keys(*sorted(offered))
        )
        chosen = offered.get(answer.key)
        best = able[0]
        right = chosen is not None and not chosen.refused and len(chosen.against) == len(best.against)
        why = "" if chosen is None else chosen.refused or " ".join(chosen.against)
        marks.tell(f"{answer.key}: good." if right else f"{why} {best.wrench.name} does it: {' '.join(best.for_it)}".strip(), right=right)
        taken = chosen if chosen is not None and right else best
        stage = taken.stages[-1]
        if taken.wrench.construction not in SET_BEFOREHAND or stage.setting is None or stage.scale is None:
            continue
        answer = yield DrillQuestion(ask=f"{taken.wrench.name}: at which mark, in {taken.wrench.unit}?", unit=taken.wrench.unit)
        good = answer.figure is not None and abs(answer.figure - stage.scale.figure) < taken.wrench.graduation / 100
        said = "" if answer.figure is None else f"{answer.figure:g} was said; "
        marks.tell(
            f"{stage.scale.figure:g} {taken.wrench.unit}."
            if good
            else f"{said}it is {stage.scale.figure:g}: the mark inside the band that is nearest.",
            right=good,
        )
