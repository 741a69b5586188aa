"""What a kind of step consists of. Each kind gives one `StepKind`; the compiler, the fold, the words, the prompt and the
tables are handed a registry of them and know no kind by name."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from tight_ledger.core.kinds.acts import Act, Advised, Ask, Doing, go_on
from tight_ledger.core.kinds.fold_state import FoldState
from tight_ledger.core.kinds.judged import Judged
from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.records.entries import Entry, RunKind
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import Condition, StepBase

TIMED: frozenset[str] = frozenset({"in_time", "late"})
"""Outcomes that a step with a timing can have besides its own."""


@dataclass(frozen=True, slots=True)
class StepCells:
    """The cells of a table row that a kind of step has besides those that every step has."""

    figure_field: str = ""
    """The step's field that the column `figure` stands for; empty: no figure."""
    figure_sort: Literal["", "torque", "angle", "measured"] = ""
    watch_sort: Literal["", "torque", "angle"] = ""
    """How the column `watch` is read; empty: nothing is watched."""
    amount_field: str = ""
    """The step's field that the column `amount` stands for; empty: no amount."""
    amount_units: Mapping[str, str] = field(default_factory=dict)
    """Words after the amount, with the step's unit that each means."""
    has_what: bool = False
    for_fasteners: bool = True
    """Whether the columns `of` and `order` mean something."""
    read_short: Callable[[str, str], dict[str, Any] | None] = lambda _text, _unit: None
    """Forms of the figure that only this kind has: (text, unit) → fields of the step; None if the text is no such form."""
    write_short: Callable[[Any, dict[str, Any]], str] = lambda _step, _rest: ""
    """Such a form of a step's figure; takes the fields that it says out of `rest`. Empty if there is none."""

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns that a step of this kind can fill besides those that every step has."""
        given = (("figure", self.figure_field), ("watch", self.watch_sort), ("amount", self.amount_field), ("what", self.has_what))
        return tuple(name for name, there_is in given if there_is)


@dataclass(frozen=True, slots=True)
class EntryFigures:
    """The figures of an entry in words; empty where there is none."""

    at: str = ""
    """` at 350 N·m`: what was read, else what the wrench was set to."""
    read: str = ""
    """`350 N·m`: what was read."""
    more: str = ""
    """`, having turned 31°`, `, ending at 149 N·m`."""


def _no_words(_pass: Pass, _pull: Pull, _figure: str) -> str:
    return ""


@dataclass(frozen=True, slots=True)
class StepKind:
    """A kind of step. A block (`each`, `repeat`) has only a name, a shape, words and cells."""

    name: str
    step: type[StepBase]
    """Its shape in a spec."""
    says: str
    """What it is, in one line, for the editor."""
    aloud: Callable[[Spec, Any], str]
    """A step as a mechanic would read it aloud."""
    says_it: bool = False
    """Whether `aloud` contains the step's remark."""
    cells: StepCells = StepCells()
    is_block: bool = False

    # how it becomes a pass
    outcomes: frozenset[str] = frozenset()
    passes: Callable[[PlanBuilder, Any, StepContext], Built] | None = None
    takes_fasteners: Callable[[Any], bool] = lambda _step: True
    """Whether a step has a pull for each fastener."""
    options: Callable[[Any], frozenset[str]] = lambda _step: frozenset()
    """Outcomes that the step itself names; they replace `outcomes` where there are any."""

    # how an entry is judged
    answered_by: RunKind | None = None
    """The kind of entry that answers a pull."""
    judge: Callable[[FoldState, Entry, Pass, Pull], Judged] | None = None
    reading: Literal["", "torque", "angle"] = ""
    """What a reading is of; empty: of what its band is."""
    presses: tuple[str, ...] = ()
    """How a pull can be answered without a reading."""
    tightens: bool = False
    """It leaves the fastener tighter: earlier open passes that tighten are then covered."""
    has_measured_band: bool = False
    """Its value was measured: a value in the band answers earlier ones that were not."""
    after_the_joint: bool = False
    """On the joint, it is done again after a fastener came loose."""
    adds_up: bool = False
    """Its entries add up to one pull (swings): if nobody knows how far it went, it starts again."""
    proves_pace: bool = False
    """A pass of it, made as slowly as a hand needs, answers an earlier pass that was pressed too fast."""
    by_wire: bool = False
    """Whether a wrench or a gauge on the line can do it."""
    proposes: Callable[[FoldState, Pass], tuple[str, float | None]] = lambda _fold, _pass: ("", None)
    """The option that a computed value proposes, and the value."""
    advises: Callable[[FoldState, Pass], Advised | None] = lambda _fold, _pass: None
    """What to do next and by how much, from what was read so far."""

    # what it is called
    numbered_with: str = ""
    """Passes with the same word here are numbered together."""
    title: Callable[[Pass, int, int], str] = lambda _pass, _place, _of: ""
    """What its pass is called, given its place among the passes that are numbered together, and their number."""
    counts_rounds: str = ", round {place}"
    """Added to the title in a round of a loop: `{place}`, `{of}`, `{most}`."""
    comes_if: str = "if it is needed"
    """After its name, while it is not decided yet whether it comes."""
    is_stage: bool = False
    """Whether it is a stage of a fastener, for the sheet."""
    is_figure: bool = False
    """Whether its figure is one of the spec's own, for the sheet's headline."""
    stage: Callable[[Pass, Pull, str], str] = _no_words
    """Its stage in words, given the figure in words."""
    told: Callable[[Entry, Pass, Pull, EntryFigures], str] = lambda _entry, _pass, _pull, _figures: ""
    """An entry that answers it, in words."""
    tried: Callable[[Any, Condition, int], str] = lambda _step, until, times: (
        f"not {' or '.join(sorted(until.one_of)).replace('_', ' ')} after {times} tries"
    )
    """What a loop tried in vain, given its step, its end condition and its number of rounds."""

    # what the person is asked
    ask: Callable[[Pass], Ask] = lambda _pass: "confirm"
    prompt: Callable[[Pass, Pull, Doing], dict[str, Any]] = lambda _pass, _pull, _doing: {}
    """The fields of the prompt that show its figure."""
    acts: Callable[[Pass, Pull, Doing], tuple[Act, ...]] = lambda _pass, _pull, _doing: ()
    """The keys, the likeliest first."""
    on_return: Callable[[Pass, Pull, Doing], tuple[str, tuple[Act, ...]]] = go_on
    """What is asked of somebody who comes back to it, after its name, and the keys."""

    @property
    def only_a_lead(self) -> bool:
        """Whether nothing but a lead's decision answers it."""
        return not self.is_block and self.answered_by is None

    def outcomes_of(self, step: StepBase) -> frozenset[str]:
        """The outcomes that a step of this kind can have."""
        named = self.options(step)
        return named or (self.outcomes | TIMED if step.timing is not None else self.outcomes)


Registry = Mapping[str, StepKind]
"""Kinds of step by name."""
