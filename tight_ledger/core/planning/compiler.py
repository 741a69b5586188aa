"""The compiler: spec, procedure, tooling and the shop's policy become a plan. The same input gives the same plan.

It unrolls loops and blocks and resolves conditions. What a single step becomes is in its kind (`kinds/`).
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from typing import Any

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.kinds.plan_builder import CompiledPass, PlanBuilder, StepContext
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.records.plans import Pass, Plan, Pull, Tooling
from tight_ledger.core.specs.spec import Spec, takes_final_check, walk
from tight_ledger.core.specs.steps import Check, Condition, Each, Repeat, Step, Stop

MOST_PULLS = 5_000
NEVER: Mapping[str, int] = {}
"""Nothing at the place is in yield."""


class Compiler:
    """The compiler of one procedure."""

    def __init__(self, spec: Spec, tooling: tuple[Tooling, ...], policy: Policy, kinds: Registry) -> None:
        self.kinds = kinds
        self.pull_count = 0
        self.builder = PlanBuilder(
            spec,
            tooling,
            policy,
            outcomes_of=lambda step: kinds[step.kind].outcomes_of(step),
            takes_fasteners=lambda step: kinds[step.kind].takes_fasteners(step),
        )

    def block(self, steps: Iterable[Step], context: StepContext) -> None:
        """Compile the steps of a procedure, of a round or of an item."""
        for step in steps:
            if isinstance(step, Repeat):
                self._repeat(step, context)
            elif isinstance(step, Each):
                self._each(step, context)
            else:
                self._leaf(step, context)

    def _leaf(self, step: Step, context: StepContext) -> None:
        if context.only is not None and not self.builder.labels(step, context):
            return  # the step is for none of this item's fasteners
        self.builder.steps[step.id] = step
        passes = self.kinds[step.kind].passes
        assert passes is not None, f"{step.kind} is a block"
        pulls, fields = passes(self.builder, step, context)
        timing: dict[str, Any] = {}
        if step.timing is not None:
            timing = {"after": self.builder.refs(step.timing.after, context, step.id)}
            timing |= {"at_least_s": step.timing.at_least_s, "at_most_s": step.timing.at_most_s}
            timing |= {"waits_from": step.timing.waits_from, "limited_from": step.timing.limited_from}
        self._add(step, context, pulls, fields | timing)

    def _add(self, step: Step, context: StepContext, pulls: tuple[Pull, ...], fields: dict[str, Any]) -> None:
        """Add a pass."""
        self.pull_count += len(pulls)
        if self.pull_count > MOST_PULLS:
            raise Invalid(step.id, f"The plan grows past {MOST_PULLS} pulls.", "Repeat fewer times.")
        pass_id = step.id + context.suffix()
        outcomes = self.builder.outcomes_of(step)
        again_on = (outcomes - until.one_of for until in context.untils if until.step == step.id)
        self.builder.passes.append(
            Pass(
                id=pass_id, step=step.id, kind=step.kind, rounds=context.rounds, until_loops=context.until_loops, item=context.item,
                pulls=pulls, when=context.tests + self.builder.pass_tests(step, context), say=step.say, meanwhile=step.meanwhile,
                hold=step.hold, again_on=frozenset().union(*again_on), **fields,
            )
        )  # fmt: skip
        covers = frozenset(pull.fastener for pull in pulls if pull.fastener is not None)
        self.builder.compiled.setdefault(step.id, []).append(CompiledPass(pass_id, context.path, covers))

    def _each(self, block: Each, outer: StepContext) -> None:
        """Compile a block for one fastener, unit or group before the next."""
        layout, builder = self.builder.spec.layout, self.builder
        if block.over is not None:
            items = [(name, frozenset(layout.select(name))) for name in block.over]
        else:
            items = [(label, frozenset({label})) for label in dict.fromkeys(label for label, _, _ in builder.in_order(block, outer))]
        tests = outer.tests + builder.pass_tests(block, outer)
        for name, labels in reversed(items) if block.reverse else items:
            only = labels if outer.only is None else labels & outer.only
            self.block(block.steps, replace(outer, path=(*outer.path, (block.id, name)), item=name, only=only, tests=tests))

    def _repeat(self, loop: Repeat, outer: StepContext) -> None:
        """Compile a loop round by round; if it has an end condition, a stop follows for the case that it never holds."""
        builder, until = self.builder, loop.until
        if until is not None and until.step not in {step.id for step in walk(loop.steps) if step.when is None}:
            raise Invalid(loop.id, f"Not every round reaches “{until.step}”.", "End the loop on a step inside it.")
        when = builder.pass_tests(loop, outer)
        for turn in range(1, loop.times + 1):
            tests, drop_out = outer.tests + when, outer.drop_out
            if turn > 1 and until is not None:
                tests = (*tests, builder.test(until, outer, None, every=True, negate=True))
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
            tests = (*outer.tests, *when, builder.test(until, outer, None, every=True, negate=True))
            stop = Stop(id=f"{loop.id}!", kind="stop", say=loop.say or "The limit of rounds is reached. A lead must decide.")
            looped = builder.steps[until.step]
            tried = self.kinds[looped.kind].tried(looped, until, loop.times)
            self._add(stop, replace(outer, tests=tests), (Pull(id=stop.id + outer.suffix()),), {"tried": tried})


FINAL_CHECK = Repeat(
    id="+settle", kind="repeat", times=3, steps=(Check(id="+check", kind="check"),),
    until=Condition(step="+check", one_of=frozenset({"still"})), say="Nuts turned in every check. A lead must decide.",
)  # fmt: skip
"""The shop's check after the last stage: until none turned, three rounds at most."""
SECOND_PERSON = Pass(
    id="+second", step="+second", kind="do", pulls=(Pull(id="+second"),), by_another=True,
    say="Somebody who did not pull here has checked it, fastener by fastener.",
)  # fmt: skip
"""The last task, where the shop asks for a second person."""


