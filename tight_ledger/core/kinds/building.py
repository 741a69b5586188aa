"""What a step of each kind becomes: its pulls, and what its pass carries."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.records.plans import Pull, Rung, Test
from tight_ledger.core.specs.spec import pick_figure
from tight_ledger.core.specs.steps import Align, Angle, Check, Condition, Do, Loosen, Measure, Rotate, Step, Stop, Torque, Turns
from tight_ledger.core.tools.wrenches import SET_BEFOREHAND

if TYPE_CHECKING:
    from tight_ledger.core.planning.compiler import Compiler

OUTCOMES: dict[str, frozenset[str]] = {
    "torque": frozenset({"low", "ok", "high"}),
    "angle": frozenset({"low", "ok", "high", "by_eye"}),
    "turns": frozenset({"turned", "seated"}),
    "loosen": frozenset({"loose"}),
    "align": frozenset({"aligned", "high"}),
    "check": frozenset({"still", "moved"}),
    "rotate": frozenset({"turned"}),
    "measure": frozenset({"low", "ok", "high"}),
    "do": frozenset({"done"}),
}
TIMED = frozenset({"in_time", "late"})
RUNNING_ROWS = 8
"""Number of running-torque ranges; each has its own setting."""


@dataclass(frozen=True, slots=True)
class Context:
    """Where in the unrolled procedure a step stands."""

    rounds: tuple[int, ...] = ()
    until_loops: tuple[bool, ...] = ()
    path: tuple[tuple[str, str], ...] = ()
    """Blocks around it, each with its round (`~2`) or its item."""
    item: str | None = None
    only: frozenset[str] | None = None
    """The fasteners of the item; None outside."""
    tests: tuple[Test, ...] = ()
    untils: tuple[Condition, ...] = ()
    """What the loops around it go on until."""
    drop_out: tuple[tuple[Condition, Context], ...] = ()
    """Loop conditions under which single fasteners drop out, with the context that the loop stands in."""

    def suffix(self) -> str:
        """What a pass id carries behind the step's: `~2@cap3`."""
        return "".join(f"~{n}" for n in self.rounds) + "".join(f"@{key}" for _, key in self.path if not key.startswith("~"))


Built = tuple[tuple[Pull, ...], dict[str, Any]]


def outcomes_of(step: Step) -> frozenset[str]:
    """The outcomes that a step can have."""
    if isinstance(step, Do) and step.options:
        return frozenset(option.key for option in step.options)
    return OUTCOMES.get(step.kind, frozenset()) | (TIMED if step.timing is not None else frozenset())


def checked_after_yield(compiler: Compiler, step: Step, context: Context) -> None:
    """Refuse to go back with a torque or a check to what was turned into yield, unless it was loosened free since.

    Raises:
        Invalid: it would be.
    """
    layout = compiler.spec.layout
    labels = [label for label in layout.select(step.of) if context.only is None or label in context.only]
    if isinstance(step, Torque | Check) and (spent := _yielded(compiler, labels)):
        raise Invalid(step.id, f"Fastener {', '.join(spent)} was turned into yield; it is not pulled again.", "Leave the step out.")
    if isinstance(step, Angle) and any(context.until_loops) and context.rounds[-1] > 1 and (spent := _yielded(compiler, labels)):
        raise Invalid(
            step.id, f"Fastener {', '.join(spent)} is turned into yield; no loop turns it on again.", "Take the angle out of the loop."
        )
    if isinstance(step, Angle):
        compiler.yielded |= {f.label for f in layout.fasteners if f.label in labels and layout.kinds[f.kind].yields}
    elif isinstance(step, Loosen) and step.unit == "free":
        compiler.yielded -= set(labels)


def _yielded(compiler: Compiler, labels: list[str]) -> list[str]:
    return [label for label in labels if label in compiler.yielded]


def _rows(compiler: Compiler, step: Step, context: Context) -> list[tuple[str, dict[str, Any]]]:
    """For each fastener what all its pulls have."""
    return [
        (
            label,
            {
                "id": f"{step.id}{context.suffix()}:{label}{occurrence}", "fastener": label, "rank": rank,
                "when": compiler.pull_tests(step, context, label),
            },
        )
        for label, rank, occurrence in compiler.in_order(step, context)
    ]  # fmt: skip


def _tool(compiler: Compiler, step: Step, label: str) -> dict[str, Any]:
    place = compiler.tool_for(step, label)
    tooling = compiler.tooling[place]
    return {
        "tool": tooling.wrench.id, "tooling": place, "factor": tooling.factor, "allowance_nm": tooling.allowance_nm,
        "is_set": tooling.wrench.construction in SET_BEFOREHAND,
    }  # fmt: skip


def _torque(compiler: Compiler, step: Torque, context: Context) -> Built:
    pulls = []
    for label, common in _rows(compiler, step, context):
        place = compiler.tool_for(step, label)
        more = _tool(compiler, step, label)
        if step.watch is not None:
            more["watch"] = pick_figure(compiler.spec.layout, step.watch, label, step.id)
        if step.ladder or step.found is not None:
            source = compiler.steps.get(step.found) if step.found is not None else step
            if not isinstance(source, Torque) or not source.ladder:
                raise Invalid(step.id, f"“{step.found}” is no step with a ladder.", "Name an earlier one that has one.")
            more["rungs"] = tuple(
                Rung(key=str(n), band=band, setting=compiler.setting(place, band)) for n, band in enumerate(source.ladder, 1)
            )
            if step.found is not None:
                more["pick"] = compiler.pick(step.found, context, step.id, "same", None)
            elif step.id in compiler.written:
                more["pick"] = compiler.pick(step.id, context, step.id, "next", label)
        elif step.plus is not None:
            more["rungs"] = _running(compiler, step, label, place)
            more["pick"] = compiler.pick(step.plus, context, step.id, "range", label)
            more["band"] = compiler.torque_band(step, label)
        else:
            band = compiler.torque_band(step, label)
            more |= {"band": band, "setting": compiler.setting(place, band)}
        pulls.append(Pull(**common, **more))
    return tuple(pulls), {}


