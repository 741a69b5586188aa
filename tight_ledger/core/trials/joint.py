"""The joint: n bolts in an order, passes and stages; each bolt's load pull by pull, how far the part leans, the last scatter."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.joints.layouts import Kind, Layout, ranked
from tight_ledger.core.joints.proposals import sequences
from tight_ledger.core.joints.shapes import bolt_circle, grid_points, lay_out, proposed_order, rectangle_points
from tight_ledger.core.joints.threads import parse_thread, strength
from tight_ledger.core.lab.bolts import USUAL_SHARE, LabBolt
from tight_ledger.core.lab.pages import InBooks, JointDrawn, Knobs, LabFigure, LabPage, LabPlot, PlotAxis, PlotLevel, PlotLine
from tight_ledger.core.library.sheet import main_procedure
from tight_ledger.core.mechanics.friction import lubricant
from tight_ledger.core.mechanics.stiffness import ALUMINIUM_MPA, bolt_compliance_mm_per_n
from tight_ledger.core.planning.compiler import compile_passes
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.tools.wrenches import ANY_WRENCH
from tight_ledger.core.trials.interaction import Array, Interaction, PullSequence, Tightening, reach_and_give, scatter_of

GASKETS = {"metal on metal": 20_000.0, "hard gasket": 800.0, "soft gasket": 80.0, "cork or rubber": 10.0}
"""Stiffness per area [N/mm³]. Common practice, no source."""
CREEPS = {"metal on metal": 0.01, "hard gasket": 0.05, "soft gasket": 0.12, "cork or rubber": 0.2}
"""Share of a new load that is lost after a pass. Common practice, no source."""
SHAPES = ("wheel, 5", "wheel, 8", "wheel, 10", "flange, 12", "flange, 20", "head, 2 × 5", "sump, 14", "line, 5")
STAGES = {"100": (1.0,), "50, 100": (0.5, 1.0), "30, 60, 100": (0.3, 0.6, 1.0), "25, 50, 75, 100": (0.25, 0.5, 0.75, 1.0)}
MOVES = 0.02
"""A nut that gains more than this share in the check has moved."""
TRIALS = 1_000
NONE = "none"
PLAYED = ("torque", "angle", "check")
"""Kinds of step that are played."""


@dataclass(frozen=True)
class JointAsked:
    """What is to be played: the layout, a target for each pull, the name of the procedure; from a spec of the library."""

    layout: Layout
    steps: tuple[tuple[str, str, float, float], ...]
    """(label, stage, share of what the bolt is to bear or 0, degrees turned or 0)."""
    title: str
    thread: str
    property_class: str
    """Empty where the spec does not say."""


def asked_of(spec: Spec, procedure: str, policy: Policy) -> JointAsked:
    """A spec's own layout and procedure: every pull to a torque as a share of the last, every turn in degrees.

    Args:
        procedure: its name; empty for the main one.
    Raises:
        Invalid: no such procedure, or one that cannot be followed.
    """
    name = procedure or main_procedure(spec)
    passes = [each for each in compile_passes(spec, name, (Tooling(wrench=ANY_WRENCH),), policy) if each.kind in PLAYED]
    most = max((pull.band.aim() for each in passes if each.kind == "torque" for pull in each.pulls if pull.band is not None), default=0.0)
    steps: list[tuple[str, str, float, float]] = []
    last: dict[str, float] = {}
    for number, each in enumerate(passes, start=1):
        for pull in each.pulls:
            label = pull.fastener
            if label is None:
                continue
            if each.kind == "torque" and pull.band is not None:
                last[label] = pull.band.aim() / most
                steps.append((label, f"{number}: {last[label]:.0%}", last[label], 0.0))
            elif each.kind == "angle" and pull.band is not None:
                steps.append((label, f"{number}: on by {pull.band.aim():g}°", 0.0, pull.band.aim()))
            elif each.kind == "check" and label in last:
                steps.append((label, f"{number}: check", last[label], 0.0))
    if not steps:
        raise Invalid("procedure", f"“{name}” has no pull that could be played.", "Choose a procedure that tightens.")
    kind = next(iter(spec.layout.kinds.values()))
    return JointAsked(spec.layout, tuple(steps), f"{spec.title}: {name}", kind.thread, kind.property_class)


def _bolt(thread_text: str, property_class: str) -> LabBolt:
    thread = parse_thread(thread_text)
    known = property_class or ("8.8" if thread.system == "metric" else "grade 5")
    return LabBolt(thread, strength(known, thread.diameter_mm), 2.5 * thread.diameter_mm, "aluminium", "hexagon", lubricant("oiled"))


def shape_layout(name: str) -> Layout:
    """One of the lab's own shapes.

    Args:
        name: one of `SHAPES`.
    """
    noun, _, count = name.partition(", ")
    if noun in ("wheel", "flange"):
        return bolt_circle(count=int(count), diameter_mm={"wheel": 200, "flange": 300}[noun], kind="bolt", thread="M12")
    points = {
        "head": lambda: grid_points(2, 5, 400, 90),
        "sump": lambda: rectangle_points(5, 4, 300, 200),
        "line": lambda: [(60.0 * n, 0.0) for n in range(5)],
    }[noun]()
    rows = 2 if noun == "head" else 1
    shape = {"head": "grid", "sump": "rectangle", "line": "line"}[noun]
    return lay_out(points, proposed_order(shape, points, rows), kinds={"bolt": Kind(thread="M12", noun="bolt")})


def orders_of(layout: Layout) -> dict[str, tuple[str, ...]]:
    """The orders to choose from, the layout's own first."""
    own = tuple(label for rank in layout.orders["main"] for label in ranked(rank))
    found = {"its own": own} | {way.name: way.order for way in sequences(layout)}
    return found | {"as numbered": tuple(fastener.label for fastener in layout.fasteners)}


