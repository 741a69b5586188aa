"""Spec, procedure, tooling and the shop's policy become a plan. Pure: the same in gives the same out.

Here loops and blocks are unrolled and conditions resolved to passes; what a step of a kind becomes is in `building`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from typing import Literal

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.joints.layouts import ranked
from tight_ledger.core.kinds.building import BUILDERS, Context, checked_after_yield, outcomes_of
from tight_ledger.core.records.plans import Pass, Pick, Plan, Pull, Refs, Test, Tooling
from tight_ledger.core.specs.spec import Spec, takes_final_check, torque_band, walk
from tight_ledger.core.specs.steps import Check, Condition, Each, Measure, Repeat, Rotate, Step, StepBase, Stop, Torque
from tight_ledger.core.tools.wrenches import Setting, set_wrench

MOST_PULLS = 5_000
Settings = dict[tuple[int, int], Setting]


@dataclass(slots=True)
class _Written:
    """A pass already compiled, remembered by its step."""

    id: str
    path: tuple[tuple[str, str], ...]
    covers: frozenset[str]


@dataclass(slots=True)
class Compiler:
    """What is known while a plan grows."""

    spec: Spec
    tooling: tuple[Tooling, ...]
    policy: Policy
    passes: list[Pass] = field(default_factory=list)
    written: dict[str, list[_Written]] = field(default_factory=dict)
    steps: dict[str, Step] = field(default_factory=dict)
    settings: Settings = field(default_factory=dict)
    names: dict[str, tuple[str, ...]] = field(default_factory=dict)
    bands: dict[tuple[str, str | tuple[str, ...]], Band] = field(default_factory=dict)
    kept: list[Band] = field(default_factory=list)
    """Bands for which a setting is known by their identity."""
    yielded: set[str] = field(default_factory=set)
    """Fasteners of a yielding kind that were turned by an angle, and not loosened free since."""
    pulls: int = 0

    def block(self, steps: Iterable[Step], context: Context) -> None:
        """The steps of a procedure, a round or an item."""
        for step in steps:
            if isinstance(step, Repeat):
                self.repeat(step, context)
            elif isinstance(step, Each):
                self.each(step, context)
            else:
                self.leaf(step, context)

    def leaf(self, step: Step, context: Context) -> None:
        """A step that is not a block."""
        if context.only is not None and not set(self.spec.layout.select(step.of)) & context.only:
            return  # nothing of this item takes part
        self.steps[step.id] = step
        checked_after_yield(self, step, context)
        pulls, options = BUILDERS[type(step)](self, step, context)
        timing: dict[str, object] = {}
        if step.timing is not None:
            if step.timing.after not in self.written:
                raise Invalid(step.id, f"“{step.timing.after}” does not come earlier.", "Name an earlier step of this procedure.")
            timing = {"after": self.refs(step.timing.after, context, step.id)}
            timing |= {"at_least_s": step.timing.at_least_s, "at_most_s": step.timing.at_most_s}
        self.add(step, context, pulls, options | timing)

    def add(self, step: Step, context: Context, pulls: tuple[Pull, ...], options: dict[str, object]) -> None:
        """One pass."""
        self.pulls += len(pulls)
        if self.pulls > MOST_PULLS:
            raise Invalid(step.id, f"The plan grows past {MOST_PULLS} pulls.", "Repeat fewer times.")
        pass_id = step.id + context.suffix()
        again_on = (outcomes_of(step) - until.one_of for until in context.untils if until.step == step.id)
        self.passes.append(
            Pass(
                id=pass_id, step=step.id, kind=step.kind, rounds=context.rounds, until_loops=context.until_loops, item=context.item,
                pulls=pulls, when=context.tests + self.when(step, context, None), say=step.say, meanwhile=step.meanwhile, hold=step.hold,
                again_on=frozenset().union(*again_on),
                **options,
            )
        )  # fmt: skip
        covers = frozenset(pull.fastener for pull in pulls if pull.fastener is not None)
        self.written.setdefault(step.id, []).append(_Written(pass_id, context.path, covers))

    def each(self, block: Each, outer: Context) -> None:
        """A block for one fastener, unit or group before the next."""
        layout = self.spec.layout
        if block.over is not None:
            items = [(name, frozenset(layout.select(name))) for name in block.over]
        else:
            items = [(label, frozenset({label})) for label in dict.fromkeys(label for label, _, _ in self.in_order(block, outer))]
        when = self.when(block, outer, None)
        for name, labels in reversed(items) if block.reverse else items:
            only = labels if outer.only is None else labels & outer.only
            self.block(block.steps, replace(outer, path=(*outer.path, (block.id, name)), item=name, only=only, tests=outer.tests + when))

    def repeat(self, loop: Repeat, outer: Context) -> None:
        """A loop, unrolled; at its end, if it goes until something holds, a stop."""
        until = loop.until
        if until is not None and until.step not in {step.id for step in walk(loop.steps) if step.when is None}:
            raise Invalid(loop.id, f"Not every round reaches “{until.step}”.", "End the loop on a step inside it.")
        when = self.when(loop, outer, None)
        for turn in range(1, loop.times + 1):
            tests, drop_out = outer.tests + when, outer.drop_out
            if turn > 1 and until is not None:
                tests = (*tests, self.test(until, outer, None, every=True, negate=True))
                drop_out = (*drop_out, (until, outer)) if until.per == "fastener" else drop_out
            inner = replace(
                outer, rounds=(*outer.rounds, turn), until_loops=(*outer.until_loops, until is not None),
                path=(*outer.path, (loop.id, f"~{turn}")), tests=tests, drop_out=drop_out,
                untils=(*outer.untils, *((until,) if until is not None else ())),
            )  # fmt: skip
            if turn > 1:
                self.block(loop.again, inner)
            self.block(loop.steps, inner)
        if until is not None:
            unsatisfied = self.test(until, outer, None, every=True, negate=True)
            stop = Stop(id=f"{loop.id}!", kind="stop", say=loop.say or "The limit of rounds is reached. A lead must decide.")
            context = replace(outer, tests=(*outer.tests, *when, unsatisfied))
            self.add(stop, context, (Pull(id=stop.id + outer.suffix()),), {"tried": tried(self.steps[until.step], until, loop.times)})

    # conditions -----------------------------------------------------------------------------------------------

    def refs(self, step_id: str, context: Context, asker: str) -> Refs:
        """The passes of an earlier step that are in sight, per item, its rounds in sequence.

        Inside a block that both share: the same round and item. Outside: all of them; the last round taken counts.
        """
        rows = self.written.get(step_id)
        if not rows:
            raise Invalid(asker, f"“{step_id}” does not come earlier.", "Name an earlier step of this procedure.")
        for depth in range(len(context.path), -1, -1):
            if found := [row for row in rows if row.path[:depth] == context.path[:depth]]:
                by_item: dict[tuple[str, ...], list[str]] = {}
                for row in found:
                    by_item.setdefault(tuple(key for _, key in row.path[depth:] if not key.startswith("~")), []).append(row.id)
                return tuple(tuple(rounds) for rounds in by_item.values())
        return ()

    def test(self, condition: Condition, context: Context, fastener: str | None, *, every: bool = False, negate: bool = False) -> Test:
        """A condition as passes to look at."""
        step = self.steps.get(condition.step)
        if step is not None and (odd := condition.one_of - (known := outcomes_of(step))):
            raise Invalid(
                condition.step, f"“{', '.join(sorted(odd))}” is no outcome of this step.", f"It can be {', '.join(sorted(known))}."
            )
        refs = self.refs(condition.step, context, condition.step)
        return Test(passes=refs, one_of=condition.one_of, fastener=fastener, every=every, negate=negate)

    def when(self, step: StepBase, context: Context, fastener: str | None) -> tuple[Test, ...]:
        """The step's own condition: for the joint here, per fastener in `pull_tests`."""
        if step.when is None or (fastener is None and self.by_fastener(step)):
            return ()
        return (self.test(step.when, context, fastener if self.by_fastener(step) else None),)

    def by_fastener(self, step: StepBase) -> bool:
        """Whether a condition is held against each fastener by itself: both steps take fasteners, and nobody said joint."""
        if step.when is None or step.when.per == "joint" or isinstance(step, Repeat | Each):
            return False
        per_fastener = getattr(step, "per_fastener", True) and not isinstance(step, Stop | Rotate)
        return per_fastener and any(row.covers for row in self.written.get(step.when.step, ()))

    def pull_tests(self, step: StepBase, context: Context, label: str) -> tuple[Test, ...]:
        """The conditions of one pull."""
        own = self.when(step, context, label) if self.by_fastener(step) else ()
        loops = (self.test(until, outer, label, every=True, negate=True) for until, outer in context.drop_out)
        return (*own, *loops)

    def pick(self, step_id: str, context: Context, asker: str, how: Literal["next", "same", "range"], fastener: str | None) -> Pick:
        """Where a reading or a rung is looked up."""
        return Pick(how=how, passes=self.refs(step_id, context, asker), fastener=fastener)

    # fasteners and figures --------------------------------------------------------------------------------------

    def in_order(self, step: StepBase, context: Context) -> list[tuple[str, int, str]]:
        """(label, rank, occurrence) of a step's fasteners, as the named order has them."""
        layout, chosen = self.spec.layout, self.spec.layout.select(step.of)
        if context.only is not None:
            chosen = tuple(label for label in chosen if label in context.only)
        if step.order == "any":
            return [(label, 0, "") for label in chosen]
        order = layout.orders.get(step.order or "main")
        if order is None:
            raise Invalid(step.id, f"The layout has no order “{step.order}”.", f"It has {', '.join(layout.orders)}.")
        seen: dict[str, int] = {}
        rows: list[tuple[str, int, str]] = []
        for rank, place in enumerate(reversed(order) if step.reverse else order):
            for label in ranked(place):
                if label in chosen:
                    seen[label] = seen.get(label, 0) + 1
                    rows.append((label, rank, f"#{seen[label]}" if seen[label] > 1 else ""))
        if missing := [label for label in chosen if label not in seen]:
            raise Invalid(step.id, f"The order leaves out fastener {', '.join(missing)}.", "Put every fastener of the step into it.")
        return rows

    def tool_for(self, step: StepBase, label: str) -> int:
        """Which tooling is meant for a fastener in a step."""
        for place, tooling in enumerate(self.tooling):
            if tooling.serves(self.spec.layout, step.id, label):
                return place
        raise Invalid("tooling", f"No wrench is chosen for fastener {label} in step {step.id}.", "Pick one.")

    def setting(self, place: int, band: Band) -> Setting:
        """What a tooling is set to for a band."""
        key = (place, id(band))
        if key not in self.settings:
            tooling, aim = self.tooling[place], band.aim(self.policy.figure_in_range)
            self.kept.append(band)
            self.settings[key] = set_wrench(tooling.wrench, band, aim_nm=aim, factor=tooling.factor, allowance_nm=tooling.allowance_nm)
        return self.settings[key]

    def torque_band(self, step: Torque | Check, label: str) -> Band:
        """What a fastener is pulled to in a step; the same for all that go by the same names."""
        figures = step.at if step.at is not None else self.spec.finals
        if label not in self.names:
            self.names[label] = self.spec.layout.names_of(label)
        key = (step.id, label if isinstance(figures, dict) and label in figures else self.names[label])
        if key not in self.bands:
            self.bands[key] = torque_band(self.spec, step, label)
        return self.bands[key]


