"""What a spec can ask for: the step language.

Every step has outcomes; branches (`when`), loops (`until`) and dead ends (`stop`) look only at outcomes of earlier
steps. Leaf steps go pass-wise: one trip round the fasteners.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.models import Model, Names

Figures = Band | dict[str, Band]
"""One band for all fasteners of a step, or one per selector."""


class Condition(Model):
    """Earlier step and the outcomes that satisfy it, per fastener or for the joint."""

    step: str
    one_of: Names
    per: Literal["fastener", "joint"] | None = None


class Timing(Model):
    """How long after an earlier step [s]."""

    after: str
    at_least_s: float | None = None
    at_most_s: float | None = None


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
    plus: str | None = None
    watch: Figures | None = None

    @model_validator(mode="after")
    def _one_figure(self) -> Torque:
        if sum((self.at is not None, self.share is not None, bool(self.ladder), self.found is not None)) > 1:
            raise ValueError(f"step {self.id} has more than one of at, share, ladder, found; keep one")
        return self


class Angle(StepBase):
    """Turn on by an angle: low (stays open), ok, high; by_eye."""

    kind: Literal["angle"]
    at: Figures
    watch: Figures | None = None


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
    take: Literal["each", "mean", "max", "spread"] = "each"
    per_fastener: bool = False


class Do(StepBase):
    """A task by hand: done, or the option chosen."""

    kind: Literal["do"]
    options: tuple[Option, ...] = ()
    by: dict[str, float] = {}
    const: float = 0
    per_fastener: bool = False
    whole_machine: bool = False
    """Whether it is done to the machine, not to this joint: `lower it`. In a job it is done once for all joints that wait for it."""


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


AnyStep = Torque | Angle | Turns | Loosen | Align | Check | Rotate | Measure | Do | Stop | Each | Repeat
Step = Annotated[AnyStep, Field(discriminator="kind")]
