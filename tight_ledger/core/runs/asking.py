"""What is asked before something is recorded: what is unlikely, once. Pure: the same questions on the server and on the tablet."""

from collections.abc import Sequence

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.display import gap
from tight_ledger.core.base.errors import MustAsk
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.rounding import is_above
from tight_ledger.core.base.slips import is_far_off, slips
from tight_ledger.core.base.units import LENGTH_UNITS, USUAL_UNITS, from_stored, to_nm
from tight_ledger.core.joints.names import name_of
from tight_ledger.core.kinds.readings import Instant, Readings, seconds_between
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import Registry, StepKind
from tight_ledger.core.records.entries import TIGHTENING, Entry, Report
from tight_ledger.core.records.plans import Pass, Plan, Pull, Tooling
from tight_ledger.core.runs.rules import not_seen
from tight_ledger.core.runs.run import RunState
from tight_ledger.core.tools.wrenches import Wrench

FAR_ANGLE = 3.0
"""A swing of this many times the whole angle is asked about. Common practice, no source."""


def planned(plan: Plan, pull_id: str | None) -> tuple[Pass | None, Pull | None]:
    """A pull of a plan, with its pass; None if the plan has none with this id."""
    return plan.planned.get(pull_id or "", (None, None))


def wrench_of(tooling: Sequence[Tooling], report: Report) -> Wrench | None:
    """The wrench of a run that a report names; None if it names none of them."""
    return next((row.wrench for row in tooling if row.wrench.id in (report.tools or ())), None)


def ask_first(
    plan: Plan,
    policy: Policy,
    state: RunState,
    tooling: Sequence[Tooling],
    entries: Sequence[Entry],
    last: Entry | None,
    report: Report,
    at: Instant,
    kinds: Registry = KINDS,
) -> None:
    """Ask before recording what is unlikely; what was affirmed is not asked about again.

    Args:
        entries: the run's, by seq.
        last: the last pull or check by the same person.
        at: when it was done.
        kinds: the kinds of step that the plan can have.

    Raises:
        MustAsk: a pull faster than one can be made, one on a fastener that has had it, a reading that looks like a slip.
    """
    affirmed, is_pull = report.affirmed or (), report.kind in TIGHTENING and report.corrects is None
    if is_pull and report.is_timed and "pace" not in affirmed and last is not None and _has_a_pace(report, entries):
        gap_s = seconds_between(last, at)
        if 0 <= gap_s < policy.fastest_pull_s:
            fault = f"That came {gap_s:.1f} s after the last one, faster than a pull can be made."
            raise MustAsk("pace", "at_device", fault, "Was it a pull of its own?")
    pass_, pull = planned(plan, report.pull)
    if pass_ is None or pull is None or report.how == "wire":
        return
    if is_pull and "late" not in affirmed:
        _ask_late(state, report, at)
    if is_pull and "again" not in affirmed:
        _ask_again(plan, state, entries, pull, report)
    if report.reading is not None and report.kind in (*TIGHTENING, "measured") and "unit" not in affirmed:
        added = Readings({each.id: each for each in plan.passes}, values=dict(state.values)).offset(pass_, pull)
        if added != 0:
            _ask_difference(pull, added, report)
            return
        _ask_figure(kinds[pass_.kind], pull, state, wrench_of(tooling, report), report)


def _has_a_pace(report: Report, entries: Sequence[Entry]) -> bool:
    """Whether a hand's pace says something about it: a press, or a reading that is typed as it is pulled. Of readings that are typed
    in a row, from the memory of a wrench, it is asked once."""
    if report.reading is None:
        return True
    said = (entry for entry in entries if entry.by == report.by and entry.how == "typed" and "pace" in (entry.affirmed or ()))
    return report.how == "typed" and next(said, None) is None


def _ask_late(state: RunState, report: Report, at: Instant) -> None:
    """The next pull, after the time in which it had to be made."""
    limit = state.doing.limit
    late_s = seconds_between(limit, at) - limit.seconds if limit is not None else 0.0
    if state.next[:1] != (report.pull,) or late_s <= 0:
        return
    fault = f"The time for this ran out {late_s:.0f} s ago."
    raise MustAsk("late", "at_device", fault, "Loosen all and begin again; or go on: then only a lead can release it.")


def _ask_again(plan: Plan, state: RunState, entries: Sequence[Entry], pull: Pull, report: Report) -> None:
    """A fastener that has had this pull, by somebody who knows it."""
    done = next((each for each in state.pulls if each.id == pull.id), None)
    if done is None or done.status != "done" or pull.fastener is None:
        return
    first = next((entry for entry in reversed(entries) if entry.pull == pull.id and entry.kind in TIGHTENING), None)
    if first is not None and report.claimed_seq is not None and not not_seen(report, first):
        name = name_of(plan.nouns, pull.fastener)
        raise MustAsk("again", "pull", f"{name.capitalize()} has had this pull already.", "Was it pulled once more?")


def _ask_figure(kind: StepKind, pull: Pull, state: RunState, wrench: Wrench | None, report: Report) -> None:
    assert report.reading is not None
    reading, shown = report.reading, f"{report.reading.figure:g}{gap(report.reading.unit)}{report.reading.unit}"
    band = _band(pull, state, report)
    if band is None:
        return
    if kind.reading == "angle":
        if is_above(reading.stored, band.high * FAR_ANGLE):
            raise MustAsk("unit", "reading", f"{shown} is far more than the whole angle.", "Type it again, or say that it is right.")
        return
    choices = LENGTH_UNITS if band.quantity == "length" else USUAL_UNITS
    read = reading.stored if report.kind == "measured" else pull.at_fastener(reading.torque_nm)
    if found := slips(read, band):
        raise MustAsk("unit", "reading", f"{shown} is far off; it would fit as {' or '.join(found)}.", "Which unit does it show?", choices)
    if wrench is not None and report.kind in TIGHTENING and is_above(reading.torque_nm, _ends_at_nm(wrench)):
        fault = f"{shown} lies beyond the scale of {wrench.name}, which ends at {wrench.highest:g} {wrench.unit}."
        raise MustAsk("unit", "reading", fault, "Which unit does it show?", choices)
    if is_far_off(read, band):
        raise MustAsk("unit", "reading", f"{shown} is far off.", "Type it again, or say that it is right.", choices)


def _ask_difference(pull: Pull, added: float | None, report: Report) -> None:
    """A reading that counts with what an earlier one showed: a length before it was stretched.

    Args:
        added: see `Readings.offset`.
    """
    assert report.reading is not None
    if pull.band is None or added is None or not is_far_off(abs(report.reading.stored + added), pull.band):
        return
    differs, unit = abs(from_stored(added + report.reading.stored, report.reading.unit)), report.reading.unit
    fault = f"{report.reading.figure:g}{gap(unit)}{unit} differs by {differs:.3g}{gap(unit)}{unit} from what was read before."
    raise MustAsk("unit", "reading", fault, "Type it again, or say that it is right.", LENGTH_UNITS)


def _ends_at_nm(wrench: Wrench) -> float:
    return max(to_nm(side.highest, side.unit) for side in wrench.sides())


def _band(pull: Pull, state: RunState, report: Report) -> Band | None:
    """The band that a reading is held against: the rung's, where there is a ladder."""
    if not pull.rungs:
        return pull.band
    picked = state.doing.rung if state.next and state.next[0] == pull.id else None
    key = report.rung or (picked.key if picked is not None else None)
    return next((rung.band for rung in pull.rungs if rung.key == key), None)