class _Play:
    """A joint, its bolt, and one sequence of pulls."""

    def __init__(self, layout: Layout, bolt: LabBolt, gasket: float, thick_mm: float) -> None:
        self.layout, self.bolt = layout, bolt
        self.labels = [fastener.label for fastener in layout.fasteners]
        half = bolt.grip_mm / 2
        compliance = bolt_compliance_mm_per_n(thread=bolt.thread, shank_mm=half, thread_mm=half)
        reach, give = reach_and_give(modulus_mpa=ALUMINIUM_MPA, thick_mm=thick_mm, gasket_n_per_mm3=gasket)
        self.points = np.array([(fastener.x_mm, fastener.y_mm) for fastener in layout.fasteners])
        self.acts = Interaction(self.points, compliance, reach, give)
        self.aim_n = USUAL_SHARE * bolt.bears(bolt.lubricant.mid).yield_n

    def sequence(self, steps: Sequence[tuple[str, str, float, float]]) -> PullSequence:
        stages = {name: at for at, name in enumerate(dict.fromkeys(stage for _, stage, _, _ in steps))}
        pulls = [
            Tightening(
                self.labels.index(label),
                stages[stage],
                to_n=share * self.aim_n if not degrees else None,
                by_mm=degrees / 360 * self.bolt.thread.pitch_mm,
            )
            for label, stage, share, degrees in steps
        ]
        return PullSequence.of(pulls, len(self.labels), self.acts.taken)


