"""How a run may end, and why: reasons that name the fasteners."""

from tight_ledger.core.base import Invalid, Stale
from tight_ledger.core.entries import Outcome
from tight_ledger.core.people import Role, require_lead
from tight_ledger.core.plans import Plan
from tight_ledger.core.runs import RunState
from tight_ledger.core.verdicts import WORDS


def reasons(plan: Plan, state: RunState) -> tuple[str, ...]:
    """Why a run is not good, code by code, with the fasteners; empty if it is clean."""
    named: dict[str, list[str]] = {}
    for verdict in state.unanswered():
        fasteners = named.setdefault(verdict.code, [])
        blamed = still_turning(plan, state) if verdict.code == "stopped" else (verdict.fastener,)
        fasteners += [label for label in blamed if label is not None and label not in fasteners]
    said = [
        f"{', '.join(sorted(fasteners, key=by_number))}: {WORDS[code][0]}" if fasteners else WORDS[code][0]
        for code, fasteners in named.items()
    ]
    if not state.complete and "stopped" not in named:
        status = {pull.id: pull.status for pull in state.pulls}
        certain = {p.id for p in state.passes if p.status in ("current", "ahead")}
        left = [pull.fastener for p in plan.passes if p.id in certain for pull in p.pulls if status[pull.id] == "open"]
        fasteners = sorted({label for label in left if label is not None}, key=by_number)
        said.append(f"{', '.join(fasteners)}: not finished" if fasteners else "not finished")
    return tuple(said)


def still_turning(plan: Plan, state: RunState) -> tuple[str, ...]:
    """The fasteners that turned in the last check taken."""
    outcomes = {pull.id: pull.outcome for pull in state.pulls}
    taken = [p for p, s in zip(plan.passes, state.passes, strict=True) if p.kind == "check" and s.done]
    return tuple(pull.fastener for pull in taken[-1].pulls if outcomes[pull.id] == "moved" and pull.fastener) if taken else ()


def by_number(label: str) -> tuple[int, str]:
    """A key that sorts 2 before 10, and numbers before names."""
    return (int(label), "") if label.isdigit() else (1_000_000, label)


def judge_finish(plan: Plan, state: RunState, outcome: Outcome, role: Role, text: str) -> tuple[str, ...]:
    """Whether a run may end so; returns the reasons to record.

    Raises:
        Stale: it has ended already, and not with `do not move`.
        Invalid: `good` for a run that is not, or no reason given where one is needed.
        NotAllowed: `released` by somebody who is not a lead.
    """
    if state.standing is not None and not (state.standing == "do not move" and outcome in ("released", "do not move")):
        raise Stale("outcome", f"This run has already ended: {state.standing}.", "Open its job card.")
    why = reasons(plan, state)
    if outcome == "good" and not state.clean:
        raise Invalid("outcome", f"This run is not good. {'; '.join(why)}.", "Put it right, or end it as it is.")
    if outcome == "released":
        require_lead(role, "outcome", "release a wheel that is not good")
    if outcome in ("released", "abandoned") and not text.strip():
        raise Invalid("text", "A reason is missing.", "Say in a few words why.")
    if outcome == "abandoned" and state.touched:
        why += (f"{', '.join(sorted(state.touched, key=by_number))}: already pulled",)
    return (*why, text.strip()) if text.strip() else why
