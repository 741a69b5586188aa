"""What a device may report, and what is asked before it is recorded. Pure: the same rules serve the server and the tablet."""

import math
from collections.abc import Collection, Sequence
from uuid import UUID

from tight_ledger.core.adjust.methods import METHODS, require_method
from tight_ledger.core.adjust.registry import ADJUSTERS
from tight_ledger.core.base.bands import Reading
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.people import Role, require_right
from tight_ledger.core.base.rounding import is_above
from tight_ledger.core.kinds.readings import Instant
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import Registry, StepKind
from tight_ledger.core.records.corrections import is_an_instruments, may_correct
from tight_ledger.core.records.entries import PHYSICAL, TIGHTENING, Entry, Report, Started
from tight_ledger.core.records.plans import Pass, Plan, Pull, Tooling
from tight_ledger.core.runs.asking import ask_first, planned, wrench_of
from tight_ledger.core.runs.fold import answers, both_measured, is_of, original_of
from tight_ledger.core.runs.run import RunState
from tight_ledger.core.tools.dials import Needle, from_needle
from tight_ledger.core.tools.gauges import rank_gauges

REPORTABLE: frozenset[str] = PHYSICAL | {"undone", "clarified", "handed_over", "deviated"}


def tools_of(plan: Plan, report: Report) -> dict[str, tuple[UUID, ...]]:
    """The field `tools` of a pull that does not name its wrench: the planned one; empty for any other report."""
    _, pull = planned(plan, report.pull)
    if report.kind not in TIGHTENING or report.tools is not None or pull is None or pull.tool is None:
        return {}
    return {"tools": (pull.tool,)}


def accept(
    started: Started, state: RunState, entries: Sequence[Entry], roles: Collection[Role], report: Report, at: Instant
) -> dict[str, object]:
    """What a report becomes: its fields as they were said, and the planned wrench where none was named.

    Args:
        started: the plan and the tooling in force.
        entries: the run's, by seq.
        roles: of the person who reports.
        at: when it was done, by its device's clock and by the server's.

    Raises:
        Invalid, NotAllowed: see `require_acceptable`.
        MustAsk: see `ask_first`.
    """
    report = _read_off(started, report)
    require_acceptable(started.plan, state, started.tooling, roles, report)
    _require_correction(started.plan, entries, roles, report)
    _require_two(entries, report)
    _require_taken_so(started, state, report)
    _require_within(started.plan, report)
    last = next((entry for entry in reversed(entries) if entry.kind in TIGHTENING and entry.by == report.by), None)
    ask_first(started.plan, started.policy, state, started.tooling, entries, last, report, at)
    said = {name: getattr(report, name) for name in report.model_fields_set | {"reading"}} | tools_of(started.plan, report)
    advised = state.doing.advised
    if report.kind == "adjusted" and advised is not None and state.next[:1] == (report.pull,):
        said["proposed"] = advised.proposal
    return said


def require_acceptable(
    plan: Plan, state: RunState, tooling: Sequence[Tooling], roles: Collection[Role], report: Report, kinds: Registry = KINDS
) -> None:
    """Refuse a report that makes no sense.

    Args:
        tooling: the run's.
        roles: of the person who reports.
        kinds: the kinds of step that the plan can have.

    Raises:
        Invalid: a kind that is not reported so, a pull or a rung that the plan has not, a field that is missing.
        NotAllowed: a deviation by somebody who may not decide.
    """
    if report.kind not in REPORTABLE:
        raise Invalid("kind", f"“{report.kind}” is not reported here.", f"Report {', '.join(sorted(REPORTABLE))}.")
    pass_, pull = planned(plan, report.pull)
    answered = answers(kinds)
    if report.kind in answered and pull is None and not (report.kind == "loosened" and report.pull is None):
        raise Invalid("pull", f"The plan has no pull “{report.pull}”.", "Name one of the run's pulls.")
    if pass_ is not None and report.kind in answered and pass_.kind not in answered[report.kind]:
        raise Invalid("kind", f"“{report.kind}” does not answer {report.pull}.", f"It is a {pass_.kind}.")
    if report.fastener is not None and report.fastener not in plan.labels:
        raise Invalid("fastener", f"This joint has no fastener {report.fastener}.", "Name one on the map.")
    if pass_ is not None and pull is not None:
        if not is_of(pull, report):
            whose = f"fastener {pull.fastener}" if pull.fastener is not None else "the whole joint"
            raise Invalid(
                "fastener", f"{report.pull} is a pull of {whose}, not of {report.fastener}.", "Name the pull and its own fastener."
            )
        _require_option(pass_, report)
        _require_figure(kinds[pass_.kind], pull, report)
    _require_whole_setting(report)
    if report.kind == "set":
        _require_mark(tooling, report)
    _require_said(state, report)
    if report.kind == "deviated":
        require_right(roles, "decide", "kind")


