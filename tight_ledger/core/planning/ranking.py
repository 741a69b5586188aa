"""Which wrench of the crib can do a joint: what speaks for it and against it, and what it is set to, stage by stage."""

from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Literal
from uuid import UUID

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.display import Shown, show_band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.rounding import is_below
from tight_ledger.core.base.units import TorqueUnit, from_nm, to_nm
from tight_ledger.core.joints.layouts import Layout
from tight_ledger.core.planning.needs import Need
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.tool_care.care import Care
from tight_ledger.core.tools.adapters import Adapter, Multiplier
from tight_ledger.core.tools.chains import Chain, chain
from tight_ledger.core.tools.multipliers import Multiplied, multiply
from tight_ledger.core.tools.scales import Scale, scale
from tight_ledger.core.tools.wrenches import SET_BEFOREHAND, Setting, Wrench, set_wrench

FINE = 0.25
"""Marks that are at most this share of the band apart are fine enough to say so. Common practice, no source."""


class Bench(Model):
    """What else bears on the choice."""

    policy: Policy = Policy()
    hand: Literal["right", "left"] = "right"
    angle_gauge: bool = False
    """Whether the crib has one in order."""
    care: dict[UUID, Care] = {}


class RankedStage(Model):
    """What a wrench does for one need: a setting, or an angle."""

    step: str
    labels: tuple[str, ...]
    words: str
    exact: Shown | None = None
    """The computed setting, before it is moved to a mark."""
    setting: Shown | None = None
    off: str = ""
    """How far the mark is from the computed setting: `0.4 % over`."""
    scale: Scale | None = None
    angle: Shown | None = None
    windup_deg: float = 0.0
    """How far the handle turns by windup at the highest torque [°]."""


class Choice(Model):
    """A wrench, read by one of its scales: what it is set to, stage by stage, and why it is or is not the one."""

    wrench: Wrench
    stages: tuple[RankedStage, ...] = ()
    """Those that it can do."""
    for_it: tuple[str, ...] = ()
    against: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    """What is said about what is on its end."""
    cautions: tuple[str, ...] = ()
    reaction: Multiplied | None = None
    refused: str = ""
    may_override: bool = False
    """Whether a lead may let it be used all the same: it can be set, but should not be."""


def equip(wrench: Wrench, adapters: tuple[Adapter, ...], tilt_deg: float, policy: Policy) -> tuple[Tooling, Chain]:
    """A wrench with what is on its end.

    Raises:
        Invalid: what `chain` refuses.
    """
    found = chain(wrench.drive, wrench.lever_mm, adapters, tilt_deg)
    return Tooling(
        wrench=wrench, factor=found.factor, adapters=adapters, tilt_deg=tilt_deg, windup_deg_per_nm=found.windup_deg_per_nm,
        allowance_nm=policy.extension_allowance_nm_per_m * found.extension_mm / 1_000,
    ), found  # fmt: skip


def rank(
    asked: Sequence[Need], wrenches: Iterable[Wrench], bench: Bench, adapters: tuple[Adapter, ...] = (), tilt_deg: float = 0
) -> list[Choice]:
    """The wrenches by each of their scales, the best first."""
    return in_sequence(judge(asked, side, bench, adapters, tilt_deg) for wrench in wrenches for side in wrench.sides())


def in_sequence(choices: Iterable[Choice]) -> list[Choice]:
    """Order: able wrenches first, then fewest objections, then finest marks in N·m."""
    return sorted(choices, key=lambda c: (bool(c.refused), len(c.against), to_nm(c.wrench.graduation, c.wrench.unit), c.wrench.name))


def judge(asked: Sequence[Need], wrench: Wrench, bench: Bench, adapters: tuple[Adapter, ...] = (), tilt_deg: float = 0) -> Choice:
    """One wrench, with what is on its end, for everything that is asked."""
    try:
        tooling, found = equip(wrench, adapters, tilt_deg, bench.policy)
    except Invalid as refusal:
        return Choice(wrench=wrench, refused=f"{refusal.fault} {refusal.remedy}")
    stages, refusals = list[RankedStage](), list[str]()
    if bench.hand == "left" and wrench.tightens == "clockwise":
        refusals.append(f"{wrench.name} measures clockwise only; this thread is left-hand.")
    for need in asked:
        try:
            stages.append(_stage(need, tooling, found, bench.policy))
        except Invalid as refusal:
            refusals.append(refusal.fault)
    barred = "" if refusals else _barred(wrench, stages, bench)
    highest_nm = max((need.band.high for need in asked if need.band is not None), default=0.0)
    return Choice(
        wrench=wrench,
        stages=tuple(stages),
        for_it=tuple(_for_it(wrench, asked, tooling, bench)),
        against=tuple(_against(wrench, asked, [stage.scale.figure for stage in stages if stage.scale is not None], bench)),
        notes=(*found.notes, *_allowed(tooling)),
        cautions=found.cautions,
        reaction=_reaction(adapters, highest_nm, bench),
        refused=next(iter(refusals), barred),
        may_override=bool(barred),
    )


