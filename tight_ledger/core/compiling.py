"""Spec, procedure, tooling and the shop's policy become a plan. Pure: the same in gives the same out.

Step kinds are a table of small builders. A kind without a builder is refused by name.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace

from tight_ledger.core.base import Invalid, NotYet
from tight_ledger.core.layouts import ranked
from tight_ledger.core.plans import Pass, Plan, Policy, Pull, Refs, Test, Tooling
from tight_ledger.core.quantities import Band
from tight_ledger.core.specs import Spec, takes_final_check, torque_band, walk
from tight_ledger.core.steps import Check, Condition, Do, Repeat, Step, StepBase, Stop, Torque
from tight_ledger.core.tools.wrenches import Setting, set_wrench

MOST_PULLS = 5_000
OUTCOMES: dict[str, frozenset[str]] = {
    "torque": frozenset({"low", "ok", "high"}),
    "check": frozenset({"still", "moved"}),
    "do": frozenset({"done"}),
}


@dataclass(slots=True)
class _Context:
    """Where in the unrolled procedure a step stands."""

    rounds: tuple[int, ...] = ()
    until_loops: tuple[bool, ...] = ()
    blocks: tuple[str, ...] = ()
    tests: tuple[Test, ...] = ()
    drop_out: tuple[tuple[Condition, _Context], ...] = ()
    """Loop conditions under which single fasteners drop out, with the context that the loop stands in."""

    def suffix(self) -> str:
        return "".join(f"~{n}" for n in self.rounds)


@dataclass(slots=True)
class _Written:
    """A pass already compiled, remembered by its step."""

    id: str
    rounds: tuple[int, ...]
    blocks: tuple[str, ...]
    covers: frozenset[str]


@dataclass(slots=True)
class _Compiler:
    spec: Spec
    tooling: tuple[Tooling, ...]
    policy: Policy
    passes: list[Pass] = field(default_factory=list)
    written: dict[str, list[_Written]] = field(default_factory=dict)
    steps: dict[str, Step] = field(default_factory=dict)
    pulls: int = 0

    def block(self, steps: Iterable[Step], context: _Context) -> None:
        for step in steps:
            if isinstance(step, Repeat):
                self.repeat(step, context)
                continue
            builder = _BUILDERS.get(type(step))
            if builder is None:
                raise NotYet(step.id, f"Steps of kind “{step.kind}” cannot be played yet.", "Keep to torque, check, do, stop and repeat.")
            self.steps[step.id] = step
            self.add(step, context, *builder(self, step, context))

    def add(self, step: Step, context: _Context, pulls: tuple[Pull, ...], options: dict[str, object]) -> None:
        pass_id = step.id + context.suffix()
        when = context.tests + self.when(step, context, None)
        self.pulls += len(pulls)
        if self.pulls > MOST_PULLS:
            raise Invalid(step.id, f"The plan grows past {MOST_PULLS} pulls.", "Repeat fewer times.")
        self.passes.append(
            Pass(
                id=pass_id,
                step=step.id,
                kind=step.kind,
                rounds=context.rounds,
                until_loops=context.until_loops,
                pulls=pulls,
                when=when,
                say=step.say,
                meanwhile=step.meanwhile,
                **options,
            )
        )
        covers = frozenset(pull.fastener for pull in pulls if pull.fastener is not None)
        self.written.setdefault(step.id, []).append(_Written(pass_id, context.rounds, context.blocks, covers))

    def repeat(self, loop: Repeat, outer: _Context) -> None:
        until = loop.until
        if until is not None and until.step not in {step.id for step in walk(loop.steps) if step.when is None}:
            raise Invalid(loop.id, f"Not every round reaches “{until.step}”.", "End the loop on a step inside it.")
        for turn in range(1, loop.times + 1):
            tests, drop_out = outer.tests, outer.drop_out
            if turn > 1 and until is not None:
                tests = (*tests, self.test(until, outer, None, every=True, negate=True))
                drop_out = (*drop_out, (until, outer)) if until.per == "fastener" else drop_out
            inner = _Context(
                rounds=(*outer.rounds, turn),
                until_loops=(*outer.until_loops, until is not None),
                blocks=(*outer.blocks, loop.id),
                tests=tests,
                drop_out=drop_out,
            )
            if turn > 1:
                self.block(loop.again, inner)
            self.block(loop.steps, inner)
        if until is not None:
            unsatisfied = self.test(until, outer, None, every=True, negate=True)
            stop = Stop(id=f"{loop.id}!", kind="stop", say=loop.say or "The limit of rounds is reached. A lead must decide.")
            self.add(stop, replace(outer, tests=(*outer.tests, unsatisfied)), (Pull(id=stop.id + outer.suffix()),), {})

    # conditions -----------------------------------------------------------------------------------------------

    def refs(self, step_id: str, context: _Context, asker: str) -> Refs:
        """The passes of an earlier step that are in sight: same rounds of shared loops, all rounds of others."""
        rows = self.written.get(step_id)
        if not rows:
            raise Invalid(asker, f"“{step_id}” does not come earlier.", "Name an earlier step of this procedure.")
        for depth in range(len(context.rounds), -1, -1):  # the newest round in sight, then ever wider
            inside = (context.blocks[:depth], context.rounds[:depth])
            if found := [row.id for row in rows if (row.blocks[:depth], row.rounds[:depth]) == inside]:
                return (tuple(found),)
        return ()

    def test(self, condition: Condition, context: _Context, fastener: str | None, *, every: bool = False, negate: bool = False) -> Test:
        step = self.steps.get(condition.step)
        known = OUTCOMES.get(step.kind, frozenset()) if step is not None else frozenset()
        if isinstance(step, Do) and step.options:
            known = frozenset(option.key for option in step.options)
        if step is not None and (odd := condition.one_of - known):
            raise Invalid(
                condition.step, f"“{', '.join(sorted(odd))}” is no outcome of this step.", f"It can be {', '.join(sorted(known))}."
            )
        return Test(
            passes=self.refs(condition.step, context, condition.step),
            one_of=condition.one_of,
            fastener=fastener,
            every=every,
            negate=negate,
        )

    def when(self, step: StepBase, context: _Context, fastener: str | None) -> tuple[Test, ...]:
        """The step's own condition: for the joint here, per fastener in `pull_tests`."""
        if step.when is None or (fastener is None and self.by_fastener(step.when)):
            return ()
        return (self.test(step.when, context, fastener if self.by_fastener(step.when) else None),)

    def by_fastener(self, condition: Condition) -> bool:
        rows = self.written.get(condition.step, [])
        return condition.per != "joint" and any(row.covers for row in rows)

    def pull_tests(self, step: StepBase, context: _Context, label: str) -> tuple[Test, ...]:
        own = self.when(step, context, label) if step.when is not None and self.by_fastener(step.when) else ()
        loops = (self.test(until, outer, label, every=True, negate=True) for until, outer in context.drop_out)
        return (*own, *loops)

    # fasteners and figures --------------------------------------------------------------------------------------

    def in_order(self, step: StepBase) -> list[tuple[str, int, str]]:
        """(label, rank, occurrence) of a step's fasteners, as the named order has them."""
        layout, chosen = self.spec.layout, self.spec.layout.select(step.of)
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
        for place, tooling in enumerate(self.tooling):
            if tooling.serves(self.spec.layout, step.id, label):
                return place
        raise Invalid("tooling", f"No wrench is chosen for fastener {label} in step {step.id}.", "Pick one.")

    def torque_pulls(self, step: Torque | Check, context: _Context) -> tuple[Pull, ...]:
        pulls = []
        settings: dict[tuple[int, Band], tuple[Band, Setting]] = {}
        for label, rank, occurrence in self.in_order(step):
            place, band = self.tool_for(step, label), torque_band(self.spec, step, label)
            tooling, key = self.tooling[place], (place, band)
            if key not in settings:
                aim = band.aim(self.policy.figure_in_range)
                setting = set_wrench(tooling.wrench, band, aim_nm=aim, factor=tooling.factor, allowance_nm=tooling.allowance_nm)
                settings[key] = (band, setting)
            pulls.append(
                Pull(
                    id=f"{step.id}{context.suffix()}:{label}{occurrence}",
                    fastener=label,
                    rank=rank,
                    band=settings[key][0],
                    setting=settings[key][1],
                    tool=tooling.wrench.id,
                    tooling=place,
                    factor=tooling.factor,
                    allowance_nm=tooling.allowance_nm,
                    when=self.pull_tests(step, context, label),
                )
            )
        return tuple(pulls)


