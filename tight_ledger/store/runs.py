"""Jobs and runs, and which of them still need somebody."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import Exists, Row, Select, and_, delete, exists, func, insert, select
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import NotOnFile
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.upcasting import read_entry
from tight_ledger.store.ids import new_id
from tight_ledger.store.ledger import moment, read
from tight_ledger.store.tables import jobs, ledger, open_places, runs


@dataclass(frozen=True, slots=True)
class RunRow:
    """What never changes about a run."""

    id: UUID
    job_id: UUID
    machine_id: UUID
    position_key: str
    joint: str
    spec_id: UUID
    spec_revision: int
    procedure: str
    parent_id: UUID | None
    started_at: datetime


def row_of(row: Row[tuple[object, ...]]) -> RunRow:
    """A row of the runs table."""
    return RunRow(**{name: row._mapping[name] for name in RunRow.__slots__})


async def add(connection: AsyncConnection, run: RunRow) -> None:
    """Put a run on file."""
    await connection.execute(insert(runs).values(**{name: getattr(run, name) for name in RunRow.__slots__}))


async def occupy(connection: AsyncConnection, run: RunRow) -> UUID | None:
    """Make a run the open run of its place; or else the run that is open there.

    In a transaction: if another one takes the place at the same moment, this one is repeated and sees it.
    """
    place = {"machine_id": run.machine_id, "position_key": run.position_key, "joint": run.joint}
    query = select(open_places.c.run_id).where(*(open_places.c[name] == value for name, value in place.items()))
    found = (await connection.execute(query)).scalar()
    if found is not None:
        return UUID(str(found))
    await connection.execute(insert(open_places).values(**place, run_id=run.id))
    return None


async def leave(connection: AsyncConnection, run_id: UUID) -> None:
    """The run has ended: its place is free."""
    await connection.execute(delete(open_places).where(open_places.c.run_id == run_id))


async def known(connection: AsyncConnection, run_id: UUID) -> RunRow | None:
    """One run; None if no run has this id."""
    row = (await connection.execute(select(runs).where(runs.c.id == run_id))).first()
    return row_of(row) if row is not None else None


async def find(connection: AsyncConnection, run_id: UUID) -> RunRow:
    """One run.

    Raises:
        NotOnFile: no run has this id.
    """
    row = await known(connection, run_id)
    if row is None:
        raise NotOnFile("run", "No run has this id.", "Open it from the machine or from the bay.")
    return row


async def bodies(connection: AsyncConnection, run_id: UUID, after: int = 0) -> list[bytes]:
    """The stored bytes of a run's entries, by seq."""
    return [body for _, body, _ in await read(connection, run_id, after, "run")]


async def entries(connection: AsyncConnection, run_id: UUID) -> list[Entry]:
    """A run's entries."""
    return [read_entry(body) for body in await bodies(connection, run_id)]


async def heads(connection: AsyncConnection, run_ids: Collection[UUID]) -> dict[UUID, int]:
    """By run, the seq of its newest entry."""
    query = select(ledger.c.stream, func.max(ledger.c.seq).label("seq")).where(ledger.c.stream.in_(run_ids)).group_by(ledger.c.stream)
    return {row.stream: row.seq for row in await connection.execute(query)}


async def job_for(connection: AsyncConnection, machine_id: UUID, at: datetime) -> UUID:
    """The machine's open job, the one with an unfinished run; else a new one."""
    open_run = select(runs.c.job_id).where(runs.c.machine_id == machine_id, ~_has_entry("finished")).order_by(runs.c.number.desc()).limit(1)
    found = (await connection.execute(open_run)).scalar()
    if found is not None:
        return UUID(str(found))
    job_id = new_id()
    await connection.execute(insert(jobs).values(id=job_id, machine_id=machine_id, opened_at=at))
    return job_id


async def of_open_job(connection: AsyncConnection, machine_id: UUID) -> list[RunRow]:
    """The runs of the machine's job that has an open one, as they were started; none if all have ended."""
    open_job = select(runs.c.job_id).join(open_places, open_places.c.run_id == runs.c.id).where(open_places.c.machine_id == machine_id)
    found = (await connection.execute(open_job.order_by(runs.c.number.desc()).limit(1))).scalar()
    if found is None:
        return []
    return [row_of(row) for row in await connection.execute(select(runs).where(runs.c.job_id == found).order_by(runs.c.number))]


async def of_job(connection: AsyncConnection, job_id: UUID) -> list[RunRow]:
    """The runs of a job, as they were started."""
    query = select(runs).where(runs.c.job_id == job_id).order_by(runs.c.number)
    return [row_of(row) for row in await connection.execute(query)]


def _has_entry(kind: str) -> Exists:
    return exists().where(and_(ledger.c.stream == runs.c.id, ledger.c.kind == kind))


def _newest_of_place(machine_id: UUID) -> Select[tuple[object, ...]]:
    """The newest run of each position and joint of a machine, whatever its procedure."""
    later = runs.alias()
    same_place = and_(
        later.c.machine_id == runs.c.machine_id,
        later.c.position_key == runs.c.position_key,
        later.c.joint == runs.c.joint,
        later.c.number > runs.c.number,
    )
    return select(runs).where(runs.c.machine_id == machine_id, ~exists().where(same_place))