def tried(step: Step, until: Condition, times: int) -> str:
    """What a loop tried in vain, for the verdict at its stop."""
    if isinstance(step, Check):
        return "turned in every check"
    if isinstance(step, Measure):
        return f"{step.what} out of its band after {times} tries"
    return f"not {' or '.join(sorted(until.one_of)).replace('_', ' ')} after {times} tries"


def compile_passes(spec: Spec, procedure: str, tooling: tuple[Tooling, ...], policy: Policy) -> tuple[Pass, ...]:
    """The passes of one procedure.

    Raises:
        Invalid: see `compile_plan`.
    """
    steps = spec.steps_of(procedure)
    compiler = Compiler(spec, tooling, policy)
    compiler.block(steps, Context())
    if policy.final_check and takes_final_check(spec, procedure):
        compiler.block((Check(id="+check", kind="check"),), Context())
    return tuple(compiler.passes)


def compile_plan(
    spec: Spec,
    procedure: str,
    tooling: tuple[Tooling, ...],
    policy: Policy,
    before: Callable[[tuple[Pass, ...]], tuple[Pass, ...]] | None = None,
) -> Plan:
    """The plan of one procedure.

    Args:
        before: what comes before its own passes, made from them: the checklist.

    Identity comes from the spec, figures from the tooling: with another wrench a plan has other settings and the same
    pull ids, so a run survives a change of wrench.

    Raises:
        Invalid: no tool, no figure or two, no mark inside a band, a forward reference, an order that leaves out a
            fastener, a torque or a check on a fastener that was turned into yield, an `until` on a step that not every
            round reaches, or more than 5,000 pulls.
    """
    passes = compile_passes(spec, procedure, tooling, policy)
    units = tuple(spec.layout.groups[unit] for unit in spec.layout.units)
    first = before(passes) if before is not None else ()
    return Plan(
        spec=spec.id, procedure=procedure, digest=spec.digest, units=units, nouns=spec.layout.nouns, passes=first + passes,
    )  # fmt: skip
