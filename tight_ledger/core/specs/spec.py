"""What is on file about a joint: how it is tightened, what it is for, and who says so."""

from collections.abc import Iterator, Mapping
from contextlib import suppress
from typing import Literal
from uuid import RFC_4122, UUID

from pydantic import Field, model_validator

from tight_ledger.core.adjust.stretch import StretchFigures
from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model, Names, content_digest
from tight_ledger.core.base.parsing import parse_figure
from tight_ledger.core.joints.layouts import Layout
from tight_ledger.core.joints.shapes import bolt_circle
from tight_ledger.core.joints.threads import parse_thread
from tight_ledger.core.machines.positions import Position, Positions, Side
from tight_ledger.core.specs.applicability import Applies
from tight_ledger.core.specs.steps import AdjustStep, Angle, Check, Condition, Do, Each, Loosen, Repeat, Step, Stop, Torque

Hand = Literal["right", "left"]
Grade = Literal["maker's manual", "maker's bulletin", "fastener maker", "shop experience"]
System = Literal["wheels and hubs", "engine", "driveline", "suspension and steering", "brakes", "fluids and filters", "other"]

Site = Literal["", "top", "middle", "bottom", "front", "rear"]


class Source(Model):
    """Where a spec comes from."""

    document: str = Field(min_length=1)
    page: str = ""
    edition: str = ""
    grade: Grade = "maker's manual"
    year: int | None = Field(default=None, ge=1900, le=2100)
    stages_by: Literal["source", "shop"] = "source"
    """Whether the stages below the final torque are the document's, or this shop's own."""

    @property
    def words(self) -> str:
        """`Causeway 12 workshop manual, page 7-14, 3rd, 2019`; and whether its stages are the shop's own."""
        page = f"page {self.page}" if self.page else ""
        year = str(self.year) if self.year and str(self.year) != self.edition else ""
        own = "stages by this shop" if self.stages_by == "shop" else ""
        return ", ".join(part for part in (self.document, page, self.edition, year, own) if part)


class Proof(Model):
    """One thing on the machine that proves that this spec is the right one."""

    ask: str
    options: tuple[str, ...]
    answer: str

    @model_validator(mode="after")
    def _answer_is_an_option(self) -> "Proof":
        if self.answer not in self.options:
            raise ValueError(f"the answer “{self.answer}” is none of the options")
        return self


class Followup(Model):
    """A procedure that comes due after a run: by distance, hours, days or an event, counted from its finish."""

    id: str
    procedure: str
    km: float | None = Field(default=None, gt=0)
    hours: float | None = Field(default=None, gt=0)
    days: float | None = Field(default=None, gt=0)
    event: str | None = None
    every: bool = False
    then: bool = False
    """Whether it begins only when those above it are done: of a series `after 20, 50 and 100 km, then before each trip` the last."""
    again_if: Names = frozenset()


