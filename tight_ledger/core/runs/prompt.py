"""What the person at the wrench is told now: figure, nut, pass, way to turn, what comes next."""

from collections.abc import Callable, Sequence
from datetime import datetime
from typing import Any, Literal

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.display import Shown, show, show_band, units_for
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.units import ReadingUnit, TorqueUnit
from tight_ledger.core.joints.names import name_of
from tight_ledger.core.planning.stages import amount_words
from tight_ledger.core.records.entries import RunKind
from tight_ledger.core.records.plans import Pass, Plan, Pull, Tooling
from tight_ledger.core.runs.run import Doing, RunState
from tight_ledger.core.specs.spec import Hand
from tight_ledger.core.specs.steps import Option
from tight_ledger.core.tools.scales import Scale, scale
from tight_ledger.core.tools.wrenches import Setting

_ALSO: tuple[TorqueUnit, ...] = ("N·m", "lbf·ft")
Ask = Literal[
    "set", "click", "angle", "turn", "loosen", "align", "turned", "rotate", "measure", "confirm", "choose", "stop", "start again", "finish",
]  # fmt: skip
ASKS: dict[str, Ask] = {
    "torque": "click", "angle": "angle", "turns": "turn", "loosen": "loosen", "align": "align", "check": "turned", "rotate": "rotate",
    "measure": "measure", "do": "confirm", "stop": "stop",
}  # fmt: skip


class Step(Model):
    """A figure of a ladder that can be chosen instead."""

    key: str
    figure: Shown
    picked: bool


class Act(Model):
    """One thing that can have happened: what its key says after the fastener's name, and what is recorded of it."""

    say: str
    kind: RunKind
    how: Literal["click", "gauge", "eye"] | None = None
    moved: bool | None = None
    option: str | None = None
    setting: Setting | None = None
    counts: Literal["total"] | None = None
    asks_degrees: bool = False
    """Whether the degrees are typed first."""
    text: str | None = None
    affirmed: tuple[str, ...] = ()
    of_fastener: bool = True
    """Whether its key begins with the fastener's name."""
    unplanned: bool = False
    """Recorded for the fastener, not as an answer to the pull."""


class Prompt(Model):
    """One thing to do."""

    ask: Ask
    pull: str | None = None
    fastener: str | None = None
    name: str = ""
    """What the fastener is called: `nut 4`, or the noun alone where there is only one."""
    acts: tuple[Act, ...] = ()
    """What can have happened; the first is the one that the space bar and a foot switch record."""
    together: tuple[str, ...] = ()
    """Others that may be pulled in any sequence with it."""
    pass_id: str | None = None
    stage: str = ""
    say: str = ""
    meanwhile: str = ""
    hold: str = ""
    """What is held against it."""
    tooling: int | None = None
    """Which of the run's toolings is taken for it."""
    figure: Shown | None = None
    also: tuple[Shown, ...] = ()
    scale: Scale | None = None
    """The wrench's own scale at the figure, while it is to be set."""
    construction: str = ""
    face: str = ""
    ladder: tuple[Step, ...] = ()
    angle: Shown | None = None
    degrees_done: float = 0.0
    degrees_left: float = 0.0
    windup_deg: float = 0.0
    watch: str = ""
    """What ought to be seen besides: `ends at 88–140 N·m`."""
    amount: str = ""
    """How far by hand: `back 2 turns`, `on to the next slot, 35° at most`."""
    measure: str = ""
    band: Shown | None = None
    units: tuple[ReadingUnit, ...] = ()
    readings_done: int = 0
    readings_of: int = 1
    turn: str = ""
    clockwise: bool = True
    """Which way it is turned, for the arrow."""
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


def current_pull(plan: Plan, state: RunState) -> tuple[Pass, Pull] | None:
    """The pass and the pull that come now; None at the end."""
    current = next((p for p, s in zip(plan.passes, state.passes, strict=True) if s.status == "current"), None)
    if current is None or not state.next:
        return None
    return current, next(pull for pull in current.pulls if pull.id == state.next[0])