async def newest(connection: AsyncConnection, machine_id: UUID) -> list[RunRow]:
    """The newest run of every place of a machine; of all machines: `places`."""
    return [row_of(row) for row in await connection.execute(_newest_of_place(machine_id).order_by(runs.c.number.desc()))]


async def worked_on_lately(connection: AsyncConnection, most: int) -> list[UUID]:
    """The machines of the newest runs, those worked on last first."""
    query = select(runs.c.machine_id).order_by(runs.c.number.desc()).limit(most)
    return list(dict.fromkeys((await connection.execute(query)).scalars()))


async def entries_of_machines(connection: AsyncConnection, machine_ids: Collection[UUID]) -> dict[UUID, int]:
    """By machine, how many entries there are in its own stream and in those of its runs."""
    newest = select(func.max(ledger.c.seq)).where(ledger.c.stream == runs.c.id).scalar_subquery()
    query = (
        select(runs.c.machine_id, func.sum(newest).label("entries")).where(runs.c.machine_id.in_(machine_ids)).group_by(runs.c.machine_id)
    )
    counts = {row.machine_id: int(row.entries) for row in await connection.execute(query)}
    own = select(ledger.c.stream, func.max(ledger.c.seq).label("entries")).where(ledger.c.stream.in_(machine_ids)).group_by(ledger.c.stream)
    notes = {row.stream: int(row.entries) for row in await connection.execute(own)}
    return {machine: counts.get(machine, 0) + notes.get(machine, 0) for machine in machine_ids}


async def flagged(connection: AsyncConnection, run_ids: Collection[UUID], since: datetime) -> set[UUID]:
    """Those of the runs into which a notice was brought since a moment."""
    query = select(ledger.c.stream).where(ledger.c.stream.in_(run_ids), ledger.c.kind == "flagged", ledger.c.at_server >= moment(since))
    return set((await connection.execute(query.distinct())).scalars())


async def of_machine(connection: AsyncConnection, machine_id: UUID, most: int = 50) -> list[RunRow]:
    """A machine's runs, newest first."""
    query = select(runs).where(runs.c.machine_id == machine_id).order_by(runs.c.number.desc()).limit(most)
    return [row_of(row) for row in await connection.execute(query)]


async def of_machine_before(connection: AsyncConnection, machine_id: UUID, at: datetime) -> list[RunRow]:
    """All of a machine's runs that began until a moment, newest first."""
    query = select(runs).where(runs.c.machine_id == machine_id, runs.c.started_at <= moment(at)).order_by(runs.c.number.desc())
    return [row_of(row) for row in await connection.execute(query)]


async def open_now(connection: AsyncConnection) -> list[RunRow]:
    """The runs that hold their places."""
    return [row_of(row) for row in await connection.execute(select(runs).join(open_places, open_places.c.run_id == runs.c.id))]


async def to_revision(connection: AsyncConnection, spec_id: UUID, revisions: Collection[int]) -> list[RunRow]:
    """The runs that were started from revisions of a spec, newest first."""
    query = select(runs).where(runs.c.spec_id == spec_id, runs.c.spec_revision.in_(revisions)).order_by(runs.c.number.desc())
    return [row_of(row) for row in await connection.execute(query)]


async def find_many(connection: AsyncConnection, run_ids: Collection[UUID]) -> dict[UUID, RunRow]:
    """By id, the runs that have one of these ids."""
    return {row.id: row_of(row) for row in await connection.execute(select(runs).where(runs.c.id.in_(run_ids)))}


async def children_of(connection: AsyncConnection, run_ids: Collection[UUID]) -> dict[UUID, list[RunRow]]:
    """By run, the follow-up runs that were started after it, in that sequence."""
    found: dict[UUID, list[RunRow]] = {}
    for row in await connection.execute(select(runs).where(runs.c.parent_id.in_(run_ids)).order_by(runs.c.number)):
        found.setdefault(row.parent_id, []).append(row_of(row))
    return found


async def at_place(connection: AsyncConnection, machine_id: UUID, position_key: str, joint: str, most: int = 20) -> list[RunRow]:
    """The runs of one place, newest first."""
    query = select(runs).where(runs.c.machine_id == machine_id, runs.c.position_key == position_key, runs.c.joint == joint)
    return [row_of(row) for row in await connection.execute(query.order_by(runs.c.number.desc()).limit(most))]


async def pulls_between(connection: AsyncConnection, since: datetime, until: datetime) -> list[tuple[datetime, int]]:
    """How many pulls and checks were recorded in each quarter of an hour: its beginning, in UTC, and the number.

    A quarter, because the offset of every time zone is a multiple of it, so that each falls into one day there.
    """
    hour = func.date_format(ledger.c.at_server, "%Y-%m-%d %H:00:00").label("hour")
    quarter = func.floor(func.minute(ledger.c.at_server) / 15).label("quarter")
    query = select(hour, quarter, func.count().label("many")).where(
        ledger.c.subject == "run", ledger.c.kind.in_(("pulled", "checked")), ledger.c.at_server >= moment(since),
        ledger.c.at_server < moment(until),
    )  # fmt: skip
    rows = await connection.execute(query.group_by("hour", "quarter"))
    return [(datetime.fromisoformat(row.hour) + timedelta(minutes=15 * int(row.quarter)), row.many) for row in rows]
