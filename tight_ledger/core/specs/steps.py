"""What a spec can ask for: the step language.

Every step has outcomes; branches (`when`), loops (`until`) and dead ends (`stop`) look only at outcomes of earlier
steps. Leaf steps go pass-wise: one trip round the fasteners.
"""

from __future__ import annotations

from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field, ValidationError, model_validator

from tight_ledger.core.adjust.methods import HowToTake, MethodName
from tight_ledger.core.adjust.registry import ADJUST, Adjust
from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.models import Model, Names
from tight_ledger.core.tools.dials import GOOD_PARTS

_ANY_BAND = Band(quantity="length", low=1.0, high=2.0)

FEWEST_PLACES = 3
"""At which a gear is measured all round. Common practice, no source."""
Figures = Band | dict[str, Band]
"""One band for all fasteners of a step, or one per selector."""


class Condition(Model):
    """Earlier step and the outcomes that satisfy it, per fastener or for the joint."""

    step: str
    one_of: Names
    per: Literal["fastener", "joint"] | None = None


WhichEntry = Literal["first", "last"]
"""Of a step with several entries, the one from which a time runs."""


class Timing(Model):
    """How long after an earlier step [s]."""

    after: str
    at_least_s: float | None = None
    at_most_s: float | None = None
    runs_from: WhichEntry | None = None
    """The entry of the earlier step from which both times run. By default a wait runs from the last entry and a limit from the first,
    which is the stricter choice for each."""

    @property
    def waits_from(self) -> WhichEntry:
        """The entry from which the shortest time runs."""
        return self.runs_from or "last"

    @property
    def limited_from(self) -> WhichEntry:
        """The entry from which the longest time runs."""
        return self.runs_from or "first"


Operation = Literal["raise", "lower", "warm up", "cool down", "turn over", "at ride height", "road test"]
"""What is done to a whole machine."""


class Option(Model):
    """A choice of a task; [low, high) is the range of the computed value that proposes it."""

    key: str
    say: str = ""
    low: float | None = None
    high: float | None = None


class StepBase(Model):
    """What every step has. `id` is unique in its procedure and never reused."""

    id: str = Field(pattern=r"^[a-z+][a-z0-9_+]*!?$")
    of: str | tuple[str, ...] | None = None
    order: str | None = None
    reverse: bool = False
    when: Condition | None = None
    timing: Timing | None = None
    meanwhile: str = ""
    """What is turned or moved meanwhile: `turn the hub`."""
    hold: str = ""
    """What is held against it: `the bolt head`."""
    say: str = ""


class Torque(StepBase):
    """Pull to a torque: low (stays open), ok, high."""

    kind: Literal["torque"]
    at: Figures | None = None
    share: float | None = Field(default=None, gt=0, le=2)
    ladder: tuple[Band, ...] = ()
    found: str | None = None
    set_by: str | None = None
    """An earlier adjustment in N·m: its setting is what is pulled to."""
    plus: str | None = None
    watch: Figures | None = None
    watch_is_limit: bool = False
    """Whether `watch` is a limit of the spec, and not only what is usual."""

    @property
    def is_found(self) -> bool:
        """Whether its figure comes from what an earlier step came to."""
        return self.found is not None or self.set_by is not None

    @model_validator(mode="after")
    def _one_figure(self) -> Torque:
        if sum((self.at is not None, self.share is not None, bool(self.ladder), self.found is not None, self.set_by is not None)) > 1:
            raise ValueError(f"step {self.id} has more than one of at, share, ladder, found, set_by; keep one")
        return self


class Angle(StepBase):
    """Turn on by an angle: low (stays open), ok, high; by_eye."""

    kind: Literal["angle"]
    at: Figures
    watch: Figures | None = None
    watch_is_limit: bool = False
    """Whether `watch` is a limit of the spec, and not only what is usual."""


class Turns(StepBase):
    """Turn by whole turns: turned, seated."""

    kind: Literal["turns"]
    turns: float = Field(gt=0)


class Loosen(StepBase):
    """Turn back: loose."""

    kind: Literal["loosen"]
    amount: float | None = None
    unit: Literal["free", "turns", "deg", "positions"] = "free"


class Align(StepBase):
    """To the next slot or lock position: aligned, high."""

    kind: Literal["align"]
    way: Literal["forward", "back"] = "forward"
    at_most_deg: float = Field(gt=0)


class Check(StepBase):
    """Pull to the figure again and say whether it turned: still, moved."""

    kind: Literal["check"]
    at: Figures | None = None


class Rotate(StepBase):
    """Turn the joint: turned."""

    kind: Literal["rotate"]
    turns: float = Field(gt=0)
    what: str


