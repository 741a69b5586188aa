"""Notices: what happened elsewhere reaches the runs under way, the bay, the machines, the people, and a list that is worked off."""

from collections.abc import Collection
from datetime import UTC, datetime
from uuid import UUID

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import require_right
from tight_ledger.core.machines.positions import words_of_key
from tight_ledger.core.records.entries import PHYSICAL, Entry, Flag, FlagCode
from tight_ledger.core.records.notes import Note
from tight_ledger.core.records.recalls import STOPS, Notice, NoticeKind
from tight_ledger.core.records.told import SubjectKind
from tight_ledger.core.runs.summary import summary_of
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command, done_before
from tight_ledger.services.context import Context, Remembered
from tight_ledger.services.people import names_shown
from tight_ledger.services.summaries import catch_up
from tight_ledger.store import ledger, summaries, told
from tight_ledger.store import machines as machine_store
from tight_ledger.store import runs as run_store
from tight_ledger.store import specs as spec_store
from tight_ledger.store import tools as tool_store
from tight_ledger.store.ids import new_id
from tight_ledger.store.runs import RunRow
from tight_ledger.store.told import FiledNotice

MOST_WORKED_OFF = 200
"""How many notices of which nothing is left are listed."""
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


async def notices(
    context: Context, machine_id: UUID | None = None, *, most_worked_off: int | None = MOST_WORKED_OFF
) -> tuple[NoticeNow, ...]:
    """The notices that reach a run, the newest first; of one machine, those that reach it.

    Args:
        most_worked_off: how many of those are listed too of which nothing is left, the newest; all of them with None.
    """
    await catch_up(context)

    async def work(connection: AsyncConnection) -> tuple[NoticeNow, ...]:
        names = await names_shown(connection)
        filed = await told.notices(connection, most_worked_off)
        found = [await _looked_at(context, connection, each, names) for each in filed]
        kept = [_of_machine(each, machine_id) for each in found]
        return tuple(sorted((each for each in kept if each.places), key=lambda each: (each.left == 0, -each.at.timestamp())))

    return await context.database.run(work)


async def _looked_at(context: Context, connection: AsyncConnection, filed: FiledNotice, names: dict[UUID, str]) -> NoticeNow:
    """A notice with its places. If nothing is left of it and nothing is under way, it is settled: home does not ask again."""
    now = await _now(context, connection, filed.notice, names)
    if now.left == 0 and not any(place.open for place in now.places):
        await told.settle(connection, filed)
    return now


def _of_machine(notice: NoticeNow, machine_id: UUID | None) -> NoticeNow:
    if machine_id is None:
        return notice
    places = tuple(place for place in notice.places if place.machine == machine_id)
    return notice.model_copy(update={"places": places, "left": sum(not place.worked_off for place in places)})


async def _rows(connection: AsyncConnection, notice: Notice) -> list[RunRow]:
    """The runs that a notice is about: those that began before it."""
    if notice.kind == "wrench in doubt":
        return await tool_store.runs_with(connection, notice.subject, notice.since, notice.at)
    if notice.kind == "spec withdrawn":
        rows = await run_store.to_revision(connection, notice.subject, [notice.revision or 1])
    elif notice.kind == "spec replaced":
        rows = await run_store.to_revision(connection, notice.subject, range(1, notice.revision or 1))
    elif notice.kind == "machine corrected":
        rows = await run_store.of_machine_before(connection, notice.subject, notice.at)
    else:
        rows = await run_store.open_now(connection)
    return [row for row in rows if row.started_at <= ledger.moment(notice.at)]


