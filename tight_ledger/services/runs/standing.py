"""How the joints at a machine's places stand, and what is to be done again."""

from dataclasses import dataclass
from datetime import UTC, datetime
from math import ceil
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Unreadable
from tight_ledger.core.base.models import Model
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.records.entries import Outcome
from tight_ledger.core.runs.outcomes import reasons
from tight_ledger.core.specs.followups import IN_ORDER, Due, Finished, Happened, pending
from tight_ledger.core.specs.spec import Spec
from tight_ledger.services.context import Context, Remembered
from tight_ledger.store import machines as machine_store
from tight_ledger.store import runs as run_store
from tight_ledger.store import specs as spec_store
from tight_ledger.store import summaries
from tight_ledger.store.runs import RunRow

REACHING_MINUTES, SECONDS_A_FASTENER = 5, 12


class PlaceNow(Model):
    """A joint at a position, and the run that says how it stands; no standing while that run is unfinished."""

    machine: UUID
    fleet_number: str
    position: str
    joint: str
    title: str
    run: UUID
    standing: Outcome | None
    untouched: bool = False
    unreadable: bool = False
    """Whether the run's record cannot be read: how the joint stands is not known."""
    tightened_again: bool = False
    """Of a place that must not move: whether a later run there is good. A lead lifts it all the same."""
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
    wrenches: tuple[str, ...]
    """Those that the joint was tightened with."""
    fasteners: int
    minutes: int
    """About how long it takes: getting there, and each fastener once. Common practice, no source."""


@dataclass(frozen=True, slots=True)
class PlaceStanding:
    """The run that decides how a place stands."""

    row: RunRow
    standing: Outcome | None


async def governing(context: Context, connection: AsyncConnection, rows: list[RunRow]) -> list[Remembered]:
    """The runs of a place, newest first, that say how it stands: any unfinished one, and the first that counts.

    A run in which nothing was pulled and which is abandoned or unfinished hides nothing that came before it.
    """
    found = []
    for row in rows:
        run = await context.readable(connection, row.id)
        if run is None:
            continue
        if run.state.standing is None or run.state.touched or run.state.standing != "abandoned":
            found.append(run)
        if run.state.touched or run.state.standing not in (None, "abandoned"):
            break
    return found


async def place_standing(
    context: Context, connection: AsyncConnection, machine_id: UUID, position_key: str, joint: str
) -> PlaceStanding | None:
    """How a place stands: unfinished, or as its last run that counts left it."""
    rows = await run_store.at_place(connection, machine_id, position_key, joint)
    found = await governing(context, connection, rows)
    return PlaceStanding(found[0].row, found[0].state.standing) if found else None


async def open_followups(context: Context, connection: AsyncConnection, machine_id: UUID | None = None) -> list[OpenFollowup]:
    """The follow-ups that are open, of one machine or of all; those due first."""
    newest = await run_store.newest(connection, machine_id)
    well = await summaries.settled(connection, [row.id for row in newest])
    machines = {m.id: m for m in await machine_store.read_all(connection)}
    loaded = [await context.readable(connection, row.parent_id or row.id) for row in newest if row.id in well]
    roots = [root for root in loaded if root is not None]
    specs = await specs_of(connection, [root.row for root in roots])
    found: list[OpenFollowup] = []
    told = {machine_id: await _told(connection, machine_id) for machine_id in {root.row.machine_id for root in roots}}
    for root in roots:
        row, spec = root.row, specs[root.row.spec_id, root.row.spec_revision]
        if not spec.followups:
            continue
        parent = _finished(root)
        children = [await context.readable(connection, c.id) for c in await run_store.children(connection, root.row.id)]
        done = [done for child in children if child is not None and (done := _finished(child)) is not None]
        if parent is None:
            continue
        meters, events = told[row.machine_id]
        for due in pending(spec.followups, parent, done, context.now(), meters, events.get(root.row.id, ())):
            found.append(
                OpenFollowup(
                    machine=row.machine_id, fleet_number=machines[row.machine_id].fleet_number,
                    position=root.started.position.words, joint=row.joint, title=spec.title, spec=spec.id,
                    root=root.row.id, position_key=row.position_key, due=due,
                    wrenches=tuple(dict.fromkeys(tooling.wrench.name for tooling in root.started.tooling)),
                    fasteners=len(spec.layout.fasteners), minutes=minutes_for(len(spec.layout.fasteners)),
                )
            )  # fmt: skip
    return sorted(found, key=lambda f: (IN_ORDER.index(f.due.status), f.fleet_number))


