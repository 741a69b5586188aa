"""Spec revisions, each stored whole as JSON."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from hashlib import sha256
from typing import TypeVar
from uuid import UUID

import structlog
from pydantic import ValidationError
from sqlalchemy import insert, select, tuple_
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile, Unreadable
from tight_ledger.core.base.models import canonical
from tight_ledger.core.records.notes import Note
from tight_ledger.core.specs.spec import Spec
from tight_ledger.store import tables
from tight_ledger.store.ledger import notes

log = structlog.get_logger()
T = TypeVar("T")


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
    """The revisions named, for a list: without those that cannot be read."""
    table = tables.spec_revisions
    if not revisions:
        return []
    query = select(table.c.content).where(tuple_(table.c.spec_id, table.c.revision).in_(list(revisions)))
    return [spec for row in await connection.execute(query) if (spec := _read(row.content)) is not None]


def _read(content: str) -> Spec | None:
    """A stored spec; None if it cannot be read."""
    try:
        return Spec.model_validate_json(content)
    except ValidationError as error:
        log.error("unreadable spec", exc_info=error)
        return None


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
    told = await notes(connection, "spec", spec_id)
    newest = max((note.revision or 0 for note in told if note.kind == "entered"), default=0)
    return only(await as_entered(connection, {spec_id: revision or newest}, {spec_id: told}))


async def as_entered(connection: AsyncConnection, revisions: Mapping[UUID, int], told: Mapping[UUID, Sequence[Note]]) -> list[Spec]:
    """Read one revision of each spec, in the order given, and compare it with the digest that was sealed when it was entered.

    Args:
        revisions: the revision to read, by spec.
        told: the ledger entries, by spec.

    Returns:
        Those that are what was entered; others, which were changed in the database, are left out.

    Raises:
        NotOnFile: the entries of a spec name no such revision.
    """
    digests = {(spec_id, note.revision): note.digest for spec_id, notes in told.items() for note in notes if note.kind == "entered"}
    if not revisions.items() <= digests.keys():
        raise NotOnFile("spec", "No spec on file has this id.", "Find it by machine and joint.")
    table, found = tables.spec_revisions, dict[UUID, Spec]()
    query = select(table.c.spec_id, table.c.revision, table.c.content).where(
        tuple_(table.c.spec_id, table.c.revision).in_(list(revisions.items()))
    )
    for row in await connection.execute(query):
        spec, sealed = _read(row.content), digests[row.spec_id, row.revision]
        if spec is not None and sealed in (spec.digest, sha256(row.content.encode()).hexdigest()):  # the second: by earlier versions
            found[row.spec_id] = spec
    return [found[spec_id] for spec_id in revisions if spec_id in found]


def only(read: Sequence[T]) -> T:
    """The only one of a list of specs that was asked for by name.

    Raises:
        Unreadable: it was left out.
    """
    if not read:
        raise Unreadable("spec", "This spec is not what was entered: it was changed in the database.", "Do not work to it; tell a lead.")
    return read[0]
