"""What the person at the wrench is told now: figure, fastener, pass, way to turn, what comes next."""

from collections.abc import Sequence
from typing import Any

from tight_ledger.core.adjust.methods import Method
from tight_ledger.core.base.display import Shown
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.units import ReadingUnit
from tight_ledger.core.joints.names import name_of
from tight_ledger.core.kinds.acts import Act, Advised, Ask, Doing, LadderRung
from tight_ledger.core.kinds.readings import RunningTime
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.records.plans import Pass, Plan, Pull, Tooling
from tight_ledger.core.runs.run import RunState
from tight_ledger.core.specs.spec import Hand
from tight_ledger.core.specs.steps import Option
from tight_ledger.core.tools.gauges import RankedGauge
from tight_ledger.core.tools.scales import Scale, scale


class Prompt(Model):
    """What is to be done now."""

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
    ladder: tuple[LadderRung, ...] = ()
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
    readings: tuple[str, ...] = ()
    """The readings so far, in the unit of the band: `0.06 mm`."""
    readings_of: int = 1
    turn: str = ""
    clockwise: bool = True
    """Which way it is turned, for the arrow."""
    upcoming: tuple[str, ...] = ()
    then: str = ""
    whole_machine: bool = False
    """Whether it is done to the machine, not to this joint alone."""
    options: tuple[Option, ...] = ()
    proposed: str = ""
    value: str = ""
    advised: Advised | None = None
    """What to do next and by how much, with the tries so far."""
    gauges: tuple[RankedGauge, ...] = ()
    """What it can be read with, the most suitable first."""
    method: Method | None = None
    """How a reading is taken; None if it does not matter."""
    confirm_method: bool = False
    """Whether the next reading counts only after somebody says that it is taken so."""
    circle_mm: float | None = None
    """The radius at which the band holds."""
    wait: RunningTime | None = None
    """How long has to pass before it."""
    limit: RunningTime | None = None
    """How long there is for it."""


def way_to_turn(hand: Hand) -> str:
    """Which way tightens, looking at the head."""
    return "clockwise" if hand == "right" else "anticlockwise, left-hand thread"


def way_back(hand: Hand) -> str:
    """Which way loosens."""
    return "anticlockwise" if hand == "right" else "clockwise, left-hand thread"


def stage_words(plan: Plan, kinds: Registry = KINDS) -> dict[str, str]:
    """By pass id: `stage 2 of 3`, `angle`, `check 1 of at most 3`; empty for a task.

    In a block, the item comes first. Computed once for a plan.
    """
    by, words = plan.derived.get("stages", (None, {}))
    if by is not kinds:
        words = _stage_words(plan, kinds)
        plan.derived["stages"] = kinds, words
    return words


def _stage_words(plan: Plan, kinds: Registry) -> dict[str, str]:
    numbered: dict[str, list[str]] = {}
    rounds: dict[tuple[str, str | None], list[str]] = {}
    for pass_ in plan.passes:
        steps = numbered.setdefault(kinds[pass_.kind].numbered_with, [])
        if pass_.step not in steps:
            steps.append(pass_.step)
        rounds.setdefault((pass_.step, pass_.item), []).append(pass_.id)
    words: dict[str, str] = {}
    for pass_ in plan.passes:
        kind, same = kinds[pass_.kind], rounds[pass_.step, pass_.item]
        steps = numbered[kind.numbered_with]
        title = kind.title(pass_, steps.index(pass_.step) + 1, len(steps))
        if title and len(same) > 1:
            most = " at most" if any(pass_.until_loops) else ""
            title += kind.counts_rounds.format(place=same.index(pass_.id) + 1, of=len(same), most=most)
        words[pass_.id] = f"{pass_.item}: {title}" if title and pass_.item is not None and not _is_only_its_item(pass_) else title
    return words


def _is_only_its_item(pass_: Pass) -> bool:
    """Whether the only fastener of a pass is the item itself, which then needs no name of its own."""
    return {pull.fastener for pull in pass_.pulls} == {pass_.item}


def current_pull(plan: Plan, state: RunState) -> tuple[Pass, Pull] | None:
    """The pass and the pull that come now; None at the end."""
    return plan.planned[state.next[0]] if state.next else None


