"""One bolt: where a pull's torque goes, what it leaves as clamp load, and what another lubricant does at the same torque."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Literal

from tight_ledger.core.lab.bolts import SEATS, LabBolt, bolt_of, kn
from tight_ledger.core.lab.pages import (
    BoltDrawn,
    InBooks,
    Knobs,
    LabFigure,
    LabPage,
    LabPlot,
    PlotAxis,
    PlotLevel,
    PlotLine,
    PlotRow,
    SharePart,
    Tone,
)
from tight_ledger.core.mechanics.friction import FrictionRange, TorqueParts, loosening_nm, lubricant, lubricants
from tight_ledger.core.mechanics.stiffness import turn_deg

FORWARD, BACKWARD = "a torque gives a clamp load", "a clamp load needs a torque"
POINTS = 60
ASSUMED = (
    "The bolt is just as strong as its class promises, and no stronger.",
    "Half of the grip is plain shank, half is thread.",
    "The friction is the same in the thread and under the head, unless the face is scored.",
    "Twist spreads over the whole section of the bolt (plastic torsion).",
    "The curve beyond yield is a shape, not a measurement.",
)
BOOKS = (
    InBooks(
        words="T = F (P / 2π + 0.577 μ d2 + 0.5 μ D_b): about 15 % stretches an oiled M10, 38 % stays in the thread, 47 % under the head.",
        source="ISO 16047, VDI 2230-1 (from memory)",
    ),
    InBooks(
        words="Friction by what is on the thread: paste 0.04 to 0.10, oiled 0.08 to 0.16, dry 0.14 to 0.24, dry and rough 0.20 to 0.35.",
        source="VDI 2230-1, table A5 (from memory)",
    ),
    InBooks(words="Ten to fifteen in a hundred hold; the rest is friction.", source="common practice, no source"),
)


def one_bolt(said: Mapping[str, str]) -> LabPage:
    """The page as its knobs stand.

    Raises:
        Invalid: a knob is out of its range.
    """
    knobs = Knobs(said)
    way = knobs.choice("way", "which way", (FORWARD, BACKWARD), FORWARD)
    bolt = bolt_of(knobs, ("torque", "clamp"))
    mid = bolt.lubricant.mid
    widest = max(lubricants(), key=lambda each: each.high)
    most_nm = _round_up(replace(bolt, lubricant=widest).parts(bolt.bears(widest.high).yield_n, widest.high).whole_nm * 1.1)
    most_kn = _round_up(bolt.bears(mid).most_n / 1_000)
    if way == FORWARD:
        usual = replace(bolt, seat="hexagon", washer="sound", lubricant=lubricant("oiled"))
        torque_nm = knobs.slider("torque", "torque", "N·m", (1, most_nm, 1), usual.usual_nm)
    else:
        clamp_kn = knobs.slider("clamp", "clamp load", "kN", (1, most_kn, 1), max(1, round(0.9 * bolt.bears(mid).yield_n / 1_000)))
        torque_nm = bolt.parts(clamp_kn * 1_000, mid).whole_nm
    state = _State(bolt, torque_nm)
    return LabPage(
        name="bolt",
        question="Where does my torque go?",
        answer=state.answer if way == FORWARD else state.backwards(clamp_kn),
        tone=state.tone,
        knobs=knobs.with_first("torque" if way == FORWARD else "clamp"),
        drawn=(state.drawn,),
        shares=state.shares,
        figures=state.figures,
        plots=(_by_lubricant(bolt, torque_nm), _turn_plot(state), _torque_plot(state, most_nm), _by_seat(bolt, torque_nm)),
        formula="T = F · (P / 2π + 0.577 · μ · d2 + 0.5 · μ · D_b)",
        books=BOOKS,
        assumed=ASSUMED,
    )


class _State:
    """A bolt at a torque."""

    def __init__(self, bolt: LabBolt, torque_nm: float) -> None:
        self.bolt, self.torque_nm, self.mid = bolt, torque_nm, bolt.lubricant.mid
        self.clamp_n = bolt.clamp_n(torque_nm, self.mid)
        self.low_n, self.high_n = (bolt.clamp_n(torque_nm, each) for each in (bolt.lubricant.high, bolt.lubricant.low))
        self.bears = bolt.bears(self.mid)
        self.turning = bolt.turning(self.mid)
        self.parts: TorqueParts = bolt.parts(self.clamp_n, self.mid)
        self.turned_deg = _turned_deg(self)

    @property
    def breaks(self) -> bool:
        return self.clamp_n > self.bears.most_n

    @property
    def yields(self) -> bool:
        return self.clamp_n > self.bears.yield_n

    @property
    def tone(self) -> Tone:
        slippery = self.high_n > self.bolt.bears(self.bolt.lubricant.low).yield_n
        return "bad" if self.yields or slippery else "plain"

    @property
    def answer(self) -> str:
        of, name = self.parts.stretch_nm / self.parts.whole_nm, self.bolt.thread.designation
        first = f"Of {self.torque_nm:.0f} N·m on this {name} about {of:.0%} stretches the bolt; {1 - of:.0%} goes into friction."
        if self.breaks:
            return f"{first} It is more than the bolt bears: it breaks."
        if self.yields:
            return f"{first} It is past its yield, and stays longer."
        low, high = self.low_n / 1_000, self.high_n / 1_000
        over = " With the least friction it is past its yield." if self.tone == "bad" else ""
        return (
            f"{first} It holds with {low:.3g} to {high:.3g} kN, {self.clamp_n / self.bears.yield_n:.0%} of its yield in the middle.{over}"
        )

    def backwards(self, clamp_kn: float) -> str:
        """The answer from a wanted clamp load."""
        low, high = (self.bolt.parts(clamp_kn * 1_000, each).whole_nm for each in (self.bolt.lubricant.low, self.bolt.lubricant.high))
        return (
            f"For {clamp_kn:g} kN this {self.bolt.thread.designation} wants {low:.0f} to {high:.0f} N·m, "
            f"as the friction has it; {self.torque_nm:.0f} N·m in the middle."
        )

    @property
    def drawn(self) -> BoltDrawn:
        stays = self.turning.set_at_mm(self.clamp_n) if self.yields else 0.0
        return BoltDrawn(
            diameter_mm=self.bolt.thread.diameter_mm,
            grip_mm=self.bolt.grip_mm,
            of_yield=min(self.clamp_n / self.bears.yield_n, 2),
            stretch_mm=self.turned_deg * self.bolt.thread.pitch_mm / 360,
            stays_mm=stays,
            broken=self.breaks,
            seat=self.bolt.seat,
        )

    @property
    def shares(self) -> tuple[SharePart, ...]:
        named: tuple[tuple[str, float, Tone], ...] = (
            ("stretches the bolt", self.parts.stretch_nm, "main"),
            ("friction in the thread", self.parts.thread_nm, "plain"),
            ("friction under the head", self.parts.head_nm, "faint"),
        )
        return tuple(
            SharePart(name=name, share=part / self.parts.whole_nm, words=f"{part:.3g} N·m", tone=tone) for name, part, tone in named
        )

    @property
    def figures(self) -> tuple[LabFigure, ...]:
        stand: Tone = "bad" if self.yields else "good"
        return (
            LabFigure(name="clamp load", words=f"{kn(self.clamp_n)} ({self.low_n / 1_000:.3g} to {self.high_n / 1_000:.3g})"),
            LabFigure(name="of its yield", words=f"{self.clamp_n / self.bears.yield_n:.0%}", tone=stand),
            LabFigure(name="turn after snug", words="it breaks" if self.breaks else f"{self.turned_deg:.0f}°"),
            LabFigure(name="to loosen it again", words=f"{loosening_nm(self.parts):.0f} N·m"),
            LabFigure(name="nut factor K", words=f"{self.parts.whole_nm / (self.clamp_n * self.bolt.thread.diameter_mm / 1_000):.3f}"),
        )


def _turned_deg(state: _State) -> float:
    if state.breaks:
        return state.turning.breaks_at_deg
    if state.yields:
        return state.turning.turned_deg(state.turning.set_at_mm(state.clamp_n))
    return turn_deg(clamp_n=state.clamp_n, compliance_mm_per_n=state.turning.compliance_mm_per_n, pitch_mm=state.bolt.thread.pitch_mm)


def _round_up(figure: float) -> float:
    step = 5 if figure < 100 else 50
    return (int(figure / step) + 1) * step


def _levels(bolt: LabBolt, along: Literal["x", "y"]) -> tuple[PlotLevel, ...]:
    limits = bolt.bears(bolt.lubricant.mid)
    return (
        PlotLevel(name="yield", at=limits.yield_n / 1_000, along=along, tone="bad"),
        PlotLevel(name="breaks", at=limits.most_n / 1_000, along=along, tone="bad"),
    )


def _row(name: str, bolt: LabBolt, torque_nm: float, *, here: bool) -> PlotRow:
    friction: FrictionRange = bolt.lubricant
    low, mid, high = (bolt.clamp_n(torque_nm, each) for each in (friction.high, friction.mid, friction.low))
    limits = bolt.bears(friction.low)
    words = "breaks" if high > limits.most_n else "past yield" if high > limits.yield_n else ""
    tone: Tone = "bad" if words else "main" if here else "plain"
    cap = limits.most_n  # there it breaks: it never holds more
    return PlotRow(name=name, low=min(low, cap) / 1_000, mid=min(mid, cap) / 1_000, high=min(high, cap) / 1_000, tone=tone, words=words)


def _by_lubricant(bolt: LabBolt, torque_nm: float) -> LabPlot:
    rows = [_row(each.name, replace(bolt, lubricant=each), torque_nm, here=each == bolt.lubricant) for each in lubricants()]
    far = bolt.bears(lubricants()[0].low).most_n * 1.2 / 1_000
    return LabPlot(
        name="lubricants",
        title=f"The same {torque_nm:.0f} N·m on another lubricant",
        x=PlotAxis(title="clamp load [kN]", low=0, high=far),
        rows=tuple(rows),
        levels=_levels(bolt, "x"),
    )


def _by_seat(bolt: LabBolt, torque_nm: float) -> LabPlot:
    kinds = [(f"{seat}, sound", replace(bolt, seat=seat, washer="sound")) for seat in SEATS]
    kinds.append((f"{bolt.seat}, scored", replace(bolt, washer="scored")))
    rows = [_row(name, each, torque_nm, here=each == bolt) for name, each in kinds]
    return LabPlot(
        name="seats",
        title=f"The same {torque_nm:.0f} N·m on another seat",
        x=PlotAxis(title="clamp load [kN]", low=0, high=bolt.bears(bolt.lubricant.low).most_n * 1.2 / 1_000),
        rows=tuple(rows),
        levels=_levels(bolt, "x"),
    )


def _turn_plot(state: _State) -> LabPlot:
    turning, snug_deg = state.turning, 30.0
    far = turning.breaks_at_deg
    per_n = state.bolt.parts(1.0, state.mid).whole_nm
    degrees, loads = turning.curve(POINTS)
    torque = [each * per_n for each in loads]
    ahead = turning.yields_at_deg * 1.25
    elastic = PlotLine(
        name="elastic line",
        tone="faint",
        dashed=True,
        x=(snug_deg, snug_deg + ahead),
        y=(0.0, turning.bears.yield_n * per_n * 1.25),
    )
    curve = PlotLine(
        name="torque over turn",
        x=(0.0, *(snug_deg + each for each in degrees), snug_deg + far),
        y=(0.0, *torque, 0.0),
    )
    here = PlotLevel(name="here", at=snug_deg + state.turned_deg, along="x", tone="main")
    levels = (
        PlotLevel(name="snug", at=snug_deg, along="x"),
        PlotLevel(name="yield", at=snug_deg + turning.yields_at_deg, along="x", tone="bad"),
        here,
    )
    return LabPlot(
        name="turn",
        title="Torque over the nut's turn, until it breaks",
        x=PlotAxis(title="turn [°]", low=0, high=snug_deg + far * 1.05),
        y=PlotAxis(title="torque [N·m]", low=0, high=max(torque) * 1.25),
        lines=(elastic, curve),
        levels=levels,
    )


def _torque_plot(state: _State, most_nm: float) -> LabPlot:
    friction = state.bolt.lubricant
    high = state.bears.most_n * 1.2 / 1_000
    ends = [state.bolt.clamp_n(most_nm, each) / 1_000 for each in (friction.high, friction.mid, friction.low)]
    band = PlotLine(
        name=f"{friction.name}: from most to least friction", tone="faint", x=(0.0, most_nm), y=(0.0, ends[0]), upper=(0.0, ends[2])
    )
    mid = PlotLine(name="middle friction", x=(0.0, most_nm), y=(0.0, ends[1]))
    here = PlotLevel(name="this torque", at=state.torque_nm, along="x", tone="main")
    return LabPlot(
        name="torque",
        title="Clamp load over torque",
        x=PlotAxis(title="torque [N·m]", low=0, high=most_nm),
        y=PlotAxis(title="clamp load [kN]", low=0, high=high),
        lines=(band, mid),
        levels=(*_levels(state.bolt, "y"), here),
    )
