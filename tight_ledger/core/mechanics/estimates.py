"""An estimate of the torque from thread, class and friction. It can cast doubt on a spec; it never replaces one.

    T = K F d,  F = 0.75 · proof stress · stress area

Valid for 60° threads tightened within their elastic range. Sources: Shigley, table 8-15 (nut factors K); VDI 2230
(tightening factor of a wrench with estimated friction, 1.6 to 2.5); see docs/sources.md.
"""

import statistics
from collections.abc import Callable

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.display import Shown, show, show_band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.units import NM_PER_UNIT, USUAL_UNITS
from tight_ledger.core.joints.threads import Strength, Thread, parse_thread, strength, tables

SHARE_OF_PROOF = 0.75
TIGHTENING_FACTOR = 2.5
"""Largest over smallest clamp force for a wrench with estimated friction, the wide end (VDI 2230)."""

FAR_OVER_YIELD = 1.5
LEAST_OF_PROOF = 0.1


class Estimate(Model):
    """An estimate with its band, and what it was made from. No run can start from it."""

    thread: str
    stress_area_mm2: float
    property_class: str
    condition: str
    nut_factor: float
    torque_nm: float
    shown: tuple[Shown, ...]
    words: str
    sources: tuple[str, ...]


def conditions() -> tuple[str, ...]:
    """The conditions for which a nut factor is published."""
    return tuple(name for name in tables()["nut_factors"] if name != "_source")


def tightening_torque_nm(*, clamp_n: float, diameter_mm: float, nut_factor: float) -> float:
    """T = K F d.

    Args:
        clamp_n: clamp force [N], above 0.
        diameter_mm: nominal diameter [mm], above 0.
        nut_factor: K, 0.05 to 0.5.
    Raises:
        Invalid: an argument is out of range.
    """
    if not (clamp_n > 0 and diameter_mm > 0 and 0.05 <= nut_factor <= 0.5):  # this way round, NaN is refused too
        raise Invalid("estimate", "Force and diameter lie above 0, the nut factor between 0.05 and 0.5.", "Look at them once more.")
    return nut_factor * clamp_n * diameter_mm / 1_000


def estimate(thread_text: str, property_class: str, condition: str) -> Estimate:
    """The torque at 75 % of proof load.

    Raises:
        Invalid: no such thread, class or condition.
    """
    thread, known = parse_thread(thread_text), tables()["nut_factors"]
    if condition not in conditions():
        raise Invalid("condition", f"No nut factor is published for “{condition}”.", f"It can be {', '.join(conditions())}.")
    bears = strength(property_class, thread.diameter_mm)
    clamp_n = SHARE_OF_PROOF * bears.proof_mpa * thread.stress_area_mm2
    torque_nm = tightening_torque_nm(clamp_n=clamp_n, diameter_mm=thread.diameter_mm, nut_factor=known[condition])
    spread = (TIGHTENING_FACTOR - 1) / (TIGHTENING_FACTOR + 1)
    band = Band(quantity="torque", low=torque_nm * (1 - spread), high=torque_nm * (1 + spread), target=torque_nm)
    return Estimate(
        thread=thread.designation,
        stress_area_mm2=thread.stress_area_mm2,
        property_class=property_class,
        condition=condition,
        nut_factor=known[condition],
        torque_nm=torque_nm,
        shown=(show_band(band, "N·m", torque_nm), show_band(band, "lbf·ft", torque_nm)),
        words=f"about {show(torque_nm, 'N·m').figure} N·m: 75 % of proof load, {clamp_n / 1_000:.1f} kN, at K = {known[condition]:g}",
        sources=("Shigley, table 8-15", "ISO 898-1" if thread.system == "metric" else "SAE J429", "VDI 2230"),
    )


UNLIKELY_OF_PROOF = 0.25
USUAL_OF_PROOF = (0.4, 1.0)
"""A figure that would hold less than a quarter of proof load is asked about if a slip of units would make it a usual one.
Common practice, no source."""


def doubt(band: Band, thread: Thread, property_class: str = "") -> str:
    """What is odd about a figure for its thread, in words; empty if nothing is.

    Held against the widest friction: far over yield even on a paste, or under a tenth of proof load even dry. Without
    a class, against the strongest and the weakest that is made. With one, a figure that is low and would be usual in
    another unit is asked about too.

    Args:
        band: the final torque [N·m].
    Raises:
        Invalid: the class is not known at this diameter.
    """
    weakest, strongest = _weakest_and_strongest(thread, property_class)
    named = f"{thread.designation}{f' {property_class}' if property_class else ''}"
    written = band.written or show_band(band).limits
    most = _torque_at(thread, FAR_OVER_YIELD * strongest.yield_mpa, max)
    least = _torque_at(thread, LEAST_OF_PROOF * weakest.proof_mpa, min)
    usual_in = _usual_in(band, thread, property_class)
    if is_over(band, thread, property_class):
        return f"{written} is far over what {named} can bear, about {show(most, 'N·m').figure} N·m even dry{usual_in}."
    if band.high < least:
        return f"{written} is under a tenth of what holds {named}, about {show(least, 'N·m').figure} N·m even on paste{usual_in}."
    if usual_in and band.high < _torque_at(thread, UNLIKELY_OF_PROOF * weakest.proof_mpa, statistics.median):
        return f"{written} is little for {named}{usual_in}."
    return ""


def _usual_in(band: Band, thread: Thread, property_class: str) -> str:
    """`; in lbf·ft it would be usual`, where another unit makes a figure one that a class is usually pulled to."""
    if not property_class:
        return ""
    proof_mpa, typed = strength(property_class, thread.diameter_mm).proof_mpa, band.unit or "N·m"
    low, high = (_torque_at(thread, share * proof_mpa, pick) for share, pick in zip(USUAL_OF_PROOF, (min, max), strict=True))
    per_unit = {unit: band.aim() * NM_PER_UNIT[unit] / NM_PER_UNIT[typed] for unit in USUAL_UNITS if unit != typed}
    usual = [unit for unit, torque_nm in per_unit.items() if low <= torque_nm <= high]
    return f"; in {' or '.join(usual)} it would be usual" if usual else ""


def is_over(band: Band, thread: Thread, property_class: str = "") -> bool:
    """Whether a figure is far over what its thread can bear, even dry.

    Raises:
        Invalid: the class is not known at this diameter.
    """
    strongest = _weakest_and_strongest(thread, property_class)[1]
    return band.low > _torque_at(thread, FAR_OVER_YIELD * strongest.yield_mpa, max)


def _weakest_and_strongest(thread: Thread, property_class: str) -> tuple[Strength, Strength]:
    if property_class:
        known = strength(property_class, thread.diameter_mm)
        return known, known
    metric = thread.system == "metric"
    weakest = strength("4.6" if metric else "grade 2", thread.diameter_mm)
    return weakest, strength("12.9" if metric else "grade 8", thread.diameter_mm)


def _torque_at(thread: Thread, stress_mpa: float, pick: Callable[[list[float]], float]) -> float:
    """The torque that stretches a thread so far [N·m], at the least, the middle or the most friction that is published."""
    factors = [float(factor) for name, factor in tables()["nut_factors"].items() if name != "_source"]
    return tightening_torque_nm(clamp_n=stress_mpa * thread.stress_area_mm2, diameter_mm=thread.diameter_mm, nut_factor=pick(factors))
