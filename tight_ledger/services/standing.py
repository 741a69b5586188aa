"""How the joints at a machine's places stand, and what is to be done again."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from math import ceil
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import Model
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.positions import words_of_key
from tight_ledger.core.records.entries import WELL, Outcome
from tight_ledger.core.runs.bay import BayState, place_state
from tight_ledger.core.runs.summary import RunSummary
from tight_ledger.core.specs.followups import IN_ORDER, Due, Finished, pending
from tight_ledger.core.specs.spec import Spec
from tight_ledger.services.context import Context, Remembered
from tight_ledger.store import machines as machine_store
from tight_ledger.store import places as place_store
from tight_ledger.store import runs as run_store
from tight_ledger.store import specs as spec_store
from tight_ledger.store import summaries, told
from tight_ledger.store.places import PlaceInShort
from tight_ledger.store.runs import RunRow

REACHING_MINUTES, SECONDS_A_FASTENER = 5, 12
NOT_KNOWN = "its spec cannot be read: what is to follow is not known"


class PlaceNow(Model):
    """A joint at a position, and the run that says how it stands; no standing while that run is unfinished."""

    machine: UUID
    fleet_number: str
    position: str
    joint: str
    title: str
    run: UUID
    standing: Outcome | None
    state: BayState
    """How serious that is."""
    untouched: bool = False
    unreadable: bool = False
    """Whether the run's record cannot be read: how the joint stands is not known."""
    tightened_again: bool = False
    """Whether a later run at a place that must not move is good. It stays red until a lead lifts it."""
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
    if machine_id is None:
        return await _pending(context, connection, await place_store.roots(connection))
    newest = await run_store.newest(connection, machine_id)
    well = await summaries.settled(connection, [row.id for row in newest])
    roots = await run_store.find_many(connection, {row.parent_id or row.id for row in newest if row.id in well})
    return await _pending(context, connection, list(roots.values()))


async def _pending(context: Context, connection: AsyncConnection, rows: Sequence[RunRow]) -> list[OpenFollowup]:
    """What is still to follow on some runs; those due first."""
    roots = {row.id: row for row in rows}
    fleet = await machine_store.fleet_numbers(connection, {row.machine_id for row in rows})
    children = await run_store.children_of(connection, roots)
    short = await summaries.read(connection, [*roots, *(child.id for each in children.values() for child in each)])
    specs = await specs_of(connection, list(roots.values()))
    machines = await told.read(connection, "machine", set(fleet))
    found: list[OpenFollowup] = []
    for row in roots.values():
        spec, parent = specs.get((row.spec_id, row.spec_revision)), _finished(row, short)
        if parent is None or (spec is not None and not spec.followups):
            continue
        done = [done for child in children.get(row.id, ()) if (done := _finished(child, short)) is not None]
        machine, summary = machines[row.machine_id], short[row.id]
        meters = list(machine.meters.values())
        follows: tuple[Due, ...] = (Due(followup="", procedure="", parent=row.id, status="due", words=NOT_KNOWN),)
        if spec is not None:
            follows = pending(spec.followups, parent, done, context.now(), meters, machine.happened.get(row.id, ()), machine.jumps)
        for due in follows:
            found.append(
                OpenFollowup(
                    machine=row.machine_id, fleet_number=fleet[row.machine_id], position=summary.position, joint=row.joint,
                    title=summary.title, spec=row.spec_id, root=row.id, position_key=row.position_key, due=due, wrenches=summary.wrenches,
                    fasteners=summary.fasteners, minutes=REACHING_MINUTES + ceil(summary.fasteners * SECONDS_A_FASTENER / 60),
                )
            )  # fmt: skip
    return sorted(found, key=lambda f: (IN_ORDER.index(f.due.status), f.fleet_number, f.position))


async def in_short(context: Context, connection: AsyncConnection, run: RunRow) -> PlaceInShort:
    """How the place of a run stands, as lists over all machines are read from it."""
    rows = await run_store.at_place(connection, run.machine_id, run.position_key, run.joint)
    newest = rows[0]
    if not await summaries.settled(connection, [newest.id]):
        found = await governing(context, connection, rows)
        lost = await context.readable(connection, newest.id) is None
        return PlaceInShort(newest.id, lost or any(each.state.standing not in WELL for each in found), None)
    root = newest.parent_id or newest.id
    waits = await _pending(context, connection, list((await run_store.find_many(connection, [root])).values()))
    return PlaceInShort(newest.id, needs=False, root=root if waits else None)


