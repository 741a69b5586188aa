"""Entries and fasteners in plain words, for the screen, the card and a screen reader."""

from dataclasses import dataclass, field

from tight_ledger.core.base.bands import Reading
from tight_ledger.core.base.display import gap, show
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.units import TorqueUnit
from tight_ledger.core.joints.names import name_of
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import EntryFigures, Registry
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Plan, Pull
from tight_ledger.core.runs.outcomes import blamed
from tight_ledger.core.runs.prompt import stage_words
from tight_ledger.core.runs.run import RunState
from tight_ledger.core.tools.wrenches import Setting


class FastenerNow(Model):
    """One fastener as it stands: one paint mark a stage done, flagged while a bad verdict is unanswered."""

    label: str
    name: str
    """`nut 4`."""
    marks: int
    of: int
    checked: str
    angle_deg: float | None = None
    """How far it was turned in its last angle; None before."""
    aim_deg: float | None = None
    """How far it is to be turned in the angle that comes or came last."""
    next: bool
    flagged: bool
    words: str


class PassLine(Model):
    """One pass in the list of passes."""

    id: str
    words: str
    status: str
    done: int
    total: int
    task: bool
    """Whether it is confirmed, not pulled, turned or read."""


def pass_words(plan: Plan, kinds: Registry = KINDS) -> dict[str, str]:
    """By pass id: `stage 2 of 3`, or the task."""
    stages = stage_words(plan, kinds)
    return {pass_.id: stages[pass_.id] or pass_.say.rstrip(".") or pass_.kind for pass_ in plan.passes}


def entry_words(plan: Plan, entry: Entry, kinds: Registry = KINDS, clicked_at: Setting | None = None) -> str:
    """An entry in words: `nut 6, stage 2 of 3: clicked at 350 N·m`.

    Args:
        kinds: the kinds of step that the plan can have.
        clicked_at: the setting that a click was judged by; without it the planned one is told.
    """
    pass_, pull = plan.planned.get(entry.pull or "", (None, None))
    name = name_of(plan.nouns, entry.fastener) if entry.fastener is not None else ""
    where = ", ".join(part for part in (name, pass_words(plan, kinds)[pass_.id] if pass_ is not None else "") if part)
    if pass_ is not None and pull is not None and kinds[pass_.kind].answered_by == entry.kind:
        what = kinds[pass_.kind].told(entry, pass_, pull, figures_of(entry, pull, plan, clicked_at))
    else:
        what = _told_without_pull(entry)
    reason = f" ({entry.text})" if entry.text else ""
    reason += ", by a simulated wrench" if entry.trial else ""
    reason += "" if entry.is_timed else ", from paper"
    reason += ", no PIN" if entry.unproven else ""
    return f"{where}: {what}{reason}" if where else f"{what}{reason}"


CLARIFIED = {"one": "one pull", "two": "two pulls", "seen": "notice read", "looked": "looked at"}
"""By what was said about an entry, in words."""


def _told_without_pull(entry: Entry) -> str:
    """An entry that answers no pull of the plan."""
    figures = figures_of(entry, None, None)
    return {
        "set": f"set to {_shown(entry.setting)}" if entry.setting is not None else "set",
        "pulled": f"{'read' if entry.reading is not None else 'clicked'}{figures.at}",
        "checked": f"{'turned' if entry.moved else 'did not turn'}{figures.at}",
        "measured": f"read {figures.read}",
        "undone": "taken back",
        "clarified": CLARIFIED.get(entry.option or "", f"{entry.option}"),
        "resumed": f"came back: {entry.option}" if entry.option else "resumed",
        "deviated": "decided by the lead",
        "flagged": "; ".join(flag.words for flag in entry.flags or ()),
        "vouched": "confirmed with the PIN",
        "retooled": "another wrench is taken",
        "handed_over": "handed over",
        "finished": f"ended: {entry.outcome}",
        "started": f"started; what was in yield here: {bolts}" if (bolts := entry.started and entry.started.bolts) else "started",
    }.get(entry.kind, entry.kind)


