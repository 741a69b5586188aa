"""Reuse: a bolt that was turned into yield once, and is to be turned in again."""

from collections.abc import Callable, Mapping

from tight_ledger.core.lab.bolts import bolt_of, kn
from tight_ledger.core.lab.pages import BoltDrawn, InBooks, Knobs, LabFigure, LabPage, LabPlot, PlotAxis, PlotLevel, PlotLine

POINTS = 60
LIMIT_SHARE = 0.25
"""Of the way from yield to the most that it bears. Common practice, no source: a maker's length limit comes first."""


def reuse(said: Mapping[str, str]) -> LabPage:
    """The page as its knobs stand.

    Raises:
        Invalid: a knob is out of its range.
    """
    knobs = Knobs(said)
    bolt = bolt_of(knobs, ("angle", "times"), seats=False)
    turning = bolt.turning(bolt.lubricant.mid)
    most_deg = (int(turning.breaks_at_deg / 15) + 1) * 15
    start = min(round((turning.yields_at_deg * 1.4 + 10) / 15) * 15, most_deg)
    angle_deg = knobs.slider("angle", "turned from snug each time", "°", (15, most_deg, 15), max(start, 15))
    times = int(knobs.slider("times", "how often", "", (1, 10, 1), 2))
    each: list[tuple[float, float]] = []
    set_mm, way_mm = 0.0, angle_deg * bolt.thread.pitch_mm / 360
    for _ in range(times):
        set_mm = turning.set_after_mm(way_mm, set_mm)
        broken = set_mm >= turning.ductile_mm
        load_n = 0.0 if broken else min(way_mm / turning.compliance_mm_per_n, turning.after_set_n(set_mm))
        each.append((set_mm, load_n))
    broken_at = next((n for n, (_, load) in enumerate(each, start=1) if load == 0), None)
    left = 1 - min(set_mm / (0.5 * turning.ductile_mm), 1)
    limit_mm = LIMIT_SHARE * turning.ductile_mm
    over = next((n for n, (so_far, _) in enumerate(each, start=1) if so_far > limit_mm), None)
    if broken_at is not None:
        answer = f"Turned {angle_deg:.0f}° from snug each time, this bolt breaks the {_nth(broken_at)} time."
    elif set_mm == 0:
        answer = f"Turned {angle_deg:.0f}° from snug this bolt never yields: it springs back, and is as long as before."
    else:
        answer = (
            f"After {times} time{'s' if times > 1 else ''} this bolt is {set_mm:.2f} mm longer for good, and "
            f"{left:.0%} of what it can give before it necks is left."
        )
    return LabPage(
        name="reuse",
        question="It was turned into yield. Can I use it again?",
        answer=answer,
        tone="bad" if broken_at is not None or over is not None else "plain",
        knobs=knobs.with_first("angle"),
        drawn=(
            BoltDrawn(
                diameter_mm=bolt.thread.diameter_mm,
                grip_mm=bolt.grip_mm,
                of_yield=min(each[-1][1] / turning.bears.yield_n, 2),
                stretch_mm=set_mm + each[-1][1] * turning.compliance_mm_per_n,
                stays_mm=set_mm,
                broken=broken_at is not None,
            ),
        ),
        figures=(
            LabFigure(name="longer for good", words=f"{set_mm:.2f} mm", tone="bad" if set_mm > limit_mm else "plain"),
            LabFigure(name="why a limit: a maker would print about", words=f"{limit_mm:.2f} mm"),
            LabFigure(name="clamp load the last time", words="broken" if broken_at else kn(each[-1][1])),
            LabFigure(name="left before it necks", words=f"{left:.0%}", tone="bad" if left < 0.5 else "good"),
        ),
        plots=(
            _length_plot([0.0, *(so_far for so_far, _ in each)], limit_mm, 0.5 * turning.ductile_mm),
            _load_plot(turning.bears.yield_n, [(so_far, load) for so_far, load in each], turning.ductile_mm, turning.after_set_n),
        ),
        formula="stays longer by: turn · P / 360 − F · (δ_bolt + δ_joint)",
        books=(
            InBooks(
                words="Torque to yield: replace, or measure the length against the maker's limit.", source="common practice, no source"
            ),
            InBooks(words="A set of more than 0.025 mm after a release: replace the rod bolt.", source="common practice, no source"),
            InBooks(
                words="Elongation after fracture: at least 12 % for 8.8, 9 % for 10.9, 8 % for 12.9.", source="ISO 898-1 (from memory)"
            ),
        ),
        assumed=(
            "Half of the grip is thread; only that part stretches for good.",
            "It is turned in with the same friction each time. In truth a used thread rubs more.",
            "The curve beyond yield is a shape, not a measurement.",
        ),
    )


def _nth(number: int) -> str:
    return {1: "first", 2: "second", 3: "third"}.get(number, f"{number}th")


def _length_plot(sets: list[float], limit_mm: float, necks_mm: float) -> LabPlot:
    high = max(*sets, necks_mm) * 1.15
    return LabPlot(
        name="length",
        title="How much longer it stays, time by time",
        x=PlotAxis(title="time", low=0, high=max(len(sets) - 1, 1)),
        y=PlotAxis(title="longer for good [mm]", low=0, high=high),
        lines=(PlotLine(name="length", x=tuple(float(n) for n in range(len(sets))), y=tuple(sets)),),
        levels=(
            PlotLevel(name="a maker's limit, about", at=limit_mm, along="y"),
            PlotLevel(name="it necks", at=necks_mm, along="y", tone="bad"),
        ),
    )


def _load_plot(yield_n: float, each: list[tuple[float, float]], ductile_mm: float, load_of: Callable[[float], float]) -> LabPlot:
    x = [ductile_mm * n / POINTS for n in range(POINTS)]
    y = [load_of(at) / 1_000 for at in x]
    here = tuple(
        PlotLevel(name=f"time {n}", at=at, along="x", tone="main") for n, (at, _) in enumerate(each, start=1) if n in (1, len(each))
    )
    return LabPlot(
        name="load",
        title="From which load it yields, by how far it was stretched before",
        x=PlotAxis(title="stretched for good before [mm]", low=0, high=ductile_mm),
        y=PlotAxis(title="load [kN]", low=0, high=max(y) * 1.2),
        lines=(PlotLine(name="yields from here", x=tuple(x), y=tuple(y)),),
        levels=(PlotLevel(name="new", at=yield_n / 1_000, along="y"), *here),
    )
