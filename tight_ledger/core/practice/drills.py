"""A drill: questions one after the other, answers judged, and at the end what was missed and why.

A drill is a generator of questions that is sent the answers. It draws from its seed and from what the shop has; the same
seed, shop and answers give the same questions and the same verdict. So a drill needs no memory: its answers so far are all
that is kept of it.
"""

import random
from collections.abc import Callable, Generator, Sequence
from dataclasses import dataclass, field
from typing import Literal

from pydantic import Field

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.joints.layouts import Layout
from tight_ledger.core.runs.descriptions import FastenerNow
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.tools.scales import Scale
from tight_ledger.core.tools.wrenches import Construction, Face, Wrench

DrillName = Literal["scale", "order", "angle", "measure", "wrong", "units", "wrench", "pull", "snap", "find"]
MOST_ANSWERS = 400


class DrillAnswer(Model):
    """What somebody pressed, typed, tapped or turned."""

    key: str = Field(default="", max_length=60)
    figure: float | None = Field(default=None, ge=-1_000_000, le=1_000_000)


class DrillKey(Model):
    """A key of a question."""

    key: str
    say: str


class ScaleShown(Model):
    """A wrench's scale."""

    kind: Literal["scale"] = "scale"
    scale: Scale
    construction: Construction
    face: Face
    name: str


class DialShown(Model):
    """A dial to be read."""

    kind: Literal["dial"] = "dial"
    graduation: float
    divisions: int
    unit: str
    figure: float


class LayoutShown(Model):
    """A joint to be tapped, with the paint marks that it has so far."""

    kind: Literal["layout"] = "layout"
    layout: Layout
    fasteners: tuple[FastenerNow, ...]


class TurnShown(Model):
    """A nut to be turned by holding: how far it is to go, how far it has gone, whether a gauge shows it."""

    kind: Literal["turn"] = "turn"
    aim_deg: float
    done_deg: float
    gauge: bool
    deg_per_s: float


class PullShown(Model):
    """A fastener under a wrench, to be pulled by holding."""

    kind: Literal["pull"] = "pull"
    degrees: tuple[float, ...]
    torques_nm: tuple[float, ...]
    from_deg: float
    deg_per_s: float
    clicks_at_deg: float | None = None
    breaks_at_deg: float | None = None


class LinesShown(Model):
    """Lines to be read, the newest last."""

    kind: Literal["lines"] = "lines"
    lines: tuple[str, ...]
    above: str = ""
    """What they are to be held against."""


class SearchShown(Model):
    """The shop's own library, to be searched."""

    kind: Literal["search"] = "search"


DrillPicture = ScaleShown | DialShown | LayoutShown | TurnShown | PullShown | LinesShown | SearchShown


class DrillQuestion(Model):
    """What is asked now."""

    ask: str
    picture: DrillPicture | None = None
    keys: tuple[DrillKey, ...] = ()
    unit: str = ""
    """Of the figure that is to be typed; empty where none is."""
    says: str = ""
    """What is said about the answer before."""
    right: bool | None = None
    """Whether that answer was right; None where it was only a step."""


class DrillNow(Model):
    """A drill as it stands after some answers."""

    drill: DrillName
    seed: int
    title: str
    question: DrillQuestion | None
    """None once it is over."""
    done: bool
    passed: bool
    missed: tuple[str, ...]
    """What was wrong, and why."""
    says: str = ""
    """At the end: what is said about the last answer, and what was measured of the person."""
    by_eye_deg: float | None = None
    """At the end of turning by eye: within how many degrees the person was."""


@dataclass(frozen=True)
class Materials:
    """What the shop has, from which a drill draws; the person's own wrenches first."""

    wrenches: tuple[Wrench, ...] = ()
    specs: tuple[Spec, ...] = ()
    policy: Policy = field(default_factory=Policy)


@dataclass
class Marks:
    """What was missed so far."""

    missed: list[str] = field(default_factory=list)
    says: str = ""
    right: bool | None = None
    by_eye_deg: float | None = None

    def tell(self, says: str, *, right: bool | None = None) -> None:
        """Say something about the last answer; a wrong one is kept."""
        self.says, self.right = says, right
        if right is False:
            self.missed.append(says)

    def asked(self, question: DrillQuestion) -> DrillQuestion:
        """A question with what is said about the answer before it."""
        told = question.model_copy(update={"says": self.says, "right": self.right})
        self.says, self.right = "", None
        return told


Course = Generator[DrillQuestion, DrillAnswer, None]
Drill = Callable[[random.Random, Materials, Marks], Course]


@dataclass(frozen=True)
class NamedDrill:
    """A drill with its name and what it is called."""

    name: DrillName
    title: str
    trains: str
    drill: Drill
    draws_on_shop: bool = False
    """Whether it draws from the shop's wrenches and specs."""


def play(named: NamedDrill, seed: int, answers: Sequence[DrillAnswer], materials: Materials) -> DrillNow:
    """A drill after some answers.

    Args:
        seed: what it draws from.
        answers: all so far, the oldest first.
        materials: what the shop has.
    Raises:
        Invalid: more answers than the drill has questions, or nothing on file to ask about.
    """
    marks = Marks()
    course = named.drill(random.Random(f"{named.name}/{seed}"), materials, marks)
    first = next(course, None)
    if first is None:
        raise Invalid("drill", "There is nothing on file to practise this with.", "It needs wrenches in the crib, and specs.")
    question: DrillQuestion | None = marks.asked(first)
    for answer in answers:
        if question is None:
            raise Invalid("answers", "The drill is over.", "Begin another one.")
        try:
            question = marks.asked(course.send(answer))
        except StopIteration:
            question = None
    done = question is None
    return DrillNow(
        drill=named.name,
        seed=seed,
        title=named.title,
        question=question,
        done=done,
        passed=done and not marks.missed,
        missed=tuple(marks.missed),
        says=marks.says if done else "",
        by_eye_deg=marks.by_eye_deg if done else None,
    )


def keys(*said: str) -> tuple[DrillKey, ...]:
    """Keys that say what they are."""
    return tuple(DrillKey(key=each, say=each) for each in said)