class Spec(Model):
    """One revision of a joint's specification. Immutable; its status is a matter of entries."""

    id: UUID
    revision: int = Field(default=1, ge=1)
    change: Literal["first", "wording", "figure", "safety"] = "first"
    title: str = Field(min_length=1, max_length=120)
    joint: str = Field(min_length=1, max_length=60)
    system: System = "other"
    applies_to: tuple[Applies, ...]
    positions: Positions = Positions()
    thread_hand: Hand = "right"
    hand_by_side: dict[Side, Hand] = {}
    seat: str = ""
    condition: str = ""
    orientation: tuple[str, ...] = ()
    """Which way round things go: `the thin-bodied bolt stands at 7, oil flows past it`."""
    cautions: tuple[str, ...] = ()
    proof: Proof
    layout: Layout
    finals: dict[str, Band] = {}
    procedures: dict[str, tuple[Step, ...]]
    followups: tuple[Followup, ...] = ()
    final_check: Literal["shop", "never"] = "shop"
    site: Site = ""
    """Where it sits on an engine that is seen from its side."""
    source: Source

    @model_validator(mode="after")
    def _hangs_together(self) -> "Spec":
        if self.id.variant != RFC_4122 and self.id.bytes[6] >> 4:
            raise ValueError("the id is no UUID as RFC 9562 has them; make a new one")
        if not self.procedures:
            raise ValueError("a spec has at least one procedure")
        for name, steps in self.procedures.items():
            ids = [step.id for step in walk(steps)]
            if twice := {i for i in ids if ids.count(i) > 1}:
                raise ValueError(f"procedure {name} uses the step id {', '.join(sorted(twice))} twice")
        if unknown := {f.procedure for f in self.followups} - set(self.procedures):
            raise ValueError(f"follow-ups name procedures that are not there: {', '.join(sorted(unknown))}")
        return self

    @property
    def digest(self) -> str:
        """SHA-256 of the content."""
        return content_digest(self)

    def steps_of(self, procedure: str) -> tuple[Step, ...]:
        """The steps of a procedure. Any spec can be loosened: the reverse of its order, a little first, then free.

        Raises:
            Invalid: it has no such procedure.
        """
        steps = self.procedures.get(procedure, REMOVE if procedure == "remove" else None)
        if steps is None:
            raise Invalid("procedure", f"This spec has no procedure “{procedure}”.", f"It has {', '.join(self.procedures)}.")
        return steps

    def hand_at(self, position: Position) -> Hand:
        """The thread hand at a position."""
        return self.thread_hand if position.side is None else self.hand_by_side.get(position.side, self.thread_hand)

    def final_for(self, label: str) -> Band:
        """The final torque of one fastener: a label beats a group or kind, anything but one match is refused.

        Raises:
            Invalid: no final torque for it, or two.
        """
        return pick_figure(self.layout, self.finals, label, "finals")


def walk(steps: tuple[Step, ...]) -> Iterator[Step]:
    """Every step, blocks before what they hold."""
    for step in steps:
        yield step
        if isinstance(step, Repeat):
            yield from walk(step.again)
        if isinstance(step, Repeat | Each):
            yield from walk(step.steps)


def pick_figure(layout: Layout, figures: Band | dict[str, Band], label: str, field: str) -> Band:
    """The one band that is meant for a fastener.

    Raises:
        Invalid: none, or more than one.
    """
    if isinstance(figures, Band):
        return figures
    if label in figures:
        return figures[label]
    found = [figures[name] for name in layout.names_of(label) if name in figures]
    if len(found) != 1:
        many = "has no figure" if not found else f"has {len(found)} figures"
        raise Invalid(field, f"Fastener {label} {many}.", "Give exactly one figure for each fastener.")
    return found[0]


STAGE_SPREAD = 0.10
"""A stage's band is never narrower than this about its middle, unless written. Common practice, no source."""


def torque_band(spec: Spec, step: Torque | Check, label: str) -> Band:
    """What one fastener is pulled to in a step: the step's own figure, or a share of its final torque.

    Raises:
        Invalid: no figure for it, or two.
    """
    if step.at is not None:
        return pick_figure(spec.layout, step.at, label, step.id)
    final, share = spec.final_for(label), getattr(step, "share", None)
    return final if share is None or share == 1 else final.scaled(share, at_least=STAGE_SPREAD)


REMOVE: tuple[Step, ...] = (
    Loosen(id="crack", kind="loosen", reverse=True, amount=0.25, unit="turns", say="a quarter turn each, so that nothing warps"),
    Loosen(id="free", kind="loosen", reverse=True),
)
"""Common practice, no source: the reverse of the order, in two rounds."""
TORQUE_ONLY = (Torque, Do, Stop, Repeat, Each)


def advised_settings(spec: Spec, step: Torque) -> StretchFigures:
    """The figures of the adjustment by which a step is set.

    Raises:
        Invalid: the step that it names is no adjustment of a torque.
    """
    for steps in spec.procedures.values():
        for each in walk(steps):
            if each.id == step.set_by and isinstance(each, AdjustStep) and isinstance(each.figures, StretchFigures):
                return each.figures
    raise Invalid(step.id, f"“{step.set_by}” is no adjustment of a torque.", "Name an earlier one that sets N·m.")


def takes_final_check(spec: Spec, procedure: str) -> bool:
    """Whether a shop may add a check after the last stage: of a joint that goes by torque alone, to a final torque for all."""
    steps = list(walk(spec.steps_of(procedure)))
    goes_by_torque = any(isinstance(step, Torque) for step in steps) and all(isinstance(step, TORQUE_ONLY) for step in steps)
    plain = all(not step.ladder and not step.is_found and step.plus is None for step in steps if isinstance(step, Torque))
    with suppress(Invalid):
        for fastener in spec.layout.fasteners:
            spec.final_for(fastener.label)
        return spec.final_check == "shop" and goes_by_torque and plain
    return False


