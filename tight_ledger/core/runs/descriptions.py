"""Entries and fasteners in plain words, for the screen, the card and a screen reader."""

from tight_ledger.core.base.bands import Reading
from tight_ledger.core.base.display import gap, show
from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.names import name_of
from tight_ledger.core.kinds.judging import has_moved
from tight_ledger.core.planning.stages import amount_words
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pass, Plan, Pull
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


def pass_words(plan: Plan) -> dict[str, str]:
    """By pass: `stage 2 of 3`, or the task."""
    stages = stage_words(plan)
    return {one.id: stages[one.id] or one.say.rstrip(".") or one.kind for one in plan.passes}


def entry_words(plan: Plan, entry: Entry) -> str:
    """`nut 6, stage 2 of 3: clicked at 350 N·m`."""
    one, pull = next(((p, pull) for p in plan.passes for pull in p.pulls if pull.id == entry.pull), (None, None))
    name = name_of(plan.nouns, entry.fastener) if entry.fastener is not None else ""
    where = ", ".join(part for part in (name, pass_words(plan)[one.id] if one is not None else "") if part)
    shown = entry.setting or (pull.setting if pull is not None else None)
    figure = f" at {_read(entry, pull)}" if entry.reading is not None else f" at {_shown(shown)}" if shown is not None else ""
    what = {
        "set": f"set to {_shown(entry.setting)}" if entry.setting is not None else "set",
        "pulled": _pulled(entry, one, pull, figure),
        "measured": f"read {_read(entry, pull)}",
        "turned": _turned(entry, one),
        "loosened": _turned_back(one),
        "checked": f"{'turned' if pull is not None and has_moved(entry, pull) else 'did not turn'}{figure}",
        "confirmed": entry.option or "confirmed",
        "undone": "taken back",
        "clarified": f"{entry.option} pull{'s' if entry.option == 'two' else ''}",
        "resumed": f"came back: {entry.option}" if entry.option else "resumed",
        "deviated": "decided by the lead",
        "retooled": "another wrench is taken",
        "handed_over": "handed over",
        "finished": f"ended: {entry.outcome}",
    }.get(entry.kind, entry.kind)
    reason = f" ({entry.text})" if entry.text else ""
    return f"{where}: {what}{reason}" if where else f"{what}{reason}"


def _shown(one: Reading | Setting) -> str:
    return f"{one.figure:.9g}{gap(one.unit)}{one.unit}"


def _read(entry: Entry, pull: Pull | None) -> str:
    """A reading as it was shown; what a wrench on the line sent, in the unit of its scale."""
    if entry.reading is None:
        return "nothing"
    if entry.how == "wire":
        return _sent(entry.reading, pull)
    return _shown(entry.reading)


def _sent(reading: Reading, pull: Pull | None) -> str:
    if reading.quantity != "torque" or reading.figure <= 0:
        return f"{reading.figure:.1f}{gap(reading.unit)}{reading.unit}"
    unit = pull.setting.unit if pull is not None and pull.setting is not None else "N·m"
    said = show(reading.torque_nm, unit)
    return f"{said.figure}{gap(said.unit)}{said.unit}"


def _pulled(entry: Entry, one: Pass | None, pull: Pull | None, figure: str) -> str:
    if one is not None and one.kind == "angle":
        ended = f", ending at {_sent(entry.end_torque, pull)}" if entry.end_torque is not None else ""
        how = {"eye": "by eye", "gauge": "by the gauge", "wire": "by the wrench"}.get(entry.how or "", "")
        told = f"turned {_read(entry, pull)}" if entry.reading is not None else "turned to the mark"
        return f"{told}{ended}{f', {how}' if how else ''}"
    went = f", having turned {_sent(entry.turned, pull)}" if entry.turned is not None else ""
    return (f"read{figure}" if entry.reading is not None else f"clicked{figure}") + went


def _turned(entry: Entry, one: Pass | None) -> str:
    if entry.option == "high":
        return "no slot within the limit"
    if one is not None and one.kind == "align":
        return "turned to the slot"
    return entry.option or (f"turned {amount_words(one)}" if one is not None and one.amount is not None else "turned")


def _turned_back(one: Pass | None) -> str:
    return "loosened" if one is None else f"turned {amount_words(one)}" if one.unit != "free" else "turned back"


def pass_lines(plan: Plan, state: RunState) -> tuple[PassLine, ...]:
    """The passes that are, were or may come; tasks too."""
    words = pass_words(plan)
    return tuple(
        PassLine(id=one.id, words=words[one.id], status=s.status, done=s.done, total=s.total, task=one.kind == "do")
        for one, s in zip(plan.passes, state.passes, strict=True)
        if (s.status != "skipped" and one.kind != "stop") or s.status == "current"
    )


def fasteners_now(plan: Plan, state: RunState) -> tuple[FastenerNow, ...]:
    """Every fastener of the plan, by number."""
    wrong: dict[str, list[str]] = {}
    for verdict in state.unanswered():
        for label in blamed(plan, state, verdict):
            wrong.setdefault(label, []).append(verdict.said)
    stages: dict[str, list[bool]] = {}
    checked: dict[str, str] = {}
    angles: dict[str, tuple[float | None, float]] = {}
    coming, first = "", state.next[0] if state.next else None
    standing = iter(state.pulls)
    for one in plan.passes:
        for pull in one.pulls:
            now = next(standing)
            if pull.fastener is None:
                continue
            if now.id == first:
                coming = pull.fastener
            if one.kind == "angle" and pull.band is not None and (now.status != "open" or pull.fastener not in angles):
                aim = pull.band.aim()
                done = aim if now.status == "done" else None
                angles[pull.fastener] = (state.values.get(pull.id, done), aim)
            if one.kind in ("torque", "angle", "turns"):
                stages.setdefault(pull.fastener, []).append(now.status == "done")
            elif one.kind == "check" and now.status == "done":
                checked[pull.fastener] = now.outcome or ""
            stages.setdefault(pull.fastener, [])
    return tuple(
        _fastener(
            label,
            name_of(plan.nouns, label),
            done,
            checked.get(label, ""),
            label == coming,
            wrong.get(label, []),
            angles.get(label, (None, None)),
        )
        for label, done in sorted(stages.items(), key=lambda row: (len(row[0]), row[0]))
    )  # fmt: skip


def _fastener(
    label: str, name: str, stages: list[bool], checked: str, coming: bool, wrong: list[str], angle: tuple[float | None, float | None]
) -> FastenerNow:
    marks = sum(stages)
    said = [f"{marks} of {len(stages)} stages"] if stages else []
    said += {"still": ["did not turn in the check"], "moved": ["turned in the check"]}.get(checked, [])
    said += [f"turned {angle[0]:.0f}°"] if angle[0] is not None else []
    said += ["next", *wrong] if coming else wrong
    return FastenerNow(
        label=label, name=name, marks=marks, of=len(stages), checked=checked, next=coming, flagged=bool(wrong), angle_deg=angle[0],
        aim_deg=angle[1],
        words=f"{name}: {', '.join(said)}",
    )  # fmt: skip
