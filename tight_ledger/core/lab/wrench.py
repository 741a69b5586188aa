"""The wrench: where the hand pulls, a crowfoot turned, an extension winding up, a bent joint, a multiplier."""

import math
from collections.abc import Mapping

from tight_ledger.core.lab.pages import InBooks, Knobs, LabFigure, LabPage, LabPlot, PlotAxis, PlotLevel, PlotLine, WrenchDrawn
from tight_ledger.core.tools.adapters import Multiplier, crowfoot_factor, universal_swing, windup_deg
from tight_ledger.core.tools.multipliers import HAND_CAUTION, multiply

POINTS = 72
NO_SWING = 0.04
"""What a wrench itself may be off (ISO 6789-1)."""


def wrench(said: Mapping[str, str]) -> LabPage:
    """The page as its knobs stand.

    Raises:
        Invalid: a knob is out of its range, or a crowfoot is folded back over nearly all of the lever.
    """
    knobs = Knobs(said)
    target_nm = knobs.slider("target", "wanted at the fastener", "N·m", (5, 1_000, 5), 100)
    lever_mm = knobs.slider("lever", "drive to the middle of the grip", "mm", (150, 1_000, 10), 400)
    hand_mm = knobs.slider("hand", "hand beside the grip’s middle", "mm", (-100, 100, 10), 0)
    crowfoot_mm = knobs.slider("crowfoot", "crowfoot", "mm", (0, 150, 5), 50)
    crowfoot_deg = knobs.slider("turned", "crowfoot turned", "°", (0, 180, 5), 0)
    extension_mm = knobs.slider("extension", "extension", "mm", (0, 1_000, 25), 0)
    across_mm = knobs.slider("across", "extension, across", "mm", (6, 30, 0.5), 12)
    bend_deg = knobs.slider("bend", "universal joint bent by", "°", (0, 45, 1), 0)
    ratio = knobs.slider("ratio", "multiplier", ": 1", (1, 20, 1), 1)
    factor = crowfoot_factor(lever_mm=lever_mm, length_mm=crowfoot_mm, angle_deg=crowfoot_deg)
    setting_nm, reaction_nm = target_nm * factor, 0.0
    if ratio > 1:
        geared = multiply(Multiplier(kind="multiplier", drive="1/2 in", to="1 in", ratio=ratio), setting_nm, clockwise=True)
        setting_nm, reaction_nm = geared.input_nm, geared.reaction_nm
    # A click wrench trips by the moment about its own drive; a hand beside the grip's middle only changes what the crowfoot adds.
    shown = _at_fastener(lever_mm + hand_mm, crowfoot_mm, crowfoot_deg) / _at_fastener(lever_mm, crowfoot_mm, crowfoot_deg)
    low, high = universal_swing(bend_deg)
    wound = windup_deg(torque_nm=target_nm, length_mm=extension_mm, across_mm=across_mm, section="round") if extension_mm else 0.0
    return LabPage(
        name="wrench",
        question="What does the thing on the end do to my setting?",
        answer=_answer(target_nm, setting_nm, shown, (low, high), wound),
        tone="bad" if high - 1 > NO_SWING or abs(shown - 1) > NO_SWING else "plain",
        knobs=tuple(knobs.all),
        drawn=(
            WrenchDrawn(
                lever_mm=lever_mm,
                hand_mm=hand_mm,
                crowfoot_mm=crowfoot_mm,
                crowfoot_deg=crowfoot_deg,
                extension_mm=extension_mm,
                windup_deg=wound,
                bend_deg=bend_deg,
                multiplier=ratio,
            ),
        ),
        figures=(
            LabFigure(name="set the wrench to", words=f"{setting_nm:.4g} N·m", tone="good"),
            LabFigure(name="setting over torque", words=f"× {factor:.4f}"),
            LabFigure(
                name="with the hand there",
                words=f"{target_nm * shown:.4g} N·m at the fastener",
                tone="bad" if abs(shown - 1) > NO_SWING else "plain",
            ),
            LabFigure(name="extension winds up", words=f"{wound:.1f}°"),
            LabFigure(name="bent joint swings", words=f"{low:.1%} to {high:.1%}", tone="bad" if high - 1 > NO_SWING else "plain"),
            *([LabFigure(name="the arm pushes with", words=f"{reaction_nm:.0f} N·m the other way", tone="bad")] if ratio > 1 else []),
        ),
        plots=(_crowfoot_plot(lever_mm, crowfoot_mm, crowfoot_deg), _swing_plot(bend_deg)),
        formula="setting = T · L / (L + E · cos θ) / (ratio · efficiency);  windup = T · l / (G · J);  swing: cos β to 1 / cos β",
        books=(
            InBooks(
                words="L 400, E 50, 100 N·m: 88.9 straight on, 91.9 at 45°, 100 at 90°, 114.3 folded back.",
                source="statics, anybody can redo it",
            ),
            InBooks(
                words="A straight extension changes no torque; it winds up, which matters for an angle.",
                source="Shigley, 3-12 (from memory)",
            ),
            InBooks(words=HAND_CAUTION, source="common practice, no source"),
        ),
        assumed=("The extension is straight, round and of steel.", "The multiplier gives 90 % of what its teeth promise."),
    )


