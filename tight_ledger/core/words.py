"""Entries and fasteners in plain words, for the screen, the card and a screen reader."""

from tight_ledger.core.base import Model
from tight_ledger.core.entries import Entry
from tight_ledger.core.plans import Pass, Plan
from tight_ledger.core.prompts import stage_words
from tight_ledger.core.runs import RunState


class FastenerNow(Model):
    """One fastener as it stands: one paint mark a stage done, flagged while a bad verdict is unanswered."""

    label: str
    marks: int
    of: int
    checked: str
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


def pass_words(plan: Plan, one: Pass) -> str:
    """`stage 2 of 3`, or the task."""
    return stage_words(plan, one) or one.say.rstrip(".") or one.kind


def entry_words(plan: Plan, entry: Entry) -> str:
    """`6, stage 2 of 3: clicked at 350 N·m`."""
    one, pull = next(((p, pull) for p in plan.passes for pull in p.pulls if pull.id == entry.pull), (None, None))
    where = ", ".join(part for part in (entry.fastener or "", pass_words(plan, one) if one is not None else "") if part)
    shown = entry.reading or entry.setting or (pull.setting if pull is not None else None)
    figure = f" at {shown.figure:g} {shown.unit}" if shown is not None else ""
    what = {
        "pulled": f"read{figure}" if entry.reading is not None else f"clicked{figure}",
        "checked": f"{'turned' if entry.moved else 'did not turn'}{figure}",
        "confirmed": entry.option or "confirmed",
        "undone": "taken back",
        "deviated": "decided by the lead",
        "finished": f"ended: {entry.outcome}",
    }.get(entry.kind, entry.kind.replace("_", " "))
    reason = f" ({entry.text})" if entry.text else ""
    return f"{where}: {what}{reason}" if where else f"{what}{reason}"


def pass_lines(plan: Plan, state: RunState) -> tuple[PassLine, ...]:
    """The passes that are, were or may come; tasks too."""
    return tuple(
        PassLine(id=one.id, words=pass_words(plan, one), status=s.status, done=s.done, total=s.total)
        for one, s in zip(plan.passes, state.passes, strict=True)
        if (s.status != "skipped" and one.kind != "stop") or s.status == "current"
    )


def fasteners_now(plan: Plan, state: RunState) -> tuple[FastenerNow, ...]:
    """Every fastener of the plan, in the order of its first pull."""
    outcome = {pull.id: pull for pull in state.pulls}
    bad = {v.fastener for v in state.unanswered()}
    following = set(state.next[:1])
    rows: dict[str, list[tuple[Pass, str, str | None]]] = {}
    coming: set[str] = set()
    for one in plan.passes:
        for pull in one.pulls:
            if pull.fastener is not None:
                now = outcome[pull.id]
                rows.setdefault(pull.fastener, []).append((one, now.status, now.outcome))
                if pull.id in following:
                    coming.add(pull.fastener)
    found = []
    for label, pulls in rows.items():
        stages = [(status, result) for one, status, result in pulls if one.kind == "torque"]
        marks = sum(status == "done" for status, _ in stages)
        checks = [result for one, status, result in pulls if one.kind == "check" and status == "done"]
        checked = checks[-1] or "" if checks else ""
        said = [f"{marks} of {len(stages)} stages"] if stages else []
        said += {"still": ["did not turn in the check"], "moved": ["turned in the check"]}.get(checked, [])
        said += ["next"] if label in coming else []
        said += [v.words.split(": ", 1)[-1] for v in state.unanswered() if v.fastener == label]
        found.append(
            FastenerNow(
                label=label, marks=marks, of=len(stages), checked=checked, next=label in coming,
                flagged=label in bad, words=f"{label}: {', '.join(said)}",
            )
        )  # fmt: skip
    return tuple(sorted(found, key=lambda f: (len(f.label), f.label)))
