"""A file of specs comes in: a rehearsal first, then all of it or nothing."""

from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base import Invalid, Model, MustAsk
from tight_ledger.core.revisions import in_force, statuses
from tight_ledger.core.spec_files import Row, SpecDocument, judge, read_document
from tight_ledger.core.specs import Spec
from tight_ledger.store import files, ledger
from tight_ledger.work.library import file_draft
from tight_ledger.work.office import Actor, Office


class Rehearsal(Model):
    """What would become of a file, spec by spec."""

    rows: tuple[Row, ...]
    added: int
    same: int
    asks: int
    refused: int


async def _judged(connection: AsyncConnection, raw: bytes, affirmed: bool) -> tuple[Rehearsal, list[Spec]]:
    on_file = await files.digests(connection)
    rows, specs = [], []
    for number, one in enumerate(read_document(raw), start=1):
        known = on_file.setdefault(_id(one), {})
        row, spec = judge(number, one, known, affirmed)
        if spec is not None:
            known[spec.revision] = spec.digest
            specs.append(spec)
        rows.append(row)
    count = {verdict: sum(row.verdict == verdict for row in rows) for verdict in ("new", "revision", "same", "asks", "refused")}
    told = Rehearsal(
        rows=tuple(rows), added=count["new"] + count["revision"], same=count["same"], asks=count["asks"], refused=count["refused"]
    )
    return told, specs


def _id(raw: object) -> UUID | None:
    try:
        return UUID(str(raw["id"])) if isinstance(raw, dict) else None
    except (KeyError, ValueError):
        return None


async def rehearse(office: Office, raw: bytes) -> Rehearsal:
    """What would be added, is there already, would be asked about or refused, and why. Nothing is written.

    Raises:
        Invalid: the file as a whole cannot be read.
    """
    told, _ = await office.database.run(lambda connection: _judged(connection, raw, affirmed=False))
    return told


async def bring_in(office: Office, actor: Actor, raw: bytes, affirmed: tuple[str, ...]) -> Rehearsal:
    """Put all of it on file, as drafts, in one transaction.

    Raises:
        Invalid: a spec is refused; then nothing was written.
        MustAsk: figures are unlikely, and nobody said that they are right.
    """

    async def work(connection: AsyncConnection) -> Rehearsal:
        told, specs = await _judged(connection, raw, "figure" in affirmed)
        if refused := next((row for row in told.rows if row.verdict == "refused"), None):
            raise Invalid(f"specs.{refused.number}.{refused.field}", f"“{refused.title}”: {refused.fault}", refused.remedy)
        if odd := next((row for row in told.rows if row.verdict == "asks"), None):
            raise MustAsk("figure", f"specs.{odd.number}", f"“{odd.title}”: {odd.fault}", "Look at the rehearsal.")
        for spec in specs:
            await file_draft(office, connection, actor, spec)
        return told

    return await office.database.run(work, transaction=True)


async def export(office: Office) -> SpecDocument:
    """The revisions in force of every spec."""

    async def work(connection: AsyncConnection) -> SpecDocument:
        standing = {spec: statuses(notes) for spec, notes in (await ledger.notes_by_stream(connection, "spec")).items()}
        offered = {spec: number for spec, found in standing.items() if (number := in_force(found)) is not None}
        specs = await files.specs(connection, offered.items())
        return SpecDocument(specs=tuple(sorted(specs, key=lambda spec: (spec.title, str(spec.id)))))

    return await office.database.run(work)
