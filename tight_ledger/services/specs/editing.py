"""A spec as its sheet shows it, a model with everything on file for it, and a spec that is being written."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from uuid import UUID

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Fault
from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.layouts import Layout
from tight_ledger.core.joints.proposals import Way, sequences
from tight_ledger.core.library.revisions import Status, in_force, statuses
from tight_ledger.core.library.sanity import doubts, require_sound
from tight_ledger.core.library.sheet import Sheet, main_procedure, sheet
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.records.notes import Note
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.runs.descriptions import pass_words
from tight_ledger.core.spec_table.rows import CellFault, TableRow, read_spec, write_spec
from tight_ledger.core.specs.applicability import fit
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.tools.wrenches import ANY_WRENCH
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context
from tight_ledger.services.specs import revisions
from tight_ledger.services.specs.search import Narrow, SearchAnswer, find
from tight_ledger.store import ledger
from tight_ledger.store import people as people_store
from tight_ledger.store import specs as spec_store
from tight_ledger.store.shop import Shop


class PlaceLine(Model):
    """A position at which the joint occurs."""

    position: Position
    key: str
    words: str


class SpecFile(Model):
    """A spec with everything that its sheet shows."""

    spec: Spec
    sheet: Sheet
    status: Status
    entered_by: str = ""
    entered_at: datetime | None = None
    checked_by: str = ""
    checked_at: datetime | None = None
    places: tuple[PlaceLine, ...]
    machines: tuple[Machine, ...]


class Separates(Model):
    """Something in which machines of a model differ, and how."""

    attribute: str
    values: tuple[str, ...]


class ModelFile(Model):
    """A model: its variants, the fleet's machines of it, and what is on file for it."""

    maker: str
    model: str
    variants: tuple[Separates, ...]
    machines: tuple[Machine, ...]
    found: SearchAnswer


class PlanPass(Model):
    """One pass of a plan, as the editor shows it."""

    id: str
    words: str
    pulls: tuple[str, ...]
    meanwhile: str


class Preview(Model):
    """A spec that is being written: what is wrong, what is odd, and what it would be."""

    faults: tuple[CellFault, ...]
    doubts: tuple[str, ...] = ()
    sheet: Sheet | None = None
    layout: Layout | None = None
    ways: tuple[Way, ...] = ()
    """The sequences that the layout lends itself to."""
    hand: str = "right"
    passes: tuple[PlanPass, ...] = ()


class Written(Model):
    """The rows of a spec, as the editor sends them."""

    rows: tuple[dict[str, str], ...] = Field(min_length=1, max_length=2_000)


async def spec_file(context: Context, spec_id: UUID, revision: int | None = None) -> SpecFile:
    """A spec as its sheet shows it: the revision named, else the one in force, else the newest.

    Raises:
        NotOnFile: no spec has this id, or not this revision.
        Unreadable: it was changed in the database.
    """
    return spec_store.only(await spec_files(context, {spec_id: revision}))


async def spec_files(context: Context, wanted: Mapping[UUID, int | None]) -> list[SpecFile]:
    """Several specs as their sheets show them, in the order given; without those that were changed in the database.

    Args:
        wanted: the revision to show, by spec; None for the one in force, or the newest if none is in force.

    Raises:
        NotOnFile: no spec has this id, or not this revision.
    """
    shop = await context.shop()

    async def work(connection: AsyncConnection) -> list[SpecFile]:
        told = await ledger.notes_of_all(connection, "spec", wanted)
        known = {spec_id: statuses(told[spec_id]) for spec_id in wanted}
        shown = {spec_id: revision or in_force(known[spec_id]) or max(known[spec_id], default=0) for spec_id, revision in wanted.items()}
        names = {person.id: person.name for person in await people_store.everybody(connection)}
        machines = (await context.catalogue(connection)).machines
        specs = await spec_store.as_entered(connection, shown, told)
        return [_file(context, shop, spec, known[spec.id], told[spec.id], names, machines) for spec in specs]

    return await context.database.run(work)


def _file(
    context: Context,
    shop: Shop,
    spec: Spec,
    known: Mapping[int, Status],
    told: Sequence[Note],
    names: Mapping[UUID, str],
    machines: Sequence[Machine],
) -> SpecFile:
    of_it = {note.kind: note for note in told if note.revision == spec.revision}
    entered, checked = of_it.get("entered"), of_it.get("checked")
    return SpecFile(
        spec=spec,
        sheet=context.sheet(spec, shop),
        status=known[spec.revision],
        entered_by=names.get(entered.by, "") if entered is not None and entered.by is not None else "",
        entered_at=entered.at_server if entered is not None else None,
        checked_by=names.get(checked.by, "") if checked is not None and checked.by is not None else "",
        checked_at=checked.at_server if checked is not None else None,
        places=tuple(PlaceLine(position=each, key=each.key, words=each.words) for each in spec.positions.every),
        machines=tuple(m for m in machines if fit(spec.applies_to, m) != "no"),
    )


