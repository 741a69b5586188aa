"""A machine from above, with how every joint on it stands: what the machine's page and a job are drawn from."""

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import Literal
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.machines.form import Drawing, Form, drawing_of, spot_of
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.records.entries import Outcome
from tight_ledger.core.specs.followups import DueStatus
from tight_ledger.core.specs.spec import Site, Spec, System

JointState = Literal["do not move", "overdue", "due", "open", "done", "never recorded"]
WORST: tuple[JointState, ...] = ("do not move", "overdue", "due", "open", "done", "never recorded")
"""From the worst on; a place shows the worst of its joints."""
PARTS: dict[System, str] = {"engine": "engine", "fluids and filters": "engine"}
"""The part that joints of a system belong to, where a machine's drawing has it."""


class JointAt(Model):
    """A joint at a place of a machine, with how it stands."""

    position_key: str
    position: str
    joint: str
    title: str
    spec: UUID
    state: JointState
    run: UUID | None = None
    """The run that says how it stands."""
    at: datetime | None = None
    due: str = ""
    """What is due, or comes next; empty if nothing."""
    procedure: str = "tighten"
    """What a run that is started from here does: what is due, else tighten."""


class SpotNow(Model):
    """A spot of the drawing with its joints, the worst first."""

    key: str
    words: str
    state: JointState
    joints: tuple[JointAt, ...]


class EngineRow(Model):
    """A part of an engine seen from its side, with its joints."""

    site: Site
    state: JointState
    joints: tuple[JointAt, ...]


class MachineMap(Model):
    """A machine from above. Without a form there is no drawing, and its joints stand in a list."""

    drawing: Drawing | None
    spots: tuple[SpotNow, ...]
    cylinders: int
    engine: tuple[EngineRow, ...]
    """The engine's own drawing; empty where no joint says where on it it sits."""


class JointKnown(Model):
    """What the record says of a joint at a place."""

    position: Position
    joint: str
    standing: Outcome | None
    run: UUID
    at: datetime
    touched: bool


class DueAt(Model):
    """A follow-up that is open at a place."""

    position_key: str
    joint: str
    status: DueStatus
    words: str
    procedure: str


def machine_map(form: Form | None, specs: Sequence[Spec], known: Sequence[JointKnown], due: Sequence[DueAt]) -> MachineMap:
    """A machine with how its joints stand.

    Args:
        form: what the machine looks like.
        specs: those in force that fit it; of two for one joint at one position, the one that was worked to stands first.
        known: what the record says, the newest of each joint and position.
        due: its open follow-ups.
    """
    said = {(each.position.key, each.joint): each for each in known}
    open_due = {(each.position_key, each.joint): each for each in due}
    drawing = drawing_of(form) if form is not None else None
    by_spot: dict[str, list[JointAt]] = {}
    by_site: dict[Site, list[JointAt]] = {}
    seen: set[tuple[str, str]] = set()
    for spec in specs:
        for position in spec.positions.every:
            place = (position.key, spec.joint)
            if place in seen:
                continue
            seen.add(place)
            joint = _joint(spec, position, said.get(place), open_due.get(place))
            spot = spot_of(drawing, position, PARTS.get(spec.system, "body")) if drawing is not None else position.key
            by_spot.setdefault(spot, []).append(joint)
            if spec.site:
                by_site.setdefault(spec.site, []).append(joint)
    spots = (SpotNow(key=key, words=_words(key, joints), state=_worst(joints), joints=_sorted(joints)) for key, joints in by_spot.items())
    rows = (EngineRow(site=site, state=_worst(joints), joints=_sorted(joints)) for site, joints in by_site.items())
    return MachineMap(drawing=drawing, cylinders=form.cylinders if form is not None else 0, spots=tuple(spots), engine=tuple(rows))


def _joint(spec: Spec, position: Position, known: JointKnown | None, due: DueAt | None) -> JointAt:
    return JointAt(
        position_key=position.key, position=position.words, joint=spec.joint, title=spec.title, spec=spec.id, state=_state(known, due),
        run=known.run if known is not None else None, at=known.at if known is not None else None,
        due=due.words if due is not None else "", procedure=due.procedure if due is not None else "tighten",
    )  # fmt: skip


def _state(known: JointKnown | None, due: DueAt | None) -> JointState:
    if known is None or (known.standing == "abandoned" and not known.touched):
        return "never recorded"
    if known.standing in ("do not move", "abandoned"):
        return "do not move"
    if known.standing is None:
        return "open"
    if due is not None and due.status in ("due", "overdue"):
        return due.status
    return "done"


def _worst(joints: Iterable[JointAt]) -> JointState:
    return min((joint.state for joint in joints), key=WORST.index)


def _sorted(joints: Iterable[JointAt]) -> tuple[JointAt, ...]:
    return tuple(sorted(joints, key=lambda joint: (WORST.index(joint.state), joint.title, joint.position)))


def _words(key: str, joints: Sequence[JointAt]) -> str:
    """What a spot is called: its position, an axle, or the part."""
    named = {joint.position for joint in joints}
    if "/" not in key:
        return key
    return named.pop() if len(named) == 1 else Position(axle=key.partition("/")[0]).words
