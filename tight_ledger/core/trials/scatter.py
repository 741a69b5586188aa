"""Scatter: the same bolt tightened a thousand times by feel, click wrench, torque and angle, into yield, by stretch."""

from collections.abc import Mapping

import numpy as np

from tight_ledger.core.lab.bolts import LabBolt, bolt_of
from tight_ledger.core.lab.pages import InBooks, Knobs, LabFigure, LabPage, LabPlot, PlotAxis, PlotLevel, PlotRow, Tone
from tight_ledger.core.trials.interaction import Array

TRIALS = 1_000
CLASSES = 60
FEEL, IMPACT, CLICK, ELECTRONIC = 0.35, 0.50, 0.06, 0.02
"""Two standard deviations of the torque, as a share. A click wrench: ±4 % (ISO 6789-1) and its hand; feel ±35 % (MIL-HDBK-60,
from memory); the others common practice, no source."""
SNUG_SHARE, TURN_SCATTER, GAUGE_SCATTER, STRENGTH_SCATTER = 0.3, 0.08, 0.05, 0.06
PUBLISHED = {
    "by feel": "about 2.1",
    "impact driver": "2.5 to 4",
    "click wrench": "1.6 to 2.5",
    "electronic wrench": "1.6 to 2.5",
    "torque and angle": "1.2 to 1.4",
    "into yield": "1.2 to 1.4",
    "by stretch": "1.1 to 1.2",
}
"""Tightening factors: VDI 2230-1, from memory; by stretch: common practice, no source."""


def clamp_loads(bolt: LabBolt, torque_nm: float, chance: np.random.Generator, count: int = TRIALS) -> dict[str, Array]:
    """Clamp loads by method, the same friction drawn for all [N].

    Args:
        torque_nm: what is meant at the middle of the friction [N·m].
        count: number of trials.
    """
    lubricant = bolt.lubricant
    friction = np.clip(chance.normal(lubricant.mid, (lubricant.high - lubricant.low) / 4, count), 0.02, 0.6)
    per_n = bolt.parts(1.0, lubricant.low).whole_nm
    slope = (bolt.parts(1.0, lubricant.high).whole_nm - per_n) / (lubricant.high - lubricant.low)
    nm_per_n = per_n + slope * (friction - lubricant.low)  # the torque grows straight with the friction
    meant_n = bolt.clamp_n(torque_nm, lubricant.mid)

    def by_torque(share: float) -> Array:
        return np.asarray(torque_nm * np.maximum(chance.normal(1, share / 2, count), 0.05) / nm_per_n)

    snug = SNUG_SHARE * by_torque(CLICK)
    turned = (1 - SNUG_SHARE) * meant_n * chance.normal(1, TURN_SCATTER / 2, count)
    yields = np.interp(friction, *_yield_over_friction(bolt)) * chance.normal(1 + STRENGTH_SCATTER, STRENGTH_SCATTER / 2, count)
    found = {
        "by feel": by_torque(FEEL),
        "impact driver": by_torque(IMPACT),
        "click wrench": by_torque(CLICK),
        "electronic wrench": by_torque(ELECTRONIC),
        "torque and angle": snug + turned,
        "into yield": yields,
        "by stretch": meant_n * chance.normal(1, GAUGE_SCATTER / 2, count),
    }
    return {name: np.asarray(loads, dtype=np.float64) for name, loads in found.items()}


def _yield_over_friction(bolt: LabBolt) -> tuple[list[float], list[float]]:
    at = [0.02 + 0.02 * n for n in range(30)]
    return at, [bolt.bears(each).yield_n for each in at]