def prompt(plan: Plan, state: RunState, hand: Hand, tooling: Sequence[Tooling] = ()) -> Prompt:
    """The prompt for a run as it stands.

    Args:
        tooling: the run's, to draw the scale of a wrench that is to be set.
    """
    found = current_pull(plan, state)
    if found is None:
        return Prompt(ask="finish")
    (current, pull), words = found, stage_words(plan)
    status = {p.id: p.status for p in state.pulls}
    rest = [p for p in current.pulls if status[p.id] == "open" and p.id != pull.id]
    ask, back = _ask(current, state.doing), current.way == "back" or state.doing.unsure
    figures = _FIGURES[current.kind](current, pull, state.doing)
    return Prompt(
        ask=ask,
        pull=pull.id,
        fastener=pull.fastener,
        name=name_of(plan.nouns, pull.fastener) if pull.fastener is not None else "",
        acts=_acts(ask, current, pull, state.doing, figures, locks=not tooling or tooling[pull.tooling].wrench.has_spring),
        together=tuple(p.fastener for p in rest if p.id in state.next and p.fastener is not None),
        pass_id=current.id,
        stage=words[current.id],
        say=current.say,
        meanwhile=current.meanwhile,
        hold=current.hold,
        tooling=pull.tooling if pull.tool is not None else None,
        turn=(way_back(hand) if back else way_to_turn(hand)) if pull.fastener is not None else "",
        clockwise=(hand == "right") != back,
        upcoming=tuple(p.fastener or p.id for p in rest[:4]),
        then=_after(plan, state, current, words),
        options=current.options,
        proposed=state.doing.proposed,
        not_before=state.doing.not_before,
        not_after=state.doing.not_after,
        value="" if state.doing.value is None else f"{state.doing.value:.4g}",
        **_scale(ask, pull, state.doing, tooling),
        **figures,
    )


def _ask(current: Pass, doing: Doing) -> Ask:
    if doing.unsure:
        return "start again"
    if doing.set_first is not None:
        return "set"
    return "choose" if current.kind == "do" and len(current.options) > 1 else ASKS[current.kind]


def _acts(ask: Ask, current: Pass, pull: Pull, doing: Doing, figures: dict[str, Any], *, locks: bool) -> tuple[Act, ...]:
    """What can have happened, the likeliest first."""
    if ask == "set" and doing.set_first is not None:
        said = f"set to {doing.set_first.figure:g} {doing.set_first.unit}{', locked' if locks else ''}"
        return (Act(say=said, kind="set", setting=doing.set_first, of_fastener=False, unplanned=True),)
    if ask == "start again":
        loosened = Act(say="is turned back", kind="loosened", unplanned=True)
        replaced = Act(say="is replaced by a new one", kind="replaced", unplanned=True)
        return (replaced,) if pull.yields else (loosened, replaced)
    if ask == "choose":
        return tuple(Act(say=option.say or option.key, kind="confirmed", option=option.key) for option in current.options)
    amount = figures.get("amount", "")
    return {
        "click": (Act(say="clicked", kind="pulled", how="click"),),
        "angle": (Act(say="at the mark, by the gauge", kind="pulled", how="gauge"), Act(say="by eye", kind="pulled", how="eye")),
        "turned": (
            Act(say="did not turn", kind="checked", how="click", moved=False), Act(say="turned", kind="checked", how="click", moved=True),
        ),
        "turn": (Act(say=f"turned {amount}", kind="turned"), Act(say="seated", kind="turned", option="seated")),
        "align": (Act(say="stands in a slot", kind="turned"), Act(say="no slot within the limit", kind="turned", option="high")),
        "loosen": (Act(say="turned back", kind="loosened"),),
        "rotate": (Act(say=f"turned {amount}", kind="turned"),),
        "confirm": (Act(say="confirmed", kind="confirmed"),),
    }.get(ask, ())  # fmt: skip


def _scale(ask: Ask, pull: Pull, doing: Doing, tooling: Sequence[Tooling]) -> dict[str, Any]:
    if ask != "set" or doing.set_first is None or pull.tooling >= len(tooling):
        return {}
    wrench = tooling[pull.tooling].wrench.read_in(doing.set_first.unit)
    return {"scale": scale(wrench, doing.set_first.figure), "construction": wrench.construction, "face": wrench.face}


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
        "watch": f"it turns {show_band(pull.watch).limits}" if pull.watch is not None else "",
    }  # fmt: skip


def _at_wrench(pull: Pull, setting: Setting, band: Band) -> Shown:
    return show_band(pull.at_wrench(band), setting.unit, mark=setting.figure)


def _angle(current: Pass, pull: Pull, doing: Doing) -> dict[str, Any]:
    assert pull.band is not None
    aim = pull.band.aim()
    watch = show_band(pull.watch) if pull.watch is not None else None
    return {
        "angle": show_band(pull.band), "degrees_done": round(doing.degrees, 1), "degrees_left": round(max(aim - doing.degrees, 0), 1),
        "windup_deg": round(pull.windup_deg, 1), "watch": f"ends at {watch.limits}" if watch is not None else "",
    }  # fmt: skip


def _by_hand(current: Pass, pull: Pull, doing: Doing) -> dict[str, Any]:
    return {"amount": "until it is loose" if current.unit == "free" else amount_words(current)}


def _measure(current: Pass, pull: Pull, doing: Doing) -> dict[str, Any]:
    anything: tuple[ReadingUnit, ...] = ("mm", "thou", "N·m", "lbf·in")
    return {
        "measure": current.what, "band": show_band(pull.band) if pull.band is not None else None,
        "units": units_for(pull.band) if pull.band is not None else anything,
        "readings_done": len(doing.readings), "readings_of": current.readings,
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