class Measure(StepBase):
    """Measure: low, ok, high."""

    kind: Literal["measure"]
    what: str
    band: Figures | None = None
    plus: str | None = None
    """An earlier step whose reading is added."""
    less: str | None = None
    """An earlier step whose reading is taken off: what the gauge showed at nought."""
    low_means: str = Field(default="", max_length=40)
    """What a reading below the band means: too tight, too loose, too short. Empty: below its band."""
    high_means: str = Field(default="", max_length=40)
    readings: int = Field(default=1, ge=1, le=100)
    take: HowToTake = "each"
    """`agreed`: two that agree, otherwise a third and the middle one. `together`: three within a graduation, or all again.
    `places`: at so many places round, each in the band; their mean counts."""
    method: MethodName | None = None
    """How each is taken; a reading that was not taken so is refused."""
    varies_at_most: float | None = Field(default=None, gt=0, le=10)
    """Of readings at several places: how far the largest may lie above the smallest, in the stored unit."""
    circle_mm: float | None = Field(default=None, ge=1, le=5_000)
    """The radius at which the band holds: a play that was read at another radius is corrected by their ratio."""
    graduation: float | None = Field(default=None, gt=0, le=10)
    """Readings agree if they differ by no more than this, in the stored unit. By default a tenth of the band."""
    per_fastener: bool = False

    @property
    def agrees_within(self) -> float | None:
        """By how much two readings may differ and still agree. None without a graduation or one band."""
        tenth = (self.band.high - self.band.low) / GOOD_PARTS if isinstance(self.band, Band) else None
        return self.graduation if self.graduation is not None else tenth

    @model_validator(mode="after")
    def _can_agree(self) -> Measure:
        if self.take in ("agreed", "together") and self.agrees_within is None:
            raise ValueError(f"step {self.id} does not say within what its readings agree; give graduation")
        if self.take == "places" and self.readings < FEWEST_PLACES:
            raise ValueError(f"step {self.id} is read at {self.readings} places; give readings, {FEWEST_PLACES} at least")
        if self.varies_at_most is not None and self.take != "places":
            raise ValueError(f"step {self.id} limits how its readings vary; then take is places")
        return self


class AdjustStep(StepBase):
    """Change a setting by what was read, with advice: moved, accepted, stopped."""

    kind: Literal["adjust"]
    reads: str
    """The id of the step whose readings it uses. That step has one band."""
    advice: dict[str, str | float]
    """The name of the adjuster, and the figures that it needs besides the band: `{"by": "hub", "pitch_mm": 2, "positions": 24}`."""
    begin: dict[str, float] = {}
    """Earlier readings that the first setting is computed from, each with its coefficient: a depth, the mark on a pinion."""
    const: float = 0

    @cached_property
    def figures(self) -> Adjust:
        """The adjuster's figures, as far as the step itself gives them: band and graduation are any."""
        return ADJUST.validate_python({"graduation": 1.0, **self.advice, "band": _ANY_BAND})

    @model_validator(mode="after")
    def _is_complete(self) -> AdjustStep:
        try:
            _ = self.figures
        except ValidationError as error:
            first = error.errors()[0]
            field = first["loc"][-1] if first["loc"] else "by"
            raise ValueError(f"step {self.id}, advice, {field}: {first['msg']}") from error
        return self


class Do(StepBase):
    """A task by hand: done, or the option chosen."""

    kind: Literal["do"]
    options: tuple[Option, ...] = ()
    by: dict[str, float] = {}
    const: float = 0
    per_fastener: bool = False
    whole_machine: bool = False
    """Whether it is done to the machine, not to this joint: `lower it`. In a job it is done once for all joints that wait for it."""
    operation: Operation | None = None
    """What is done to the machine. In a job one operation is one, however the specs name and word it; different ones never are."""

    @model_validator(mode="after")
    def _of_the_machine(self) -> Do:
        if self.operation is not None and not self.whole_machine:
            raise ValueError(f"step {self.id} has an operation of the machine, and is not done to it; set whole_machine")
        return self


class Stop(StepBase):
    """A lead must decide; the deviation is the outcome."""

    kind: Literal["stop"]


class Each(StepBase):
    """A block, done for one fastener or unit before the next."""

    kind: Literal["each"]
    over: tuple[str, ...] | None = None
    steps: tuple[Step, ...]


class Repeat(StepBase):
    """A block, so many times or until a condition holds; then, unsatisfied, an implied stop."""

    kind: Literal["repeat"]
    times: int = Field(ge=1, le=50)
    until: Condition | None = None
    again: tuple[Step, ...] = ()
    steps: tuple[Step, ...]


AnyStep = Torque | Angle | Turns | Loosen | Align | Check | Rotate | Measure | AdjustStep | Do | Stop | Each | Repeat
Step = Annotated[AnyStep, Field(discriminator="kind")]
