"""What the person at the wrench is told now: figure, nut, pass, way to turn, what comes next."""

from typing import Literal

from tight_ledger.core.base import Model
from tight_ledger.core.plans import Pass, Plan
from tight_ledger.core.quantities import Shown, TorqueUnit, show, show_band
from tight_ledger.core.runs import RunState
from tight_ledger.core.specs import Hand
from tight_ledger.core.steps import Option

_ALSO: tuple[TorqueUnit, ...] = ("N·m", "lbf·ft")
Ask = Literal["click", "turned", "confirm", "stop", "finish"]


class Prompt(Model):
    """One thing to do."""

    ask: Ask
    pull: str | None = None
    fastener: str | None = None
    pass_id: str | None = None
    stage: str = ""
    say: str = ""
    meanwhile: str = ""
    figure: Shown | None = None
    also: tuple[Shown, ...] = ()
    turn: str = ""
    upcoming: tuple[str, ...] = ()
    then: str = ""
    options: tuple[Option, ...] = ()


def way_to_turn(hand: Hand) -> str:
    """Which way tightens, looking at the head of the nut."""
    return "clockwise" if hand == "right" else "anticlockwise, left-hand thread"


def stage_words(plan: Plan, one: Pass) -> str:
    """`stage 2 of 3`, `check 1 of at most 3`, or nothing for a task."""
    same_kind = [p for p in plan.passes if p.kind == one.kind]
    if one.kind == "torque":
        return f"stage {same_kind.index(one) + 1} of {len(same_kind)}"
    if one.kind == "check":
        rounds = [p for p in same_kind if p.step == one.step]
        return f"check {rounds.index(one) + 1} of at most {len(rounds)}" if len(rounds) > 1 else "check"
    return ""


def prompt(plan: Plan, state: RunState, hand: Hand) -> Prompt:
    """The prompt for a run as it stands."""
    current = next((p for p in plan.passes for s in state.passes if s.id == p.id and s.status == "current"), None)
    if current is None or not state.next:
        return Prompt(ask="finish")
    pull = next(p for p in current.pulls if p.id == state.next[0])
    status = {p.id: p.status for p in state.pulls}
    rest = [p for p in current.pulls if status[p.id] == "open" and p.id not in state.next[:1]]
    ask: Ask = {"torque": "click", "check": "turned", "do": "confirm"}.get(current.kind, "stop")  # type: ignore[assignment]
    figure, also = None, ()  # type: Shown | None, tuple[Shown, ...]
    if pull.setting is not None and pull.band is not None:
        limits = show_band(pull.band.scaled(pull.factor, at_least=0), pull.setting.unit, pull.setting.torque_nm)
        figure = limits.model_copy(update={"figure": f"{pull.setting.figure:g}"})
        also = tuple(show(pull.setting.torque_nm, u) for u in _ALSO if u != pull.setting.unit)
    return Prompt(
        ask=ask,
        pull=pull.id,
        fastener=pull.fastener,
        pass_id=current.id,
        stage=stage_words(plan, current),
        say=current.say,
        meanwhile=current.meanwhile,
        figure=figure,
        also=also,
        turn=way_to_turn(hand) if pull.fastener is not None else "",
        upcoming=tuple(p.fastener or p.id for p in rest[:4]),
        then=_after(plan, state, current),
        options=current.options,
    )


def _after(plan: Plan, state: RunState, current: Pass) -> str:
    """What comes after the current pass."""
    status = {p.id: p.status for p in state.passes}
    later = plan.passes[plan.passes.index(current) + 1 :]
    following = next((p for p in later if status[p.id] == "ahead"), None)
    if following is None:
        maybe = next((p for p in later if status[p.id] == "maybe" and p.kind != "stop"), None)
        return f"{stage_words(plan, maybe)}, if any turned" if maybe is not None else "finish"
    return stage_words(plan, following) or following.say or following.kind
