"""Before a run: what the crib offers for a spec's stages, and the tooling that was picked from it. Pure: both sides use it."""

from collections.abc import Collection, Sequence
from typing import Literal
from uuid import UUID

from pydantic import Field, ValidationError

from tight_ledger.core.base.errors import Invalid, NotOnFile
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import Role, require_right
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.units import TorqueUnit
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.planning.checklist import held_words, is_lifted, load_at
from tight_ledger.core.planning.needs import Need, needs
from tight_ledger.core.planning.ranking import Bench, Choice, Share, assign, equip, in_sequence, judge, rank, share_out
from tight_ledger.core.records.plans import Plan, Tooling
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.tool_care.care import Care
from tight_ledger.core.tools.adapters import SQUARE_LIMIT_NM, Adapter, Crowfoot, Universal
from tight_ledger.core.tools.gauges import READS, Gauge, GaugeNow
from tight_ledger.core.tools.inventory import Holder, Support, Tool, tool_id
from tight_ledger.core.tools.pieces import Piece, PieceNow
from tight_ledger.core.tools.wrenches import Wrench


class Put(Model):
    """Something put on the end: from the crib, or a crowfoot that is not in it, by its length."""

    tool: UUID | None = None
    length_mm: float | None = Field(default=None, gt=0, le=500)
    turned_deg: float = Field(default=0, ge=-180, le=180)
    """A crowfoot's angle to the handle, or how far a universal joint is bent."""


class Taken(Model):
    """A wrench with what is on its end, for all or for some of the fasteners and steps."""

    wrench: UUID
    unit: TorqueUnit | None = None
    """By which of its scales it is read."""
    on_its_end: tuple[Put, ...] = Field(default=(), max_length=8)
    tilt_deg: float = Field(default=0, ge=0, le=30)
    of: tuple[str, ...] | None = None
    steps: tuple[str, ...] | None = None
    override: str = Field(default="", max_length=500)
    """A lead's reason to use it all the same."""


class Asked(Model):
    """What is to be done, and what is on the wrench's end."""

    procedure: str = Field(default="tighten", max_length=60)
    position: Position = Position()
    machine: UUID | None = None
    of: tuple[str, ...] | None = None
    steps: tuple[str, ...] | None = None
    on_its_end: tuple[Put, ...] = Field(default=(), max_length=8)
    tilt_deg: float = Field(default=0, ge=0, le=30)
    supports: tuple[UUID, ...] = Field(default=(), max_length=8)
    axle_load_kg: float | None = Field(default=None, gt=0, le=200_000)


class Offered(Model):
    """What the crib offers."""

    asked: tuple[Need, ...]
    choices: tuple[Choice, ...]
    shares: tuple[Share, ...]
    """Which wrench for which stage, when none does all."""
    left: tuple[str, ...]
    """What nothing here can do."""
    supports: tuple[Support, ...]
    """The jacks and stands of the crib; none if the machine stays on its wheels."""
    axle_kg: float | None
    held: str
    """What holds the machine, with the sum; empty if it stays on its wheels."""
    too_weak: str
    """Why what was picked does not hold it."""


class CribNow(Model):
    """The crib as a choice needs it: its tools, and how each stands that is checked."""

    tools: tuple[Tool, ...]
    care: dict[UUID, Care]
    pieces: tuple[PieceNow, ...] = ()
    """The shims and spacers, with what each measures and whether it is at hand."""

    def gauges_for(self, plan: Plan) -> tuple[GaugeNow, ...]:
        """The gauges that read what a plan measures, with how they stand."""
        bands = [
            pull.band for pass_ in plan.passes for pull in pass_.pulls if KINDS[pass_.kind].has_measured_band and pull.band is not None
        ]
        wanted = {band.quantity for band in bands}
        return tuple(
            GaugeNow(gauge=tool, standing=care.standing, words=care.words)
            for tool in self.tools
            if isinstance(tool, Gauge) and READS[tool.what] & wanted and (care := self.care.get(tool.id)) is not None
        )

    def stock_for(self, plan: Plan) -> tuple[PieceNow, ...]:
        """The pieces that go where a plan adjusts something by their thickness."""
        rings = {pass_.advice.ring for pass_ in plan.passes if pass_.advice is not None and pass_.advice.ring is not None}
        return tuple(now for now in self.pieces if any(now.goes_with(*ring) for ring in rings))

    @property
    def wrenches(self) -> list[Wrench]:
        """The torque wrenches."""
        return [tool for tool in self.tools if isinstance(tool, Wrench)]

    def bench(self, policy: Policy, hand: Literal["right", "left"]) -> Bench:
        """What bears on the choice of a wrench for a thread of a hand."""
        fit = {tool for tool, care in self.care.items() if care.standing not in ("quarantined", "due")}
        gauge = any(isinstance(tool, Gauge) and tool.what == "angle gauge" and tool.id in fit for tool in self.tools)
        return Bench(policy=policy, hand=hand, angle_gauge=gauge, care=self.care)

    def wrench(self, wanted: UUID) -> Wrench:
        """A torque wrench.

        Raises:
            NotOnFile: no tool has this id.
            Invalid: it is no wrench.
        """
        found = next((tool for tool in self.tools if tool_id(tool) == wanted), None)
        if found is None:
            raise NotOnFile("wrench", "No wrench in the crib has this id.", "Pick one from the list.")
        if not isinstance(found, Wrench):
            raise Invalid("wrench", f"{found.name} is no torque wrench.", "Pick one from the list.")
        return found

    def supports(self, wanted: Sequence[UUID]) -> list[Support]:
        """Jacks and stands that were picked.

        Raises:
            NotOnFile, Invalid: not in the crib, or neither jack nor stand.
        """
        found = []
        for each in wanted:
            tool = next((tool for tool in self.tools if tool_id(tool) == each), None)
            if tool is None:
                raise NotOnFile("supports", "Nothing in the crib has this id.", "Pick a jack or a stand.")
            if not isinstance(tool, Support):
                raise Invalid("supports", f"{tool.name} holds no machine.", "Pick a jack or a stand.")
            found.append(tool)
        return found