def prompt(plan: Plan, state: RunState, hand: Hand, tooling: Sequence[Tooling] = (), kinds: Registry = KINDS) -> Prompt:
    """The prompt for a run in a state.

    Args:
        hand: of the thread.
        tooling: the run's, to draw the scale of a wrench that is to be set.
        kinds: the kinds of step that the plan can have.
    """
    found = current_pull(plan, state)
    if found is None:
        return Prompt(ask="finish")
    (current, pull), words = found, stage_words(plan, kinds)
    kind, doing = kinds[current.kind], state.doing
    status = {each.id: each.status for each in state.pulls}
    rest = [each for each in current.pulls if status[each.id] == "open" and each.id != pull.id]
    back = current.way == "back" or doing.unsure
    locks = not tooling or tooling[pull.tooling].wrench.has_spring
    first = _start_again(pull) if doing.unsure else _set_first(doing, locks=locks)
    ask, acts = first if first is not None else (kind.ask(current), kind.acts(current, pull, doing))
    return Prompt(
        ask=ask,
        pull=pull.id,
        fastener=pull.fastener,
        name=name_of(plan.nouns, pull.fastener) if pull.fastener is not None else "",
        acts=acts,
        together=tuple(each.fastener for each in rest if each.id in state.next and each.fastener is not None),
        pass_id=current.id,
        stage=words[current.id],
        say=current.say,
        meanwhile=current.meanwhile,
        hold=current.hold,
        tooling=pull.tooling if pull.tool is not None else None,
        turn=(way_back(hand) if back else way_to_turn(hand)) if pull.fastener is not None else "",
        clockwise=(hand == "right") != back,
        upcoming=tuple(each.fastener or each.id for each in rest[:4]),
        then=_after(plan, state, current, words, kinds),
        options=current.options,
        whole_machine=current.whole_machine,
        proposed=doing.proposed,
        advised=doing.advised,
        gauges=doing.gauges,
        wait=doing.wait,
        limit=doing.limit,
        value="" if doing.value is None else f"{doing.value:.4g}",
        **_scale(ask, pull, doing, tooling),
        **kind.prompt(current, pull, doing),
    )


def _start_again(pull: Pull) -> tuple[Ask, tuple[Act, ...]]:
    """What is asked while nobody knows how far a pull has gone."""
    loosened = Act(say="is turned back", kind="loosened", unplanned=True)
    replaced = Act(say="is replaced by a new one", kind="replaced", unplanned=True)
    return "start again", (replaced,) if pull.yields else (loosened, replaced)


def _set_first(doing: Doing, *, locks: bool) -> tuple[Ask, tuple[Act, ...]] | None:
    """What is asked while the wrench is to be set; None if it is set."""
    if doing.set_first is None:
        return None
    said = f"set to {doing.set_first.figure:g} {doing.set_first.unit}{', locked' if locks else ''}"
    return "set", (Act(say=said, kind="set", setting=doing.set_first, of_fastener=False, unplanned=True),)


def _scale(ask: Ask, pull: Pull, doing: Doing, tooling: Sequence[Tooling]) -> dict[str, Any]:
    if ask != "set" or doing.set_first is None or pull.tooling >= len(tooling):
        return {}
    wrench = tooling[pull.tooling].wrench.read_in(doing.set_first.unit)
    return {"scale": scale(wrench, doing.set_first.figure), "construction": wrench.construction, "face": wrench.face}


def _after(plan: Plan, state: RunState, current: Pass, words: dict[str, str], kinds: Registry) -> str:
    """What comes after the current pass."""
    later = [(pass_, standing.status) for pass_, standing in zip(plan.passes, state.passes, strict=True)]
    later = later[[pass_.id for pass_, _ in later].index(current.id) + 1 :]
    following = next((pass_ for pass_, status in later if status == "ahead"), None)
    if following is None:
        maybe = next((pass_ for pass_, status in later if status == "maybe" and not kinds[pass_.kind].only_a_lead), None)
        if maybe is None:
            return "finish"
        return f"{words[maybe.id] or maybe.say}, {kinds[maybe.kind].comes_if}"
    return words[following.id] or following.say or following.kind
