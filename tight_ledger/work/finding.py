"""Finding a spec: one box, a machine picked first or named in the words."""

from datetime import datetime
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.applicability import Question, fit, separating_question
from tight_ledger.core.base import Model
from tight_ledger.core.finding import score, tokens, with_synonyms
from tight_ledger.core.machines import Machine
from tight_ledger.core.revisions import Status, in_force, statuses
from tight_ledger.core.sheets import Sheet, hand_words, sheet
from tight_ledger.core.specs import Spec
from tight_ledger.store import files, ledger, people
from tight_ledger.work.office import Office


class Hit(Model):
    """A spec that fits the words, with the machine that they named."""

    spec: UUID
    title: str
    joint: str
    maker_model: str
    summary: str
    positions: str
    checked: bool
    machine: Machine | None = None
    fleet: tuple[str, ...] = ()
    why: tuple[str, ...] = ()


class Found(Model):
    """Hits, best first; machines that fit the words; the machine that was picked."""

    hits: tuple[Hit, ...]
    machines: tuple[Machine, ...]
    machine: Machine | None = None
    question: Question | None = None


class SpecFile(Model):
    """A spec with everything that its sheet shows."""

    spec: Spec
    sheet: Sheet
    status: Status
    entered_by: str = ""
    machines: tuple[Machine, ...]


def machine_words(machine: Machine) -> list[str]:
    """What a machine is found by."""
    said = tokens(f"{machine.fleet_number} {machine.maker} {machine.model} {machine.what} {machine.serial}")
    return [*said, machine.fleet_number.casefold().replace("-", "").replace(" ", "")]


def spec_words(spec: Spec) -> list[str]:
    """What a spec is found by."""
    threads = " ".join(kind.thread for kind in spec.layout.kinds.values())
    models = " ".join(f"{a.maker} {a.model} {' '.join(a.variant.values())}" for a in spec.applies_to)
    count = len(spec.layout.fasteners)
    said = f"{spec.title} {spec.joint} {models} {threads} {spec.positions.words} {spec.seat} {count} stud nut torque spec"
    return with_synonyms(tokens(said))


def _hit(spec: Spec, checked: bool, fleet: list[Machine], machine: Machine | None, why: tuple[str, ...]) -> Hit:
    thread = next(iter(spec.layout.kinds.values())).thread
    written = next((band.written for band in spec.finals.values() if band.written), "")
    return Hit(
        spec=spec.id,
        title=spec.title,
        joint=spec.joint,
        maker_model=", ".join(" ".join((a.maker, a.model, *a.variant.values())) for a in spec.applies_to),
        summary=f"{len(spec.layout.fasteners)} × {thread} · {written} · {hand_words(spec)}",
        positions=spec.positions.words,
        checked=checked,
        machine=machine,
        fleet=tuple(m.fleet_number for m in fleet),
        why=why,
    )


async def checked_by(connection: AsyncConnection, spec: Spec, at: datetime) -> bool:
    """Whether a second person had checked this revision by then."""
    notes = await ledger.notes(connection, spec.id)
    return any(n.kind == "checked" and n.revision == spec.revision and n.at_server <= at for n in notes)


async def find(office: Office, asked: str, machine_id: UUID | None) -> Found:
    """What fits the words. With a machine picked, only specs that apply to its model are offered; none withdrawn.

    Raises:
        NotOnFile: no machine has this id.
    """

    async def work(connection: AsyncConnection) -> Found:
        machines = await files.machines(connection)
        picked = await files.machine(connection, machine_id) if machine_id is not None else None
        words = tokens(asked)
        standing = {spec: statuses(notes) for spec, notes in (await ledger.notes_by_stream(connection, "spec")).items()}
        offered = {spec: number for spec, found in standing.items() if (number := in_force(found)) is not None}
        scored: list[tuple[int, Hit]] = []
        offered_to_picked: list[Spec] = []
        for spec in await files.specs(connection, offered.items()):
            fleet = [m for m in machines if fit(spec.applies_to, m) != "no"]
            if picked is not None and picked.id not in {m.id for m in fleet}:
                continue
            if picked is not None:
                offered_to_picked.append(spec)
            checked = standing[spec.id][spec.revision] == "current"
            best: tuple[int, Hit] | None = None
            for machine in [picked] if picked is not None else [None, *fleet]:
                match = score(words, [*spec_words(spec), *(machine_words(machine) if machine is not None else ())])
                if match is not None and (best is None or match[0] > best[0]):
                    best = (match[0], _hit(spec, checked, fleet, machine, match[1]))
            if best is not None:
                scored.append(best)
        scored.sort(key=lambda row: (-row[0], not row[1].checked, row[1].title, row[1].maker_model))
        named = [m for m in machines if words and score(words, machine_words(m)) is not None]
        question = separating_question([spec.applies_to for spec in offered_to_picked], picked) if picked is not None else None
        return Found(hits=tuple(hit for _, hit in scored[:30]), machines=tuple(named[:8]), machine=picked, question=question)

    return await office.database.run(work)


async def spec_file(office: Office, spec_id: UUID, revision: int | None = None) -> SpecFile:
    """A spec as its sheet shows it: the revision named, else the one in force, else the newest.

    Raises:
        NotOnFile: no spec has this id.
    """
    shop = await office.shop()

    async def work(connection: AsyncConnection) -> SpecFile:
        notes = await ledger.notes(connection, spec_id)
        found = statuses(notes)
        spec = await files.spec(connection, spec_id, revision or in_force(found))
        entered = next((n for n in notes if n.kind == "entered" and n.revision == spec.revision), None)
        fleet = [m for m in await files.machines(connection) if fit(spec.applies_to, m) != "no"]
        names = {p.id: p.name for p in await people.everybody(connection)}
        return SpecFile(
            spec=spec,
            sheet=sheet(spec, shop.policy),
            status=found[spec.revision],
            entered_by=names.get(entered.by, "") if entered is not None and entered.by is not None else "",
            machines=tuple(fleet),
        )

    return await office.database.run(work)
