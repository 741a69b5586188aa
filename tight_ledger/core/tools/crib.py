"""Which wrench of the crib can do a joint: what speaks for it and against it, and what it is set to, pass by pass."""

from collections.abc import Collection, Iterable

from tight_ledger.core.base import Invalid, Model
from tight_ledger.core.compiling import compile_passes
from tight_ledger.core.plans import Policy, Tooling
from tight_ledger.core.quantities import Band, Shown, from_nm
from tight_ledger.core.specs import Spec
from tight_ledger.core.tools.adapters import Chain, chain, on_the_end
from tight_ledger.core.tools.scales import Scale, scale
from tight_ledger.core.tools.wrenches import SET_BEFOREHAND, Wrench

FINE = 0.25
"""Marks that are at most this share of the band apart are fine enough to say so. Common practice, no source."""


class Choice(Model):
    """A wrench: what it is set to, stage by stage, and why it is or is not the one."""

    wrench: Wrench
    settings: tuple[Shown, ...] = ()
    scales: tuple[Scale, ...] = ()
    for_it: tuple[str, ...] = ()
    against: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    """What is said about what is on its end."""
    refused: str = ""


def rank(
    spec: Spec, procedure: str, wrenches: Iterable[Wrench], policy: Policy, crowfoot_mm: float | None = None, angle_deg: float = 0
) -> list[Choice]:
    """The wrenches, those that can do it first, those with least against them first, finest marks first.

    Args:
        crowfoot_mm: length of a crowfoot on the end [mm]; none if left out.
        angle_deg: its angle to the handle's axis.
    """
    found = [judge(spec, procedure, wrench, policy, crowfoot_mm, angle_deg) for wrench in wrenches]
    return sorted(found, key=lambda c: (bool(c.refused), len(c.against), c.wrench.graduation / c.wrench.highest, c.wrench.name))


def equip(wrench: Wrench, crowfoot_mm: float | None = None, angle_deg: float = 0) -> tuple[Tooling, Chain]:
    """A wrench with a crowfoot on its end, or with nothing.

    Raises:
        Invalid: what `on_the_end` and `chain` refuse.
    """
    adapters = on_the_end(wrench.drive, crowfoot_mm, angle_deg)
    found = chain(wrench.drive, wrench.lever_mm, adapters)
    return Tooling(wrench=wrench, factor=found.factor, adapters=adapters), found


def judge(spec: Spec, procedure: str, wrench: Wrench, policy: Policy, crowfoot_mm: float | None = None, angle_deg: float = 0) -> Choice:
    """One wrench, with what is on its end, for every pass of a procedure."""
    try:
        tooling, found = equip(wrench, crowfoot_mm, angle_deg)
        passes = compile_passes(spec, procedure, (tooling,), policy)
        pulls = [pull for one in passes for pull in one.pulls]
        figures = dict.fromkeys(pull.setting.figure for pull in pulls if pull.setting is not None)
        if refused := _unverified(wrench, figures):
            return Choice(wrench=wrench, refused=refused)
        scales = tuple(scale(wrench, figure) for figure in figures)
    except Invalid as refusal:
        return Choice(wrench=wrench, refused=refusal.fault)
    bands = [pull.band for pull in pulls if pull.band is not None]
    highest_nm = max((band.high for band in bands), default=0)
    if found.limit_nm is not None and highest_nm > found.limit_nm:
        return Choice(
            wrench=wrench,
            refused=f"On {wrench.name} {found.limited_by} bears {found.limit_nm:g} N·m; this joint goes to {highest_nm:.0f} N·m.",
        )
    return Choice(
        wrench=wrench,
        settings=tuple(Shown(figure=f"{figure:g}", unit=wrench.unit) for figure in figures),
        scales=scales,
        for_it=tuple(_for_it(wrench, bands)),
        against=tuple(_against(wrench, figures)),
        notes=found.notes,
    )


def _unverified(wrench: Wrench, figures: Iterable[float]) -> str:
    """The last figure lies below the verified range: the wrench may click there, but nobody knows at what."""
    highest = max(figures, default=wrench.highest)
    if highest >= wrench.verified_from - 1e-9:
        return ""
    return (
        f"{wrench.name} is verified from {wrench.verified_from:g} {wrench.unit} up, a fifth of its highest mark; "
        f"it would be set to {highest:g}."
    )


def _for_it(wrench: Wrench, bands: Iterable[Band]) -> Iterable[str]:
    yield "one wrench for every stage"
    widths = [from_nm(band.high - band.low, wrench.unit) for band in bands]
    if widths and wrench.graduation <= FINE * min(widths):
        yield f"marks {wrench.graduation:g} {wrench.unit} apart are fine enough for the narrowest band"
    if wrench.construction.startswith("electronic"):
        yield "keeps what it read"


def _against(wrench: Wrench, figures: Collection[float]) -> Iterable[str]:
    highest, least = max(figures, default=0), min(figures, default=wrench.highest)
    if least < wrench.verified_from - 1e-9:
        yield f"a first stage at {least:g} {wrench.unit} lies below its verified range, {wrench.verified_from:g} and up"
    if highest > 0.95 * wrench.highest:
        yield "near the end of its scale: a long, hard pull"
    if wrench.construction not in SET_BEFOREHAND:
        yield "does not click: somebody has to watch it"