def joint_page(said: Mapping[str, str], asked: JointAsked | None = None) -> LabPage:
    """The page as its knobs stand.

    Args:
        asked: a spec's own joint; None for the lab's own shapes.
    Raises:
        Invalid: a knob is out of its range.
    """
    knobs = Knobs(said)
    if asked is None:
        layout = shape_layout(knobs.choice("shape", "joint", SHAPES, "wheel, 8", ("order", "other", "missed")))
    else:
        layout = asked.layout
    orders = orders_of(layout)
    stages = knobs.choice("stages", "stages, in %", tuple(STAGES), "50, 100") if asked is None else ""
    check = knobs.choice("check", "a check at the end", ("yes", "no"), "no") if asked is None else ""
    order = knobs.choice("order", "order", tuple(orders), "its own") if asked is None else "its own"
    other = knobs.choice("other", "beside it", tuple(orders), "once round" if "once round" in orders else "as numbered")
    sealed = asked is None or any(mark.what == "gasket" for mark in layout.marks)
    gasket = knobs.choice("gasket", "between the faces", tuple(GASKETS), "soft gasket" if sealed else "metal on metal")
    thick_mm = knobs.slider("thick", "the part is thick", "mm", (5, 60, 1), 20)
    scatter = knobs.slider("scatter", "each pull scatters by", "%", (0, 40, 1), 20) / 100
    missed = knobs.choice("missed", "a nut is missed", (NONE, *(fastener.label for fastener in layout.fasteners)), NONE)
    skipped = knobs.choice("skipped", "the first stage is skipped", ("no", "yes"), "no")
    bolt = _bolt(asked.thread if asked is not None else "M12", asked.property_class if asked is not None else "8.8")
    play = _Play(layout, bolt, GASKETS[gasket], thick_mm)
    creep = CREEPS[gasket]
    named = [order, other] if asked is None else [asked.title, other]
    both = []
    for place, name in enumerate((order, other)):
        steps = (
            _steps(orders[name], STAGES[stages], check == "yes")
            if asked is None
            else _reordered(asked.steps, orders[name] if place else None)
        )
        both.append(_without(steps, missed, skipped == "yes"))
    played = [play.sequence(each) for each in both]
    histories = [each.play(np.ones(len(each.pulls)), creep) for each in played]
    drawn = tuple(_drawn(play, name, steps, history) for name, steps, history in zip(named, both, histories, strict=True))
    seed = np.random.default_rng(1)
    draws = np.maximum(seed.normal(1, scatter / 2, (TRIALS, len(played[0].pulls))), 0.05)
    final = played[0].trials(draws, creep)
    ends, others = histories[0][-1], histories[1][-1]
    moved = _moved(both[0], histories[0])
    leans = [max(each.leans) for each in drawn]
    return LabPage(
        name="joint",
        question="Why in that order, and why do the middle ones turn again?",
        answer=_answer(order if asked is None else "its own", other, leans, (scatter_of(ends), scatter_of(others)), moved),
        tone="bad" if ends.min() < 0.5 * ends.mean() else "plain",
        knobs=tuple(knobs.all),
        drawn=drawn,
        figures=(
            LabFigure(
                name="leans by up to", words=f"{leans[0]:.3f} mm, beside it {leans[1]:.3f}", tone="good" if leans[0] <= leans[1] else "bad"
            ),
            LabFigure(
                name="scatter at the end, nothing else scattering", words=f"{scatter_of(ends):.0%}, beside it {scatter_of(others):.0%}"
            ),
            LabFigure(
                name=f"with pulls that scatter by ±{scatter:.0%}",
                words=f"{np.mean([scatter_of(each) for each in final]):.0%} in the middle of {TRIALS:,}",
            ),
            LabFigure(
                name="least at the end",
                words=f"{layout.fasteners[int(ends.argmin())].label} with {ends.min() / play.aim_n:.0%}",
                tone="bad" if ends.min() < 0.5 * play.aim_n else "plain",
            ),
            LabFigure(
                name="turn again in the check",
                words=", ".join(f"{label} +{more:.0%}" for label, more in moved.items()) or "no check, or none",
            ),
        ),
        plots=(_loads_plot(play, ends, others, final), _lean_plot(drawn)),
        formula="u = (δ I + G) F;  G = g · e^(−r / l)",
        books=(
            InBooks(
                words="Tightening a bolt takes load from its neighbours; a second round at the same figure gives it back.",
                source="ASME PCC-1 (from memory)",
            ),
            InBooks(
                words="Crossing keeps the part even while it closes. It does not make the loads of one round more alike.",
                source="derived, see the figures",
            ),
            InBooks(words="After a turn into yield no check: the nuts are not pulled again.", source="common practice, no source"),
        ),
        assumed=(
            f"{bolt.thread.designation} {bolt.strength.name}, oiled, drawn to 90 % of yield; the part is of aluminium.",
            "What one bolt presses in fades with distance as e^(−r / l).",
            f"The gasket loses {creep:.0%} of a load that is new after each round.",
        ),
    )


Steps = tuple[tuple[str, str, float, float], ...]


def _steps(order: Sequence[str], stages: Sequence[float], check: bool) -> Steps:
    found = [(label, f"{share:.0%}", share, 0.0) for share in stages for label in order]
    return (*found, *((label, "check", stages[-1], 0.0) for label in order if check))


