"""How a run may end, and why: reasons that name the fasteners."""

from collections.abc import Collection

from tight_ledger.core.base.errors import Invalid, Stale
from tight_ledger.core.base.people import Role, require_right
from tight_ledger.core.joints.names import names_of
from tight_ledger.core.records.entries import Outcome
from tight_ledger.core.records.plans import Plan
from tight_ledger.core.records.verdicts import Verdict
from tight_ledger.core.runs.prompt import stage_words
from tight_ledger.core.runs.run import RunState


def reasons(plan: Plan, state: RunState) -> tuple[str, ...]:
    """Why a run is not good, one judgement after the other, with the fasteners; empty if it is clean."""
    named: dict[str, list[str]] = {}
    for verdict in state.unanswered():
        named.setdefault(verdict.said, []).extend(blamed(plan, state, verdict))
    said = [f"{names_of(plan.nouns, labels)}: {what}" if labels else what for what, labels in named.items()]
    if not state.complete and not any(verdict.code == "stopped" for verdict in state.verdicts):
        status = {pull.id: pull.status for pull in state.pulls}
        certain = {p.id for p in state.passes if p.status in ("current", "ahead")}
        left = [pull.fastener for p in plan.passes if p.id in certain for pull in p.pulls if status[pull.id] == "open"]
        labels = [label for label in left if label is not None]
        if labels and set(labels) >= set(plan.labels):
            said.append(progress(plan, state))
        else:
            said.append(f"{names_of(plan.nouns, labels)}: not finished" if labels else "not finished")
    return tuple(said)


def progress(plan: Plan, state: RunState) -> str:
    """How far a run has come that is not finished: `not begun`, `stage 1 of 3 done`, `stage 2 of 3: 4 of 10 done`."""
    titles = stage_words(plan)
    worked = [(titles[at.id], at) for pass_, at in zip(plan.passes, state.passes, strict=True) if titles[at.id] and pass_.pulls[0].fastener]
    now = next(((title, at) for title, at in worked if at.status in ("current", "ahead")), None)
    if now is not None and 0 < now[1].done < now[1].total:
        return f"{now[0]}: {now[1].done} of {now[1].total} done"
    before = [title for title, at in worked if at.status == "done"]
    return f"{before[-1]} done" if before else "not begun"


def blamed(plan: Plan, state: RunState, verdict: Verdict) -> tuple[str, ...]:
    """The fasteners that a judgement is about; of a run that came to a stop, those because of which it did."""
    if verdict.code == "stopped":
        return still_out(plan, state, verdict.pull)
    return (verdict.fastener,) if verdict.fastener is not None else ()


def still_out(plan: Plan, state: RunState, stop: str | None) -> tuple[str, ...]:
    """The fasteners because of which a run came to a stop: those whose last round did not end as it should."""
    pulls = {pull.id: pull for pull in state.pulls}
    passes = {pass_.id: pass_ for pass_ in plan.passes}
    found: list[str] = []
    for test in passes[stop].when if stop in passes else ():
        for rounds in test.passes:
            taken = [passes[pass_id] for pass_id in rounds if any(pulls[pull.id].outcome is not None for pull in passes[pass_id].pulls)]
            last = taken[-1].pulls if taken else ()
            found += [pull.fastener for pull in last if pull.fastener is not None and pulls[pull.id].outcome not in test.one_of]
    return tuple(found)


def judge_finish(plan: Plan, state: RunState, outcome: Outcome, roles: Collection[Role], text: str) -> tuple[str, ...]:
    """Whether a run may end so; returns the reasons to record.

    Raises:
        Stale: it has ended already, and not with `do not move`.
        Invalid: `good` for a run that is not, or no reason given where one is needed.
        NotAllowed: `released` by somebody who may not decide.
    """
    if state.standing is not None and not (state.standing == "do not move" and outcome in ("released", "do not move")):
        raise Stale("outcome", f"This run has already ended: {state.standing}.", "Open its job card.")
    why = reasons(plan, state)
    if outcome == "good" and not state.clean:
        raise Invalid("outcome", f"This run is not good. {'; '.join(why)}.", "Put it right, or end it as it is.")
    if outcome == "released":
        require_right(roles, "decide", "outcome")
    if outcome in ("released", "abandoned") and not text.strip():
        raise Invalid("text", "A reason is missing.", "Say in a few words why.")
    if outcome == "abandoned" and state.touched and set(state.touched) < set(plan.labels):
        why += (f"{names_of(plan.nouns, state.touched)}: already pulled",)
    return (*why, text.strip()) if text.strip() else why
