"""The bay: what stands open, what must not move, what is due."""

from dataclasses import dataclass
from datetime import UTC, datetime
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import Model
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.machines.vin import VinReading, read_vin
from tight_ledger.core.records.entries import Outcome
from tight_ledger.core.runs.outcomes import reasons
from tight_ledger.core.specs.followups import Due, Finished, pending
from tight_ledger.core.specs.spec import Spec
from tight_ledger.services.context import Context, Remembered
from tight_ledger.services.specs.revisions import ToCheck, to_check
from tight_ledger.store import machines as machine_store
from tight_ledger.store import runs as run_store
from tight_ledger.store import specs as spec_store
from tight_ledger.store.runs import RunRow
from tight_ledger.store.tables import backups


class Place(Model):
    """A joint at a position, and the run that says how it stands; no standing while that run is unfinished."""

    machine: UUID
    fleet_number: str
    position: str
    joint: str
    title: str
    run: UUID
    standing: Outcome | None
    untouched: bool = False
    reasons: tuple[str, ...]
    at: datetime


class OpenFollowup(Model):
    """A follow-up that is due, soon due or waiting."""

    machine: UUID
    fleet_number: str
    position: str
    joint: str
    title: str
    spec: UUID
    root: UUID
    position_key: str
    due: Due


class MachineNow(Model):
    """A machine as it stands: what must not move, what is unfinished, what is due, its newest meter readings."""

    machine: Machine
    vin: VinReading | None = None
    meters: tuple[Meter, ...]
    attention: tuple[Place, ...]
    followups: tuple[OpenFollowup, ...]
    history: tuple[Place, ...]


class Bay(Model):
    """What needs somebody, over all machines."""

    attention: tuple[Place, ...]
    followups: tuple[OpenFollowup, ...]
    to_check: tuple[ToCheck, ...]
    to_check_in_all: int
    last_backup: datetime | None


@dataclass(frozen=True, slots=True)
class Standing:
    """The run that governs a place."""

    row: RunRow
    standing: Outcome | None


async def governing(context: Context, connection: AsyncConnection, rows: list[RunRow]) -> list[Remembered]:
    """The runs of a place, newest first, that say how it stands: any unfinished one, and the first that counts.

    A run in which nothing was pulled and which is abandoned or unfinished hides nothing that came before it.
    """
    found = []
    for row in rows:
        run = await context.load(connection, row.id)
        if run.state.standing is None or run.state.touched or run.state.standing != "abandoned":
            found.append(run)
        if run.state.touched or run.state.standing not in (None, "abandoned"):
            break
    return found


async def place_standing(context: Context, connection: AsyncConnection, machine_id: UUID, position_key: str, joint: str) -> Standing | None:
    """How a place stands: unfinished, or as its last run that counts left it."""
    rows = await run_store.at_place(connection, machine_id, position_key, joint)
    found = await governing(context, connection, rows)
    return Standing(found[0].row, found[0].state.standing) if found else None


async def open_followups(context: Context, connection: AsyncConnection, machine_id: UUID | None = None) -> list[OpenFollowup]:
    """The follow-ups that are open, of one machine or of all; those due first."""
    newest = await run_store.newest(connection, machine_id)
    well = await run_store.settled(connection, [row.id for row in newest])
    machines = {m.id: m for m in await machine_store.read_all(connection)}
    roots = [await context.load(connection, row.parent_id or row.id) for row in newest if row.id in well]
    specs = await _specs_of(connection, [root.row for root in roots])
    found: list[OpenFollowup] = []
    for root in roots:
        row, spec = root.row, specs[root.row.spec_id, root.row.spec_revision]
        if not spec.followups:
            continue
        parent = _finished(root)
        children = [_finished(await context.load(connection, c.id)) for c in await run_store.children(connection, root.row.id)]
        done = [child for child in children if child is not None]
        meters = [meter for meter, _ in (await machine_store.meters(connection, row.machine_id)).values()]
        if parent is None:
            continue
        for due in pending(spec.followups, parent, done, context.now(), meters):
            found.append(
                OpenFollowup(
                    machine=row.machine_id, fleet_number=machines[row.machine_id].fleet_number,
                    position=root.started.position.words, joint=row.joint, title=spec.title, spec=spec.id,
                    root=root.row.id, position_key=row.position_key, due=due,
                )
            )  # fmt: skip
    return sorted(found, key=lambda f: (["due", "soon", "waiting"].index(f.due.status), f.fleet_number))


