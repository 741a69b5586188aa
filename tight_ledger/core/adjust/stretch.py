"""A rod bolt by its stretch: right when it is longer, not when the wrench clicks.

4.2 at 30, band 5 to 7, cap 40: proportional to the middle asks 42.9, capped at 40 it predicts 5.6 (derived). δ = F Σ L/(E A).
"""

import statistics
from collections.abc import Sequence
from typing import Literal

from pydantic import Field, model_validator

from tight_ledger.core.adjust.lines import line_through
from tight_ledger.core.adjust.proposals import NOTHING_AROUND, AdjustFigures, Around, Proposal, Try, last
from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.rounding import is_above, is_below, nine_digits
from tight_ledger.core.mechanics.stiffness import STEEL_MPA, stretch_per_n

LARGEST_STEP = 0.35
"""Of the present setting: no step goes further. Common practice, no source."""
START_OF_THE_REST = 0.88
"""Of the setting that was found: where the other bolts start, which come up by their own readings. Common practice, no source."""
ODD_SHARE = 0.25
"""A bolt whose setting differs from the others' median by more than this share is named. Common practice, no source."""
SETTING_SHARE = 0.04
"""How far a pull may lie from its setting: what a wrench may be off (ISO 6789-1, from memory)."""
MOST_SETTINGS = 80
"""The plan has a row for each setting of each pull; more would make it too long to seal."""
LOWEST_START = 0.7
"""Of the first start: no proposal begins lower. Common practice, no source."""
NUT_FACTORS = (0.35, 0.08)
"""Torque by force and thread, from a dry rusty bolt to the slipperiest paste. Common practice, no source."""


class StretchFigures(AdjustFigures):
    """A setting is a torque [N·m], a reading the stretch [mm]."""

    by: Literal["stretch"]
    most_nm: float = Field(gt=0, le=50_000)
    """The spec's maximum."""
    start_nm: float | None = Field(default=None, gt=0, le=50_000)
    """Where the first bolt starts."""
    step_nm: float = Field(default=1.0, gt=0, le=100)
    """Settings are this far apart, up to the maximum."""
    length_mm: float | None = Field(default=None, gt=0, le=2_000)
    area_mm2: float | None = Field(default=None, gt=0, le=20_000)
    thread_mm: float | None = Field(default=None, gt=0, le=200)
    """Between its dimples, its mean section and its thread: how far it should stretch at a torque is then known roughly."""

    @model_validator(mode="after")
    def _has_a_start(self) -> "StretchFigures":
        if self.start_nm is not None and self.start_nm > self.most_nm:
            raise ValueError(f"the start, {self.start_nm:g}, lies above the most, {self.most_nm:g}")
        if (self.most_nm - self.lowest_nm) / self.step_nm > MOST_SETTINGS:
            raise ValueError(f"more than {MOST_SETTINGS} settings; give a larger step_nm")
        return self

    @property
    def lowest_nm(self) -> float:
        """No proposal lies below it."""
        return LOWEST_START * (self.start_nm if self.start_nm is not None else self.most_nm / 2)

    def settings(self) -> tuple[float, ...]:
        """Every setting, from the lowest that is ever proposed to the maximum [N·m]."""
        count = int((self.most_nm - self.lowest_nm) / self.step_nm + 1e-9)
        return tuple(nine_digits(self.most_nm - n * self.step_nm) for n in range(count, -1, -1))

    def band_at(self, setting_nm: float) -> Band:
        """What a pull to a setting has to meet."""
        low, high = (nine_digits(setting_nm * (1 + share)) for share in (-SETTING_SHARE, SETTING_SHARE))
        return Band(quantity="torque", low=low, high=high, target=setting_nm)

    def at_most(self, wanted_nm: float) -> float:
        """The highest setting that does not lie above what is wanted; else the lowest."""
        settings = self.settings()
        return next((each for each in reversed(settings) if not is_above(each, wanted_nm)), settings[0])


def begin(figures: StretchFigures, around: Around) -> Proposal | None:
    """The first setting of a bolt: the spec's; once others were found, somewhat below what they took."""
    if around.found:
        middle = statistics.median(around.found)
        to = figures.at_most(rest_starts_at(middle, straight=around.straight))
        why = "This shop uses it straight." if around.straight else "From somewhat below: each comes up by its own reading."
        return Proposal(do="move", to=to, say=f"Start at {to:g} N·m: the others took about {middle:.3g}.", why=why)
    if figures.start_nm is None:
        return None
    to = figures.at_most(figures.start_nm)
    return Proposal(do="move", to=to, say=f"Start at {to:g} N·m.", why="The spec's own start; from there on by the stretch.")