def minutes_for(fasteners: int) -> int:
    """About how long a re-torque takes."""
    return REACHING_MINUTES + ceil(fasteners * SECONDS_A_FASTENER / 60)


async def _told(connection: AsyncConnection, machine_id: UUID) -> tuple[list[Meter], dict[UUID, list[Happened]]]:
    """A machine's newest meter readings, and by run the events that were reported; none if its record cannot be read."""
    try:
        meters = [meter for meter, _ in (await machine_store.meters(connection, machine_id)).values()]
        return meters, await machine_store.happened(connection, machine_id)
    except Unreadable:
        return [], {}


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


async def specs_of(connection: AsyncConnection, rows: list[RunRow]) -> dict[tuple[UUID, int], Spec]:
    """The revisions that runs were started from."""
    keys = {(row.spec_id, row.spec_revision) for row in rows}
    return {(spec.id, spec.revision): spec for spec in await spec_store.read_many(connection, keys)}


def place_now(run: Remembered, machine: Machine, title: str) -> PlaceNow:
    """A place with the run that says how it stands."""
    ended = [e.at_server for e in run.entries if e.kind == "finished"]
    state = run.state
    return PlaceNow(
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


def unreadable_place(row: RunRow, machine: Machine, title: str) -> PlaceNow:
    """A place whose run cannot be read."""
    return PlaceNow(
        machine=machine.id, fleet_number=machine.fleet_number, position=" ".join(part for part in row.position_key.split("/") if part),
        joint=row.joint, title=title, run=row.id, standing=None, unreadable=True,
        reasons=("its record cannot be read; how it stands is not known",), at=row.started_at.replace(tzinfo=UTC),
    )  # fmt: skip


async def _tightened_again(
    context: Context, connection: AsyncConnection, machine_id: UUID | None, newest: set[UUID], well: set[UUID]
) -> list[Remembered]:
    """The runs that left a place as one that must not move, and that no lead has lifted, though a later one there is good."""
    found = []
    for row in await summaries.red(connection, machine_id):
        if row.id in newest:
            continue
        later = await run_store.at_place(connection, row.machine_id, row.position_key, row.joint)
        run = await context.readable(connection, row.id)
        if run is not None and run.state.standing == "do not move" and any(each.id in well for each in later):
            found.append(run)
    return found


async def attention(context: Context, connection: AsyncConnection, machine_id: UUID | None) -> list[PlaceNow]:
    """The places that need somebody: not good, or unfinished; at a machine, or at all of them."""
    newest = await run_store.newest(connection, machine_id)
    well = await summaries.settled(connection, [row.id for row in newest])
    machines = {m.id: m for m in await machine_store.read_all(connection)}
    open_runs: list[Remembered] = []
    lost: list[RunRow] = []
    for row in newest:
        if row.id not in well:
            rows = await run_store.at_place(connection, row.machine_id, row.position_key, row.joint)
            open_runs += await governing(context, connection, rows)
            lost += [row] if await context.readable(connection, row.id) is None else []
    again = await _tightened_again(context, connection, machine_id, {row.id for row in newest}, well)
    open_runs = [run for run in open_runs if run.state.standing not in ("good", "released")]
    open_runs += [run for run in again if all(run is not each for each in open_runs)]
    specs = await specs_of(connection, [*(run.row for run in open_runs), *lost])
    places = [
        place_now(run, machines[run.row.machine_id], specs[run.row.spec_id, run.row.spec_revision].title).model_copy(
            update={"tightened_again": any(run is each for each in again)}
        )
        for run in open_runs
    ]
    places += [unreadable_place(row, machines[row.machine_id], specs[row.spec_id, row.spec_revision].title) for row in lost]
    worst = {"do not move": 0, "abandoned": 1, None: 2}
    return sorted(places, key=lambda p: (worst.get(p.standing, 3), p.fleet_number))
