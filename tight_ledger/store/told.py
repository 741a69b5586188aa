"""What the streams of machines, specs, tools and people have told, derived from their entries; and which notices are not worked off."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy import Uuid, and_, delete, func, literal, or_, select, update
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Unreadable
from tight_ledger.core.base.models import canonical
from tight_ledger.core.library.revisions import changes
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.records.notes import Note
from tight_ledger.core.records.recalls import Notice, of_machine, of_person, of_spec, of_tool
from tight_ledger.core.records.told import TELLS, StreamInShort, SubjectKind, in_short
from tight_ledger.core.tool_care.suspect_periods import in_doubt
from tight_ledger.store import specs as spec_store
from tight_ledger.store.ids import new_id
from tight_ledger.store.ledger import moment, notes_of
from tight_ledger.store.tables import ledger, notices_now, told_now, told_stale


@dataclass(frozen=True, slots=True)
class StaleStream:
    """A stream of which what it has told is to be derived again, and the mark that said so."""

    stream: UUID
    subject: SubjectKind
    mark: UUID


@dataclass(frozen=True, slots=True)
class FiledNotice:
    """A notice, and the mark under which it may be settled."""

    notice: Notice
    mark: UUID


async def derive(connection: AsyncConnection, subject: SubjectKind, stream: UUID, notes: Sequence[Note]) -> StreamInShort:
    """What a stream has told, from its entries."""
    if subject == "tool":
        return in_short(notes, [_doubted(notice, notes) for notice in of_tool(notes)])
    if subject == "person":
        return in_short(notes, of_person(notes))
    if subject == "machine":
        return in_short(notes, of_machine(notes))
    if not any(note.kind == "checked" and (note.revision or 1) > 1 for note in notes):
        return in_short(notes, of_spec(notes, {}))
    every = {(stream, note.revision) for note in notes if note.kind == "entered" and note.revision is not None}
    specs = {spec.revision: spec for spec in await spec_store.read_many(connection, every)}
    return in_short(notes, of_spec(notes, dict(changes(notes, specs))))


def _doubted(notice: Notice, notes: Sequence[Note]) -> Notice:
    window = in_doubt([note for note in notes if note.at_server <= notice.at])
    return notice.model_copy(update={"since": window.since if window is not None else None})


async def read(connection: AsyncConnection, subject: SubjectKind, streams: Collection[UUID]) -> dict[UUID, StreamInShort]:
    """By stream, what it has told; of those that are out of date, from their entries. Streams that cannot be read have told nothing."""
    stale = set((await connection.execute(select(told_stale.c.stream).where(told_stale.c.stream.in_(streams)))).scalars())
    query = select(told_now.c.stream, told_now.c.content).where(told_now.c.stream.in_(set(streams) - stale))
    found = {row.stream: StreamInShort.model_validate_json(row.content) for row in await connection.execute(query)}
    if stale:
        for stream, notes in (await notes_of(connection, subject, stale)).items():
            if not isinstance(notes, Unreadable):
                found[stream] = await derive(connection, subject, stream, notes)
    return {stream: found.get(stream, StreamInShort()) for stream in streams}


async def meters(connection: AsyncConnection, machine_id: UUID) -> tuple[Meter, ...]:
    """A machine's newest meter readings."""
    return tuple((await read(connection, "machine", [machine_id]))[machine_id].meters.values())


async def out_of_date(connection: AsyncConnection) -> list[StaleStream]:
    """The streams of which what they have told is out of date."""
    return [StaleStream(row.stream, row.subject, row.mark) for row in await connection.execute(select(told_stale))]


async def again(connection: AsyncConnection, of: StaleStream) -> None:
    """Derive what a stream has told; if it was marked again meanwhile, it stays marked. Its notices are to be looked at again."""
    notes = (await notes_of(connection, of.subject, [of.stream])).get(of.stream, [])
    told = await derive(connection, of.subject, of.stream, notes) if not isinstance(notes, Unreadable) else StreamInShort()
    given = {"subject": of.subject, "content": canonical(told).decode()}
    await connection.execute(insert(told_now).values(stream=of.stream, **given).on_duplicate_key_update(**given))
    rows = [{"id": each.id, "stream": of.stream, "at": moment(each.at), "settled": False, "mark": new_id()} for each in told.notices]
    if rows:
        inserting = insert(notices_now)
        said = {name: inserting.inserted[name] for name in ("settled", "mark")}
        await connection.execute(inserting.on_duplicate_key_update(said), rows)
    await connection.execute(delete(told_stale).where(told_stale.c.stream == of.stream, told_stale.c.mark == of.mark))


async def mark_all(connection: AsyncConnection) -> None:
    """Say of every stream that has told something that it is out of date."""
    tells = or_(*(and_(ledger.c.subject == subject, ledger.c.kind.in_(kinds)) for subject, kinds in TELLS.items()))
    first_check = and_(ledger.c.kind == "checked", func.json_value(ledger.c.body, "$.revision") == "1")
    query = select(ledger.c.stream, ledger.c.subject, literal(new_id(), Uuid())).where(tells, ~first_check).distinct()
    statement = insert(told_stale).from_select(["stream", "subject", "mark"], query)
    await connection.execute(statement.on_duplicate_key_update(mark=statement.inserted.mark))


async def notices(connection: AsyncConnection, most_settled: int | None) -> list[FiledNotice]:
    """Every notice that is not settled, and the newest of the others, or all of them (None); the newest first."""
    columns = (notices_now.c.id, notices_now.c.mark, told_now.c.content)
    query = select(*columns).join(told_now, told_now.c.stream == notices_now.c.stream).order_by(notices_now.c.at.desc())
    rows = list(await connection.execute(query.where(notices_now.c.settled.is_(False))))
    if most_settled != 0:
        rows += await connection.execute(query.where(notices_now.c.settled.is_(True)).limit(most_settled))
    return [found for row in rows if (found := _filed(row.id, row.mark, row.content)) is not None]


async def notice(connection: AsyncConnection, notice_id: UUID) -> FiledNotice | None:
    """The notice of this id."""
    query = select(notices_now.c.id, notices_now.c.mark, told_now.c.content).join(told_now, told_now.c.stream == notices_now.c.stream)
    row = (await connection.execute(query.where(notices_now.c.id == notice_id))).first()
    return _filed(row.id, row.mark, row.content) if row is not None else None


def _filed(notice_id: UUID, mark: UUID, content: str) -> FiledNotice | None:
    told = StreamInShort.model_validate_json(content).notices
    return next((FiledNotice(each, mark) for each in told if each.id == notice_id), None)


async def settle(connection: AsyncConnection, filed: FiledNotice) -> None:
    """Say that all places of a notice were looked at; not if this was to be asked again meanwhile."""
    same = notices_now.c.id == filed.notice.id, notices_now.c.mark == filed.mark
    await connection.execute(update(notices_now).where(*same).values(settled=True))


async def unsettle(connection: AsyncConnection, streams: Iterable[UUID], since: datetime) -> None:
    """Say that the notices of some streams since a moment are to be looked at again."""
    about = notices_now.c.stream.in_(list(streams)), notices_now.c.at >= moment(since)
    await connection.execute(update(notices_now).where(*about).values(settled=False, mark=new_id()))
