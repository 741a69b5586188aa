"""Spec revisions, each stored whole as JSON."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from hashlib import sha256
from uuid import UUID

from sqlalchemy import insert, select, tuple_
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile, Unreadable
from tight_ledger.core.base.models import canonical
from tight_ledger.core.specs.spec import Spec
from tight_ledger.store import tables
from tight_ledger.store.ledger import notes


@dataclass(frozen=True, slots=True)
class Filed:
    """A revision with its stored form."""

    spec: Spec
    digest: str
    content: str

    @classmethod
    def of(cls, spec: Spec) -> "Filed":
        """A revision, its digest and its canonical JSON."""
        return cls(spec, spec.digest, canonical(spec).decode())


async def add(connection: AsyncConnection, filed: Sequence[Filed]) -> None:
    """Put revisions on file.

    Raises:
        Invalid: one of them is there already.
    """
    table = tables.spec_revisions
    rows = [
        {"spec_id": entry.spec.id, "revision": entry.spec.revision, "digest": entry.digest, "content": entry.content} for entry in filed
    ]
    named = [(entry.spec.id, entry.spec.revision) for entry in filed]
    if (await connection.execute(select(table.c.spec_id).where(tuple_(table.c.spec_id, table.c.revision).in_(named)))).first() is not None:
        said = f"Revision {filed[0].spec.revision} of this spec is" if len(filed) == 1 else "One of these specs is"
        raise Invalid("revision", f"{said} on file already.", "Give the next number.")
    await connection.execute(insert(table), rows)


async def read_many(connection: AsyncConnection, revisions: Collection[tuple[UUID, int]]) -> list[Spec]:
    """The revisions named."""
    table = tables.spec_revisions
    if not revisions:
        return []
    query = select(table.c.content).where(tuple_(table.c.spec_id, table.c.revision).in_(list(revisions)))
    return [Spec.model_validate_json(row.content) for row in await connection.execute(query)]


async def digests(connection: AsyncConnection, specs: Collection[UUID]) -> dict[UUID, dict[int, str]]:
    """By spec and revision, the digests of what is on file."""
    table = tables.spec_revisions
    found: dict[UUID, dict[int, str]] = {}
    for row in await connection.execute(select(table.c.spec_id, table.c.revision, table.c.digest).where(table.c.spec_id.in_(specs))):
        found.setdefault(row.spec_id, {})[row.revision] = row.digest
    return found


async def find(connection: AsyncConnection, spec_id: UUID, revision: int | None = None) -> Spec:
    """One revision, the newest by default.

    Raises:
        NotOnFile: no spec has this id, or not this revision.
        Unreadable: it is not what was sealed when it was entered.
    """
    table = tables.spec_revisions
    query = select(table.c.content, table.c.revision).where(table.c.spec_id == spec_id).order_by(table.c.revision.desc()).limit(1)
    if revision is not None:
        query = query.where(table.c.revision == revision)
    row = (await connection.execute(query)).first()
    if row is None:
        raise NotOnFile("spec", "No spec on file has this id.", "Find it by machine and joint.")
    spec = Spec.model_validate_json(row.content)
    entered = (n for n in await notes(connection, "spec", spec_id) if n.kind == "entered" and n.revision == row.revision)
    if next(entered).digest not in (spec.digest, sha256(row.content.encode()).hexdigest()):  # the second: how earlier versions sealed it
        raise Unreadable("spec", "This spec is not what was entered: it was changed in the database.", "Do not work to it; tell a lead.")
    return spec
