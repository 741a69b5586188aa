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
    tooling: int | None = None
    """Which of the run's toolings is taken for it."""
    figure: Shown | None = None
    also: tuple[Shown, ...] = ()
    turn: str = ""
    upcoming: tuple[str, ...] = ()
    then: str = ""
    options: tuple[Option, ...] = ()


def way_to_turn(hand: Hand) -> str:
    """Which way tightens, looking at the head of the nut."""
    return "clockwise" if hand == "right" else "anticlockwise, left-hand thread"


def stage_words(plan: Plan) -> dict[str, str]:
    """By pass: `stage 2 of 3`, `check 1 of at most 3`, or nothing for a task."""
    stages = [one.id for one in plan.passes if one.kind == "torque"]
    words = {one.id: "" for one in plan.passes}
    words |= {pass_id: f"stage {number} of {len(stages)}" for number, pass_id in enumerate(stages, start=1)}
    rounds: dict[str, list[str]] = {}
    for one in plan.passes:
        if one.kind == "check":
            rounds.setdefault(one.step, []).append(one.id)
    for same in rounds.values():
        numbered = {pass_id: f"check {number} of at most {len(same)}" for number, pass_id in enumerate(same, start=1)}
        words |= numbered if len(same) > 1 else dict.fromkeys(same, "check")
    return words


def prompt(plan: Plan, state: RunState, hand: Hand) -> Prompt:
    """The prompt for a run as it stands."""
    current = next((p for p, s in zip(plan.passes, state.passes, strict=True) if s.status == "current"), None)
    if current is None or not state.next:
        return Prompt(ask="finish")
    words = stage_words(plan)
    pull = next(p for p in current.pulls if p.id == state.next[0])
    status = {p.id: p.status for p in state.pulls}
    rest = [p for p in current.pulls if status[p.id] == "open" and p.id not in state.next[:1]]
    ask: Ask = {"torque": "click", "check": "turned", "do": "confirm"}.get(current.kind, "stop")  # type: ignore[assignment]
    figure, also = None, ()  # type: Shown | None, tuple[Shown, ...]
    if pull.setting is not None and pull.band is not None:
        limits = show_band(pull.at_wrench(pull.band), pull.setting.unit, pull.setting.torque_nm)
        figure = limits.model_copy(update={"figure": f"{pull.setting.figure:g}"})
        also = tuple(show(pull.setting.torque_nm, u) for u in _ALSO if u != pull.setting.unit)
    return Prompt(
        ask=ask,
        pull=pull.id,
        fastener=pull.fastener,
        pass_id=current.id,
        stage=words[current.id],
        say=current.say,
        meanwhile=current.meanwhile,
        tooling=pull.tooling if pull.tool is not None else None,
        figure=figure,
        also=also,
        turn=way_to_turn(hand) if pull.fastener is not None else "",
        upcoming=tuple(p.fastener or p.id for p in rest[:4]),
        then=_after(plan, state, current, words),
        options=current.options,
    )


def _after(plan: Plan, state: RunState, current: Pass, words: dict[str, str]) -> str:
    """What comes after the current pass."""
    later = [(one, s.status) for one, s in zip(plan.passes, state.passes, strict=True)]
    later = later[[one.id for one, _ in later].index(current.id) + 1 :]
    following = next((one for one, status in later if status == "ahead"), None)
    if following is None:
        maybe = next((one for one, status in later if status == "maybe" and one.kind != "stop"), None)
        return f"{words[maybe.id]}, if any turned" if maybe is not None else "finish"
    return words[following.id] or following.say or following.kind