async def model_file(context: Context, maker: str, model: str) -> ModelFile:
    """A model with everything on file for it."""
    found = await find(context, "", None, Narrow(maker=maker, model=model))
    catalogue = await context.database.run(context.catalogue)
    ids = catalogue.by_model.get((maker.casefold(), model.casefold()), [])
    who = [catalogue.entries["who"][entry] for entry in ids]
    variants: dict[str, set[str]] = {}
    for applies in who:
        for attribute, value in applies.variant.items():
            variants.setdefault(attribute, set()).add(value)
    machines = [m for m in catalogue.machines if (m.maker.casefold(), m.model.casefold()) == (maker.casefold(), model.casefold())]
    said = who[0] if who else None
    return ModelFile(
        maker=said.maker if said is not None else maker,
        model=said.model if said is not None else model,
        variants=tuple(Separates(attribute=name, values=tuple(sorted(values))) for name, values in sorted(variants.items())),
        machines=tuple(machines),
        found=found,
    )


def _table(written: Written) -> list[TableRow]:
    return [
        TableRow(number=number, cells={name: text.strip() for name, text in row.items() if text.strip()})
        for number, row in enumerate(written.rows, start=1)
    ]


async def preview(context: Context, written: Written) -> Preview:
    """What the rows would be as a spec: its sheet, its map and its plan, or what is wrong, cell by cell."""
    policy = (await context.shop()).policy
    spec, faults = read_spec(_table(written))
    if spec is None:
        return Preview(faults=tuple(faults))
    passes = []
    try:
        require_sound(spec)
        plan = compile_plan(spec, main_procedure(spec), (Tooling(wrench=ANY_WRENCH),), policy)
        words = pass_words(plan)
        for pass_ in plan.passes:
            pulls = tuple(pull.fastener for pull in pass_.pulls if pull.fastener is not None)
            passes.append(PlanPass(id=pass_.id, words=words[pass_.id], pulls=pulls, meanwhile=pass_.meanwhile))
    except Fault as fault:
        row = next((number for number, cells in enumerate(written.rows, start=1) if cells.get("step") == fault.field), 1)
        return Preview(faults=(CellFault(row=row, column="step", fault=fault.fault, remedy=fault.remedy),))
    return Preview(
        faults=(), doubts=doubts(spec), sheet=sheet(spec, policy), layout=spec.layout, ways=sequences(spec.layout), hand=spec.thread_hand,
        passes=tuple(passes),
    )  # fmt: skip


async def rows_of(context: Context, spec_id: UUID) -> Written:
    """A spec's newest revision as rows, numbered and marked as the next.

    Raises:
        NotOnFile: no spec has this id.
    """
    spec = await context.database.run(lambda connection: spec_store.find(connection, spec_id))
    following = spec.model_copy(update={"revision": spec.revision + 1, "change": "wording"})
    return Written(rows=tuple(write_spec(following)))


class EnterRows(Command, Written):
    """A spec that is written, to go on file."""


async def enter_rows(context: Context, actor: Actor, written: EnterRows, affirmed: Sequence[str]) -> UUID:
    """Put what was written on file, as a draft.

    Raises:
        Invalid: a cell that cannot be used; the first of them.
        MustAsk: a figure is unlikely, and nobody said that it is right.
    """
    spec, faults = read_spec(_table(written))
    if spec is None:
        raise faults[0].as_fault()
    return await revisions.enter_spec(context, actor, spec, affirmed=affirmed)


async def booklet_specs(context: Context, machine_id: UUID | None, narrow: Narrow, most: int) -> list[Spec]:
    """The specs for a booklet: those in force for a machine, or for a maker, a model, a system.

    Raises:
        NotOnFile: no machine has this id.
    """
    found = await find(context, "", machine_id, narrow, most=most)
    wanted = [(hit.spec, hit.revision) for hit in found.hits if not hit.behind]
    specs = await context.database.run(lambda connection: spec_store.read_many(connection, wanted))
    return sorted(specs, key=lambda spec: (spec.applies_to[0].maker, spec.applies_to[0].model, spec.system, spec.title))
