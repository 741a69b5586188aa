"""What happened goes into the ledger; what is odd is asked first; the run's view is what the fold says."""

from datetime import datetime
from uuid import UUID

from pydantic import Field

from tight_ledger.core.base.errors import Invalid, Stale
from tight_ledger.core.base.models import Model
from tight_ledger.core.records.entries import PHYSICAL, TIGHTENING, Entry, Outcome, Report
from tight_ledger.core.records.upcasting import read_entry
from tight_ledger.core.runs.accepting import ask_first, require_acceptable, tools_of
from tight_ledger.core.runs.outcomes import judge_finish
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context, Remembered
from tight_ledger.services.people import require_person
from tight_ledger.store import ledger
from tight_ledger.store import people as people_store


class Accepted(Model):
    """Where an entry stands in the ledger."""

    id: UUID
    seq: int
    seal: str
    repeated: bool
    in_conflict: bool


class Finish(Command):
    """How a run is to end."""

    outcome: Outcome
    text: str = Field(default="", max_length=2_000)
    seq: int = Field(ge=1)
    at_device: datetime


class Sign(Command):
    """A signature under a finished run."""

    seq: int = Field(ge=1)
    at_device: datetime


async def record(context: Context, actor: Actor, run_id: UUID, report: Report) -> Accepted:
    """Append what a device reports. What physically happened is never refused for coming late.

    Raises:
        Invalid, NotAllowed, MustAsk: see `core.accepting`.
        Stale: a decision (not a pull) made on an old view.
    """
    run = context.remembered.get(run_id) or await context.run(run_id)
    if any(entry.id == report.id for entry in run.entries):
        return await again(context, run_id, report.id)
    if report.kind not in PHYSICAL and report.claimed_seq is not None and report.claimed_seq != run.seq + 1:
        run = await context.run(run_id)
        if report.claimed_seq != run.seq + 1:
            raise Stale("claimed_seq", "Something was recorded meanwhile.", "Look again, then decide.")
    started, state = run.started, run.state
    require_acceptable(started.plan, state, started.tooling, actor.person.role, report)
    last = next((e for e in reversed(run.entries) if e.kind in TIGHTENING and e.device == actor.device), None)
    ask_first(started.plan, started.policy, state, started.tooling, run.entries, last, report)
    if report.by != actor.person.id:
        require_person(await context.database.run(people_store.everybody), report.by)
    now = context.now()
    skew_ms = round((now - report.at_device).total_seconds() * 1000)
    given = {name: getattr(report, name) for name in report.model_fields_set} | tools_of(started.plan, report)

    def entry(seq: int) -> Entry:
        return Entry(**given, run=run_id, seq=seq, recorded_by=actor.person.id, device=actor.device, at_server=now, skew_ms=skew_ms)

    return await append(context, run, report.id, entry)


async def append(context: Context, run: Remembered, entry_id: UUID, build: ledger.Build) -> Accepted:
    """Write an entry into a run's stream, and let everybody know."""
    stored = await context.appender.append("run", run.row.id, entry_id, build)
    entry = stored.entry if isinstance(stored.entry, Entry) else read_entry(stored.body)
    if entry.seq == run.seq + 1:
        run.add([entry])
    elif entry.seq > run.seq:
        await context.run(run.row.id)
    context.listeners.changed(run.row.id)
    return _accepted(stored, entry)


def _accepted(stored: ledger.Stored, entry: Entry) -> Accepted:
    return Accepted(id=entry.id, seq=entry.seq, seal=stored.seal.hex(), repeated=stored.entry is None, in_conflict=entry.in_conflict)


async def again(context: Context, run_id: UUID, entry_id: UUID) -> Accepted:
    """An entry that was sent before: where it stands."""
    await context.run(run_id)
    stored = await context.database.run(lambda connection: ledger.by_id(connection, entry_id))
    assert stored is not None
    return _accepted(stored, read_entry(stored.body))


async def finish(context: Context, actor: Actor, run_id: UUID, request: Finish) -> Accepted:
    """End a run, with its reasons.

    Raises:
        Stale: something was recorded meanwhile, or it has ended already.
        Invalid, NotAllowed: it may not end so.
    """
    run = await context.run(run_id)
    if any(entry.id == request.id for entry in run.entries):
        return await again(context, run_id, request.id)
    if request.seq != run.seq:
        raise Stale("seq", "Something was recorded meanwhile.", "Look again, then end it.")
    why = judge_finish(run.started.plan, run.state, request.outcome, actor.person.role, request.text)
    now = context.now()

    def entry(seq: int) -> Entry:
        return Entry(
            id=request.id, kind="finished", by=actor.person.id, recorded_by=actor.person.id, device=actor.device,
            at_device=request.at_device, at_server=now, claimed_seq=request.seq + 1, run=run_id, seq=seq,
            outcome=request.outcome, reasons=why, text=request.text or None,
        )  # fmt: skip

    return await append(context, run, request.id, entry)


async def sign(context: Context, actor: Actor, run_id: UUID, request: Sign) -> Accepted:
    """Sign a finished run.

    Raises:
        Stale: something was recorded meanwhile.
        Invalid: it is not finished, or this person has signed.
    """
    run = await context.run(run_id)
    if any(entry.id == request.id for entry in run.entries):
        return await again(context, run_id, request.id)
    if request.seq != run.seq:
        raise Stale("seq", "Something was recorded meanwhile.", "Look again, then sign.")
    if run.state.outcome is None:
        raise Invalid("run", "This run is not finished.", "Finish it, then sign.")
    if actor.person.id in run.state.signed_by:
        raise Invalid("by", f"{actor.person.name} has signed already.", "Somebody else may sign too.")
    now = context.now()

    def entry(seq: int) -> Entry:
        return Entry(
            id=request.id, kind="signed", by=actor.person.id, recorded_by=actor.person.id, device=actor.device,
            at_device=request.at_device, at_server=now, claimed_seq=request.seq + 1, run=run_id, seq=seq,
        )  # fmt: skip

    return await append(context, run, request.id, entry)
