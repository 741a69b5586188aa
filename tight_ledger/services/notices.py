"""Notices: what happened elsewhere reaches the runs under way, the bay, the machines, the people, and a list that is worked off."""

from collections.abc import Collection, Sequence
from datetime import datetime
from typing import Literal
from uuid import UUID

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile, Unreadable
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import require_right
from tight_ledger.core.records.entries import PHYSICAL, Entry, Flag, FlagCode
from tight_ledger.core.records.notes import Note
from tight_ledger.core.records.recalls import STOPS, Notice, NoticeKind, of_machine, of_person, of_spec, of_tool
from tight_ledger.core.tool_care.suspect_periods import in_doubt
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command, done_before
from tight_ledger.services.context import Context, Remembered
from tight_ledger.services.people import names_shown
from tight_ledger.services.summaries import catch_up
from tight_ledger.store import ledger, summaries
from tight_ledger.store import machines as machine_store
from tight_ledger.store import runs as run_store
from tight_ledger.store import specs as spec_store
from tight_ledger.store import tools as tool_store
from tight_ledger.store.ids import new_id
from tight_ledger.store.runs import RunRow

SubjectKind = Literal["spec", "tool", "person", "machine"]
SUBJECTS: dict[str, tuple[str, ...]] = {
    "spec": ("withdrawn", "checked"), "tool": ("quarantined", "calibrated"), "person": ("left",), "machine": ("described",),
}  # fmt: skip
"""By subject, the kinds of entry that a notice can come from."""

ABOUT: dict[NoticeKind, SubjectKind] = {
    "spec withdrawn": "spec",
    "spec replaced": "spec",
    "wrench in doubt": "tool",
    "rights ended": "person",
    "machine corrected": "machine",
}


class RecallPlace(Model):
    """A joint that a notice is about, and whether it was looked at since."""

    run: UUID
    machine: UUID
    fleet_number: str
    position: str
    title: str
    at: datetime
    open: bool
    """Whether its run is under way: it asks there."""
    worked_off: str
    """What was done about it; empty as long as nothing was."""
    people: tuple[str, ...]
    """Who pulled there."""


class NoticeNow(Model):
    """A notice with its places; those that nobody has looked at first."""

    id: UUID
    kind: NoticeKind
    at: datetime
    by: str
    about: str
    reason: str
    remedy: str
    subject: UUID
    subject_kind: SubjectKind
    left: int
    """How many places nobody has looked at yet."""
    places: tuple[RecallPlace, ...]


class Reviewed(Command):
    """What was found at a place that a notice is about."""

    run: UUID
    text: str = Field(min_length=1, max_length=500)


async def notices(context: Context, machine_id: UUID | None = None) -> tuple[NoticeNow, ...]:
    """Every notice that reaches a run, the newest first; of one machine, those that reach it."""
    await catch_up(context)

    async def work(connection: AsyncConnection) -> tuple[NoticeNow, ...]:
        found = [await _now(context, connection, each, notes) for each, notes in await _all(connection)]
        kept = [_of_machine(each, machine_id) for each in found]
        return tuple(sorted((each for each in kept if each.places), key=lambda each: (each.left == 0, -each.at.timestamp())))

    return await context.database.run(work)


def _of_machine(notice: NoticeNow, machine_id: UUID | None) -> NoticeNow:
    if machine_id is None:
        return notice
    places = tuple(place for place in notice.places if place.machine == machine_id)
    return notice.model_copy(update={"places": places, "left": sum(not place.worked_off for place in places)})


async def _all(connection: AsyncConnection) -> list[tuple[Notice, Sequence[Note]]]:
    found: list[tuple[Notice, Sequence[Note]]] = []
    for subject, kinds in SUBJECTS.items():
        streams = await ledger.streams_with(connection, subject, kinds)
        for stream, notes in (await ledger.notes_of(connection, subject, streams)).items():
            if not isinstance(notes, Unreadable):
                found += [(each, notes) for each in await _of(connection, subject, stream, notes)]
    return found


async def _of(connection: AsyncConnection, subject: str, stream: UUID, notes: Sequence[Note]) -> tuple[Notice, ...]:
    if subject == "tool":
        return of_tool(notes)
    if subject == "person":
        return of_person(notes)
    if subject == "machine":
        return of_machine(notes)
    later = {(stream, note.revision) for note in notes if note.kind == "checked" and note.revision is not None and note.revision > 1}
    return of_spec(notes, {spec.revision: spec.change for spec in await spec_store.read_many(connection, later)})


async def _rows(connection: AsyncConnection, notice: Notice, notes: Sequence[Note]) -> list[RunRow]:
    """The runs that a notice is about: those that began before it."""
    if notice.kind == "wrench in doubt":
        window = in_doubt([note for note in notes if note.at_server <= notice.at])
        return await tool_store.runs_with(connection, notice.subject, window.since if window is not None else None, notice.at)
    if notice.kind == "spec withdrawn":
        rows = await run_store.to_revision(connection, notice.subject, [notice.revision or 1])
    elif notice.kind == "spec replaced":
        rows = await run_store.to_revision(connection, notice.subject, range(1, notice.revision or 1))
    elif notice.kind == "machine corrected":
        rows = await run_store.of_machine(connection, notice.subject)
    else:
        rows = await run_store.open_now(connection)
    return [row for row in rows if row.started_at <= ledger.moment(notice.at)]