def _require_option(pass_: Pass, report: Report) -> None:
    """A choice is answered by one of its options; what is no choice, by none.

    Raises:
        Invalid: another word, or none where there are several.
    """
    keys = [option.key for option in pass_.options]
    if report.kind == "confirmed" and not keys and report.option is not None:
        raise Invalid("option", f"“{report.option}” answers nothing here.", "It is done, or not: send no option.")
    needed = report.kind == "confirmed" and len(keys) > 1
    if keys and (needed or report.option is not None) and report.option not in keys:
        said = f"“{report.option}” is none of the options" if report.option is not None else "Nothing was chosen"
        raise Invalid("option", f"{said}.", f"Choose {', '.join(keys)}.")


def _require_correction(plan: Plan, entries: Sequence[Entry], roles: Collection[Role], report: Report) -> None:
    """A correction of what may be corrected, by somebody who may; see `records.corrections`.

    Raises:
        Invalid: nothing that may be corrected so.
        NotAllowed: an instrument's reading is given to another fastener by somebody who may not decide.
    """
    if report.corrects is None:
        return
    original = original_of({entry.id: entry for entry in entries}, report)
    if original is None:
        raise Invalid("corrects", "This run has no such entry.", "Look at the run again.")
    if not may_correct(original, report, plan.step_of):
        fault = "What an instrument showed stays as it is." if is_an_instruments(original) else "This does not correct that entry."
        remedy = "Only a pull, a check, a reading or a task is corrected, by one of its own kind at the same fastener and step."
        raise Invalid("corrects", fault, remedy)
    if is_an_instruments(original):
        require_right(roles, "decide", "corrects")


def _require_two(entries: Sequence[Entry], report: Report) -> None:
    """Two readings are never one pull.

    Raises:
        Invalid: somebody says so.
    """
    if report.kind != "clarified" or report.option != "one":
        return
    held = next((entry for entry in entries if entry.id == report.about), None)
    if held is None:
        return
    others = (entry for entry in entries if entry.pull == held.pull and entry.kind in TIGHTENING and entry.id != held.id)
    if any(both_measured(entry, held) for entry in others):
        raise Invalid("option", "Both were measured: two readings are two pulls.", "Say two.")


def _require_figure(kind: StepKind, pull: Pull, report: Report) -> None:
    """Something to judge it by, of the quantity that the pull is about.

    Raises:
        Invalid: no figure and no press that tells one, degrees for a torque, a rung that is none.
    """
    if report.rung is not None and report.rung not in {rung.key for rung in pull.rungs}:
        known = ", ".join(rung.key for rung in pull.rungs) or "none"
        raise Invalid("rung", f"This pull has no rung “{report.rung}”.", f"Its rungs are {known}.")
    if report.reading is not None:
        _require_quantity(kind, pull, report)
        return
    if report.kind == "measured":
        raise Invalid("reading", "A measurement without a figure is none.", "Type what the gauge shows.")
    if report.kind == "adjusted" and report.option is None and report.adjusted is None:
        raise Invalid("adjusted", "Nothing says how far it was changed.", "Say by how much, or to what; or that it stays.")
    if report.kind == "checked" and report.moved is None:
        raise Invalid("moved", "A check says whether the fastener turned.", "Send true or false.")
    if report.kind in TIGHTENING and report.how not in kind.presses:
        what = "degrees" if kind.reading == "angle" else "a torque"
        raise Invalid("reading", f"Nothing says what {what} this came to.", f"Send the reading, or how: {' or '.join(kind.presses)}.")


def _read_off(started: Started, report: Report) -> Report:
    """A report whose reading is worked out from where the needle stands; any other as it is.

    Raises:
        Invalid: its gauge has no dial, or not so many marks.
    """
    seen = report.needle
    if seen is None:
        return report
    gauge = next((now.gauge for now in started.gauges if now.gauge.id in (report.tools or ())), None)
    if gauge is None or gauge.divisions is None:
        raise Invalid("needle", "Nothing says which dial this needle stands on.", "Name a gauge with a dial, or type the figure.")
    figure = from_needle(Needle(seen.turns, seen.marks, inward=False), gauge.graduation, gauge.divisions)
    return report.model_copy(update={"reading": Reading(figure=figure, unit=gauge.unit, where="gauge", radius_mm=seen.radius_mm)})


def _require_within(plan: Plan, report: Report) -> None:
    """A setting that the spec allows.

    Raises:
        Invalid: more than its most.
    """
    pass_, _ = planned(plan, report.pull)
    to = report.adjusted.to if report.adjusted is not None else None
    most = ADJUSTERS[pass_.advice.by].most(pass_.advice) if pass_ is not None and pass_.advice is not None else None
    if to is not None and most is not None and is_above(to, most):
        raise Invalid("adjusted", f"{to:g} lies above the spec's most, {most:g}.", "Stop here, or let a lead decide.")


