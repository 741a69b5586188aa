"""The library: revisions, who checked them, what they replace, and who was tightened to an older one."""

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Literal
from uuid import UUID

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, MustAsk, NotAllowed, Unreadable
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import require_right
from tight_ledger.core.library.revisions import Difference, Status, changes, compare, require_next, statuses
from tight_ledger.core.library.sanity import doubts, require_sound
from tight_ledger.core.library.sheet import sheet
from tight_ledger.core.machines.positions import words_of_key
from tight_ledger.core.records.notes import Note
from tight_ledger.core.records.recalls import MATTERS
from tight_ledger.core.records.seals import FIRST
from tight_ledger.core.search.index import CURRENT, DRAFT
from tight_ledger.core.specs.spec import MinimalSpec, Spec
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command, done_before
from tight_ledger.services.context import Context
from tight_ledger.services.notices import reach
from tight_ledger.store import ledger
from tight_ledger.store import machines as machine_store
from tight_ledger.store import people as people_store
from tight_ledger.store import places as place_store
from tight_ledger.store import search as search_store
from tight_ledger.store import specs as spec_store
from tight_ledger.store.ids import new_id


class RevisionLine(Model):
    """One revision in a spec's history."""

    revision: int
    change: str
    status: Status
    entered_by: str
    entered_at: datetime
    checked_by: str = ""
    reason: str = ""


class Affected(Model):
    """A place that was last tightened to an older revision."""

    machine: UUID
    fleet_number: str
    position: str
    run: UUID
    revision: int
    at: datetime


class History(Model):
    """A spec's revisions, newest first, and the places to look at again after a change of figure or safety."""

    revisions: tuple[RevisionLine, ...]
    affected: tuple[Affected, ...]


class ToCheck(Model):
    """A draft that waits for a second person."""

    spec: UUID
    revision: int
    title: str
    maker_model: str
    entered_by: str
    used: int


MOST_TO_CHECK = 50
"""Number of drafts that are listed on the home screen; the rest is counted."""


class Withdraw(Command):
    """Why a revision is no longer worked to."""

    reason: str = Field(min_length=1, max_length=500)


def _note(
    context: Context,
    actor: Actor | None,
    spec: Spec,
    kind: Literal["entered", "checked", "withdrawn"],
    *,
    text: str | None = None,
    digest: str | None = None,
    note_id: UUID | None = None,
    library: str | None = None,
) -> ledger.Build:
    said = digest or spec.digest

    def build(seq: int) -> Note:
        return Note(
            id=note_id or new_id(), stream=spec.id, subject="spec", kind=kind, seq=seq, revision=spec.revision, digest=said, text=text,
            library=library,
            by=actor.person.id if actor else None, device=actor.device if actor else None, at_server=context.now(),
        )  # fmt: skip

    return build


async def _append(connection: AsyncConnection, spec: Spec, build: ledger.Build) -> None:
    """Add to a spec's stream, and let the search know how its revisions stand now."""
    await ledger.add_next(connection, "spec", spec.id, build)
    await search_store.stand(connection, spec.id, statuses(await ledger.notes(connection, "spec", spec.id)))


async def _file_draft(context: Context, connection: AsyncConnection, actor: Actor | None, spec: Spec) -> None:
    """Put a revision on file, with the entry that says who did.

    Raises:
        Invalid: it does not follow the newest revision.
    """
    if (await spec_store.digests(connection, {spec.id})).get(spec.id, {}).get(spec.revision) == spec.digest:
        return  # sent again
    notes = await ledger.notes(connection, "spec", spec.id)
    if not notes:
        await ledger.require_free(connection, [spec.id])
    require_next(spec, statuses(notes))
    await spec_store.add(connection, [spec_store.Filed.of(spec)])
    await search_store.add(connection, [(spec, DRAFT)])
    await _append(connection, spec, _note(context, actor, spec, "entered"))


