"""Threads as written, their stress areas, and what their class of fastener bears.

Sources: ISO 898-1 and ISO 261 (metric), ASME B1.1 and SAE J429 (unified); see docs/sources.md. Tables are in
`core/joints/data/fasteners.json`, read once.
"""

import json
import math
import re
from fractions import Fraction
from functools import cache
from importlib import resources
from typing import Any, Literal

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model

MM_PER_INCH = 25.4
MPA_PER_KSI = 6.894757293168362
_FRACTIONS = {"¼": "1/4", "½": "1/2", "¾": "3/4", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}
NUMBER_SIZES_FROM = 24.0
"""From this number of threads an inch, a whole number is a number size; below it, inches (ASME B1.1)."""
_METRIC = re.compile(
    r"^m\s*(?P<size>\d+(?:[.,]\d+)?)(?:\s*[x×*-]\s*(?P<second>\d*[.,]\d+|\d+)(?![\d]|[a-wyz]))?(?:\s*[x×*]\s*(?P<third>\d+(?:[.,]\d+)?))?"
    r"(?:\s*-?\s*\d[a-z]\w*)?(?:\s*lh)?$"
)
_UNIFIED = re.compile(
    r"^(?P<size>\#\s*\d+|no\.?\s*\d+|\d+[\s-]\d+/[1-9]\d*|\d+/[1-9]\d*|\d+(?:\.\d+)?)\s*(?:in|\"|″)?\s*[-–\s]\s*"
    r"(?:(?P<per_inch>\d+(?:\.5)?)\s*)?(?:tpi\s*)?(?P<series>unc|unf|unef|uns|un)?(?:\s*-?\s*\d[ab])?(?:\s*lh)?$"
)
_PIPE = re.compile(r"\b(npt|nptf|nps|bspp?|bspt|pipe)\b|^(?:g|r|rp|rc)\s*\d+(?:[\s-]\d)?/?\d*\b")
"""Names of pipe threads, which are not covered: they seal, and have other tables."""


class Thread(Model):
    """A 60° thread. `designation` is its usual spelling."""

    system: Literal["metric", "unified"]
    designation: str
    diameter_mm: float
    pitch_mm: float
    length_mm: float | None = None
    """Of the bolt, where it was written with it."""

    @property
    def stress_area_mm2(self) -> float:
        """Tensile stress area [mm²]: π/4 (d − 0.938194 P)² (ISO 898-1), or π/4 (D − 0.9743/n)² in inches (ASME B1.1)."""
        if self.system == "metric":
            return math.pi / 4 * (self.diameter_mm - 0.938194 * self.pitch_mm) ** 2
        diameter_in, pitch_in = self.diameter_mm / MM_PER_INCH, self.pitch_mm / MM_PER_INCH
        return math.pi / 4 * (diameter_in - 0.9743 * pitch_in) ** 2 * MM_PER_INCH**2

    @property
    def pitch_diameter_mm(self) -> float:
        """d2 = d − 0.649519 P [mm], of metric and unified threads alike (ISO 724, ASME B1.1)."""
        return self.diameter_mm - 0.649519 * self.pitch_mm

    @property
    def root_diameter_mm(self) -> float:
        """d3 = d − 1.226869 P [mm], the root of the bolt's thread (ISO 724)."""
        return self.diameter_mm - 1.226869 * self.pitch_mm


class Strength(Model):
    """What a class or grade bears at a diameter [MPa]."""

    name: str
    proof_mpa: float
    yield_mpa: float
    tensile_mpa: float
    elongation: float
    """After fracture, as a share of the length that stretches."""


@cache
def tables() -> dict[str, Any]:
    """The tables, as read from the data file."""
    text = resources.files("tight_ledger.core.joints").joinpath("data/fasteners.json").read_text(encoding="utf-8")
    return dict(json.loads(text))


def parse_thread(text: str) -> Thread:
    """A thread as a person writes it: `M12x1.5`, `M10-1.5`, `M12`, `1/2-20 UNF`, `½-13`, `1 1/8-7`, `#10-24`, `6-32`.

    Raises:
        Invalid: it is no thread, or its pitch is neither written nor standard.
    """
    said = text.strip().casefold().replace(",", ".")
    for sign, fraction in _FRACTIONS.items():
        said = re.sub(rf"(?<=\d)\s*{sign}", f" {fraction}", said).replace(sign, fraction)
    if match := _METRIC.match(said):
        second, third = (float(match[name]) if match[name] else None for name in ("second", "third"))
        if second is not None and third is None and _is_length(float(match["size"]), second):
            second, third = None, second
        return _metric(text, float(match["size"]), second, third)
    if _PIPE.search(said):
        raise Invalid(
            "thread", f"“{text}” is a pipe thread; none is covered here.", "Work to the maker's own figure, and write it in a note."
        )
    if match := _UNIFIED.match(said):
        size = re.sub(r"^(?:#|no\.?)\s*", "#", match["size"])
        size = re.sub(r"^(\d+)[\s-](\d+/)", r"\1 \2", size)
        return _unified(text, size, float(match["per_inch"]) if match["per_inch"] else None, (match["series"] or "").upper())
    raise Invalid("thread", f"“{text}” is not a thread.", "Write M12×1.5, M12, 1/2-20, 1/2 UNF or #10-24.")


def _is_length(diameter_mm: float, second: float) -> bool:
    """Whether a figure behind the diameter is the bolt's length: no thread is so coarse, and no bolt shorter than it is thick."""
    return second >= diameter_mm


