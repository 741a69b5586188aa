"""What a person can be asked for at a pull, and what each key of the screen records."""

from dataclasses import dataclass
from typing import Literal

from tight_ledger.core.adjust.proposals import Proposal, SettingUnit, Try
from tight_ledger.core.base.display import Shown
from tight_ledger.core.base.models import Model
from tight_ledger.core.kinds.readings import RunningTime
from tight_ledger.core.records.entries import Adjusted, RunKind
from tight_ledger.core.records.plans import Pass, Pull, Rung
from tight_ledger.core.tools.gauges import RankedGauge
from tight_ledger.core.tools.wrenches import Setting

Ask = Literal[
    "set", "click", "angle", "turn", "loosen", "align", "turned", "rotate", "measure", "adjust", "confirm", "choose", "stop",
    "start again", "finish",
]  # fmt: skip
ON_RETURN = "recorded on coming back"


class Act(Model):
    """A key of the screen: what it says, and the entry that it records."""

    say: str
    """After the fastener's name, if `of_fastener`."""
    kind: RunKind
    how: Literal["click", "gauge", "eye"] | None = None
    moved: bool | None = None
    option: str | None = None
    setting: Setting | None = None
    counts: Literal["total"] | None = None
    asks_amount: bool = False
    """Whether the person first says by how much a setting was changed, or to what."""
    asks_degrees: bool = False
    """Whether the degrees are typed first."""
    adjusted: Adjusted | None = None
    text: str | None = None
    affirmed: tuple[str, ...] = ()
    of_fastener: bool = True
    """Whether its key begins with the fastener's name."""
    unplanned: bool = False
    """Recorded for the fastener, not as an answer to the pull."""


class LadderRung(Model):
    """A figure of a ladder that can be chosen instead of the proposed one."""

    key: str
    figure: Shown
    picked: bool


class Advised(Model):
    """The tries so far, what the adjuster proposes, and what the axes of a picture of them are called."""

    by: str
    """The name of the adjuster."""
    tries: tuple[Try, ...]
    proposal: Proposal | None
    """None before anything was read."""
    setting: str
    unit: SettingUnit
    adds_up: bool
    more: str
    less: str
    at: float
    """The present setting."""
    what: str
    """What is read."""
    item: str = ""
    """Of which bolt or unit, where each has its own."""
    band: Shown
    low: float
    high: float
    """The band in the stored unit, as the readings of the tries."""
    reads_in: str
    """The stored unit."""
    travel: float = 0.0
    """Of a lock position, how far the nut goes [mm]; 0 where the setting is no position."""
    positions: int = 0
    """Lock positions in one turn; 0 where there are none."""
    step: float
    """By how much the plus and minus keys change what is said."""


@dataclass(frozen=True, slots=True)
class Doing:
    """How far the next pull is, and what the plan picks or proposes for it."""

    degrees: float = 0.0
    readings: tuple[float, ...] = ()
    rung: Rung | None = None
    proposed: str = ""
    """Key of the option that a computed value proposes."""
    value: float | None = None
    """The computed value."""
    set_first: Setting | None = None
    """What the wrench has to be set to first."""
    unsure: bool = False
    """Nobody knows how far it went: it is loosened or replaced first."""
    wait: RunningTime | None = None
    """How long has to pass before it."""
    limit: RunningTime | None = None
    """How long there is for it."""
    advised: Advised | None = None
    gauges: tuple[RankedGauge, ...] = ()
    """What it can be read with, the most suitable first."""


def go_on(_pass: Pass, _pull: Pull, _doing: Doing) -> tuple[str, tuple[Act, ...]]:
    """On coming back to something that nobody else can have done meanwhile."""
    return "go on?", (resumed("Go on"),)


def resumed(say: str, option: str | None = None) -> Act:
    """A key that only continues the run."""
    return Act(say=say, kind="resumed", option=option, of_fastener=False)


def done_meanwhile(say: str, act: Act, **more: object) -> Act:
    """A key that records an act which was done before somebody came back to the run."""
    return act.model_copy(update={"say": say, "text": ON_RETURN, "affirmed": ("pace",), "of_fastener": False} | more)