def _stage(need: Need, tooling: Tooling, found: Chain, policy: Policy) -> RankedStage:
    """What the wrench does for a need.

    Raises:
        Invalid: out of its range, no mark inside the band, or more than what is on its end bears.
    """
    wrench, band = tooling.wrench, need.band
    windup_deg = tooling.windup_deg_per_nm * band.high if band is not None else 0.0
    common = {"step": need.step, "labels": need.labels, "words": need.words, "windup_deg": windup_deg}
    if need.angle is not None:
        if band is not None and from_nm(band.low * tooling.factor, wrench.unit) > wrench.highest:
            raise Invalid("wrench", f"{wrench.name} ends at {wrench.highest:g} {wrench.unit}; the angle takes more.", "")
        if band is not None:
            _require_bears(wrench, found, band)
        return RankedStage(angle=show_band(need.angle), **common)
    assert band is not None
    aim_nm = band.aim(policy.figure_in_range)
    setting = set_wrench(wrench, band, aim_nm=aim_nm, factor=tooling.factor, allowance_nm=tooling.allowance_nm)
    _require_bears(wrench, found, band)
    exact = from_nm(aim_nm * tooling.factor + tooling.allowance_nm, wrench.unit)
    return RankedStage(
        exact=Shown(figure=f"{exact:.4g}", unit=wrench.unit), setting=Shown(figure=f"{setting.figure:g}", unit=wrench.unit),
        off=_off(setting, exact), scale=scale(wrench, setting.figure), **common,
    )  # fmt: skip


def _require_bears(wrench: Wrench, found: Chain, band: Band) -> None:
    if found.limit_nm is not None and band.high > found.limit_nm + 1e-9:
        raise Invalid(
            "adapters",
            f"On {wrench.name} {found.limited_by} bears {found.limit_nm:.4g} N·m; this goes to {band.high:.0f} N·m.",
            "Take a larger one.",
        )


def _off(setting: Setting, exact: float) -> str:
    share = (setting.figure - exact) / exact
    return "" if abs(share) < 0.0005 else f"{abs(share):.1%} {'over' if share > 0 else 'under'}"


def _allowed(tooling: Tooling) -> tuple[str, ...]:
    if not tooling.allowance_nm:
        return ()
    return (f"This shop's own rule adds {tooling.allowance_nm:.3g} N·m for the extension; a rigid one takes none.",)


def _reaction(adapters: tuple[Adapter, ...], highest_nm: float, bench: Bench) -> Multiplied | None:
    gear = next((adapter for adapter in reversed(adapters) if isinstance(adapter, Multiplier)), None)  # the one at the fastener
    if gear is None or highest_nm <= 0 or (gear.limit_nm is not None and highest_nm > gear.limit_nm):
        return None
    return multiply(gear, highest_nm, clockwise=bench.hand == "right")


def _barred(wrench: Wrench, stages: Iterable[RankedStage], bench: Bench) -> str:
    """What keeps a wrench that can be set from being used."""
    care = bench.care.get(wrench.id)
    if care is not None and care.standing in ("quarantined", "due"):
        return f"{wrench.name}: {care.words}"
    highest = max((stage.scale.figure for stage in stages if stage.scale is not None), default=wrench.highest)
    if highest >= wrench.verified_from - 1e-9:
        return ""
    return (
        f"{wrench.name} is verified from {wrench.verified_from:g} {wrench.unit} up, a fifth of its highest mark; "
        f"it would be set to {highest:g}."
    )