def _reordered(steps: Steps, order: Sequence[str] | None) -> Steps:
    """The same stages in another order within each."""
    if order is None:
        return steps
    place = {label: at for at, label in enumerate(order)}
    stages = list(dict.fromkeys(stage for _, stage, _, _ in steps))
    return tuple(sorted(steps, key=lambda each: (stages.index(each[1]), place[each[0]])))


def _without(steps: Steps, missed: str, skipped: bool) -> Steps:
    first = steps[0][1] if skipped and len({stage for _, stage, _, _ in steps}) > 1 else None
    return tuple(each for each in steps if each[0] != missed and each[1] != first)


def _drawn(play: _Play, name: str, steps: Steps, history: Array) -> JointDrawn:
    return JointDrawn(
        points=play.layout.fasteners,
        name=name,
        pulls=tuple(label for label, _, _, _ in steps),
        loads=tuple(tuple(float(load / play.aim_n) for load in row) for row in history),
        leans=tuple(play.acts.lean(row) for row in history),
        stages=tuple(stage for _, stage, _, _ in steps),
    )


def _moved(steps: Steps, history: Array) -> dict[str, float]:
    """The nuts that are pulled again to the figure that they had, and gain: by how much of it."""
    reached: dict[str, float] = {}
    gained: dict[str, float] = {}
    for at, (label, _, share, _) in enumerate(steps):
        if share and reached.get(label) == share:
            more = float(np.max(history[at] - history[at - 1]) / history[at].max())
            gained[label] = max(more, gained.get(label, 0.0))
        reached[label] = share
    return {label: more for label, more in gained.items() if more > MOVES}


def _answer(order: str, other: str, leans: Sequence[float], ends: tuple[float, float], moved: Mapping[str, float]) -> str:
    first = f"In the order “{order}” the part leans by up to {leans[0]:.2f} mm while it closes; in “{other}” by up to {leans[1]:.2f} mm."
    second = f" The loads end {ends[0]:.0%} apart; beside it {ends[1]:.0%}."
    many = "the nut" if len(moved) == 1 else f"{len(moved)} nuts"
    third = (
        f" In the check {many} turn again, by up to {max(moved.values()):.0%}: neighbours and gasket took load from them." if moved else ""
    )
    return first + second + third


def _loads_plot(play: _Play, ends: Array, others: Array, final: Array) -> LabPlot:
    x = tuple(float(n + 1) for n in range(len(ends)))
    low, high = (tuple(float(each) for each in np.percentile(final, share, axis=0) / play.aim_n * 100) for share in (2.5, 97.5))
    return LabPlot(
        name="loads",
        title="Each bolt's load at the end",
        x=PlotAxis(title="bolt [place in the layout]", low=0.5, high=len(ends) + 0.5),
        y=PlotAxis(title="of what is meant [%]", low=0, high=max(120.0, max(high) * 1.1)),
        lines=(
            PlotLine(name="95 of 100, with scatter", tone="faint", x=x, y=low, upper=high),
            PlotLine(name="this order", x=x, y=tuple(float(each / play.aim_n * 100) for each in ends)),
            PlotLine(name="beside it", tone="plain", dashed=True, x=x, y=tuple(float(each / play.aim_n * 100) for each in others)),
        ),
        levels=(PlotLevel(name="meant", at=100, along="y", tone="good"),),
    )


def _lean_plot(drawn: Sequence[JointDrawn]) -> LabPlot:
    most = max(max(each.leans) for each in drawn)
    names = ("this order", "beside it")
    return LabPlot(
        name="lean",
        title="How far the part leans, pull by pull",
        x=PlotAxis(title="pull", low=0, high=max(len(each.pulls) for each in drawn)),
        y=PlotAxis(title="one side deeper by [mm]", low=0, high=most * 1.15 or 0.01),
        lines=tuple(
            PlotLine(
                name=name,
                tone="main" if place == 0 else "plain",
                dashed=place > 0,
                x=tuple(float(n) for n in range(len(each.leans) + 1)),
                y=(0.0, *each.leans),
            )
            for place, (name, each) in enumerate(zip(names, drawn, strict=True))
        ),
    )
