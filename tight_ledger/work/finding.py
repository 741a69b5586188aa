"""Finding a spec: one box, a machine picked first or named in the words."""

from collections.abc import Sequence
from datetime import datetime
from typing import Literal
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base import Model, MustAsk
from tight_ledger.core.entries import Note
from tight_ledger.core.finding import score, tokens
from tight_ledger.core.machines import Machine
from tight_ledger.core.sanity import doubts, require_sound
from tight_ledger.core.sheets import Sheet, hand_words, sheet
from tight_ledger.core.specs import MinimalSpec, Spec
from tight_ledger.store import files, ledger, people
from tight_ledger.store.ids import new_id
from tight_ledger.work.office import Actor, Office


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


class SpecFile(Model):
    """A spec with everything that its sheet shows."""

    spec: Spec
    sheet: Sheet
    checked: bool
    entered_by: str = ""
    machines: tuple[Machine, ...]


def machine_words(machine: Machine) -> list[str]:
    """What a machine is found by."""
    said = tokens(f"{machine.fleet_number} {machine.maker} {machine.model} {machine.what} {machine.serial}")
    return [*said, machine.fleet_number.casefold().replace("-", "").replace(" ", "")]


def spec_words(spec: Spec) -> list[str]:
    """What a spec is found by."""
    threads = " ".join(kind.thread for kind in spec.layout.kinds.values())
    models = " ".join(f"{a.maker} {a.model}" for a in spec.applies_to)
    count = len(spec.layout.fasteners)
    said = f"{spec.title} {spec.joint} {models} {threads} {spec.positions.words} {spec.seat} {count} stud nut torque spec"
    return tokens(said)


def _hit(spec: Spec, checked: bool, fleet: list[Machine], machine: Machine | None, why: tuple[str, ...]) -> Hit:
    thread = next(iter(spec.layout.kinds.values())).thread
    written = next((band.written for band in spec.finals.values() if band.written), "")
    return Hit(
        spec=spec.id,
        title=spec.title,
        joint=spec.joint,
        maker_model=", ".join(f"{a.maker} {a.model}" for a in spec.applies_to),
        summary=f"{len(spec.layout.fasteners)} × {thread} · {written} · {hand_words(spec)}",
        positions=spec.positions.words,
        checked=checked,
        machine=machine,
        fleet=tuple(m.fleet_number for m in fleet),
        why=why,
    )


async def _checked(connection: AsyncConnection, spec: Spec) -> tuple[bool, Note | None]:
    notes = [n for n in await ledger.notes(connection, spec.id) if n.revision == spec.revision]
    entered = next((n for n in notes if n.kind == "entered"), None)
    return any(n.kind == "checked" for n in notes), entered


async def checked_by(connection: AsyncConnection, spec: Spec, at: datetime) -> bool:
    """Whether a second person had checked this revision by then."""
    notes = await ledger.notes(connection, spec.id)
    return any(n.kind == "checked" and n.revision == spec.revision and n.at_server <= at for n in notes)


async def find(office: Office, asked: str, machine_id: UUID | None) -> Found:
    """What fits the words. With a machine picked, only specs that apply to its model are offered.

    Raises:
        NotOnFile: no machine has this id.
    """

    async def work(connection: AsyncConnection) -> Found:
        machines = await files.machines(connection)
        picked = await files.machine(connection, machine_id) if machine_id is not None else None
        words = tokens(asked)
        scored: list[tuple[int, Hit]] = []
        for spec in await files.specs(connection):
            fleet = [m for m in machines if any(a.to(m) for a in spec.applies_to)]
            if picked is not None and picked.id not in {m.id for m in fleet}:
                continue
            checked, _ = await _checked(connection, spec)
            best: tuple[int, Hit] | None = None
            for machine in [picked] if picked is not None else [None, *fleet]:
                fit = score(words, [*spec_words(spec), *(machine_words(machine) if machine is not None else ())])
                if fit is not None and (best is None or fit[0] > best[0]):
                    best = (fit[0] + 2 * checked, _hit(spec, checked, fleet, machine, fit[1]))
            if best is not None:
                scored.append(best)
        scored.sort(key=lambda row: (-row[0], row[1].title, row[1].maker_model))
        named = [m for m in machines if words and score(words, machine_words(m)) is not None]
        return Found(hits=tuple(hit for _, hit in scored[:30]), machines=tuple(named[:8]), machine=picked)

    return await office.database.run(work)


async def spec_file(office: Office, spec_id: UUID) -> SpecFile:
    """A spec's newest revision, as its sheet shows it.

    Raises:
        NotOnFile: no spec has this id.
    """
    shop = await office.shop()

    async def work(connection: AsyncConnection) -> SpecFile:
        spec = await files.spec(connection, spec_id)
        checked, entered = await _checked(connection, spec)
        fleet = [m for m in await files.machines(connection) if any(a.to(m) for a in spec.applies_to)]
        names = {p.id: p.name for p in await people.everybody(connection)}
        by = names.get(entered.by, "") if entered is not None and entered.by is not None else ""
        return SpecFile(spec=spec, sheet=sheet(spec, shop.policy), checked=checked, entered_by=by, machines=tuple(fleet))

    return await office.database.run(work)


async def enter_spec(office: Office, actor: Actor | None, spec: Spec, *, checked: bool = False, affirmed: Sequence[str] = ()) -> UUID:
    """Put a spec on file, unchecked unless it comes with the shop's own set.

    Raises:
        Invalid: it has a procedure that no wrench could follow, or this revision is there already.
        MustAsk: a figure is unlikely for its thread, or falls from stage to stage, and nobody said that it is right.
    """
    require_sound(spec)
    if "figure" not in affirmed and (odd := doubts(spec)):
        raise MustAsk("figure", "torque", " ".join(odd), "Look at the document once more.")

    def note(kind: Literal["entered", "checked"]) -> ledger.Build:
        def build(seq: int) -> Note:
            return Note(
                id=new_id(), stream=spec.id, subject="spec", kind=kind, seq=seq, revision=spec.revision,
                    by=actor.person.id if actor else None, device=actor.device if actor else None,
                    digest=spec.digest, at_server=office.now(),
            )  # fmt: skip

        return build

    async def work(connection: AsyncConnection) -> None:
        await files.add_spec(connection, spec)
        await ledger.add(connection, "spec", spec.id, note("entered"), await ledger.head(connection, spec.id))
        if checked:
            await ledger.add(connection, "spec", spec.id, note("checked"), await ledger.head(connection, spec.id))

    await office.database.run(work, transaction=True)
    return spec.id


async def enter_minimal(office: Office, actor: Actor, request: MinimalSpec, affirmed: Sequence[str]) -> UUID:
    """The minimal form: a typed figure, thread, count, source; unchecked.

    Raises:
        Invalid: the figure, the thread or the count cannot be used.
        MustAsk: the figure is unlikely for its thread.
    """
    return await enter_spec(office, actor, request.to_spec(new_id()), affirmed=affirmed)