def advise(figures: StretchFigures, tries: tuple[Try, ...], around: Around = NOTHING_AROUND) -> Proposal:
    """The next setting."""
    now = last(tries)
    placed = figures.band.judge(now.reading)
    if placed == "high":
        return Proposal(do="replace", say=f"{now.reading:.3f} mm is over the band: replace this bolt.", why="It may have yielded.")
    if placed == "ok":
        return Proposal(
            do="accept", say=f"{now.reading:.3f} mm lies in the band at {now.at:g} N·m.", to=now.at,
            why=" ".join(part for part in (_odd(now, around), _against_its_size(figures, now)) if part),
        )  # fmt: skip
    if not is_below(now.at, figures.most_nm):
        return Proposal(
            do="stop", say=f"At the most of {figures.most_nm:g} N·m it is still short: stop.",
            why="Friction, a wrong lubricant, or a bolt that seats wrongly. More torque than the spec's most is not the answer.",
        )  # fmt: skip
    if now.reading <= figures.graduation:
        return Proposal(
            do="stop", say="The bolt has not stretched at all: look at the gauge and its dimples.",
            why="Nothing can be said from a reading of about nothing.",
        )  # fmt: skip
    line = line_through(tries, figures.middle)
    line = line if line is not None and line.slope > 0 else None
    learned = "By the last two readings." if line is not None else "In proportion to the newest reading."
    by_line = line.setting_for(figures.middle) if line is not None else None
    asked, farthest = by_line if by_line is not None else now.at * figures.middle / now.reading, now.at * (1 + LARGEST_STEP)
    wanted = min(asked, farthest)
    to = figures.at_most(min(wanted, figures.most_nm))
    if not is_above(to, now.at):  # the next higher setting
        to = next(each for each in figures.settings() if is_above(each, now.at))
    expect = line.reads(to) if line is not None else now.reading * to / now.at
    if is_above(expect, figures.band.high):
        return Proposal(
            do="stop", say=f"The next setting, {to:g} N·m, would go over the band.", expect=expect,
            why=f"Settings lie {figures.step_nm:g} N·m apart, from {figures.lowest_nm:.3g} N·m up.",
        )  # fmt: skip
    cut = f"No step is larger than {LARGEST_STEP:.0%} of the setting: the middle asks for about {asked:.3g} N·m."
    capped = " The spec's most." if to == figures.most_nm else ""
    return Proposal(
        do="move", by=to - now.at, to=to, expect=expect, say=f"Set {to:g} N·m: it should read about {expect:.3f} mm.{capped}",
        why=" ".join(part for part in (learned, cut if asked > farthest else "", _against_its_size(figures, now)) if part),
    )  # fmt: skip


def _odd(now: Try, around: Around) -> str:
    """Whether this bolt took a setting far from the others': by more than a quarter of the middle one."""
    if not around.found:
        return ""
    middle = statistics.median(around.found)
    far = abs(now.at - middle) > ODD_SHARE * middle
    return f"Odd: the others took about {middle:.3g} N·m. Look at the thread and the seat of this one." if far else ""


def _against_its_size(figures: StretchFigures, now: Try) -> str:
    """What is odd about a stretch, given the bolt's own size and any friction that there can be."""
    if figures.length_mm is None or figures.area_mm2 is None or figures.thread_mm is None:
        return ""
    low, high = (
        stretch_mm(now.at / (factor * figures.thread_mm / 1_000), [(figures.length_mm, figures.area_mm2)]) for factor in NUT_FACTORS
    )
    if low <= now.reading <= high:
        return ""
    return f"A bolt of this size stretches {low:.3f} to {high:.3f} mm at {now.at:g} N·m: look at the gauge, its dimples and the bolt."


def rest_starts_at(found_nm: float, *, straight: bool = False) -> float:
    """Where the other bolts start: somewhat below what was found, unless the shop uses it straight."""
    return nine_digits(found_nm if straight else found_nm * START_OF_THE_REST)


def stretch_mm(force_n: float, sections: Sequence[tuple[float, float]], modulus_mpa: float = STEEL_MPA) -> float:
    """How much longer a bolt is under a force: δ = F Σ L/(E A).

    Args:
        force_n: above 0 [N].
        sections: of the bolt between its dimples: length [mm] and area [mm²] of each.
        modulus_mpa: of its steel [MPa].
    Raises:
        Invalid: a length, an area or the modulus is not above 0.
    """
    if modulus_mpa <= 0 or any(length_mm <= 0 or area_mm2 <= 0 for length_mm, area_mm2 in sections):
        raise Invalid("sections", "A length, an area or the modulus is not above 0.", "Look at them once more.")
    return nine_digits(force_n * stretch_per_n(sections, modulus_mpa))
