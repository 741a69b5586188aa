"""Jobs: the runs of a machine that are worked on together; what is said or done once for several of them."""

from collections.abc import Sequence
from uuid import UUID

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import NotOnFile
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.moments import DeviceTime
from tight_ledger.core.records.entries import MOST_SEQ, Report
from tight_ledger.core.runs.jobs import InJob, JobNow, job_now
from tight_ledger.core.runs.starting import Start
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context, Remembered
from tight_ledger.services.runs import recording, starting, views
from tight_ledger.services.runs.recording import Accepted, Finish, Sign
from tight_ledger.store import machines as machine_store
from tight_ledger.store import runs as run_store

MOST_RUNS = 40
"""In one job."""


class Starts(Model):
    """The runs of a job, prepared once: one start for each place."""

    starts: tuple[Start, ...] = Field(min_length=1, max_length=MOST_RUNS)


class ReportIn(Model):
    """What happened in one of several runs."""

    run: UUID
    report: Report


class Reports(Model):
    """One thing that happened, as it is recorded in each run that it concerns."""

    reports: tuple[ReportIn, ...] = Field(min_length=1, max_length=MOST_RUNS)


class EndOf(Model):
    """The good end of one of several runs, and the signature under it; the ids are of their entries."""

    run: UUID
    id: UUID
    signature: UUID
    seq: int = Field(ge=1, le=MOST_SEQ)


class Ends(Model):
    """The good end of several runs."""

    ends: tuple[EndOf, ...] = Field(min_length=1, max_length=MOST_RUNS)
    at_device: DeviceTime


async def job_of(context: Context, machine_id: UUID, device: UUID) -> JobNow:
    """The open job of a machine, for a tablet; without runs if none is open.

    Raises:
        NotOnFile: no machine has this id.
    """

    async def work(connection: AsyncConnection) -> list[Remembered]:
        await machine_store.find(connection, machine_id)
        rows = await run_store.of_open_job(connection, machine_id)
        return [run for row in rows if (run := await context.readable(connection, row.id)) is not None]

    found = await context.database.run(work)
    return job_now([await _in_job(context, run) for run in found], device)


async def _in_job(context: Context, run: Remembered) -> InJob:
    return InJob(run.row.id, run.started, run.state, run.entries, await views.hand_of(context, run))


async def start_each(context: Context, actor: Actor, request: Starts) -> tuple[UUID, ...]:
    """Start a run at each place, all of them or none.

    Raises:
        Invalid, NotAllowed, MustAsk, Stale: see `services.runs.starting`.
    """
    await starting.start(context, actor, request.starts)
    return tuple(each.id for each in request.starts)


async def record_each(context: Context, actor: Actor, reports: Sequence[ReportIn], *, waited_ms: int) -> tuple[Accepted, ...]:
    """Record one thing in each run that it concerns. Sent again, what was recorded is not recorded twice.

    Args:
        waited_ms: how long they were kept on a tablet before they were sent [ms].

    Raises:
        Invalid, NotAllowed, MustAsk, Stale: see `services.runs.recording`; what stands before it in the list is recorded.
    """
    return tuple([await recording.record(context, actor, each.run, each.report, waited_ms=waited_ms) for each in reports])


async def end_each(context: Context, actor: Actor, request: Ends) -> None:
    """End runs that are good, and sign them. Sent again, what was ended is not ended twice.

    Raises:
        Invalid, Stale: see `services.runs.recording`; what stands before it in the list has ended.
    """
    for each in request.ends:
        said = Finish(id=each.id, outcome="good", seq=each.seq, at_device=request.at_device)
        ended = await recording.finish(context, actor, each.run, said)
        await recording.sign(context, actor, each.run, Sign(id=each.signature, seq=ended.seq, at_device=request.at_device))


async def cards(context: Context, job_id: UUID) -> tuple[views.Card, ...]:
    """The cards of a whole job, in the sequence in which its runs were started.

    Raises:
        NotOnFile: no job has this id.
    """
    rows = await context.database.run(lambda connection: run_store.of_job(connection, job_id))
    if not rows:
        raise NotOnFile("job", "No job has this id.", "Open it from the machine.")
    return tuple([await views.card(context, row.id) for row in rows])