def scatter_page(said: Mapping[str, str]) -> LabPage:
    """The page as its knobs stand.

    Raises:
        Invalid: a knob is out of its range.
    """
    knobs = Knobs(said)
    bolt = bolt_of(knobs, ("torque",), seats=False)
    most_nm = round(bolt.usual_nm * 1.6)
    torque_nm = knobs.slider("torque", "torque that is meant", "N·m", (1, most_nm, 1), round(bolt.usual_nm * 0.8))
    needed = knobs.slider("needed", "loose below, of what is meant", "%", (20, 100, 5), 70) / 100
    draw = int(knobs.slider("draw", "another thousand", "", (1, 99, 1), 1))
    meant_n, yield_n = bolt.clamp_n(torque_nm, bolt.lubricant.mid), bolt.bears(bolt.lubricant.mid).yield_n
    loads = clamp_loads(bolt, torque_nm, np.random.default_rng(draw))
    far = max(float(np.percentile(np.concatenate(list(loads.values())), 99.8)), yield_n * 1.2) / 1_000
    rows = [_row(name, each, far, needed * meant_n, yield_n) for name, each in loads.items()]
    click = loads["click wrench"]
    past = float((click > yield_n).mean())
    loose = float((click < needed * meant_n).mean())
    return LabPage(
        name="scatter",
        question="My wrench is good to four in a hundred. Is my bolt?",
        answer=(
            f"The wrench is, the bolt is not: a click wrench at {torque_nm:.0f} N·m leaves {np.percentile(click, 2.5) / 1_000:.3g} to "
            f"{np.percentile(click, 97.5) / 1_000:.3g} kN, because the friction differs from bolt to bolt; "
            f"{loose:.0%} end loose, {past:.0%} past yield."
        ),
        tone="bad" if past > 0.02 or loose > 0.02 else "plain",
        knobs=knobs.with_first("torque"),
        figures=(
            LabFigure(name="meant", words=f"{meant_n / 1_000:.3g} kN"),
            LabFigure(name="tightening factor, click wrench", words=f"{_factor(click):.2f}, in print {PUBLISHED['click wrench']}"),
            LabFigure(name="torque and angle", words=f"{_factor(loads['torque and angle']):.2f}, in print {PUBLISHED['torque and angle']}"),
            LabFigure(name="by stretch", words=f"{_factor(loads['by stretch']):.2f}"),
        ),
        plots=(
            LabPlot(
                name="methods",
                title=f"{TRIALS:,} bolts by each method: what they hold with",
                x=PlotAxis(title="clamp load [kN]", low=0, high=far),
                rows=tuple(rows),
                levels=(
                    PlotLevel(name="loose below", at=needed * meant_n / 1_000, along="x"),
                    PlotLevel(name="yield", at=yield_n / 1_000, along="x", tone="bad"),
                ),
            ),
        ),
        formula="tightening factor αA = F_max / F_min = (1 + s) / (1 − s)",
        books=(
            InBooks(
                words="αA: yield or angle controlled 1.2 to 1.4; wrench with estimated friction 1.6 to 2.5; impact driver 2.5 to 4.",
                source="VDI 2230-1 (from memory)",
            ),
            InBooks(words="Feel ±35 %, torque wrench ±25 %, turn of the nut ±15 %, stretch ±3 to 5 %.", source="MIL-HDBK-60 (from memory)"),
        ),
        assumed=(
            "95 of 100 bolts have a friction within the lubricant's range, and a torque within the method's.",
            "αA is taken between the 2.5th and the 97.5th of a hundred.",
            "Torque and angle: snug at 30 %, then a turn that scatters by ±8 %. Real bolts are a little stronger than their class.",
        ),
    )


def _factor(loads: Array) -> float:
    low, high = np.percentile(loads, [2.5, 97.5])
    return float(high / low)


def _row(name: str, loads: Array, far_kn: float, needed_n: float, yield_n: float) -> PlotRow:
    shares = np.histogram(loads / 1_000, bins=CLASSES, range=(0, far_kn))[0] / len(loads)
    low, mid, high = (float(each) / 1_000 for each in np.percentile(loads, [2.5, 50, 97.5]))
    loose, past = float((loads < needed_n).mean()), float((loads > yield_n).mean())
    ends = "meant to yield" if name == "into yield" else f"{past:.0%} past yield"
    words = f"αA {_factor(loads):.2f} ({PUBLISHED[name]}) · {loose:.0%} loose · {ends}"
    tone: Tone = "bad" if loose > 0.02 or (past > 0.02 and name != "into yield") else "main"
    return PlotRow(name=name, low=low, mid=mid, high=high, tone=tone, shares=tuple(float(each) for each in shares), words=words)