def _finished(run: Remembered) -> Finished | None:
    """A run as follow-ups see it; None unless it ended good or released."""
    if run.state.standing not in ("good", "released"):
        return None
    at = next(e.at_server for e in reversed(run.entries) if e.kind == "finished")
    return Finished(
        run=run.row.id,
        at=at,
        meters=run.started.meters,
        followup=run.started.followup,
        outcomes=frozenset(p.outcome for p in run.state.pulls if p.outcome is not None),
    )


async def _specs_of(connection: AsyncConnection, rows: list[RunRow]) -> dict[tuple[UUID, int], Spec]:
    """The revisions that runs were started from."""
    keys = {(row.spec_id, row.spec_revision) for row in rows}
    return {(spec.id, spec.revision): spec for spec in await spec_store.read_many(connection, keys)}


def _place(run: Remembered, machine: Machine, title: str) -> Place:
    ended = [e.at_server for e in run.entries if e.kind == "finished"]
    state = run.state
    return Place(
        machine=machine.id,
        fleet_number=machine.fleet_number,
        position=run.started.position.words,
        joint=run.row.joint,
        title=title,
        run=run.row.id,
        standing=state.standing,
        untouched=not state.touched,
        reasons=state.reasons or reasons(run.started.plan, state),
        at=ended[-1] if ended else run.entries[0].at_server,
    )


async def _attention(context: Context, connection: AsyncConnection, machine_id: UUID | None) -> list[Place]:
    newest = await run_store.newest(connection, machine_id)
    well = await run_store.settled(connection, [row.id for row in newest])
    machines = {m.id: m for m in await machine_store.read_all(connection)}
    open_runs = []
    for row in newest:
        if row.id not in well:
            rows = await run_store.at_place(connection, row.machine_id, row.position_key, row.joint)
            open_runs += await governing(context, connection, rows)
    open_runs = [run for run in open_runs if run.state.standing not in ("good", "released")]
    specs = await _specs_of(connection, [run.row for run in open_runs])
    places = [_place(run, machines[run.row.machine_id], specs[run.row.spec_id, run.row.spec_revision].title) for run in open_runs]
    worst = {"do not move": 0, "abandoned": 1, None: 2}
    return sorted(places, key=lambda p: (worst.get(p.standing, 3), p.fleet_number))


async def bay(context: Context) -> Bay:
    """The home screen's list."""

    async def work(connection: AsyncConnection) -> Bay:
        last = (await connection.execute(select(backups.c.at).order_by(backups.c.at.desc()).limit(1))).scalar()
        waiting, many = await to_check(connection)
        return Bay(
            attention=tuple(await _attention(context, connection, None)),
            followups=tuple(await open_followups(context, connection)),
            to_check=tuple(waiting),
            to_check_in_all=many,
            last_backup=last.replace(tzinfo=UTC) if last is not None else None,
        )

    return await context.database.run(work)


async def machine_now(context: Context, machine_id: UUID) -> MachineNow:
    """One machine as it stands.

    Raises:
        NotOnFile: no machine has this id.
    """

    async def work(connection: AsyncConnection) -> MachineNow:
        machine = await machine_store.find(connection, machine_id)
        rows = await run_store.of_machine(connection, machine_id)
        specs = await _specs_of(connection, rows)
        history = []
        for row in rows:
            title = f"{specs[row.spec_id, row.spec_revision].title} · {row.procedure}"
            history.append(_place(await context.load(connection, row.id), machine, title))
        return MachineNow(
            machine=machine,
            vin=read_vin(machine.vin),
            meters=tuple(meter for meter, _ in (await machine_store.meters(connection, machine_id)).values()),
            attention=tuple(await _attention(context, connection, machine_id)),
            followups=tuple(await open_followups(context, connection, machine_id)),
            history=tuple(history),
        )

    return await context.database.run(work)
