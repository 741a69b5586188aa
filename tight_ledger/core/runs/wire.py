"""What a run asks of a wrench on the line, and what a pull that the wrench sends means for the run."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from tight_ledger.core.adjust.methods import METHODS
from tight_ledger.core.base.bands import Band, Reading
from tight_ledger.core.base.display import Shown, show
from tight_ledger.core.base.units import STORED_UNIT, ReadingUnit, TorqueUnit, from_nm
from tight_ledger.core.kinds.acts import Advised
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.records.entries import Report, Started
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.runs.line_protocol import Target
from tight_ledger.core.runs.prompt import current_pull
from tight_ledger.core.runs.run import RunState
from tight_ledger.core.tools.wrenches import Setting


@dataclass(frozen=True, slots=True)
class SentPull:
    """A pull as a wrench sent it."""

    id: UUID
    at: datetime
    torque_nm: float
    angle_deg: float
    curve: Sequence[tuple[float, float]] = ()
    """Angle [°] and torque [N·m], from the beginning of the pull."""


@dataclass(frozen=True, slots=True)
class SentReading:
    """A reading as a gauge sent it."""

    id: UUID
    at: datetime
    figure: float
    unit: ReadingUnit


@dataclass(frozen=True, slots=True)
class WantedPull:
    """What a run asks of a wrench."""

    pass_: Pass
    pull: Pull
    degrees_left: float
    """As the wrench shows them, with its windup."""
    setting: Setting | None
    band: Band | None
    """At the wrench; setting and band are those of the picked rung, where there is a ladder."""
    taken: int = 0
    """Of a reading, how many there were already."""
    advised: Advised | None = None
    """Of a reading, how far the adjustment is that uses it."""

    @property
    def is_reading(self) -> bool:
        """Whether a gauge answers it, not a wrench."""
        return KINDS[self.pass_.kind].has_measured_band


def wanted_pull(started: Started, state: RunState, kinds: Registry = KINDS) -> WantedPull | None:
    """The pull that a wrench can make now; None while the run asks for something else.

    Args:
        started: the plan in force.
        kinds: the kinds of step that the plan can have.
    """
    found = current_pull(started.plan, state) if state.outcome is None and not state.doing.unsure else None
    if found is None or not kinds[found[0].kind].by_wire:
        return None
    (pass_, pull), rung = found, state.doing.rung
    aim = pull.band.aim() if pull.band is not None else 0.0
    setting, band = (rung.setting, rung.band) if rung is not None else (pull.setting, pull.band)
    shown = pull.at_wrench(band) if band is not None and kinds[pass_.kind].reading == "torque" else None
    left_deg = max(aim - state.doing.degrees, 0.0) + pull.windup_deg
    return WantedPull(pass_, pull, left_deg, setting, shown if shown is not None else band, len(state.doing.readings), state.doing.advised)


def target_of(wanted: WantedPull | None, kinds: Registry = KINDS) -> Target:
    """What a run asks of a wrench, in the words of the protocol.

    Args:
        kinds: the kinds of step that the plan can have.
    """
    if wanted is None:
        return Target(kind="none")
    pull, kind = wanted.pull, wanted.pass_.kind
    common = {"pull": pull.id, "fastener": pull.fastener, "yields": pull.yields, "say": wanted.pass_.say, "kind": kind}
    if wanted.is_reading:
        return Target.model_validate(
            {"kind": "read", "pull": pull.id, "fastener": pull.fastener, "say": wanted.pass_.say} | _to_read(wanted)
        )
    if kinds[kind].reading == "angle":
        return Target.model_validate(common | {"angle_deg": wanted.degrees_left})
    limits = {"low_nm": wanted.band.low, "high_nm": wanted.band.high} if wanted.band is not None else {}
    return Target.model_validate(common | limits | {"torque_nm": wanted.setting.torque_nm if wanted.setting is not None else None})


def _to_read(wanted: WantedPull) -> dict[str, object]:
    band, advised, pass_ = wanted.band, wanted.advised, wanted.pass_
    unit = STORED_UNIT[band.quantity] if band is not None else STORED_UNIT["length"]
    limits = {"low": band.low, "high": band.high} if band is not None else {}
    stands = {"adjusts": advised.by, "at": advised.at, "travel": advised.travel} if advised is not None else {}
    before = METHODS[pass_.method].before if pass_.method is not None else ""
    return limits | stands | {"what": pass_.what, "unit": unit, "before": before, "taken": wanted.taken}


def scale_unit(started: Started, wanted: WantedPull | None) -> TorqueUnit:
    """The unit of the scale of the wrench in hand; N·m if no wrench is wanted."""
    return started.tooling[wanted.pull.tooling].wrench.unit if wanted is not None and started.tooling else "N·m"


def live_shown(started: Started, state: RunState, torque_nm: float, angle_deg: float) -> dict[str, str | float]:
    """What a screen is told of a wrench while it is held: in the unit of its own scale."""
    unit = scale_unit(started, wanted_pull(started, state))
    return {"type": "live", "torque": round(from_nm(torque_nm, unit), 2), "unit": unit, "angle_deg": angle_deg}


def needle_shown(figure: float, unit: ReadingUnit) -> dict[str, str | float]:
    """What a screen is told of a gauge whose needle moves."""
    return {"type": "needle", "figure": figure, "unit": unit}


def report_of_reading(wanted: WantedPull | None, sent: SentReading, by: UUID) -> Report:
    """What is recorded of a reading that a gauge sent: the answer to what is to be read, else a note.

    Args:
        by: the person in whose name the gauge speaks. The press of its button says that it was taken by the step's method.
    """
    reading = Reading(figure=sent.figure, unit=sent.unit, where="gauge")
    said: dict[str, Any] = {"id": sent.id, "by": by, "at_device": sent.at, "how": "wire"}
    if wanted is None or not wanted.is_reading:
        text = f"A reading that was not asked for: {sent.figure:g} {sent.unit}."
        return Report.model_validate(said | {"kind": "noted", "text": text})
    pull = {"pull": wanted.pull.id, "fastener": wanted.pull.fastener, "method": wanted.pass_.method}
    return Report.model_validate(said | pull | {"kind": "measured", "reading": reading})


def report_of(started: Started, wanted: WantedPull | None, sent: SentPull, by: UUID, curve: str | None, kinds: Registry = KINDS) -> Report:
    """What is recorded of a pull that a wrench sent: the answer to the wanted pull, else a note.

    Figures are kept as they were sent.

    Args:
        started: the tooling in force.
        by: the person in whose name the wrench speaks.
        curve: digest of its curve, if that is kept.
        kinds: the kinds of step that the plan can have.
    """
    torque, angle = Reading(figure=sent.torque_nm, unit="N·m"), Reading(figure=sent.angle_deg, unit="°")
    said: dict[str, Any] = {"id": sent.id, "by": by, "at_device": sent.at, "how": "wire"} | ({"curve": curve} if curve else {})
    if wanted is None or wanted.is_reading:
        shown = show(torque.torque_nm, scale_unit(started, wanted)) if torque.figure > 0 else Shown(figure="0", unit="N·m")
        text = f"A pull that was not asked for: {shown.figure} {shown.unit}, {angle.figure:.0f}°."
        return Report.model_validate(said | {"kind": "noted", "text": text})
    said |= {"pull": wanted.pull.id, "fastener": wanted.pull.fastener}
    said |= {"tools": (wanted.pull.tool,)} if wanted.pull.tool is not None else {}
    kind = kinds[wanted.pass_.kind]
    figures = (
        {"reading": angle, "counts": "swing", "end_torque": torque} if kind.reading == "angle" else {"reading": torque, "turned": angle}
    )
    return Report.model_validate(said | figures | {"kind": kind.answered_by})
