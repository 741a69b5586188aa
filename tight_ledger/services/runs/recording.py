"""What happened goes into the ledger; what is odd is asked first; the run's view is what the fold says."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import timedelta
from typing import Any
from uuid import UUID

import structlog
from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotAllowed, Stale, Unreadable
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.moments import DeviceTime
from tight_ledger.core.base.people import require_right
from tight_ledger.core.kinds.readings import Instant
from tight_ledger.core.records.entries import MOST_SEQ, PHYSICAL, Entry, Flag, Outcome, Report
from tight_ledger.core.records.notes import Note
from tight_ledger.core.records.upcasting import read_entry
from tight_ledger.core.runs.accepting import accept
from tight_ledger.core.runs.outcomes import judge_finish
from tight_ledger.services.actors import Actor
from tight_ledger.services.checkpoints import at_sign_off
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context, Remembered
from tight_ledger.services.people import require_person
from tight_ledger.services.runs.arriving import brought_back, kept_back, of_the_person, unproven
from tight_ledger.store import ledger, summaries
from tight_ledger.store import people as people_store
from tight_ledger.store import runs as run_store

log = structlog.get_logger()
SIGNED_OUT = "after its person had signed out"
Given = dict[str, Any]
"""Fields of an entry, without those that the server knows."""


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
    seq: int = Field(ge=1, le=MOST_SEQ)
    at_device: DeviceTime


class Sign(Command):
    """A signature under a finished run."""

    seq: int = Field(ge=1, le=MOST_SEQ)
    at_device: DeviceTime


async def begin(context: Context, actor: Actor, run_id: UUID, given: Given, *, decides: bool) -> tuple[Remembered, Accepted | None]:
    """The beginning of every command on a run: the run as it is, and what was accepted if the command was sent before.

    Args:
        given: the fields of its entry as far as the sender says them.
        decides: whether it decides about the record, and must be made on the newest entry.

    Raises:
        NotOnFile: no run has this id.
        Stale: a decision that was made on an old view, or an id that stands for something else.
    """
    run, claimed_seq = context.remembered.get(run_id), given.get("claimed_seq")
    if run is None or decides or claimed_seq != run.seq + 1:
        run = await context.run(run_id)
    if run.knows(given["id"]):
        build = _entry(context, actor, run_id, given)
        stored = await context.database.run(lambda connection: ledger.recorded(connection, run_id, given["id"], build))
        assert stored is not None
        return run, _accepted(stored, read_entry(stored.body))
    if decides:
        _require_next(claimed_seq, run.seq + 1)
    return run, None


def _require_next(claimed_seq: int | None, seq: int) -> None:
    if claimed_seq is not None and claimed_seq != seq:
        raise Stale("seq", "Something was recorded meanwhile.", "Look again, then decide.")


@dataclass(frozen=True, slots=True)
class Sender:
    """A wrench on the line: a registered instrument, or a simulated one."""

    instrument: UUID | None
    ended: str = ""
    """Why it may not speak any more, in words; empty as long as it may."""


async def record(
    context: Context,
    actor: Actor,
    run_id: UUID,
    report: Report,
    sender: Sender | None = None,
    *,
    again: bool = False,
    waited_ms: int | None = None,
) -> Accepted:
    """Append what a device reports. What physically happened is never refused for coming late, nor for who did it.

    Args:
        sender: the wrench that tells it by wire; None for a person.
        again: whether a tablet brings back what this server had acknowledged before it was restored.
        waited_ms: how long it was kept on a tablet before it was sent [ms]; None for what waits on none.

    Raises:
        Invalid, NotAllowed, MustAsk: see `core.runs.accepting`.
        Stale: a decision (not a pull) made on an old view.
    """
    if sender is None and (report.how == "wire" or report.curve is not None):
        raise NotAllowed("how", "Only a wrench on the line tells it so.", "Record what you saw: it clicked, or the figure that it showed.")
    decides, said = report.kind not in PHYSICAL, {name: getattr(report, name) for name in report.model_fields_set}
    run, before = await begin(context, actor, run_id, said, decides=decides)
    if before is not None:
        return before
    at = Instant(actor.device, report.at_device, context.now() - timedelta(milliseconds=waited_ms or 0), waited_ms)
    accepted = accept(run.started, run.state, run.entries, actor.person.roles, report, at)
    again = again and await context.epoch() > 0
    flags = [*brought_back(again)]
    if waited_ms is not None:
        flags += kept_back(context, actor.device, waited_ms, explained=again or bool(report.affirmed))
    if sender is not None and sender.ended:
        flags.append(Flag(code="right_ended", words=sender.ended))
        report = report.model_copy(update={"unproven": sender.ended == SIGNED_OUT or None})
    if report.by != actor.person.id:
        flags += await context.database.run(lambda connection: _of(connection, report.by))
    told: Given = {"unproven": unproven(actor, report.by, claimed=report.unproven), "waited_ms": waited_ms}
    told |= {"instrument": sender.instrument, "trial": sender.instrument is None or None} if sender is not None else {}
    return await append(context, actor, run, accepted | told | ({"flags": tuple(flags)} if flags else {}), decides=decides)


async def _of(connection: AsyncConnection, person_id: UUID) -> Collection[Flag]:
    here = {each.id: each for each in await people_store.here(connection)}
    if person_id in here:
        return of_the_person(here, here[person_id])
    return of_the_person(here, require_person(await people_store.everybody(connection), person_id))


def _entry(context: Context, actor: Actor, run_id: UUID, given: Given) -> ledger.Build:
    """What makes the entry, given its seq."""
    now = context.now()
    skew_ms = round((now - given["at_device"]).total_seconds() * 1000)
    added = {"run": run_id, "recorded_by": actor.person.id, "device": actor.device, "at_server": now, "skew_ms": skew_ms}
    return lambda seq: Entry(**given, **added, seq=seq)


async def _ended(connection: AsyncConnection, run_id: UUID) -> None:
    """A run has ended, or something came after its end: its place is free, its short form out of date."""
    await run_store.leave(connection, run_id)
    await summaries.mark(connection, run_id)


async def append(context: Context, actor: Actor, run: Remembered, given: Given, *, decides: bool) -> Accepted:
    """Write an entry into a run's stream, and tell everybody who listens.

    Args:
        given: its fields, without those that the server knows.
        decides: whether it decides about the record; then it is refused under any other number than it was made on.

    Raises:
        Stale: see `begin`; held inside the append, so that of two decisions on one entry only one is recorded.
    """
    entry_at = _entry(context, actor, run.row.id, given)

    def build(seq: int) -> Entry | Note:
        if decides:
            _require_next(given.get("claimed_seq"), seq)
        return entry_at(seq)

    if given["kind"] == "finished" or run.state.outcome is not None:
        stored = await context.appender.append_with("run", run.row.id, given["id"], build, lambda c: _ended(c, run.row.id))
    else:
        stored = await context.appender.append("run", run.row.id, given["id"], build)
    entry = stored.entry if isinstance(stored.entry, Entry) else read_entry(stored.body)
    if entry.seq == run.seq + 1:
        run.add([entry])
    elif entry.seq > run.seq:
        await context.run(run.row.id)
    log.info("recorded", run=str(run.row.id), seq=entry.seq, entry=str(entry.id), kind=entry.kind, again=stored.entry is None)
    context.listeners.changed(run.row.id, entry.seq)
    return _accepted(stored, entry)


def _accepted(stored: ledger.Stored, entry: Entry) -> Accepted:
    return Accepted(id=entry.id, seq=entry.seq, seal=stored.seal.hex(), repeated=stored.entry is None, in_conflict=entry.in_conflict)


async def finish(context: Context, actor: Actor, run_id: UUID, request: Finish) -> Accepted:
    """End a run, with its reasons. One that cannot be read is ended by a lead as one that must not move: then its place is free.

    Raises:
        Stale: something was recorded meanwhile, or it has ended already.
        Invalid, NotAllowed: it may not end so.
        Unreadable: its record cannot be read, and it was to end otherwise.
    """
    said: Given = {
        "id": request.id, "kind": "finished", "by": actor.person.id, "at_device": request.at_device, "claimed_seq": request.seq + 1,
        "outcome": request.outcome, "text": request.text or None,
    }  # fmt: skip
    try:
        run, before = await begin(context, actor, run_id, said, decides=True)
    except Unreadable:
        if request.outcome != "do not move":
            raise
        return await _end_unread(context, actor, run_id, said)
    if before is not None:
        return before
    why = judge_finish(run.started.plan, run.state, request.outcome, actor.person.roles, request.text)
    return await append(context, actor, run, said | {"reasons": why}, decides=True)


async def _end_unread(context: Context, actor: Actor, run_id: UUID, said: Given) -> Accepted:
    """End a run that nobody can read, without judging it."""
    require_right(actor.person.roles, "decide", "outcome")
    if not said["text"]:
        raise Invalid("text", "A reason is missing.", "Say in a few words why.")
    entry_at = _entry(context, actor, run_id, {name: value for name, value in said.items() if name != "claimed_seq"})
    stored = await context.appender.append_with("run", run_id, said["id"], entry_at, lambda connection: _ended(connection, run_id))
    return _accepted(stored, stored.entry if isinstance(stored.entry, Entry) else read_entry(stored.body))


def streams_of(run: Remembered) -> set[UUID]:
    """The streams that a run's card tells of: its own, and those of its people, tablets, tools, spec and machine."""
    found = {run.row.id, run.row.machine_id, run.row.spec_id}
    for entry in run.entries:
        found |= {entry.by, entry.recorded_by, entry.device, *(entry.tools or ())}
        found |= {entry.instrument} if entry.instrument is not None else set()
    return found | {each.wrench.id for each in run.started.tooling}


async def sign(context: Context, actor: Actor, run_id: UUID, request: Sign) -> Accepted:
    """Sign a finished run.

    Raises:
        Stale: something was recorded meanwhile.
        Invalid: it is not finished, or this person has signed.
    """
    said: Given = {
        "id": request.id, "kind": "signed", "by": actor.person.id, "at_device": request.at_device, "claimed_seq": request.seq + 1,
    }  # fmt: skip
    run, before = await begin(context, actor, run_id, said, decides=True)
    if before is not None:
        return before
    if run.state.outcome is None:
        raise Invalid("run", "This run is not finished.", "Finish it, then sign.")
    if actor.person.id in run.state.signed_by:
        raise Invalid("by", f"{actor.person.name} has signed already.", "Somebody else may sign too.")
    accepted = await append(context, actor, run, said, decides=True)
    await at_sign_off(context, streams_of(run))
    return accepted
