"""A run on paper: what is left of it, in its order, with figures, limits and boxes to tick. For when nothing else works."""

from collections.abc import Mapping
from typing import Any

from tight_ledger.core.base.display import Shown, gap
from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.names import name_of
from tight_ledger.core.kinds.acts import Doing
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.records.entries import Started
from tight_ledger.core.records.plans import Pass, Plan, Pull
from tight_ledger.core.runs.descriptions import pass_words
from tight_ledger.core.runs.run import RunState


class PaperBox(Model):
    """One thing to do, and to tick."""

    name: str
    """Of the fastener; empty for a task."""
    figure: str
    """What the wrench is set to, or what is to be read; with its limits. Empty if it has none."""
    done: bool
    figures_to_write: int
    """How many readings are written beside it."""


class PaperPass(Model):
    """A round of boxes, in the order in which they are done."""

    words: str
    wrench: str
    figure: str
    """What every box of it is pulled or read to; empty if they differ, and then each says its own."""
    maybe: bool
    """Whether it comes depends on what was found before."""
    boxes: tuple[PaperBox, ...]


class PaperRun(Model):
    """A run as it stands, for paper."""

    seq: int
    passes: tuple[PaperPass, ...]
    standing: str
    """Empty while it is not finished."""


def paper_of(started: Started, state: RunState, kinds: Registry = KINDS) -> PaperRun:
    """A run as it stands, to be printed: everything that was done, ticked, and everything that is left or may come.

    Args:
        started: the plan and the tooling in force.
        kinds: the kinds of step that the plan can have.
    """
    status, words = {pull.id: pull.status for pull in state.pulls}, pass_words(started.plan, kinds)
    passes = []
    for pass_, standing in zip(started.plan.passes, state.passes, strict=True):
        if standing.status == "skipped" or (kinds[pass_.kind].only_a_lead and standing.status != "current"):
            continue
        boxes = tuple(
            _box(started.plan, pass_, pull, status[pull.id] == "done", kinds) for pull in pass_.pulls if status[pull.id] in ("open", "done")
        )
        tooling = {pull.tooling for pull in pass_.pulls if pull.tool is not None}
        figures = {box.figure for box in boxes}
        figure = figures.pop() if len(figures) == 1 and len(boxes) > 1 else ""
        boxes = tuple(box.model_copy(update={"figure": ""}) for box in boxes) if figure else boxes
        wrench = ", ".join(started.tooling[place].wrench.name for place in sorted(tooling))
        passes.append(PaperPass(words=words[pass_.id], wrench=wrench, figure=figure, maybe=standing.status == "maybe", boxes=boxes))
    return PaperRun(seq=state.seq, passes=tuple(passes), standing=state.standing or "")


def _box(plan: Plan, pass_: Pass, pull: Pull, done: bool, kinds: Registry) -> PaperBox:
    kind = kinds[pass_.kind]
    return PaperBox(
        name=name_of(plan.nouns, pull.fastener) if pull.fastener is not None else "",
        figure=_figure(kind.prompt(pass_, pull, Doing())), done=done,
        figures_to_write=pass_.readings if kind.answered_by == "measured" else 0,
    )  # fmt: skip


def _figure(said: Mapping[str, Any]) -> str:
    """What its prompt would show: `88 N·m (80–96 N·m)`, `90° (85–95°)`; of a ladder each figure; else how far by hand."""
    shown = [_limited(said[name]) for name in ("figure", "angle", "band") if said.get(name) is not None]
    shown += [f"{rung.key}: {_limited(rung.figure)}" for rung in said.get("ladder", ())]
    return "; ".join([*shown, *(said[name] for name in ("amount", "watch") if said.get(name))])


def _limited(shown: Shown) -> str:
    limits = f" ({shown.limits})" if shown.low and shown.low != shown.high else ""
    return f"{shown.figure}{gap(shown.unit)}{shown.unit}{limits}"