def figures_of(entry: Entry, pull: Pull | None, plan: Plan | None, clicked_at: Setting | None = None) -> EntryFigures:
    """The figures of an entry, as they were shown; what a wrench on the line sent, in the unit of its scale.

    Args:
        pull: of the plan, that it answers.
        clicked_at: the setting that a click was judged by; without it the planned one is told.
    """
    read, unit = "", plan.units_read.get(entry.fastener, "N·m") if plan is not None else "N·m"
    if entry.reading is not None:
        read = _sent(entry.reading, unit) if entry.how == "wire" else _shown(entry.reading)
    setting = entry.setting or clicked_at or (pull.setting if pull is not None else None)
    at = read or (_shown(setting) if setting is not None else "")
    more = f", having turned {_sent(entry.turned, unit)}" if entry.turned is not None else ""
    more += f", ending at {_sent(entry.end_torque, unit)}" if entry.end_torque is not None else ""
    return EntryFigures(at=f" at {at}" if at else "", read=read, more=more)


def _shown(figure: Reading | Setting) -> str:
    return f"{figure.figure:.9g}{gap(figure.unit)}{figure.unit}"


def _sent(reading: Reading, unit: TorqueUnit) -> str:
    if reading.quantity != "torque" or reading.figure <= 0:
        return f"{reading.figure:.1f}{gap(reading.unit)}{reading.unit}"
    said = show(reading.torque_nm, unit)
    return f"{said.figure}{gap(said.unit)}{said.unit}"


def pass_lines(plan: Plan, state: RunState, kinds: Registry = KINDS) -> tuple[PassLine, ...]:
    """The passes that are, were or may come, tasks included; a stop only while it is current."""
    words = pass_words(plan, kinds)
    return tuple(
        PassLine(
            id=pass_.id, words=words[pass_.id], status=standing.status, done=standing.done, total=standing.total,
            task=kinds[pass_.kind].answered_by == "confirmed",
        )
        for pass_, standing in zip(plan.passes, state.passes, strict=True)
        if (standing.status != "skipped" and not kinds[pass_.kind].only_a_lead) or standing.status == "current"
    )  # fmt: skip


@dataclass(slots=True)
class _Marks:
    """What was done at a fastener."""

    stages: list[bool] = field(default_factory=list)
    checked: str = ""
    angle_deg: float | None = None
    aim_deg: float | None = None


def fasteners_now(plan: Plan, state: RunState, kinds: Registry = KINDS) -> tuple[FastenerNow, ...]:
    """Every fastener of the plan, by number."""
    wrong: dict[str, list[str]] = {}
    for verdict in state.unanswered():
        for label in blamed(plan, state, verdict):
            wrong.setdefault(label, []).append(verdict.said)
    marks: dict[str, _Marks] = {}
    coming, first = "", state.next[0] if state.next else None
    standing = iter(state.pulls)
    for pass_ in plan.passes:
        kind = kinds[pass_.kind]
        for pull in pass_.pulls:
            now = next(standing)
            if pull.fastener is None:
                continue
            if now.id == first:
                coming = pull.fastener
            marked = marks.setdefault(pull.fastener, _Marks())
            if kind.reading == "angle" and kind.tightens and pull.band is not None and (now.status != "open" or marked.aim_deg is None):
                marked.aim_deg = pull.band.aim()
                marked.angle_deg = state.values.get(pull.id, marked.aim_deg if now.status == "done" else None)
            if kind.tightens and not kind.proves_pace:
                marked.stages.append(now.status == "done")
            elif kind.proves_pace and now.status == "done":
                marked.checked = now.outcome or ""
    return tuple(
        _fastener(label, name_of(plan.nouns, label), marked, label == coming, wrong.get(label, []))
        for label, marked in sorted(marks.items(), key=lambda row: (len(row[0]), row[0]))
    )


def _fastener(label: str, name: str, marked: _Marks, coming: bool, wrong: list[str]) -> FastenerNow:
    done, of = sum(marked.stages), len(marked.stages)
    said = [f"{done} of {of} stages"] if of else []
    said += {"still": ["did not turn in the check"], "moved": ["turned in the check"]}.get(marked.checked, [])
    said += [f"turned {marked.angle_deg:.0f}°"] if marked.angle_deg is not None else []
    said += ["next", *wrong] if coming else wrong
    return FastenerNow(
        label=label, name=name, marks=done, of=of, checked=marked.checked, next=coming, flagged=bool(wrong), angle_deg=marked.angle_deg,
        aim_deg=marked.aim_deg, words=f"{name}: {', '.join(said)}",
    )  # fmt: skip
