"""What a page of the lab is made of: knobs to turn, one answer, drawings, what the books say.

A page is a function of its knobs. The state of a page is what its knobs say, as text; so a link brings it back.
"""

from collections.abc import Mapping, Sequence
from typing import Literal

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.layouts import Fastener

Tone = Literal["main", "plain", "faint", "good", "bad"]


class Knob(Model):
    """Something to turn: a slider, or a choice among options."""

    name: str
    label: str
    value: str
    unit: str = ""
    low: float = 0
    high: float = 0
    step: float = 0
    """Of a slider; 0 for a choice."""
    options: tuple[str, ...] = ()
    resets: tuple[str, ...] = ()
    """Knobs whose range hangs on this: they begin anew when it is turned."""


class Knobs:
    """The knobs of a page, read one after the other; each is noted with its range and what it says."""

    def __init__(self, said: Mapping[str, str]) -> None:
        self.said = said
        self.all: list[Knob] = []

    def slider(self, name: str, label: str, unit: str, span: tuple[float, float, float], start: float) -> float:
        """A figure in a range.

        Args:
            span: lowest, highest, step.
            start: where it stands while nobody has turned it.
        Raises:
            Invalid: what is said is no figure, or out of range.
        """
        low, high, step = span
        text = self.said.get(name, "")
        try:
            value = float(text) if text else start
        except ValueError:
            value = float("nan")
        if not low <= value <= high:  # this way round, NaN is refused too
            raise Invalid(
                name, f"{label}: “{text}” is not between {low:g} and {high:g} {unit}.".replace(" .", "."), "Move it into its range."
            )
        self.all.append(Knob(name=name, label=label, value=f"{value:g}", unit=unit, low=low, high=high, step=step))
        return value

    def choice(self, name: str, label: str, options: Sequence[str], start: str, resets: tuple[str, ...] = ()) -> str:
        """One of several.

        Args:
            start: which of them while nobody has chosen.
            resets: knobs whose range hangs on it.
        Raises:
            Invalid: what is said is none of them.
        """
        value = self.said.get(name) or start
        if value not in options:
            raise Invalid(name, f"{label}: “{value}” is not known.", f"It can be {', '.join(options)}.")
        self.all.append(Knob(name=name, label=label, value=value, options=tuple(options), resets=resets))
        return value

    def with_first(self, name: str) -> tuple[Knob, ...]:
        """All knobs, the one that is turned most before the others."""
        return tuple(sorted(self.all, key=lambda knob: knob.name != name))


class PlotAxis(Model):
    """What is measured along an axis, with its unit, from where to where."""

    title: str
    low: float
    high: float


class PlotLine(Model):
    """A line, or with `upper` a band between two."""

    name: str
    tone: Tone = "main"
    x: tuple[float, ...]
    y: tuple[float, ...]
    upper: tuple[float, ...] = ()
    dashed: bool = False


class PlotLevel(Model):
    """A figure drawn right across: a limit, or where one stands."""

    name: str
    at: float
    along: Literal["x", "y"]
    tone: Tone = "plain"


class PlotRow(Model):
    """A row over the x axis: from, middle, to; or a histogram of shares."""

    name: str
    low: float
    mid: float
    high: float
    tone: Tone = "main"
    shares: tuple[float, ...] = ()
    """By class of the x axis, which is divided evenly."""
    words: str = ""


class LabPlot(Model):
    """A plot: lines over two axes, or rows over one."""

    name: str
    title: str
    x: PlotAxis
    y: PlotAxis | None = None
    lines: tuple[PlotLine, ...] = ()
    rows: tuple[PlotRow, ...] = ()
    levels: tuple[PlotLevel, ...] = ()


class SharePart(Model):
    """A part of a whole."""

    name: str
    share: float
    words: str
    tone: Tone = "main"


class LabFigure(Model):
    """A figure of this joint, as it is said."""

    name: str
    words: str
    tone: Tone = "plain"


class InBooks(Model):
    """What the books say."""

    words: str
    source: str


class BoltDrawn(Model):
    """A bolt in its joint, for a drawing: lengths [mm], how far along to its yield it is."""

    kind: Literal["bolt"] = "bolt"
    diameter_mm: float
    grip_mm: float
    of_yield: float
    stretch_mm: float
    stays_mm: float = 0
    """Of the stretch, what does not spring back."""
    broken: bool = False
    seat: str = "hexagon"


class WheelDrawn(Model):
    """A wheel on its hub, for a drawing."""

    kind: Literal["wheel"] = "wheel"
    studs: int
    circle_mm: float
    tyre_mm: float
    held: float
    """What friction carries, over what is asked of it."""
    slips: bool


class WrenchDrawn(Model):
    """A wrench from above, for a drawing: lengths [mm], angles [°]."""

    kind: Literal["wrench"] = "wrench"
    lever_mm: float
    hand_mm: float
    crowfoot_mm: float
    crowfoot_deg: float
    extension_mm: float
    windup_deg: float
    bend_deg: float
    multiplier: float


class JointDrawn(Model):
    """The bolts of a joint pull by pull, for a drawing."""

    kind: Literal["joint"] = "joint"
    points: tuple[Fastener, ...]
    name: str
    pulls: tuple[str, ...]
    """The label of each pull."""
    loads: tuple[tuple[float, ...], ...]
    """After each pull, each bolt's load over what it is to bear."""
    leans: tuple[float, ...]
    """After each pull, how far one side stands deeper than the other [mm]."""
    stages: tuple[str, ...]
    """The stage of each pull."""


Drawn = BoltDrawn | WheelDrawn | WrenchDrawn | JointDrawn


ESTIMATE = "Every figure here is an estimate for learning. The maker's manual, local rules and licensed practice come first."


class LabPage(Model):
    """A page of the lab as its knobs stand."""

    name: str
    question: str
    answer: str
    tone: Tone = "plain"
    """Of the answer: bad if this joint comes to harm."""
    knobs: tuple[Knob, ...]
    drawn: tuple[Drawn, ...] = ()
    shares: tuple[SharePart, ...] = ()
    figures: tuple[LabFigure, ...] = ()
    plots: tuple[LabPlot, ...] = ()
    formula: str = ""
    books: tuple[InBooks, ...] = ()
    assumed: tuple[str, ...] = ()
    caution: str = ESTIMATE