def _adapters(tools: Sequence[Tool], wrench: Wrench, puts: Sequence[Put]) -> tuple[Adapter, ...]:
    """What was put on, as the crib knows it. A crowfoot that is not in the crib takes the square that it goes on.

    Raises:
        Invalid: it is not in the crib, or is nothing that goes on a wrench's end, or is turned too far.
    """
    shelf = {tool.id: tool for tool in tools}
    found: list[Adapter] = []
    square = wrench.drive
    for put in puts:
        if put.tool is None:
            if put.length_mm is None or square not in SQUARE_LIMIT_NM:
                raise Invalid("on_its_end", f"Nobody knows what is on the end of {wrench.name}.", "Name a tool, or a crowfoot's length.")
            adapter: Adapter = Crowfoot.model_validate(
                {"kind": "crowfoot", "drive": square, "length_mm": put.length_mm, "angle_deg": put.turned_deg}
            )
        else:
            tool = shelf.get(put.tool)
            if tool is None or isinstance(tool, Wrench | Gauge | Holder | Support | Piece):
                named = tool.name if tool is not None else str(put.tool)
                raise Invalid("on_its_end", f"{named} is nothing that goes on a wrench's end.", "Pick an adapter of the crib.")
            adapter = _turned(tool, put.turned_deg)
        found.append(adapter)
        square = getattr(adapter, "to", square)
    return tuple(found)


def _turned(tool: Adapter, turned_deg: float) -> Adapter:
    turns = {Crowfoot: "angle_deg", Universal: "bend_deg"}.get(type(tool))
    if turns is None:
        return tool
    try:
        return type(tool).model_validate(tool.model_dump() | {turns: turned_deg})
    except ValidationError as error:
        raise Invalid("on_its_end", f"{tool.name} cannot be turned to {turned_deg:g}°.", "0 to below 90 for a universal joint.") from error


def offer(crib: CribNow, policy: Policy, spec: Spec, machine: Machine | None, request: Asked) -> Offered:
    """What the crib offers for a spec's stages, with what is on the end.

    Args:
        machine: None if it is not known yet which.

    Raises:
        Invalid, NotOnFile: no such procedure or thing on the end, or no such support.
    """
    bench = crib.bench(policy, spec.hand_at(request.position))
    asked = [need for need in needs(spec, request.procedure, policy, request.of) if request.steps is None or need.step in request.steps]
    choices: list[Choice] = []
    for wrench in crib.wrenches:
        try:
            adapters = _adapters(crib.tools, wrench, request.on_its_end)
        except Invalid as refusal:
            choices.append(Choice(wrench=wrench, refused=refusal.fault))
            continue
        choices += rank(asked, [wrench], bench, adapters, request.tilt_deg)
    choices = in_sequence(choices)
    bare = choices if not request.on_its_end and not request.tilt_deg else rank(asked, crib.wrenches, bench)
    shares, left = share_out(asked, bare, bench) if all(choice.refused for choice in choices) else ((), ())
    known = machine.axle_loads_kg if machine is not None else {}
    given = {request.position.axle: request.axle_load_kg} if request.axle_load_kg is not None else {}
    load, held, too_weak, lifted = load_at(known | given, request.position), "", "", is_lifted(spec, request.procedure)
    try:
        held = held_words(load, crib.supports(request.supports)) if lifted else ""
    except Invalid as refusal:
        too_weak = f"{refusal.fault} {refusal.remedy}"
    return Offered(
        asked=tuple(asked), choices=tuple(choices), shares=shares, left=left, axle_kg=load_at(known, request.position).axle_kg,
        supports=tuple(tool for tool in crib.tools if isinstance(tool, Support)) if lifted else (), held=held, too_weak=too_weak,
    )  # fmt: skip


def tooling_of(
    crib: CribNow, policy: Policy, roles: Collection[Role], spec: Spec, procedure: str, position: Position, taken: Sequence[Taken]
) -> tuple[Tooling, ...]:
    """The tooling that was picked, every piece of it held against what it is meant for.

    Args:
        roles: of the person who picked it.

    Raises:
        NotOnFile, Invalid: a wrench that is not there, or that cannot do it.
        NotAllowed: overridden by somebody who is not a lead.
    """
    bench = crib.bench(policy, spec.hand_at(position))
    rows: list[Tooling] = []
    for asked_for in taken:
        wrench = crib.wrench(asked_for.wrench).read_in(asked_for.unit)
        tooling, _ = equip(wrench, _adapters(crib.tools, wrench, asked_for.on_its_end), asked_for.tilt_deg, policy)
        rows.append(tooling.model_copy(update={"of": asked_for.of, "steps": asked_for.steps}))
    checked = []
    for asked_for, row, meant in zip(taken, rows, assign(spec.layout, needs(spec, procedure, policy), rows), strict=True):
        choice = judge(meant, row.wrench, bench, row.adapters, row.tilt_deg)
        if choice.refused and not (choice.may_override and asked_for.override.strip()):
            more = " A lead may, with a reason." if choice.may_override else ""
            raise Invalid("wrench", choice.refused, f"Pick one that the list offers.{more}")
        if choice.refused:
            require_right(roles, "decide", "override")
        overridden = f"{asked_for.override.strip()} (against it: {choice.refused})" if choice.refused else ""
        checked.append(row.model_copy(update={"overridden": overridden}))
    return tuple(checked)