async def _now(context: Context, connection: AsyncConnection, notice: Notice, notes: Sequence[Note]) -> NoticeNow:
    names = await names_shown(connection)
    fleet = {machine.id: machine.fleet_number for machine in await machine_store.read_all(connection)}
    places = []
    for row in await _rows(connection, notice, notes):
        run = await context.readable(connection, row.id)
        if run is None or (notice.kind == "rights ended" and notice.subject not in _hands(run)):
            continue
        places.append(await _place(connection, notice, run, fleet.get(row.machine_id, ""), names))
    return NoticeNow(
        id=notice.id, kind=notice.kind, at=notice.at, by=names.get(notice.by, "") if notice.by is not None else "", reason=notice.reason,
        about=await _about(connection, notice, ABOUT[notice.kind], names, fleet), remedy=notice.remedy, subject=notice.subject,
        subject_kind=ABOUT[notice.kind], left=sum(not place.worked_off for place in places),
        places=tuple(sorted(places, key=lambda place: (bool(place.worked_off), not place.open, place.fleet_number))),
    )  # fmt: skip


def _hands(run: Remembered) -> set[UUID]:
    return {entry.by for entry in run.entries if entry.kind in PHYSICAL}


async def _place(connection: AsyncConnection, notice: Notice, run: Remembered, fleet_number: str, names: dict[UUID, str]) -> RecallPlace:
    row, facts = run.row, run.started.facts
    return RecallPlace(
        run=row.id, machine=row.machine_id, fleet_number=fleet_number, position=run.started.position.words,
        title=facts.title if facts is not None else row.joint, at=run.entries[0].at_server, open=run.state.standing is None,
        worked_off=await _worked_off(connection, notice, run), people=tuple(sorted(names.get(each, "somebody") for each in _hands(run))),
    )  # fmt: skip


async def _worked_off(connection: AsyncConnection, notice: Notice, run: Remembered) -> str:
    """What was done about a place since: somebody looked at it, or it was tightened again to something else and ended well."""
    if run.row.id in notice.reviewed:
        return notice.reviewed[run.row.id]
    decided = {entry.about for entry in run.entries if entry.kind in ("deviated", "clarified")}
    flagged = next((entry for entry in run.entries if any(flag.notice == notice.id for flag in entry.flags or ())), None)
    if flagged is not None and flagged.id in decided:
        return "decided in the run"
    later = await run_store.at_place(connection, run.row.machine_id, run.row.position_key, run.row.joint)
    newer = [row for row in later if row.started_at > ledger.moment(notice.at) and row.procedure == run.row.procedure]
    return "tightened again since" if await summaries.settled(connection, [row.id for row in newer]) else ""


async def _about(connection: AsyncConnection, notice: Notice, subject: SubjectKind, names: dict[UUID, str], fleet: dict[UUID, str]) -> str:
    if subject == "spec":
        spec = await spec_store.find(connection, notice.subject, notice.revision)
        return f"{spec.title}, {', '.join(f'{each.maker} {each.model}' for each in spec.applies_to)}, revision {spec.revision}"
    if subject == "tool":
        return (await tool_store.tool(connection, notice.subject)).name
    return names.get(notice.subject, "somebody") if subject == "person" else fleet.get(notice.subject, "")


async def reach(context: Context, actor: Actor, subject: str, stream: UUID) -> None:
    """Bring the newest notice of a stream into the runs under way that it is about; each once.

    Args:
        subject: spec, tool, person or machine.
    """
    await catch_up(context)

    async def work(connection: AsyncConnection) -> list[UUID]:
        notes = await ledger.notes(connection, subject, stream)
        found = await _of(connection, subject, stream, notes)
        if not found or found[-1].id != notes[-1].id:
            return []
        notice, reached = found[-1], []
        now = await _now(context, connection, notice, notes)
        for place in now.places:
            run = await context.load(connection, place.run)
            if place.open and all(flag.notice != notice.id for entry in run.entries for flag in entry.flags or ()):
                await ledger.add_next(connection, "run", place.run, _flagged(context, actor, place.run, now))
                reached.append(place.run)
        return reached

    for run_id in await context.database.run(work, transaction=True):
        context.listeners.changed(run_id, (await context.run(run_id)).seq)


def _flagged(context: Context, actor: Actor, run_id: UUID, notice: NoticeNow) -> ledger.Build:
    entry_id, at = new_id(), context.now()
    code: FlagCode = "recalled" if notice.kind in STOPS else "notice"
    words = f"{notice.kind}: {notice.about}" + (f", {notice.reason}" if notice.reason else "")
    return lambda seq: Entry(
        id=entry_id, kind="flagged", by=actor.person.id, recorded_by=actor.person.id, device=actor.device, at_device=at, at_server=at,
        run=run_id, seq=seq, flags=(Flag(code=code, words=words, notice=notice.id),),
    )  # fmt: skip


async def review(context: Context, actor: Actor, notice_id: UUID, request: Reviewed) -> None:
    """Say what was found at a place that a notice is about.

    Raises:
        NotOnFile: no notice has this id.
        Invalid: it is not about this run.
        NotAllowed: by somebody who may not decide.
    """
    require_right(actor.person.roles, "decide", "notice")
    found = next((each for each in await notices(context) if each.id == notice_id), None)
    if found is None:
        raise NotOnFile("notice", "No notice has this id.", "Open the list of notices again.")
    _require_among(found.places, request.run)

    def note(seq: int) -> Note:
        return Note(
            id=request.id, stream=found.subject, subject=found.subject_kind, kind="reviewed", seq=seq, by=actor.person.id,
            device=actor.device, at_server=context.now(), run=request.run, text=request.text.strip(),
        )  # fmt: skip

    async def work(connection: AsyncConnection) -> None:
        if not await done_before(connection, request.id, found.subject, note):
            await ledger.add_next(connection, found.subject_kind, found.subject, note)

    await context.database.run(work, transaction=True)


def _require_among(places: Collection[RecallPlace], run: UUID) -> None:
    if all(place.run != run for place in places):
        raise Invalid("run", "The notice is not about this run.", "Take one from its list.")
