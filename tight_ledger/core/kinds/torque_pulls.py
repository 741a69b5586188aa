"""What the kinds that pull with a torque wrench share."""

from typing import Any

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.display import Shown, show, show_band
from tight_ledger.core.base.units import TorqueUnit
from tight_ledger.core.kinds.acts import Doing, LadderRung
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.rungs import is_ladder, planned_setting
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pull, Rung
from tight_ledger.core.records.verdicts import VerdictCode
from tight_ledger.core.tools.wrenches import Setting

_ALSO: tuple[TorqueUnit, ...] = ("N·m", "lbf·ft")
"""Units in which a setting is shown besides the wrench's own."""


def torque_of(fold: FoldState, entry: Entry, pull: Pull, rung: Rung | None) -> tuple[float | None, VerdictCode]:
    """The torque at the fastener [N·m]: what was read, or what the wrench was set to when it clicked.

    None if that is not known, with the verdict that says why.
    """
    if entry.reading is not None:
        return pull.at_fastener(entry.reading.torque_nm), "no_figure"
    if entry.how != "click":
        return None, "no_figure"
    setting = entry.setting
    if setting is None and pull.is_set:
        tool = entry.tools[0] if entry.tools else pull.tool
        setting = fold.tool_use.set_to.get(tool) if tool is not None else None
        if setting is None:
            return None, "not_set"
    setting = setting or planned_setting(pull, rung)
    if setting is not None:
        fold.tool_use.clicked_at[entry.id] = setting
    return (pull.at_fastener(setting.shown_nm) if setting is not None else None), "no_figure"


def torque_prompt(pull: Pull, doing: Doing, *, with_ladder: bool) -> dict[str, Any]:
    """The prompt's fields for a torque: the mark to pull to with its limits, in the wrench's unit and in others."""
    rung = doing.rung
    setting, band = (rung.setting, rung.band) if rung is not None else (pull.setting, pull.band)
    if setting is None or band is None:
        return {"watch": "its figure is not known yet"} if pull.rungs else {}
    rungs = pull.rungs if with_ladder and is_ladder(pull) else ()
    return {
        "figure": _at_wrench(pull, setting, band),
        "also": tuple(show(setting.torque_nm, unit) for unit in _ALSO if unit != setting.unit),
        "ladder": tuple(
            LadderRung(key=step.key, figure=_at_wrench(pull, step.setting, step.band), picked=rung is not None and step.key == rung.key)
            for step in rungs
        ),
        "watch": f"it turns {show_band(pull.watch).limits}" if pull.watch is not None else "",
    }


def _at_wrench(pull: Pull, setting: Setting, band: Band) -> Shown:
    return show_band(pull.at_wrench(band), setting.unit, mark=setting.figure)