async def file_specs(
    context: Context,
    connection: AsyncConnection,
    actor: Actor | None,
    filed: Sequence[spec_store.Filed],
    checked_by: Actor | None = None,
    library: str | None = None,
) -> None:
    """Put many judged revisions on file at once; those on file already stay as they are.

    Args:
        library: the public key of the signed library by which they came.
    """
    on_file = await spec_store.digests(connection, {entered.spec.id for entered in filed})
    fresh = [entered for entered in filed if on_file.get(entered.spec.id, {}).get(entered.spec.revision) != entered.digest]
    while fresh:
        turn: dict[UUID, spec_store.Filed] = {}
        later = []  # further revisions of the same spec
        for entered in fresh:
            if turn.setdefault(entered.spec.id, entered) is not entered:
                later.append(entered)
        fresh = later
        await ledger.require_free(connection, [spec_id for spec_id in turn if spec_id not in on_file])
        await spec_store.add(connection, list(turn.values()))
        await search_store.add(connection, [(entered.spec, DRAFT if checked_by is None else CURRENT) for entered in turn.values()])
        notes = []
        for entered in turn.values():
            builds = [_note(context, actor, entered.spec, "entered", digest=entered.digest, library=library)]
            if checked_by is not None:
                builds.append(_note(context, checked_by, entered.spec, "checked", digest=entered.digest, library=library))
            notes.append(
                (entered.spec.id, builds, await ledger.head(connection, entered.spec.id) if entered.spec.id in on_file else (0, FIRST))
            )
        await ledger.add_many(connection, "spec", notes)
        for entered in turn.values():
            if entered.spec.id in on_file:
                await search_store.stand(connection, entered.spec.id, statuses(await ledger.notes(connection, "spec", entered.spec.id)))
            on_file.setdefault(entered.spec.id, {})[entered.spec.revision] = entered.digest


async def enter_spec(
    context: Context, actor: Actor | None, spec: Spec, *, checked_by: Actor | None = None, affirmed: Sequence[str] = ()
) -> UUID:
    """Put a revision on file, a draft unless somebody else has checked it already.

    Raises:
        Invalid: a procedure that no wrench could follow, or a revision that does not follow the newest.
        MustAsk: a figure is unlikely for its thread, or falls from stage to stage, and nobody said that it is right.
    """
    require_sound(spec)
    sheet(spec, (await context.shop()).policy)
    if "figure" not in affirmed and (odd := doubts(spec)):
        raise MustAsk("figure", "torque", " ".join(odd), "Look at the document once more.")

    async def work(connection: AsyncConnection) -> None:
        await _file_draft(context, connection, actor, spec)
        if checked_by is not None:
            await _append(connection, spec, _note(context, checked_by, spec, "checked"))

    await context.database.run(work, transaction=True)
    return spec.id


class EnterMinimal(Command, MinimalSpec):
    """The minimal form; its id becomes the spec's."""


async def enter_minimal(context: Context, actor: Actor, request: EnterMinimal, affirmed: Sequence[str]) -> UUID:
    """The minimal form: a typed figure, thread, count, source; a draft.

    Raises:
        Invalid: the figure, the thread or the count cannot be used.
        MustAsk: the figure is unlikely for its thread.
    """
    return await enter_spec(context, actor, request.to_spec(request.id), affirmed=affirmed)


async def check(context: Context, actor: Actor, spec_id: UUID, revision: int, request: Command) -> None:
    """A second person has held a draft against its document.

    Raises:
        NotAllowed: by the one who entered it.
        Invalid: it is no draft.
    """

    async def work(connection: AsyncConnection) -> None:
        spec = await spec_store.find(connection, spec_id, revision)
        note = _note(context, actor, spec, "checked", note_id=request.id)
        if await done_before(connection, request.id, spec_id, note):
            return
        notes = await ledger.notes(connection, "spec", spec_id)
        if statuses(notes).get(revision) != "draft":
            raise Invalid("revision", f"Revision {revision} is no draft.", "Open its history.")
        entered = next(n for n in notes if n.kind == "entered" and n.revision == revision)
        if entered.by == actor.person.id:
            raise NotAllowed("by", "Who entered a spec does not check it.", "Ask a second person to hold it against the document.")
        await _append(connection, spec, note)

    await context.database.run(work, transaction=True)
    await reach(context, actor, "spec", spec_id)


async def withdraw(context: Context, actor: Actor, spec_id: UUID, revision: int, request: Withdraw) -> None:
    """A lead takes a revision out of use, with a reason.

    Raises:
        NotAllowed: by somebody who is not a lead.
        Invalid: it is withdrawn already.
    """
    require_right(actor.person.roles, "withdraw_spec", "revision")

    async def work(connection: AsyncConnection) -> None:
        spec = await spec_store.find(connection, spec_id, revision)
        note = _note(context, actor, spec, "withdrawn", text=request.reason, note_id=request.id)
        if await done_before(connection, request.id, spec_id, note):
            return
        if statuses(await ledger.notes(connection, "spec", spec_id)).get(revision) == "withdrawn":
            raise Invalid("revision", f"Revision {revision} is withdrawn already.", "Open its history.")
        await _append(connection, spec, note)

    await context.database.run(work, transaction=True)
    await reach(context, actor, "spec", spec_id)