class MinimalSpec(Model):
    """The least that a first spec takes: what a mechanic types from a page. It stays marked unchecked."""

    title: str = Field(min_length=1, max_length=120)
    maker: str = Field(min_length=1, max_length=80)
    model: str = Field(min_length=1, max_length=80)
    torque: str = Field(min_length=1, max_length=60)
    thread: str = Field(min_length=2, max_length=40)
    property_class: str = Field(default="", max_length=20)
    condition: str = Field(default="", max_length=120)
    count: int
    thread_hand: Hand = "right"
    document: str = Field(min_length=1, max_length=200)
    page: str = Field(default="", max_length=40)
    stages_by: Literal["source", "shop"] = "shop"
    """Whose 30 and 60 % it is: the document's, or the shop's own."""
    retorque_km: float | None = Field(default=None, gt=0, le=100_000)
    retorque_days: float | None = Field(default=None, gt=0, le=3_650)

    def to_spec(self, spec_id: UUID) -> Spec:
        """A whole spec: three stages in star order, then a check, on a drawn circle.

        Raises:
            Invalid: the figure, the thread or the count cannot be used.
        """
        final, angles = parse_figure(self.torque)
        procedures: dict[str, tuple[Step, ...]] = {"tighten": WHEEL_TIGHTEN, "retorque": WHEEL_RETORQUE}
        if angles:  # after an angle no going back to check
            turns = (Angle(id=f"turn{n}", kind="angle", at=angle) for n, angle in enumerate(angles, start=1))
            procedures = {"tighten": (*WHEEL_STAGES, *turns)}
        wrong = [str(n) for n in (self.count - 1, self.count + 1)]
        return Spec(
            id=spec_id,
            title=self.title,
            joint="wheel",
            system="wheels and hubs",
            applies_to=(Applies(maker=self.maker, model=self.model),),
            positions=Positions(axles=("front", "rear"), sides=("left", "right")),
            thread_hand=self.thread_hand,
            condition=self.condition or "as the source says",
            cautions=("Entered by hand and not checked by a second person.",),
            proof=Proof(ask="How many studs?", options=(wrong[0], str(self.count), wrong[1]), answer=str(self.count)),
            layout=bolt_circle(
                count=self.count,
                diameter_mm=200,
                kind="stud",
                thread=parse_thread(self.thread).designation,
                property_class=self.property_class,
                noun="nut",
                looked_at="from outside; the circle is drawn, not measured",
                first="the stud marked 1",
            ),
            finals={"stud": final},
            procedures=procedures,
            followups=self._followups(procedures),
            source=Source(document=self.document, page=self.page, stages_by=self.stages_by),
        )

    def _followups(self, procedures: Mapping[str, object]) -> tuple[Followup, ...]:
        if (self.retorque_km is None and self.retorque_days is None) or "retorque" not in procedures:
            return ()
        moved = frozenset({"moved"})
        return (Followup(id="short", procedure="retorque", km=self.retorque_km, days=self.retorque_days, again_if=moved),)


_CHECK = Repeat(
    id="settle",
    kind="repeat",
    times=3,
    until=Condition(step="check", one_of=frozenset({"still"})),
    steps=(Check(id="check", kind="check"),),
)
WHEEL_STAGES: tuple[Step, ...] = (
    Do(id="hand", kind="do", say="Every nut was started by hand."),
    Do(id="first", kind="do", say="Number 1 is marked; lowering turns the wheel."),
    Torque(id="s1", kind="torque", share=0.3, say="wheel off the ground"),
    Do(id="lower", kind="do", say="Lower until the tyre just carries.", whole_machine=True, operation="lower"),
    Torque(id="s2", kind="torque", share=0.6),
    Torque(id="s3", kind="torque", share=1.0),
)
"""Common practice, no source: three stages, the machine down after the first."""
WHEEL_TIGHTEN: tuple[Step, ...] = (*WHEEL_STAGES, _CHECK)
"""And the last stage checked."""
WHEEL_RETORQUE: tuple[Step, ...] = (_CHECK,)
