"""What a kind of step is given to make its pass: fasteners in order, figures, settings, and references to earlier steps."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid, InYield
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.joints.layouts import ranked
from tight_ledger.core.records.plans import Pass, Pick, Pull, Refs, Test, Tooling
from tight_ledger.core.specs.spec import Spec, torque_band, walk
from tight_ledger.core.specs.steps import Check, Condition, Step, Torque
from tight_ledger.core.tools.wrenches import SET_BEFOREHAND, Setting, set_wrench

Built = tuple[tuple[Pull, ...], dict[str, Any]]
"""The pulls of a pass, and the other fields of the pass that its kind sets."""
PullFields = dict[str, Any]


@dataclass(frozen=True, slots=True)
class StepContext:
    """Where a step is in the unrolled procedure."""

    rounds: tuple[int, ...] = ()
    until_loops: tuple[bool, ...] = ()
    path: tuple[tuple[str, str], ...] = ()
    """Blocks around it, each with its round (`~2`) or its item."""
    item: str | None = None
    only: frozenset[str] | None = None
    """The fasteners of the item; None outside of a block."""
    tests: tuple[Test, ...] = ()
    untils: tuple[Condition, ...] = ()
    """End conditions of the loops around it."""
    drop_out: tuple[tuple[Condition, StepContext], ...] = ()
    """End conditions under which single fasteners drop out, with the context of the loop."""

    def suffix(self) -> str:
        """The part of a pass id after the step id: `~2@cap3`."""
        return "".join(f"~{n}" for n in self.rounds) + "".join(f"@{key}" for _, key in self.path if not key.startswith("~"))


@dataclass(frozen=True, slots=True)
class CompiledPass:
    """A pass already compiled, found again by its step."""

    id: str
    path: tuple[tuple[str, str], ...]
    covers: frozenset[str]
    """Its fasteners."""


@dataclass(slots=True)
class PlanBuilder:
    """A plan while it is compiled."""

    spec: Spec
    tooling: tuple[Tooling, ...]
    policy: Policy
    outcomes_of: Callable[[Step], frozenset[str]]
    """The outcomes that a step can have, by its kind."""
    takes_fasteners: Callable[[Step], bool]
    """Whether a step has a pull for each fastener, by its kind."""
    passes: list[Pass] = field(default_factory=list)
    compiled: dict[str, list[CompiledPass]] = field(default_factory=dict)
    """By step id."""
    steps: dict[str, Step] = field(default_factory=dict)
    """Steps compiled so far, by id."""
    yielded: set[str] = field(default_factory=set)
    """Fasteners of a yielding kind that were turned by an angle, and not loosened free since."""
    in_yield: Mapping[str, int] = field(default_factory=dict)
    """Fasteners that earlier runs at this place turned into yield, and how often; none that was replaced since."""
    _settings: dict[tuple[int, int], Setting] = field(default_factory=dict)
    _bands_with_setting: list[Band] = field(default_factory=list)
    _names: dict[str, tuple[str, ...]] = field(default_factory=dict)
    _bands: dict[tuple[str, str | tuple[str, ...]], Band] = field(default_factory=dict)

    # references to earlier steps ----------------------------------------------------------------------------------

    def refs(self, step_id: str, context: StepContext, asker: str) -> Refs:
        """The passes of an earlier step that a reference means, per item, its rounds in order.

        Inside a block that both steps share: the same round and item. Outside: all of them; the last round taken counts.

        Raises:
            Invalid: no such step comes earlier.
        """
        compiled = self.compiled.get(step_id)
        if not compiled:
            raise Invalid(asker, f"“{step_id}” does not come earlier.", "Name an earlier step of this procedure.")
        for depth in range(len(context.path), -1, -1):
            if found := [row for row in compiled if row.path[:depth] == context.path[:depth]]:
                by_item: dict[tuple[str, ...], list[str]] = {}
                for row in found:
                    by_item.setdefault(tuple(key for _, key in row.path[depth:] if not key.startswith("~")), []).append(row.id)
                return tuple(tuple(rounds) for rounds in by_item.values())
        return ()

    def pick(self, step_id: str, context: StepContext, asker: str, how: Literal["next", "same", "range"], fastener: str | None) -> Pick:
        """Where a reading or a rung is looked up."""
        return Pick(how=how, passes=self.refs(step_id, context, asker), fastener=fastener)

    def computed_from(self, by: dict[str, float], const: float, context: StepContext, asker: str) -> PullFields:
        """The fields of a pass whose value is computed from earlier readings: constant + Σ coefficient × reading; none without any."""
        if not by:
            return {}
        return {"by": {name: self.refs(name, context, asker) for name in by}, "coef": dict(by), "const": const}

    def test(self, condition: Condition, context: StepContext, fastener: str | None, *, every: bool = False, negate: bool = False) -> Test:
        """A condition as a test of passes.

        Raises:
            Invalid: an outcome that the step cannot have.
        """
        step = self.steps.get(condition.step)
        if step is not None and (odd := condition.one_of - (known := self.outcomes_of(step))):
            raise Invalid(
                condition.step, f"“{', '.join(sorted(odd))}” is no outcome of this step.", f"It can be {', '.join(sorted(known))}."
            )
        refs = self.refs(condition.step, context, condition.step)
        return Test(passes=refs, one_of=condition.one_of, fastener=fastener, every=every, negate=negate)

    def pass_tests(self, step: Step, context: StepContext) -> tuple[Test, ...]:
        """The step's condition as a test of the whole pass; none if it is tested for each fastener."""
        if step.when is None or self._is_per_fastener(step):
            return ()
        return (self.test(step.when, context, None),)

    def _pull_tests(self, step: Step, context: StepContext, label: str) -> tuple[Test, ...]:
        own = (self.test(step.when, context, label),) if step.when is not None and self._is_per_fastener(step) else ()
        loops = (self.test(until, outer, label, every=True, negate=True) for until, outer in context.drop_out)
        return (*own, *loops)

    def _is_per_fastener(self, step: Step) -> bool:
        """Whether a condition is tested for each fastener: both steps take fasteners, and the condition does not say `joint`."""
        if step.when is None or step.when.per == "joint" or not self.takes_fasteners(step):
            return False
        return any(row.covers for row in self.compiled.get(step.when.step, ()))

    def step_beside(self, step: Step, wanted: str) -> Step | None:
        """Find another step of the same procedure by its id, earlier or later. Returns None if the procedure has no such step."""
        for steps in self.spec.procedures.values():
            by_id = {each.id: each for each in walk(steps)}
            if by_id.get(step.id) == step:
                return by_id.get(wanted)
        return None

    # fasteners ----------------------------------------------------------------------------------------------------

    def in_order(self, step: Step, context: StepContext) -> list[tuple[str, int, str]]:
        """Label, rank and occurrence of a step's fasteners, in the order that the step names.

        Raises:
            Invalid: no such order, or an order that leaves out a fastener.
        """
        layout, chosen = self.spec.layout, self.labels(step, context)
        if step.order == "any":
            return [(label, 0, "") for label in chosen]
        order = layout.orders.get(step.order or "main")
        if order is None:
            raise Invalid(step.id, f"The layout has no order “{step.order}”.", f"It has {', '.join(layout.orders)}.")
        seen: dict[str, int] = {}
        found: list[tuple[str, int, str]] = []
        for rank, place in enumerate(reversed(order) if step.reverse else order):
            for label in ranked(place):
                if label in chosen:
                    seen[label] = seen.get(label, 0) + 1
                    found.append((label, rank, f"#{seen[label]}" if seen[label] > 1 else ""))
        if missing := [label for label in chosen if label not in seen]:
            raise Invalid(step.id, f"The order leaves out fastener {', '.join(missing)}.", "Put every fastener of the step into it.")
        return found

    def labels(self, step: Step, context: StepContext) -> tuple[str, ...]:
        """The fasteners of a step, inside a block only those of its item."""
        return tuple(label for label in self.spec.layout.select(step.of) if context.only is None or label in context.only)

    def pull_fields(self, step: Step, context: StepContext) -> list[tuple[str, PullFields]]:
        """For each fastener of a step, in order: its label, and the fields that every pull has."""
        return [
            (
                label,
                {
                    "id": f"{step.id}{context.suffix()}:{label}{occurrence}", "fastener": label, "rank": rank,
                    "when": self._pull_tests(step, context, label),
                },
            )
            for label, rank, occurrence in self.in_order(step, context)
        ]  # fmt: skip

    def refuse_if_yielded(self, step: Step, context: StepContext, fault: str, remedy: str) -> None:
        """Refuse a step on fasteners that were turned into yield and not loosened free since.

        Raises:
            Invalid: there are such fasteners.
        """
        if spent := [label for label in self.labels(step, context) if label in self.yielded]:
            raise Invalid(step.id, f"Fastener {', '.join(spent)} {fault}", remedy)

    def refuse_in_yield(self, step: Step, context: StepContext, most: int) -> None:
        """Refuse a step on fasteners that earlier runs at this place have turned into yield too often already.

        Args:
            most: how often they may have been turned into yield before it.

        Raises:
            InYield: there are such fasteners.
        """
        if spent := [label for label in self.labels(step, context) if self.in_yield.get(label, 0) > most]:
            which = "all of them" if len(spent) == len(self.spec.layout.fasteners) else ", ".join(spent)
            fault = f"Turned into yield here before, and not replaced since: {which}."
            raise InYield(step.id, fault, "Put in new ones, or leave it as it is.")

    # figures and tools --------------------------------------------------------------------------------------------

    def tool_for(self, step: Step, label: str) -> int:
        """Index of the tooling that is meant for a fastener in a step.

        Raises:
            Invalid: none is.
        """
        for place, tooling in enumerate(self.tooling):
            if tooling.serves(self.spec.layout, step.id, label):
                return place
        raise Invalid("tooling", f"No wrench is chosen for fastener {label} in step {step.id}.", "Pick one.")

    def tool_fields(self, step: Step, label: str) -> PullFields:
        """The fields of a pull that come from its wrench."""
        place = self.tool_for(step, label)
        tooling = self.tooling[place]
        return {
            "tool": tooling.wrench.id, "tooling": place, "factor": tooling.factor, "allowance_nm": tooling.allowance_nm,
            "is_set": tooling.wrench.construction in SET_BEFOREHAND,
        }  # fmt: skip

    def setting(self, place: int, band: Band) -> Setting:
        """What a tooling is set to for a band.

        Raises:
            Invalid: no mark of the wrench lies inside the band.
        """
        key = (place, id(band))
        if key not in self._settings:
            tooling, aim = self.tooling[place], band.aim(self.policy.figure_in_range)
            self._bands_with_setting.append(band)  # keeps the band, so that its id is not used again
            self._settings[key] = set_wrench(tooling.wrench, band, aim_nm=aim, factor=tooling.factor, allowance_nm=tooling.allowance_nm)
        return self._settings[key]

    def torque_band(self, step: Torque | Check, label: str) -> Band:
        """What a fastener is pulled to in a step. Fasteners with the same names share one band."""
        figures = step.at if step.at is not None else self.spec.finals
        if label not in self._names:
            self._names[label] = self.spec.layout.names_of(label)
        key = (step.id, label if isinstance(figures, dict) and label in figures else self._names[label])
        if key not in self._bands:
            self._bands[key] = torque_band(self.spec, step, label)
        return self._bands[key]

    def last_torque_nm(self, label: str) -> float:
        """The highest torque limit that a fastener was pulled to so far [N·m]; 0 if none."""
        bands = [pull.band for pass_ in self.passes if pass_.kind == "torque" for pull in pass_.pulls if pull.fastener == label]
        return max((band.high for band in bands if band is not None), default=0.0)