def _require_taken_so(started: Started, state: RunState, report: Report) -> None:
    """A reading that was taken by the step's method, with a gauge that may be used for it.

    Raises:
        Invalid: it was not taken so, or the gauge is due, set aside, too coarse, or none of the run's.
    """
    pass_, pull = planned(started.plan, report.pull)
    if report.kind != "measured" or pass_ is None or pull is None or report.reading is None:
        return
    first = state.next[:1] != (pull.id,) or not state.doing.readings
    require_method(pass_.method, report.method, first=first)
    if not report.tools:
        return
    known = tuple(now for now in started.gauges if now.gauge.id == report.tools[0])
    if not known:
        raise Invalid("tools", "This gauge is not known to the run.", "Name one of those that are offered, or none.")
    gauge = known[0].gauge
    if report.reading.unit != gauge.unit:
        raise Invalid("reading", f"{gauge.name} shows {gauge.unit}, not {report.reading.unit}.", f"Type what it shows, in {gauge.unit}.")
    if pull.band is None:
        return
    kinds = METHODS[pass_.method].kinds if pass_.method is not None else None
    ranked = rank_gauges(known, pull.band, report.reading.radius_mm, kinds)
    if not ranked or ranked[0].rank == "refused":
        words = ranked[0].words if ranked else "It reads something else."
        raise Invalid("tools", f"{gauge.name} is not for this: {words}", "Take another one.")


def _require_quantity(kind: StepKind, pull: Pull, report: Report) -> None:
    assert report.reading is not None
    band = pull.rungs[0].band if pull.rungs else pull.band
    wanted = kind.reading or (band.quantity if band is not None else None)
    if wanted is None or report.reading.quantity == ("torque" if wanted == "drag" else wanted):
        return
    shown = {"angle": "degrees", "torque": "a torque", "drag": "a torque", "length": "a length"}[wanted]
    raise Invalid("reading", f"{report.reading.figure:g} {report.reading.unit} answers nothing here.", f"This one is read as {shown}.")


def _require_whole_setting(report: Report) -> None:
    """A setting whose figure and torque are the same value.

    Raises:
        Invalid: they are not.
    """
    setting = report.setting
    if setting is not None and not math.isclose(setting.torque_nm, setting.shown_nm, rel_tol=1e-6):
        fault = f"{setting.figure:g} {setting.unit} is {setting.shown_nm:.4g} N·m, not {setting.torque_nm:.4g}."
        raise Invalid("setting", fault, "Send the figure of the scale, and the torque that it means.")


def _require_mark(tooling: Sequence[Tooling], report: Report) -> None:
    """A setting that one of the run's wrenches can have."""
    if report.setting is None or not report.tools:
        raise Invalid("setting", "Nothing says which wrench is set to what.", "Send the tool and its setting.")
    wrench = wrench_of(tooling, report)
    if wrench is None:
        raise Invalid("tools", "This wrench is not taken for the run.", "Name one of the run's wrenches, or change the wrench first.")
    side = wrench.read_in(report.setting.unit)
    if not side.lowest <= report.setting.figure <= side.highest:
        raise Invalid(
            "setting", f"{wrench.name} cannot be set to {report.setting.figure:g} {side.unit}.",
            f"It goes from {side.lowest:g} to {side.highest:g}.",
        )  # fmt: skip


def _require_said(state: RunState, report: Report) -> None:
    """What a decision about the record needs."""
    if report.kind in ("undone", "deviated") and not (report.text or "").strip():
        raise Invalid("text", "A reason is missing.", "Say in a few words why.")
    if report.kind == "deviated" and report.about is not None and report.about not in state.to_settle():
        raise Invalid("about", "Nothing about this entry waits for a decision.", "Look at the run again.")
    if report.kind == "undone" and report.undoes not in state.undoable:
        raise Invalid(
            "undoes", "This entry cannot be taken back: something later hangs on it, or it is gone already.", "Write a note for the lead."
        )
    if report.kind == "clarified" and report.option == "seen":
        if report.about not in state.unread():
            raise Invalid("about", "There is no notice to be read in this entry.", "Look at the run again.")
        return
    if report.kind == "clarified" and report.option == "looked":
        if report.about not in state.odd_ends():
            raise Invalid("about", "Nothing about this entry is to be looked at.", "Look at the run again.")
        if not (report.text or "").strip():
            raise Invalid("text", "What was found is missing.", "Say in a few words what you found.")
        return
    if report.kind == "clarified":
        if report.about not in state.one_or_two:
            raise Invalid("about", "Nobody asks about this entry.", "Look at the run again.")
        if report.option not in ("one", "two"):
            raise Invalid("option", f"“{report.option}” answers nothing here.", "Say one, or two.")