def _for_it(wrench: Wrench, asked: Sequence[Need], tooling: Tooling, bench: Bench) -> Iterable[str]:
    if len(asked) > 1:
        yield "one wrench for every stage"
    widths = [from_nm((need.band.high - need.band.low) * tooling.factor, wrench.unit) for need in asked if need.band and not need.angle]
    if widths and wrench.graduation <= FINE * min(widths):
        yield f"marks {wrench.graduation:g} {wrench.unit} apart are fine enough for the narrowest band"
    if wrench.construction.startswith("electronic"):
        yield "keeps what it read"
    if wrench.construction == "electronic with angle" and any(need.angle for need in asked):
        yield "measures the angle itself"
    care = bench.care.get(wrench.id)
    if care is not None and care.standing == "good":
        yield "its last check passed"


def _against(wrench: Wrench, asked: Sequence[Need], figures: Collection[float], bench: Bench) -> Iterable[str]:
    highest, least = max(figures, default=0), min(figures, default=wrench.highest)
    if least < wrench.verified_from - 1e-9:
        yield f"a first stage at {least:g} {wrench.unit} lies below its verified range, {wrench.verified_from:g} and up"
    if highest > 0.95 * wrench.highest:
        yield "near the end of its scale: a long, hard pull"
    bands = [need.band for need in asked if need.band is not None]
    narrowest = min(((band.high - band.low) / (band.high + band.low) * 100 for band in bands), default=100.0)
    if is_below(narrowest, wrench.permissible_percent):
        yield f"may itself be off by ±{wrench.permissible_percent:g} %, more than this band of ±{narrowest:.2g} %"
    if wrench.construction not in SET_BEFOREHAND:
        yield "does not click: somebody has to watch it"
    if any(need.angle for need in asked) and wrench.construction != "electronic with angle":
        yield "the angle needs the gauge on it" if bench.angle_gauge else "no angle gauge in order: the angle would go by eye"
    care = bench.care.get(wrench.id)
    if care is not None and care.standing in ("soon", "no check on file"):
        yield care.words.rstrip(".").replace("Due", "due").replace("No check", "no check")


def assign(layout: Layout, asked: Sequence[Need], rows: Sequence[Tooling]) -> list[list[Need]]:
    """For each tooling, the needs that it is for; if several fit, the first.

    Raises:
        Invalid: nothing is chosen for a fastener in a step.
    """
    found: list[list[Need]] = [[] for _ in rows]
    for need in asked:
        taken: dict[int, list[str]] = {}
        for label in need.labels:
            place = next((n for n, row in enumerate(rows) if row.serves(layout, need.step, label)), None)
            if place is None:
                raise Invalid("tooling", f"No wrench is chosen for {label} in {need.words}.", "Pick one.")
            taken.setdefault(place, []).append(label)
        for place, labels in taken.items():
            found[place].append(need.model_copy(update={"labels": tuple(labels)}))
    return found


class Meant(Model):
    """Some fasteners in a step."""

    step: str
    labels: tuple[str, ...]


class Share(Model):
    """Which wrench for which stage, when none does all."""

    wrench: UUID
    name: str
    unit: TorqueUnit
    needs: tuple[Meant, ...]
    words: str


def share_out(asked: Sequence[Need], choices: Sequence[Choice], bench: Bench) -> tuple[tuple[Share, ...], tuple[str, ...]]:
    """The fewest wrenches that do all needs, each with its needs; and what none can do, in words.

    Each is judged once more for its own needs alone: what is proposed here is not refused when the run starts.

    Args:
        choices: in the sequence of `rank`.
    """
    left = {(need.step, need.labels): need for need in asked}
    shares: list[Share] = []
    while left:
        able = ((choice.wrench, _does(choice, left, bench)) for choice in choices)
        tool, stages = max(able, key=lambda row: len(row[1]), default=(None, ()))
        if tool is None or not stages:
            break
        figures = [f"{stage.words} at {shown.figure} {shown.unit}" for stage in stages if (shown := stage.setting or stage.angle)]
        meant = tuple(Meant(step=stage.step, labels=stage.labels) for stage in stages)
        shares.append(Share(wrench=tool.id, name=tool.name, unit=tool.unit, needs=meant, words=", ".join(figures)))
        for stage in stages:
            del left[(stage.step, stage.labels)]
    return tuple(shares), tuple(need.words for need in left.values())


def _does(choice: Choice, left: Mapping[tuple[str, tuple[str, ...]], Need], bench: Bench) -> tuple[RankedStage, ...]:
    able = [left[key] for stage in choice.stages if (key := (stage.step, stage.labels)) in left]
    judged = judge(able, choice.wrench, bench) if able else None
    return judged.stages if judged is not None and not judged.refused else ()
