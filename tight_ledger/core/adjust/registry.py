"""The adjusters by name. A new one is a module with its figures and its advice, and a line here."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import Field, TypeAdapter

from tight_ledger.core.adjust import carrier, hub, sleeve, spacer, stretch, thrust
from tight_ledger.core.adjust.agreement import conformity
from tight_ledger.core.adjust.carrier import CarrierFigures
from tight_ledger.core.adjust.hub import HubFigures
from tight_ledger.core.adjust.proposals import NOTHING_AROUND, Around, Proposal, SettingUnit, Try, last
from tight_ledger.core.adjust.sleeve import SleeveFigures, TakeUpFigures
from tight_ledger.core.adjust.spacer import SpacerFigures
from tight_ledger.core.adjust.stretch import StretchFigures
from tight_ledger.core.adjust.thrust import ThrustFigures
from tight_ledger.core.base.rounding import is_above, nine_digits

Adjust = Annotated[
    HubFigures | TakeUpFigures | SleeveFigures | SpacerFigures | CarrierFigures | StretchFigures | ThrustFigures,
    Field(discriminator="by"),
]
"""What a spec says about an adjustment, and by whose advice it is made."""
ADJUST: TypeAdapter[Adjust] = TypeAdapter(Adjust)
SLOPE_SHARE = 0.3
"""How far a slope that was not learned from tries may be off. Common practice, no source."""
Advice = Callable[[Any, tuple[Try, ...], Around], Proposal]
Begin = Callable[[Any, Around], Proposal | None]


@dataclass(frozen=True, slots=True)
class Adjuster:
    """An adjuster."""

    name: str
    advise: Advice
    unit: SettingUnit
    setting: str
    """What the setting is called, on the axis of the tries."""
    adds_up: bool
    """Whether a move is told by how far; otherwise by where it leads."""
    more: str
    less: str
    """What more and less of the setting are called."""
    begin: Begin = lambda _figures, _around: None
    """What is set first, before anything was read; None if that is the mechanic's own."""
    most: Callable[[Any], float | None] = lambda _figures: None
    """Beyond which nothing may be set."""


ADJUSTERS: Mapping[str, Adjuster] = {
    each.name: each
    for each in (
        Adjuster("hub", lambda figures, tries, _: hub.advise(figures, tries), "positions", "positions back", True, "looser", "tighter"),
        Adjuster("take-up", lambda figures, tries, _: sleeve.take_up(figures, tries), "°", "angle of the nut", True, "on", "back"),
        Adjuster("sleeve", lambda figures, tries, _: sleeve.advise(figures, tries), "°", "angle of the nut", True, "on", "back"),
        Adjuster(
            "spacer", lambda figures, tries, around: spacer.advise(figures, tries, around.stock), "mm", "thickness", False,
            "thicker", "thinner", begin=spacer.begin,
        ),
        Adjuster(
            "carrier", lambda figures, tries, around: carrier.advise(figures, tries, around.stock), "mm", "on the ring gear's side", True,
            "to the ring gear's side", "from it",
        ),
        Adjuster(
            "stretch", stretch.advise, "N·m", "setting", False, "more", "less", begin=stretch.begin, most=lambda figures: figures.most_nm
        ),
        Adjuster(
            "thrust", lambda figures, tries, around: thrust.advise(figures, tries, around.stock), "mm", "washer", False,
            "thicker", "thinner",
        ),
    )
}  # fmt: skip


def advise(
    figures: Adjust, tries: tuple[Try, ...], around: Around = NOTHING_AROUND, *, uncertainty: float = 0.0, proven: bool = False
) -> Proposal | None:
    """The one thing to do now, by the adjuster that the figures name; None if nothing was read yet and it says nothing of the start.

    A reading that lies nearer to a limit than its gauge is certain: towards the middle, if a move leads there.

    Args:
        uncertainty: of the newest reading, in the stored unit.
        proven: whether such a reading does not pass.
    """
    adjuster, band = ADJUSTERS[figures.by], figures.band
    if not tries:
        return adjuster.begin(figures, around)

    def advised(told: Adjust) -> Proposal:
        return within(told, tries, adjuster.advise(told, tries, around), uncertainty)

    plain = advised(figures)
    if conformity(last(tries).reading, band, uncertainty) != "at the limit" or is_above(2 * uncertainty, figures.width):
        return plain
    limits = {"low": nine_digits(band.low + uncertainty), "high": nine_digits(band.high - uncertainty), "target": None, "written": ""}
    nearer = advised(figures.model_copy(update={"band": band.model_copy(update=limits)}))
    if plain.do != "accept":
        return plain
    if nearer.do == "move":
        why = " ".join(part for part in ("At the limit of the band: towards the middle.", nearer.why) if part)
        return nearer.model_copy(update={"why": why, "optional": not proven})
    return nearer if proven else plain


def within(figures: Adjust, tries: tuple[Try, ...], proposal: Proposal, uncertainty: float = 0.0) -> Proposal:
    """A proposal with the range in which its reading is expected, where its adjuster does not say one.

    A line through two readings that are each uncertain by u is uncertain by u (1 + 2 r) at r times their distance beyond the newest
    (derived: the worst case); a slope that is told beforehand is taken to be off by `SLOPE_SHARE`.
    """
    if proposal.do != "move" or proposal.expect is None or proposal.to is None or proposal.expect_low is not None:
        return proposal
    now, off = last(tries), max(uncertainty, figures.graduation)
    apart = [abs(now.at - each.at) for each in tries[:-1] if each.at != now.at]
    if apart:
        off *= 1 + 2 * abs(proposal.to - now.at) / max(apart)
    else:
        off += SLOPE_SHARE * abs(proposal.expect - now.reading)
    return proposal.model_copy(update={"expect_low": nine_digits(proposal.expect - off), "expect_high": nine_digits(proposal.expect + off)})