def _metric(text: str, diameter_mm: float, pitch_mm: float | None, length_mm: float | None) -> Thread:
    coarse = tables()["metric_coarse_pitch_mm"].get(f"{diameter_mm:g}")
    if pitch_mm is None and coarse is None:
        raise Invalid("thread", f"“{text}” has no usual pitch.", f"Write the pitch: M{diameter_mm:g}×…")
    pitch = pitch_mm if pitch_mm is not None else float(coarse)
    if not (1 <= diameter_mm <= 150 and 0.2 <= pitch <= 8 and pitch < diameter_mm / 2):
        raise Invalid("thread", f"“{text}” is no thread that is made.", "Look at diameter and pitch once more.")
    written = f"M{diameter_mm:g}" if pitch == coarse else f"M{diameter_mm:g}×{pitch:g}"
    if length_mm is not None and not 1 <= length_mm <= 2_000:
        raise Invalid("thread", f"“{text}”: no bolt is {length_mm:g} mm long.", "Write M8×1.25×40, or leave the length out.")
    return Thread(system="metric", designation=written, diameter_mm=diameter_mm, pitch_mm=pitch, length_mm=length_mm)


def _unified(text: str, size: str, per_inch: float | None, series: str) -> Thread:
    known = tables()["unified_threads_per_inch"]
    if per_inch is None:
        size = size if size in known.get(series, {}) else f"#{size.lstrip('#')}"
        per_inch = known.get(series, {}).get(size)
    elif size.isdigit() and per_inch >= NUMBER_SIZES_FROM:
        size = f"#{size}"
    if per_inch is None:
        raise Invalid("thread", f"“{text}” does not say how many threads an inch has.", "Write 1/2-20, or 1/2 UNF.")
    diameter_in = _inches(text, size)
    if not (0.05 <= diameter_in <= 6 and 4 <= per_inch <= 80 and 1 / per_inch < diameter_in / 2):
        raise Invalid("thread", f"“{text}” is no thread that is made.", "Look at diameter and threads per inch once more.")
    named = next((s for s in ("UNC", "UNF") if known[s].get(size) == per_inch), series if series == "UNS" else "")
    return Thread(
        system="unified",
        designation=f"{size}-{per_inch:g} {named}".strip(),
        diameter_mm=diameter_in * MM_PER_INCH,
        pitch_mm=MM_PER_INCH / per_inch,
    )


def _inches(text: str, size: str) -> float:
    """The diameter of a size: `#10`, `1/2`, `1 1/8`, `0.5` [in]."""
    if size.startswith("#"):
        numbered = tables()["unified_number_sizes"]
        if int(size[1:]) not in numbered["numbers"]:
            raise Invalid(
                "thread", f"“{text}”: there is no number size {size[1:]}.", f"They are {', '.join(map(str, numbered['numbers']))}."
            )
        return float(numbered["first_in"] + numbered["step_in"] * int(size[1:]))
    return float(sum(Fraction(part) for part in size.split()))


def classes() -> tuple[str, ...]:
    """Property classes and grades, as they are marked on the head."""
    return tuple(name for table in ("property_classes", "grades") for name in tables()[table] if name != "_source")


def classes_at(diameter_mm: float) -> tuple[str, ...]:
    """Property classes and grades that are made at a diameter.

    Args:
        diameter_mm: nominal diameter [mm].
    """
    metric, grades = tables()["property_classes"], tables()["grades"]
    return tuple(
        name
        for name in classes()
        if any(diameter_mm <= row["up_to_mm"] for row in metric.get(name, []))
        or any(diameter_mm <= row["up_to_in"] * MM_PER_INCH for row in grades.get(name, []))
    )


_CLASS = re.compile(r"^(?:iso\s*898(?:-1)?\s*)?(?:property\s+)?(?:class|cl\.?|grade|gr\.?|festigkeitsklasse)?\s*(\d{1,2}[.,]\d)$")
_GRADE = re.compile(r"^(?:sae\s*)?(?:j\s*429\s*)?(?:grade|gr\.?)\s*(\d)$")
_STAINLESS = re.compile(r"^(?:iso\s*3506(?:-1)?\s*)?(?:class\s+)?a\s*[1-5]\s*[-–\s]\s*(\d{2})$")


def read_class(text: str) -> str | None:
    """The name under which a class is known here, as people write it: `8.8`, `class 10.9`, `Grade 8`, `A2-70`. None for any other text.

    Stainless classes are known by the strength behind the dash, whichever steel it is: `A-70`.
    """
    said = text.strip().casefold()
    names = (
        (match[1].replace(",", ".") if (match := _CLASS.match(said)) else None),
        (f"grade {match[1]}" if (match := _GRADE.match(said)) else None),
        (f"A-{match[1]}" if (match := _STAINLESS.match(said)) else None),
    )
    known = {*classes(), *(name for name in tables()["stainless"] if name != "_source")}
    return next((name for name in names if name in known), None)


def strength(name: str, diameter_mm: float) -> Strength:
    """What a class or grade bears at a diameter.

    Args:
        diameter_mm: nominal diameter [mm].
    Raises:
        Invalid: no such class, or not at this diameter.
    """
    for row in (*tables()["property_classes"].get(name, []), *tables()["stainless"].get(name, [])):
        if diameter_mm <= row["up_to_mm"]:
            return Strength(name=name, **{key: row[key] for key in ("proof_mpa", "yield_mpa", "tensile_mpa", "elongation")})
    for row in tables()["grades"].get(name, []):
        if diameter_mm <= row["up_to_in"] * MM_PER_INCH:
            stresses = {f"{part}_mpa": row[f"{part}_ksi"] * MPA_PER_KSI for part in ("proof", "yield", "tensile")}
            return Strength(name=name, elongation=row["elongation"], **stresses)
    raise Invalid("property_class", f"“{name}” is not known at {diameter_mm:g} mm.", f"It can be {', '.join(classes())}.")
