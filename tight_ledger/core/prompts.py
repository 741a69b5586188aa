"""What the person at the wrench is told now: figure, nut, pass, way to turn, what comes next."""

from collections.abc import Callable
from datetime import datetime
from typing import Any, Literal

from tight_ledger.core.bands import Band
from tight_ledger.core.base import Model
from tight_ledger.core.display import Shown, show, show_band
from tight_ledger.core.plans import Pass, Plan, Pull
from tight_ledger.core.runs import Doing, RunState
from tight_ledger.core.specs import Hand
from tight_ledger.core.steps import Option
from tight_ledger.core.tools.wrenches import Setting
from tight_ledger.core.units import TorqueUnit

_ALSO: tuple[TorqueUnit, ...] = ("N·m", "lbf·ft")
Ask = Literal["click", "angle", "turn", "loosen", "align", "turned", "rotate", "measure", "confirm", "choose", "stop", "finish"]
ASKS: dict[str, Ask] = {
    "torque": "click", "angle": "angle", "turns": "turn", "loosen": "loosen", "align": "align", "check": "turned", "rotate": "rotate",
    "measure": "measure", "do": "confirm", "stop": "stop",
}  # fmt: skip


class Step(Model):
    """A figure of a ladder that can be chosen instead."""

    key: str
    figure: Shown
    picked: bool


class Prompt(Model):
    """One thing to do."""

    ask: Ask
    pull: str | None = None
    fastener: str | None = None
    together: tuple[str, ...] = ()
    """Others that may be pulled in any sequence with it."""
    pass_id: str | None = None
    stage: str = ""
    say: str = ""
    meanwhile: str = ""
    tooling: int | None = None
    """Which of the run's toolings is taken for it."""
    figure: Shown | None = None
    also: tuple[Shown, ...] = ()
    ladder: tuple[Step, ...] = ()
    angle: Shown | None = None
    degrees_done: float = 0.0
    degrees_left: float = 0.0
    windup_deg: float = 0.0
    watch: str = ""
    """What ought to be seen besides: `ends at 88–140 N·m`."""
    amount: str = ""
    """How far by hand: `2 turns back`, `to the next slot, 35° at most`."""
    measure: str = ""
    band: Shown | None = None
    units: tuple[str, ...] = ()
    readings_done: int = 0
    readings_of: int = 1
    turn: str = ""
    upcoming: tuple[str, ...] = ()
    then: str = ""
    options: tuple[Option, ...] = ()
    proposed: str = ""
    value: str = ""
    not_before: datetime | None = None
    """Too early before this, by the device's clock."""
    not_after: datetime | None = None


def way_to_turn(hand: Hand) -> str:
    """Which way tightens, looking at the head of the nut."""
    return "clockwise" if hand == "right" else "anticlockwise, left-hand thread"


def way_back(hand: Hand) -> str:
    """Which way loosens."""
    return "anticlockwise" if hand == "right" else "clockwise, left-hand thread"


def stage_words(plan: Plan) -> dict[str, str]:
    """By pass: `stage 2 of 3`, `angle`, `check 1 of at most 3`, or nothing for a task; with the item of a block."""
    stages = list(dict.fromkeys(one.step for one in plan.passes if one.kind in ("torque", "turns")))
    angles = list(dict.fromkeys(one.step for one in plan.passes if one.kind == "angle"))
    rounds: dict[tuple[str, str | None], list[str]] = {}
    for one in plan.passes:
        rounds.setdefault((one.step, one.item), []).append(one.id)
    words: dict[str, str] = {}
    for one in plan.passes:
        same = rounds[one.step, one.item]
        numbered = f"stage {stages.index(one.step) + 1} of {len(stages)}" if one.step in stages else ""
        turned = f"angle {angles.index(one.step) + 1} of {len(angles)}" if one.step in angles and len(angles) > 1 else "angle"
        said = {
            "torque": numbered, "turns": numbered, "check": "check", "angle": turned, "align": "align", "loosen": "loosen",
            "rotate": f"turn the {one.what}", "measure": one.what,
        }.get(one.kind, "")  # fmt: skip
        if said and len(same) > 1:
            most = " at most" if any(one.until_loops) else ""
            said += f" {same.index(one.id) + 1} of{most} {len(same)}" if one.kind == "check" else f", round {same.index(one.id) + 1}"
        words[one.id] = f"{one.item}: {said}" if said and one.item is not None and not _is_one(one) else said
    return words


def _is_one(one: Pass) -> bool:
    """A block's item that is the only fastener of its pass needs no name of its own."""
    return {pull.fastener for pull in one.pulls} == {one.item}