def compile_passes(
    spec: Spec,
    procedure: str,
    tooling: tuple[Tooling, ...],
    policy: Policy,
    kinds: Registry = KINDS,
    in_yield: Mapping[str, int] = NEVER,
) -> tuple[Pass, ...]:
    """The passes of a procedure.

    Args:
        kinds: the kinds of step that the procedure can have.
        in_yield: see `compile_plan`.

    Raises:
        Invalid: see `compile_plan`.
    """
    steps = spec.steps_of(procedure)
    compiler = Compiler(spec, tooling, policy, kinds)
    compiler.builder.in_yield = in_yield
    compiler.block(steps, StepContext())
    if policy.final_check and takes_final_check(spec, procedure):
        compiler.block((FINAL_CHECK,), StepContext())
    passes = tuple(compiler.builder.passes)
    if spec.joint in policy.second_person and any(kinds[pass_.kind].tightens for pass_ in passes):
        return (*passes, SECOND_PERSON)
    return passes


def compile_plan(
    spec: Spec,
    procedure: str,
    tooling: tuple[Tooling, ...],
    policy: Policy,
    before: Callable[[tuple[Pass, ...]], tuple[Pass, ...]] | None = None,
    kinds: Registry = KINDS,
    in_yield: Mapping[str, int] = NEVER,
) -> Plan:
    """The plan of a procedure.

    Ids come from the spec, figures from the tooling: with another wrench a plan has other settings and the same pull
    ids, so a run continues after a change of wrench.

    Args:
        before: makes the passes that come first, from the procedure's own: the checklist.
        kinds: the kinds of step that the procedure can have.
        in_yield: by fastener, how often earlier runs at its place turned it into yield since it was replaced.

    Raises:
        InYield: a torque, a check, or more than one further angle on a fastener that is in yield from earlier runs.
        Invalid: no tool, no figure or two, no mark inside a band, a reference to a later step, an order that leaves out
            a fastener, a torque or a check on a fastener that was turned into yield, an `until` on a step that not
            every round reaches, or more than 5,000 pulls.
    """
    passes = compile_passes(spec, procedure, tooling, policy, kinds, in_yield)
    units = tuple(spec.layout.groups[unit] for unit in spec.layout.units)
    first = before(passes) if before is not None else ()
    return Plan(
        spec=spec.id, procedure=procedure, digest=spec.digest, units=units, nouns=spec.layout.nouns, passes=first + passes,
    )  # fmt: skip
