"""A library that is kept at a centre, put on file in a depot as checked revisions."""

from collections.abc import Iterable
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, Unreadable
from tight_ledger.core.base.people import require_right
from tight_ledger.core.library.revisions import statuses
from tight_ledger.core.library.sanity import require_sound
from tight_ledger.core.spec_table.files import Candidate
from tight_ledger.core.specs.spec import Spec
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.notices import reach
from tight_ledger.services.specs.revisions import file_specs, take_back
from tight_ledger.store import ledger
from tight_ledger.store import specs as spec_store

TAKEN_BACK = "not in the centre's library any more"


@dataclass(frozen=True, slots=True)
class BroughtIn:
    """What became of a library."""

    new: int
    same: int
    taken_back: int


async def bring(context: Context, actor: Actor, candidates: Iterable[Candidate], key: str) -> BroughtIn:
    """Put a library on file, all of it or nothing: it was checked at the centre, and is in force here.

    What came by an earlier library of the same key and is not in this is withdrawn. Runs under way are told.

    Args:
        actor: a lead, who brings it in.
        key: whose signature was found on it.

    Raises:
        NotAllowed: by somebody who is not a lead.
        Invalid: one of its specs cannot be put on file.
    """
    require_right(actor.person.roles, "withdraw_spec", "by")
    specs = [_spec(each) for each in candidates]

    async def work(connection: AsyncConnection) -> tuple[BroughtIn, set[UUID]]:
        on_file = await spec_store.digests(connection, {spec.id for spec in specs})
        filed = []
        for entered in map(spec_store.Filed.of, specs):
            known = on_file.get(entered.spec.id, {}).get(entered.spec.revision)
            if known is None:
                filed.append(entered)
            elif known != entered.digest:
                where = f"“{entered.spec.title}”, revision {entered.spec.revision}"
                raise Invalid("file", f"{where} is on file here and says something else.", "Nothing was written. Withdraw it here first.")
        await file_specs(context, connection, actor, filed, actor, library=key)
        gone = await _came_by(connection, key) - {(spec.id, spec.revision) for spec in specs}
        for spec_id, revision in sorted(gone):
            await take_back(context, connection, actor, spec_id, revision, TAKEN_BACK)
        told = {entered.spec.id for entered in filed} | {spec_id for spec_id, _ in gone}
        return BroughtIn(len(filed), len(specs) - len(filed), len(gone)), told

    brought, told = await context.database.run(work, transaction=True)
    for spec_id in sorted(told):
        await reach(context, actor, "spec", spec_id)
    return brought


def _spec(candidate: Candidate) -> Spec:
    if candidate.spec is None:
        why = candidate.refused[0]
        raise Invalid("file", f"Spec {candidate.number}, “{why.title}”: {why.fault}", f"Nothing was written. {why.remedy}")
    require_sound(candidate.spec)
    return candidate.spec


async def _came_by(connection: AsyncConnection, key: str) -> set[tuple[UUID, int]]:
    """The revisions in force here that came by a library of a key."""
    streams = await ledger.streams_with(connection, "spec", ("checked",))
    found: set[tuple[UUID, int]] = set()
    for stream, notes in (await ledger.notes_of(connection, "spec", streams)).items():
        if isinstance(notes, Unreadable):
            continue
        stands = statuses(notes)
        found |= {
            (stream, note.revision)
            for note in notes
            if note.library == key and note.kind == "checked" and note.revision is not None and stands[note.revision] == "current"
        }
    return found
