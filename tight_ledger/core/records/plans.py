"""A plan: passes of pulls with every loop unrolled, every figure fixed. It is data, and sealed.

A pull without a fastener is a task on the joint. Nothing jumps: the next pull is the first open one.
"""

from functools import cached_property
from typing import Literal
from uuid import UUID

from pydantic import Field

from tight_ledger.core.adjust.methods import MethodName
from tight_ledger.core.adjust.registry import Adjust
from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.models import Model, Names
from tight_ledger.core.base.rounding import Computed, nine_digits
from tight_ledger.core.base.units import TorqueUnit
from tight_ledger.core.joints.layouts import Layout, Noun
from tight_ledger.core.specs.steps import Operation, Option, WhichEntry
from tight_ledger.core.tools.adapters import Adapter
from tight_ledger.core.tools.wrenches import Setting, Wrench

Refs = tuple[tuple[str, ...], ...]
"""Passes that a condition looks at: per item, its rounds in order. Of each item the last round taken counts."""


class Test(Model):
    """A condition, resolved to passes."""

    __test__ = False
    passes: Refs
    one_of: Names
    fastener: str | None = None
    every: bool = False
    negate: bool = False


class Rung(Model):
    """One figure of a ladder or a table."""

    key: str
    band: Band
    setting: Setting
    low: Computed | None = None
    high: Computed | None = None


class Pick(Model):
    """How a rung is picked from earlier passes."""

    how: Literal["next", "same", "range"]
    passes: Refs
    fastener: str | None = None


class Pull(Model):
    """One action on one fastener, or one task on the joint."""

    id: str
    fastener: str | None = None
    rank: int = 0
    band: Band | None = None
    watch: Band | None = None
    watch_is_limit: bool = False
    """Whether `watch` is a limit of the spec, and not only what is usual."""
    setting: Setting | None = None
    tool: UUID | None = None
    tooling: int = 0
    """Which of the run's toolings."""
    factor: Computed = 1.0
    allowance_nm: Computed = 0.0
    windup_deg: Computed = 0.0
    yields: bool = False
    """Turned into yield: once too far it is spent."""
    once: bool = False
    """Turned into yield and not to be used again once it was loosened."""
    is_set: bool = False
    """Whether its wrench is set to a mark beforehand: then somebody says what it is set to before it counts."""
    rungs: tuple[Rung, ...] = ()
    pick: Pick | None = None
    when: tuple[Test, ...] = ()

    def at_fastener(self, shown_nm: float) -> float:
        """The torque at the fastener when the wrench shows so much [N·m]."""
        return nine_digits((shown_nm - self.allowance_nm) / self.factor)

    def at_wrench(self, band: Band) -> Band:
        """A band at the fastener as the wrench shows it."""
        low, high = (limit * self.factor + self.allowance_nm for limit in (band.low, band.high))
        return Band(quantity=band.quantity, low=low, high=high, unit=band.unit)


class Pass(Model):
    """One trip round the fasteners at one step, or one task."""

    id: str
    step: str
    kind: str
    rounds: tuple[int, ...] = ()
    until_loops: tuple[bool, ...] = ()
    item: str | None = None
    pulls: tuple[Pull, ...]
    when: tuple[Test, ...] = ()
    say: str = ""
    whole_machine: bool = False
    """Whether it is done to the machine, once for all joints of a job that wait for it."""
    operation: Operation | None = None
    """What is done to the machine, by whatever words and under whatever name of a step."""
    by_another: bool = False
    """Whether somebody confirms it who did not pull here."""
    meanwhile: str = ""
    hold: str = ""
    amount: float | None = None
    unit: str = ""
    """Of the amount: turns, deg, positions; `free` for a nut that comes right off its seat."""
    way: str = ""
    what: str = ""
    """What is measured or turned."""
    free: bool = False
    after: Refs = ()
    at_least_s: float | None = None
    at_most_s: float | None = None
    waits_from: WhichEntry = "last"
    """Which entry of the passes in `after` the shortest time runs from."""
    limited_from: WhichEntry = "last"
    """Which entry the longest time runs from; in plans from before it was said, the last one."""
    readings: int = 1
    take: str = "each"
    graduation: float | None = None
    method: MethodName | None = None
    varies_at_most: float | None = None
    circle_mm: float | None = None
    advice: Adjust | None = None
    """Of an adjustment: the adjuster and all its figures."""
    reads: str = ""
    """Of an adjustment: the id of the step whose readings it uses."""
    plus: Pick | None = None
    less: Pick | None = None
    low_means: str = ""
    high_means: str = ""
    again_on: Names = frozenset()
    """Outcomes after which the loop makes another round; they are no verdict."""
    tried: str = ""
    """Of a loop's implied stop: what was tried, and how often."""
    options: tuple[Option, ...] = ()
    by: dict[str, Refs] = {}
    coef: dict[str, float] = {}
    const: float = 0

    @property
    def on_machine(self) -> str:
        """What is done to the machine: the operation; where none is named, the step with its words; empty for work at the joint."""
        return (self.operation or f"{self.step}: {self.say}") if self.whole_machine else ""


class Plan(Model):
    """What a run is played from. `digest` is over the spec's content."""

    spec: UUID
    procedure: str
    digest: str
    units: tuple[tuple[str, ...], ...] = ()
    nouns: dict[str, Noun]
    """By label, what a fastener is called; one that is not named is a fastener."""
    passes: tuple[Pass, ...]

    @cached_property
    def planned(self) -> dict[str, tuple[Pass, Pull]]:
        """By pull id, the pull with its pass."""
        return {pull.id: (pass_, pull) for pass_ in self.passes for pull in pass_.pulls}

    @cached_property
    def step_of(self) -> dict[str, str]:
        """By pull id, the id of its pass; the same whatever the tools."""
        return {pull_id: pass_.id for pull_id, (pass_, _) in self.planned.items()}

    @cached_property
    def units_read(self) -> dict[str | None, TorqueUnit]:
        """By fastener, the unit in which its wrench is read, where it is pulled to a mark."""
        pulls = (pull for pass_ in reversed(self.passes) for pull in pass_.pulls)
        return {pull.fastener: pull.setting.unit for pull in pulls if pull.setting is not None}

    @cached_property
    def derived(self) -> dict[str, tuple[object, dict[str, str]]]:
        """Words that were derived from it, by name, with what they were derived by; neither compared nor written."""
        return {}

    @cached_property
    def labels(self) -> frozenset[str]:
        """The fasteners that it has a pull for."""
        return frozenset(pull.fastener for pass_ in self.passes for pull in pass_.pulls if pull.fastener is not None)


class Tooling(Model):
    """A wrench for some fasteners and steps. In a list of these the first match wins."""

    wrench: Wrench
    factor: Computed = Field(default=1.0, gt=0, le=20)
    allowance_nm: Computed = Field(default=0.0, ge=0)
    windup_deg_per_nm: Computed = Field(default=0.0, ge=0)
    adapters: tuple[Adapter, ...] = ()
    """What is on its end, from the wrench outward; `factor` comes from them."""
    tilt_deg: float = Field(default=0.0, ge=0, le=30)
    overridden: str = ""
    """Why a lead lets it be used although it should not be; and what speaks against it."""
    of: str | tuple[str, ...] | None = None
    steps: tuple[str, ...] | None = None

    def serves(self, layout: Layout, step: str, label: str) -> bool:
        """Whether it is meant for a fastener in a step."""
        return (self.steps is None or step in self.steps) and (self.of is None or label in layout.select(self.of))