_Built = tuple[tuple[Pull, ...], dict[str, object]]


def _torque(compiler: _Compiler, step: Torque, context: _Context) -> _Built:
    if step.ladder or step.found or step.plus or step.watch or step.timing:
        raise NotYet(step.id, "Ladders, found figures, added readings, watches and timing cannot be played yet.", "Give at or share.")

    return compiler.torque_pulls(step, context), {}


def _check(compiler: _Compiler, step: Check, context: _Context) -> _Built:
    return compiler.torque_pulls(step, context), {}


def _task(compiler: _Compiler, step: Do | Stop, context: _Context) -> _Built:
    options: dict[str, object] = {}
    pass_id = step.id + context.suffix()
    if isinstance(step, Do):
        if step.by:
            raise NotYet(step.id, "Choices by a measured value cannot be played yet.", "Give the options alone.")
        options = {"options": step.options}
        if step.per_fastener:
            rows = compiler.in_order(step)
            return tuple(
                Pull(id=f"{pass_id}:{label}{more}", fastener=label, rank=rank, when=compiler.pull_tests(step, context, label))
                for label, rank, more in rows
            ), options
    return (Pull(id=pass_id),), options


_BUILDERS: dict[type, Callable[..., _Built]] = {Torque: _torque, Check: _check, Do: _task, Stop: _task}


def compile_passes(spec: Spec, procedure: str, tooling: tuple[Tooling, ...], policy: Policy) -> tuple[Pass, ...]:
    """The passes of one procedure.

    Raises:
        Invalid: see `compile_plan`.
    """
    steps = spec.procedures.get(procedure)
    if steps is None:
        raise Invalid("procedure", f"This spec has no procedure “{procedure}”.", f"It has {', '.join(spec.procedures)}.")
    compiler = _Compiler(spec, tooling, policy)
    compiler.block(steps, _Context())
    if policy.final_check and takes_final_check(spec, procedure):
        compiler.block((Check(id="+check", kind="check"),), _Context())
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
            fastener, a step kind that cannot be played, or more than 5,000 pulls.
    """
    passes = compile_passes(spec, procedure, tooling, policy)
    units = tuple(spec.layout.groups[unit] for unit in spec.layout.units)
    first = before(passes) if before is not None else ()
    return Plan(spec=spec.id, procedure=procedure, digest=spec.digest, units=units, passes=first + passes)