async def take_back(context: Context, connection: AsyncConnection, actor: Actor, spec_id: UUID, revision: int, why: str) -> None:
    """Withdraw a revision, within a transaction."""
    spec = await spec_store.find(connection, spec_id, revision)
    await _append(connection, spec, _note(context, actor, spec, "withdrawn", text=why))


async def history(context: Context, spec_id: UUID) -> History:
    """A spec's revisions, and who was tightened to an older one.

    Raises:
        NotOnFile: no spec has this id.
    """

    async def work(connection: AsyncConnection) -> History:
        notes = await ledger.notes(connection, "spec", spec_id)
        found, names = statuses(notes), {p.id: p.name for p in await people_store.everybody(connection)}
        specs = {number: await spec_store.find(connection, spec_id, number) for number in found}
        lines = [_line(spec, found[number], notes, names) for number, spec in sorted(specs.items(), reverse=True)]
        matters = {n for n, change in changes(notes, specs).items() if change in MATTERS}
        since = max((n for n in matters if found[n] == "current"), default=0)
        return History(revisions=tuple(lines), affected=tuple(await _affected(connection, spec_id, since)))

    return await context.database.run(work)


def _line(spec: Spec, status: Status, notes: list[Note], names: Mapping[UUID, str]) -> RevisionLine:
    of_it = {note.kind: note for note in notes if note.revision == spec.revision}
    entered, checked, withdrawn = of_it["entered"], of_it.get("checked"), of_it.get("withdrawn")
    return RevisionLine(
        revision=spec.revision,
        change=spec.change,
        status=status,
        entered_by=names.get(entered.by, "") if entered.by else "",
        entered_at=entered.at_server,
        checked_by=names.get(checked.by, "") if checked and checked.by else "",
        reason=withdrawn.text or "" if withdrawn else "",
    )


async def _affected(connection: AsyncConnection, spec_id: UUID, since: int) -> list[Affected]:
    rows = await place_store.worked_to(connection, spec_id)
    fleet = await machine_store.fleet_numbers(connection, {row.machine_id for row in rows})
    found = []
    for row in rows:
        if row.spec_revision < since:
            found.append(
                Affected(
                    machine=row.machine_id, fleet_number=fleet[row.machine_id], position=words_of_key(row.position_key),
                    run=row.id, revision=row.spec_revision, at=row.started_at.replace(tzinfo=UTC),
                )
            )  # fmt: skip
    return found


async def differences(context: Context, spec_id: UUID, old: int, new: int) -> tuple[Difference, ...]:
    """Two revisions, line by line.

    Raises:
        NotOnFile: a revision is not there.
    """
    policy = (await context.shop()).policy

    async def work(connection: AsyncConnection) -> tuple[Difference, ...]:
        return compare(await spec_store.find(connection, spec_id, old), await spec_store.find(connection, spec_id, new), policy)

    return await context.database.run(work)


async def to_check(connection: AsyncConnection) -> tuple[list[ToCheck], int]:
    """Drafts that wait for a second person, those that were worked to first, and how many there are in all."""
    used = await search_store.drafts_used(connection)
    found, many = await search_store.drafts(connection, list(used), MOST_TO_CHECK)
    specs = {(spec.id, spec.revision): spec for spec in await spec_store.read_many(connection, found)}
    notes = await ledger.notes_of(connection, "spec", {spec for spec, _ in found})
    names = {p.id: p.name for p in await people_store.everybody(connection)}
    waiting = []
    for (spec_id, revision), spec in specs.items():
        said = notes[spec_id]
        if isinstance(said, Unreadable):
            continue
        entered = next(n for n in said if n.kind == "entered" and n.revision == revision)
        waiting.append(
            ToCheck(
                spec=spec_id, revision=revision, title=spec.title, used=used.get((spec_id, revision), 0),
                maker_model=", ".join(f"{a.maker} {a.model}" for a in spec.applies_to),
                entered_by=names.get(entered.by, "") if entered.by else "",
            )
        )  # fmt: skip
    return sorted(waiting, key=lambda line: (-line.used, line.title)), many
