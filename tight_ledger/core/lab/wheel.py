"""The wheel off: it is held by friction alone, and what is left of that after settling."""

from collections.abc import Mapping
from typing import NamedTuple

from tight_ledger.core.base.units import STANDARD_GRAVITY
from tight_ledger.core.joints.threads import parse_thread, strength
from tight_ledger.core.lab.bolts import LabBolt, kn
from tight_ledger.core.lab.pages import InBooks, Knobs, LabFigure, LabPage, LabPlot, PlotAxis, PlotLevel, PlotLine, WheelDrawn
from tight_ledger.core.mechanics.friction import lubricant, lubricants
from tight_ledger.core.mechanics.settling import MICRON_MM, carried_nm, lost_n

TYRE_GRIP = 0.8
"""Between tyre and dry road. Common practice, no source."""
FACES = {"clean and bare": 3.0, "rust and dirt": 20.0, "fresh paint": 60.0}
"""How far a face between hub and wheel flattens [µm]. Bare: VDI 2230-1, from memory; the others common practice, no source."""
FRICTION = {"clean and bare": 0.15, "rust and dirt": 0.15, "fresh paint": 0.10}
"""Between hub and wheel, on the careful side. Common practice, no source."""
THREAD_MICRONS, SEAT_MICRONS = 3.0, 3.0


class UsualWheel(NamedTuple):
    """Where the knobs stand at first. Common practice, no source."""

    grip_mm: float
    studs: int
    circle_mm: float
    load_kg: float
    tyre_mm: float


LIGHT, HEAVY = UsualWheel(12, 5, 112, 500, 320), UsualWheel(25, 10, 335, 5_000, 500)
LIGHT_UP_TO_MM = 16.0
"""Thread of a light wheel's studs."""


def wheel(said: Mapping[str, str]) -> LabPage:
    """The page as its knobs stand.

    Raises:
        Invalid: a knob is out of its range.
    """
    knobs = Knobs(said)
    thread = knobs.choice("thread", "thread", ("M12×1.5", "M14×1.5", "M18×1.5", "M22×1.5"), "M22×1.5", ("torque",))
    chosen = lubricant(knobs.choice("lubricant", "thread and seat are", tuple(each.name for each in lubricants()), "oiled"))
    size = parse_thread(thread)
    usual = HEAVY if size.diameter_mm > LIGHT_UP_TO_MM else LIGHT
    bolt = LabBolt(size, strength("10.9", size.diameter_mm), usual.grip_mm, "steel", "flange", chosen)
    usual_nm = float(round(bolt.usual_nm * 0.75 / 10) * 10)
    torque_nm = knobs.slider("torque", "torque", "N·m", (10, round(bolt.usual_nm * 1.2 / 10) * 10, 10), usual_nm)
    studs = int(knobs.slider("studs", "studs", "", (4, 10, 1), usual.studs))
    loose = int(knobs.slider("loose", "of them loose", "", (0, studs, 1), 0))
    circle_mm = knobs.slider("circle", "bolt circle", "mm", (98, 335, 1), usual.circle_mm)
    load_kg = knobs.slider("load", "load on the wheel", "kg", (200, 6_000, 100), usual.load_kg)
    tyre_mm = knobs.slider("tyre", "radius of the tyre", "mm", (250, 600, 10), usual.tyre_mm)
    face = knobs.choice("face", "face between hub and wheel", tuple(FACES), "clean and bare")
    tightened_n = bolt.clamp_n(torque_nm, chosen.mid)
    settling_mm = (THREAD_MICRONS + SEAT_MICRONS + FACES[face]) * MICRON_MM
    lost = min(lost_n(settling_mm=settling_mm, compliance_mm_per_n=bolt.compliance_mm_per_n), tightened_n)
    asked_nm = load_kg * STANDARD_GRAVITY * TYRE_GRIP * tyre_mm / 1_000
    fresh, left = (
        carried_nm(count=studs - loose, clamp_n=each, friction=FRICTION[face], radius_mm=circle_mm / 2) / asked_nm
        for each in (tightened_n, tightened_n - lost)
    )
    breaks = tightened_n > bolt.bears(chosen.mid).yield_n
    if breaks:
        answer = f"{torque_nm:.0f} N·m takes these studs past their yield."
    elif left < 1:
        answer = f"After settling, friction carries {left:.0%} of a full stop: the wheel moves on its studs, and they break one by one."
    else:
        answer = (
            f"Friction between hub and wheel carries the wheel, not the studs: {left:.2f} times a full stop, "
            f"once {lost / tightened_n:.0%} of the clamp load has settled away. The re-torque brings that back."
        )
    return LabPage(
        name="wheel",
        question="Why does the wheel want its re-torque?",
        answer=answer,
        tone="bad" if breaks or left < 1 else "plain",
        knobs=knobs.with_first("torque"),
        drawn=(WheelDrawn(studs=studs, circle_mm=circle_mm, tyre_mm=tyre_mm, held=left, slips=left < 1),),
        figures=(
            LabFigure(name="each stud, tightened", words=kn(tightened_n)),
            LabFigure(name="each stud, after settling", words=kn(tightened_n - lost), tone="bad" if left < 1 else "good"),
            LabFigure(name="a full stop asks for", words=f"{asked_nm / 1_000:.3g} kN·m"),
            LabFigure(name="friction carries, fresh", words=f"{fresh:.2f} times that"),
            LabFigure(name="friction carries, settled", words=f"{left:.2f} times that", tone="bad" if left < 1 else "good"),
        ),
        plots=(_settling_plot(bolt, tightened_n, settling_mm, asked_nm, (studs - loose) * FRICTION[face] * circle_mm / 2_000),),
        formula="carried = n · F · μ · r;  lost = settling / (δ_bolt + δ_joint)",
        books=(
            InBooks(words="Bare faces settle by some 2 to 4 µm each, threads by 3.", source="VDI 2230-1, table 5 (from memory)"),
            InBooks(words="Re-torque after 50 to 100 km; no paint between hub and wheel.", source="common practice, no source"),
        ),
        assumed=(
            "A full stop on a dry road: the tyre grips with 0.8 of its load.",
            "Friction between hub and wheel 0.15, with fresh paint 0.10: the careful side.",
            "Every stud that is not loose has the middle clamp load. The hub's spigot carries nothing.",
        ),
    )


def _settling_plot(bolt: LabBolt, tightened_n: float, settling_mm: float, asked_nm: float, per_n: float) -> LabPlot:
    far = max(settling_mm * 1.5, 0.03)
    gone = min(far, tightened_n * bolt.compliance_mm_per_n)
    wanted_n = asked_nm / per_n if per_n else float("inf")
    high = tightened_n * 1.25 / 1_000
    levels = [PlotLevel(name="here", at=settling_mm * 1_000, along="x", tone="main")]
    if wanted_n / 1_000 <= high:
        levels.append(PlotLevel(name="a full stop needs", at=wanted_n / 1_000, along="y", tone="bad"))
    return LabPlot(
        name="settling",
        title="Clamp load left over settling",
        x=PlotAxis(title="settled [µm]", low=0, high=far * 1_000),
        y=PlotAxis(title="clamp load of a stud [kN]", low=0, high=high),
        lines=(
            PlotLine(
                name="clamp load",
                x=(0.0, gone * 1_000, far * 1_000),
                y=(
                    tightened_n / 1_000,
                    (tightened_n - gone / bolt.compliance_mm_per_n) / 1_000,
                    max(0.0, tightened_n - far / bolt.compliance_mm_per_n) / 1_000,
                ),
            ),
        ),
        levels=tuple(levels),
    )