def _at_fastener(hand_mm: float, crowfoot_mm: float, turned_deg: float) -> float:
    """Instant about the fastener for one about the drive."""
    return (hand_mm + crowfoot_mm * math.cos(math.radians(turned_deg))) / hand_mm


def _answer(target_nm: float, setting_nm: float, shown: float, swing: tuple[float, float], wound: float) -> str:
    words = f"For {target_nm:g} N·m at the fastener set {setting_nm:.4g} N·m."
    if abs(shown - 1) > 5e-4:
        words += f" With the hand off the middle of the grip the fastener gets {target_nm * shown:.4g}."
    if swing[1] - 1 > NO_SWING:
        words += f" Not with that joint: bent so far, it gives {swing[0]:.0%} to {swing[1]:.0%} of the pull."
    if wound >= 1:
        words += f" The extension winds up by {wound:.0f}°: none of it turns the fastener."
    return words


def _crowfoot_plot(lever_mm: float, crowfoot_mm: float, turned_deg: float) -> LabPlot:
    degrees = [180 * n / POINTS for n in range(POINTS + 1)]
    y = [crowfoot_factor(lever_mm=lever_mm, length_mm=crowfoot_mm, angle_deg=each) for each in degrees]
    return LabPlot(
        name="crowfoot",
        title="Setting over torque as the crowfoot is turned",
        x=PlotAxis(title="turned [°]", low=0, high=180),
        y=PlotAxis(title="setting over torque", low=min(0.8, *y) * 0.98, high=max(1.2, *y) * 1.02),
        lines=(PlotLine(name="setting over torque", x=tuple(degrees), y=tuple(y)),),
        levels=(PlotLevel(name="changes nothing", at=1, along="y"), PlotLevel(name="here", at=turned_deg, along="x", tone="main")),
    )


def _swing_plot(bend_deg: float) -> LabPlot:
    cosine = math.cos(math.radians(bend_deg))
    degrees = [360 * n / POINTS for n in range(POINTS + 1)]
    # Out over in: (1 − sin²β cos²φ) / cos β, over one turn of the wrench.
    y = [(1 - (1 - cosine**2) * math.cos(math.radians(each)) ** 2) / cosine for each in degrees]
    return LabPlot(
        name="swing",
        title="What a bent joint gives over one turn",
        x=PlotAxis(title="turn of the wrench [°]", low=0, high=360),
        y=PlotAxis(title="out over in", low=min(0.9, *y) * 0.98, high=max(1.1, *y) * 1.02),
        lines=(PlotLine(name="out over in", x=tuple(degrees), y=tuple(y)),),
        levels=(PlotLevel(name="±4 %", at=1.04, along="y", tone="bad"), PlotLevel(name="", at=0.96, along="y", tone="bad")),
    )