def _finished(row: RunRow, short: Mapping[UUID, RunSummary]) -> Finished | None:
    """A run as follow-ups see it; None unless it ended good or released."""
    summary = short.get(row.id)
    if summary is None or summary.ended_at is None or summary.standing not in WELL:
        return None
    read_at = row.started_at.replace(tzinfo=UTC) + timedelta(milliseconds=1)  # kept to the millisecond below
    return Finished(
        run=row.id, at=summary.ended_at, meters=summary.meters, read_at=read_at, followup=summary.followup,
        outcomes=summary.outcomes,
    )  # fmt: skip


async def specs_of(connection: AsyncConnection, rows: Sequence[RunRow]) -> dict[tuple[UUID, int], Spec]:
    """The revisions that runs were started from; without those that cannot be read."""
    keys = {(row.spec_id, row.spec_revision) for row in rows}
    return {(spec.id, spec.revision): spec for spec in await spec_store.read_many(connection, keys)}


async def titles_of(connection: AsyncConnection, rows: Sequence[RunRow]) -> dict[UUID, str]:
    """By run, the title of its spec."""
    specs = await specs_of(connection, rows)
    read = {row.id: specs.get((row.spec_id, row.spec_revision)) for row in rows}
    return {run: spec.title if spec is not None else "a spec that cannot be read" for run, spec in read.items()}


def place_of(row: RunRow, short: RunSummary, machine: Machine, title: str) -> PlaceNow:
    """A place with a run that has ended, from its short form."""
    return PlaceNow(
        machine=machine.id, fleet_number=machine.fleet_number, position=short.position, joint=row.joint, title=title, run=row.id,
        standing=short.standing, state=place_state(short.standing, unreadable=False), untouched=not short.touched,
        reasons=short.reasons, at=short.ended_at or short.started_at,
    )  # fmt: skip


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
        state=place_state(state.standing, unreadable=False),
        untouched=not state.touched,
        reasons=run.reasons,
        at=ended[-1] if ended else run.entries[0].at_server,
    )


def unreadable_place(row: RunRow, machine: Machine, title: str) -> PlaceNow:
    """A place whose run cannot be read."""
    return PlaceNow(
        machine=machine.id, fleet_number=machine.fleet_number, position=words_of_key(row.position_key),
        joint=row.joint, title=title, run=row.id, standing=None, state=place_state(None, unreadable=True),
        unreadable=True,
        reasons=("its record cannot be read; how it stands is not known",), at=row.started_at.replace(tzinfo=UTC),
    )  # fmt: skip


async def _tightened_again(context: Context, connection: AsyncConnection, machine_id: UUID | None, newest: set[UUID]) -> list[Remembered]:
    """The runs that left a place as one that must not move, and that no lead has lifted, though a later one there is good."""
    found = []
    for row in await summaries.red(connection, machine_id):
        if row.id in newest:
            continue
        later = await run_store.at_place(connection, row.machine_id, row.position_key, row.joint)
        run = await context.readable(connection, row.id)
        if run is not None and run.state.standing == "do not move" and await summaries.settled(connection, [later[0].id]):
            found.append(run)
    return found


async def attention(context: Context, connection: AsyncConnection, machine_id: UUID | None) -> list[PlaceNow]:
    """The places that need somebody: not good, or unfinished; at a machine, or at all of them."""
    newest = await (place_store.needing(connection) if machine_id is None else run_store.newest(connection, machine_id))
    well = await summaries.settled(connection, [row.id for row in newest])
    open_runs: list[Remembered] = []
    lost: list[RunRow] = []
    for row in newest:
        if row.id not in well:
            rows = await run_store.at_place(connection, row.machine_id, row.position_key, row.joint)
            open_runs += await governing(context, connection, rows)
            lost += [row] if await context.readable(connection, row.id) is None else []
    again = await _tightened_again(context, connection, machine_id, {row.id for row in newest})
    open_runs = [run for run in open_runs if run.state.standing not in WELL]
    open_runs += [run for run in again if all(run is not each for each in open_runs)]
    shown = [*(run.row for run in open_runs), *lost]
    titles, machines = await titles_of(connection, shown), await machine_store.find_many(connection, {row.machine_id for row in shown})
    places = [
        place_now(run, machines[run.row.machine_id], titles[run.row.id]).model_copy(
            update={"tightened_again": any(run is each for each in again)}
        )
        for run in open_runs
    ]
    places += [unreadable_place(row, machines[row.machine_id], titles[row.id]) for row in lost]
    worst = {"do not move": 0, "abandoned": 1, None: 2}
    return sorted(places, key=lambda p: (worst.get(p.standing, 3), p.fleet_number))