def _running(compiler: Compiler, step: Torque, label: str, place: int) -> tuple[Rung, ...]:
    """Rows for what turns already, added to the figure: within a row any reading keeps the sum inside the band."""
    band, source = compiler.torque_band(step, label), compiler.steps.get(step.plus or "")
    measured = source.band if isinstance(source, Measure) and isinstance(source.band, Band) else None
    most = measured.high if measured is not None else band.high
    width = min(most / RUNNING_ROWS, (band.high - band.low) / 2)
    rows, low = [], 0.0
    while low < most:
        high = low + width
        summed = Band(quantity="torque", low=band.low + high, high=band.high + low)
        rows.append(Rung(key=f"{low:.3g}", band=summed, setting=compiler.setting(place, summed), low=low, high=high))
        low = high
    return tuple(rows)


def _angle(compiler: Compiler, step: Angle, context: Context) -> Built:
    layout, kinds = compiler.spec.layout, {f.label: f.kind for f in compiler.spec.layout.fasteners}
    pulls = []
    for label, common in _rows(compiler, step, context):
        more = _tool(compiler, step, label)
        tooling = compiler.tooling[more["tooling"]]
        watch = pick_figure(layout, step.watch, label, step.id) if step.watch is not None else None
        torque_nm = watch.high if watch is not None else _last_torque(compiler, label)
        kind = layout.kinds[kinds[label]]
        pulls.append(
            Pull(
                **common, **more, band=pick_figure(layout, step.at, label, step.id), watch=watch,
                windup_deg=tooling.windup_deg_per_nm * torque_nm, yields=kind.yields, once=kind.yields and kind.longest_mm is None,
            )
        )  # fmt: skip
    return tuple(pulls), {}


def _last_torque(compiler: Compiler, label: str) -> float:
    """The highest torque that a fastener was pulled to so far [N·m]."""
    bands = [
        pull.band.high for one in compiler.passes if one.kind == "torque" for pull in one.pulls if pull.fastener == label and pull.band
    ]
    return max(bands, default=0.0)


def _check(compiler: Compiler, step: Check, context: Context) -> Built:
    pulls = []
    for label, common in _rows(compiler, step, context):
        band, more = compiler.torque_band(step, label), _tool(compiler, step, label)
        windup_deg = compiler.tooling[more["tooling"]].windup_deg_per_nm * band.high
        pulls.append(Pull(**common, **more, band=band, windup_deg=windup_deg, setting=compiler.setting(more["tooling"], band)))
    return tuple(pulls), {}


def _by_hand(compiler: Compiler, step: Turns | Loosen | Align, context: Context) -> Built:
    amount: dict[str, Any]
    if isinstance(step, Turns):
        amount = {"amount": step.turns, "unit": "turns"}
    elif isinstance(step, Align):
        amount = {"amount": step.at_most_deg, "unit": "deg", "way": step.way}
    else:
        amount = {"amount": step.amount, "unit": step.unit, "free": step.unit == "free", "way": "back"}
    return tuple(Pull(**common) for _, common in _rows(compiler, step, context)), amount


def _rotate(compiler: Compiler, step: Rotate, context: Context) -> Built:
    return (Pull(id=step.id + context.suffix()),), {"amount": step.turns, "unit": "turns", "what": step.what}


def _measure(compiler: Compiler, step: Measure, context: Context) -> Built:
    options: dict[str, Any] = {name: getattr(step, name) for name in ("readings", "take", "what", "low_means", "high_means")}
    for name in ("plus", "less"):
        if (other := getattr(step, name)) is not None:
            options[name] = compiler.pick(other, context, step.id, "same", None)
    if not step.per_fastener:
        band = step.band if isinstance(step.band, Band) else None
        if isinstance(step.band, dict):
            raise Invalid(step.id, "One reading for the whole joint has one band.", "Give one, or measure each fastener.")
        return (Pull(id=step.id + context.suffix(), band=band),), options
    layout = compiler.spec.layout
    return tuple(
        Pull(**common, band=None if step.band is None else pick_figure(layout, step.band, label, step.id))
        for label, common in _rows(compiler, step, context)
    ), options


def _task(compiler: Compiler, step: Do | Stop, context: Context) -> Built:
    pass_id, options = step.id + context.suffix(), dict[str, Any]()
    if isinstance(step, Do):
        chosen = compiler.policy.choices.get(step.id)
        options["options"] = tuple(option for option in step.options if chosen in (None, option.key)) or step.options
        if step.by:
            options["by"] = {name: compiler.refs(name, context, step.id) for name in step.by}
            options |= {"coef": dict(step.by), "const": step.const}
        if step.per_fastener:
            return tuple(Pull(**common) for _, common in _rows(compiler, step, context)), options
    return (Pull(id=pass_id),), options


BUILDERS: dict[type, Callable[..., Built]] = {
    Torque: _torque, Angle: _angle, Check: _check, Turns: _by_hand, Loosen: _by_hand, Align: _by_hand, Rotate: _rotate,
    Measure: _measure, Do: _task, Stop: _task,
}  # fmt: skip