async def _now(context: Context, connection: AsyncConnection, notice: Notice, names: dict[UUID, str]) -> NoticeNow:
    rows = await _rows(connection, notice)
    about = {notice.subject} if ABOUT[notice.kind] == "machine" else set[UUID]()
    fleet = await machine_store.fleet_numbers(connection, {row.machine_id for row in rows} | about)
    short = await summaries.read(connection, [row.id for row in rows])
    again = await summaries.done_again(connection, [row.id for row in rows])
    flagged = await run_store.flagged(connection, [row.id for row in rows], notice.at)
    places = []
    for row in rows:
        known = short.get(row.id)
        if known is None or known.standing is None or row.id in flagged:  # its entries say it
            run = await context.readable(connection, row.id)
            known = summary_of(run.started, run.state, run.entries) if run is not None else None
            hands, decided = (_hands(run), _decided(notice, run)) if run is not None else (set[UUID](), False)
        else:
            hands, decided = set(known.people), False
        if notice.kind == "rights ended" and notice.subject not in hands:
            continue
        if known is None:
            places.append(
                RecallPlace(
                    run=row.id, machine=row.machine_id, fleet_number=fleet.get(row.machine_id, ""), position=words_of_key(row.position_key),
                    title=f"{row.joint}: its record cannot be read", at=row.started_at.replace(tzinfo=UTC), open=False,
                    worked_off=notice.reviewed.get(row.id, ""), people=(),
                )
            )  # fmt: skip
            continue
        since = "decided in the run" if decided else _tightened_again(again.get(row.id), notice) if known.standing is not None else ""
        places.append(
            RecallPlace(
                run=row.id, machine=row.machine_id, fleet_number=fleet.get(row.machine_id, ""), position=known.position,
                title=known.title or row.joint, at=known.started_at, open=known.standing is None,
                worked_off=notice.reviewed.get(row.id) or since,
                people=tuple(sorted(names.get(each, "somebody") for each in hands)),
            )
        )  # fmt: skip
    return NoticeNow(
        id=notice.id, kind=notice.kind, at=notice.at, by=names.get(notice.by, "") if notice.by is not None else "", reason=notice.reason,
        about=await _about(connection, notice, ABOUT[notice.kind], names, fleet), remedy=notice.remedy, subject=notice.subject,
        subject_kind=ABOUT[notice.kind], left=sum(not place.worked_off for place in places),
        places=tuple(sorted(places, key=lambda place: (bool(place.worked_off), not place.open, place.fleet_number))),
    )  # fmt: skip


def _tightened_again(began: datetime | None, notice: Notice) -> str:
    """Whether the place of a run was tightened again and well, before a notice or since; in words.

    Args:
        began: when the last run began that did so.
    """
    if began is None:
        return ""
    return "tightened again since" if began > ledger.moment(notice.at) else "tightened again before"


def _hands(run: Remembered) -> set[UUID]:
    return {entry.by for entry in run.entries if entry.kind in PHYSICAL}


def _decided(notice: Notice, run: Remembered) -> bool:
    """Whether somebody decided about a notice that was brought into a run."""
    decided = {entry.about for entry in run.entries if entry.kind in ("deviated", "clarified")}
    flagged = next((entry for entry in run.entries if any(flag.notice == notice.id for flag in entry.flags or ())), None)
    return flagged is not None and flagged.id in decided


async def _about(connection: AsyncConnection, notice: Notice, subject: SubjectKind, names: dict[UUID, str], fleet: dict[UUID, str]) -> str:
    if subject == "spec":
        spec = await spec_store.find(connection, notice.subject, notice.revision)
        return f"{spec.title}, {', '.join(f'{each.maker} {each.model}' for each in spec.applies_to)}, revision {spec.revision}"
    if subject == "tool":
        return (await tool_store.tool(connection, notice.subject)).name
    return names.get(notice.subject, "somebody") if subject == "person" else fleet.get(notice.subject, "")


async def reach(context: Context, actor: Actor, subject: SubjectKind, stream: UUID) -> None:
    """Bring the newest notice of a stream into the runs under way that it is about; each once."""
    await catch_up(context)

    async def work(connection: AsyncConnection) -> list[UUID]:
        notes = await ledger.notes(connection, subject, stream)
        found = (await told.derive(connection, subject, stream, notes)).notices
        if not found or found[-1].id != notes[-1].id:
            return []
        notice, reached = found[-1], []
        now = await _now(context, connection, notice, await names_shown(connection))
        for place in now.places:
            run = await context.readable(connection, place.run)
            if place.open and run is not None and all(flag.notice != notice.id for entry in run.entries for flag in entry.flags or ()):
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
    await catch_up(context)

    async def read(connection: AsyncConnection) -> NoticeNow | None:
        filed = await told.notice(connection, notice_id)
        return await _now(context, connection, filed.notice, {}) if filed is not None else None

    found = await context.database.run(read)
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