def prompt(plan: Plan, state: RunState, hand: Hand) -> Prompt:
    """The prompt for a run as it stands."""
    current = next((p for p, s in zip(plan.passes, state.passes, strict=True) if s.status == "current"), None)
    if current is None or not state.next:
        return Prompt(ask="finish")
    words = stage_words(plan)
    pull = next(p for p in current.pulls if p.id == state.next[0])
    status = {p.id: p.status for p in state.pulls}
    rest = [p for p in current.pulls if status[p.id] == "open" and p.id != pull.id]
    ask = ASKS[current.kind]
    return Prompt(
        ask="choose" if ask == "confirm" and len(current.options) > 1 else ask,
        pull=pull.id,
        fastener=pull.fastener,
        together=tuple(p.fastener for p in rest if p.id in state.next and p.fastener is not None),
        pass_id=current.id,
        stage=words[current.id],
        say=current.say,
        meanwhile=current.meanwhile,
        tooling=pull.tooling if pull.tool is not None else None,
        turn=(way_back(hand) if current.way == "back" else way_to_turn(hand)) if pull.fastener is not None else "",
        upcoming=tuple(p.fastener or p.id for p in rest[:4]),
        then=_after(plan, state, current, words),
        options=current.options,
        proposed=state.doing.proposed,
        not_before=state.doing.not_before,
        not_after=state.doing.not_after,
        value="" if state.doing.value is None else f"{state.doing.value:.4g}",
        **_FIGURES[current.kind](current, pull, state.doing),
    )


def _torque(current: Pass, pull: Pull, doing: Doing) -> dict[str, Any]:
    rung = doing.rung
    setting, band = (rung.setting, rung.band) if rung is not None else (pull.setting, pull.band)
    if setting is None or band is None:
        return {"watch": "its figure is not known yet"} if pull.rungs else {}
    return {
        "figure": _at_wrench(pull, setting, band),
        "also": tuple(show(setting.torque_nm, unit) for unit in _ALSO if unit != setting.unit),
        "ladder": tuple(
            Step(key=one.key, figure=_at_wrench(pull, one.setting, one.band), picked=rung is not None and one.key == rung.key)
            for one in pull.rungs
        ) if current.kind == "torque" and pull.rungs and pull.rungs[0].low is None else (),
        "watch": f"it turns {_limits(show_band(pull.watch))}" if pull.watch is not None else "",
    }  # fmt: skip


def _at_wrench(pull: Pull, setting: Setting, band: Band) -> Shown:
    return show_band(pull.at_wrench(band), setting.unit, mark=setting.figure)


def _limits(shown: Shown) -> str:
    return f"{shown.low}–{shown.high}{'' if shown.unit == '°' else ' '}{shown.unit}"


def _angle(current: Pass, pull: Pull, doing: Doing) -> dict[str, Any]:
    assert pull.band is not None
    aim = pull.band.target if pull.band.target is not None else (pull.band.low + pull.band.high) / 2
    watch = show_band(pull.watch, "N·m", pull.watch.high) if pull.watch is not None else None
    return {
        "angle": show_band(pull.band), "degrees_done": round(doing.degrees, 1), "degrees_left": round(max(aim - doing.degrees, 0), 1),
        "windup_deg": pull.windup_deg, "watch": f"ends at {_limits(watch)}" if watch is not None else "",
    }  # fmt: skip


def _by_hand(current: Pass, pull: Pull, doing: Doing) -> dict[str, Any]:
    figure = "" if current.amount is None else f"{current.amount:g}"
    said = {
        "turns": f"{figure} {'turn' if figure == '1' else 'turns'}", "deg": f"{figure}°",
        "positions": f"{figure} lock {'position' if figure == '1' else 'positions'}", "free": "until it is loose",
    }[current.unit]  # fmt: skip
    if current.kind == "align":
        return {"amount": f"{'on' if current.way == 'forward' else 'back'} to the next slot, {said} at most"}
    if current.kind == "rotate":
        return {"amount": f"{said} of the {current.what}"}
    return {"amount": f"{said} back" if current.kind == "loosen" and current.unit != "free" else said}


def _measure(current: Pass, pull: Pull, doing: Doing) -> dict[str, Any]:
    torque = pull.band is not None and pull.band.quantity in ("torque", "drag")
    units = ("N·m", "lbf·in", "lbf·ft") if torque else ("mm", "thou", "in") if pull.band is not None else ("mm", "thou", "N·m", "lbf·in")
    shown = None
    if pull.band is not None:
        shown = show_band(pull.band, "N·m", pull.band.high) if pull.band.quantity == "torque" else show_band(pull.band)
    return {
        "measure": current.what, "band": shown, "units": units, "readings_done": len(doing.readings), "readings_of": current.readings,
    }  # fmt: skip


def _plain(current: Pass, pull: Pull, doing: Doing) -> dict[str, Any]:
    return {}


_FIGURES: dict[str, Callable[[Pass, Pull, Doing], dict[str, Any]]] = {
    "torque": _torque, "check": _torque, "angle": _angle, "turns": _by_hand, "loosen": _by_hand, "align": _by_hand, "rotate": _by_hand,
    "measure": _measure, "do": _plain, "stop": _plain,
}  # fmt: skip


def _after(plan: Plan, state: RunState, current: Pass, words: dict[str, str]) -> str:
    """What comes after the current pass."""
    later = [(one, s.status) for one, s in zip(plan.passes, state.passes, strict=True)]
    later = later[[one.id for one, _ in later].index(current.id) + 1 :]
    following = next((one for one, status in later if status == "ahead"), None)
    if following is None:
        maybe = next((one for one, status in later if status == "maybe" and one.kind != "stop"), None)
        if maybe is None:
            return "finish"
        return f"{words[maybe.id]}, if any turned" if maybe.kind == "check" else f"{words[maybe.id] or maybe.say}, if it is needed"
    return words[following.id] or following.say or following.kind
