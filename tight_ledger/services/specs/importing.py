"""A file of specs comes in: a rehearsal first, then all of it or nothing. It is read piece by piece, beside other work."""

import asyncio
from collections.abc import AsyncIterator, Iterator
from itertools import islice
from pathlib import Path
from typing import TypeVar
from uuid import UUID

from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Fault, Invalid, NotOnFile, Stale
from tight_ledger.core.spec_table.files import Candidate, FileRow, FileVerdict, judge
from tight_ledger.core.specs.spec import Spec
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.imports import Import, ImportProgress, ImportTrouble, Read, Rehearsal
from tight_ledger.services.specs.revisions import file_specs
from tight_ledger.store import search as search_store
from tight_ledger.store import specs as spec_store
from tight_ledger.store.database import DatabaseAway

AT_ONCE = 200
MOST_SHOWN, MOST_FINE_SHOWN = 300, 100
MOST_KEPT = 8
TO_WRITE: frozenset[FileVerdict] = frozenset({"new", "revision", "asks"})
T = TypeVar("T")


async def _pieces(reading: Iterator[T]) -> AsyncIterator[list[T]]:
    """Items in batches, each read in a thread so that the event loop is free."""
    while piece := await asyncio.to_thread(lambda: list(islice(reading, AT_ONCE))):
        yield piece


def receive(context: Context, actor: Actor, import_id: UUID, name: str, path: Path, read: Read) -> ImportProgress:
    """Take a file in and begin its rehearsal; the same id twice is once. Nothing is written to the library."""
    if import_id in context.imports:
        path.unlink(missing_ok=True)
        return context.imports[import_id].progress()
    while len(context.imports) >= MOST_KEPT:
        _, oldest = context.imports.popitem(last=False)
        if oldest.task is not None:
            oldest.task.cancel()
        oldest.forget()
    import_ = context.imports[import_id] = Import(import_id, name, path, read, actor)
    import_.task = asyncio.create_task(_guarded(import_, _rehearse(context, import_)))
    return import_.progress()


def look(context: Context, import_id: UUID) -> Import:
    """An import that was received.

    Raises:
        NotOnFile: none has this id; the program may have been started anew.
    """
    if import_id not in context.imports:
        raise NotOnFile("file", "This file is no longer here.", "Send it again.")
    return context.imports[import_id]


def bring_in(context: Context, actor: Actor, import_id: UUID, affirmed: bool) -> ImportProgress:
    """Begin to put all of it on file, as drafts, in one transaction.

    Raises:
        Invalid: it was refused, asks and nobody answered, or is not judged yet.
    """
    sent = look(context, import_id)
    told = sent.rehearsal
    if sent.state in ("writing", "done"):
        return sent.progress()
    if sent.state != "judged" or told.refused:
        raise Invalid("file", "This file is not ready to come in.", "Look at its rehearsal.")
    if told.asks and not affirmed:
        raise Invalid("file", f"{told.asks} figures are unlikely.", "Look at them, and say that they are as written.")
    sent.state, sent.done, sent.actor = "writing", 0, actor
    sent.task = asyncio.create_task(_guarded(sent, _write(context, sent)))
    return sent.progress()


async def _guarded(import_: Import, work: "asyncio.Future[None] | object") -> None:
    """Do some work on an import; an error is kept as its trouble, and nothing goes on file."""
    try:
        await work  # type: ignore[misc]
    except Fault as fault:
        import_.trouble, import_.state = ImportTrouble(field=fault.field, fault=fault.fault, remedy=fault.remedy), "failed"
    except DatabaseAway:
        import_.trouble = ImportTrouble(field="file", fault="The database is away.", remedy="Nothing was written. Send the file again.")
        import_.state = "failed"
    except IntegrityError:
        taken = Stale("file", "Somebody else put one of these specs on file meanwhile.", "Send the file again.")
        import_.trouble, import_.state = ImportTrouble(field="file", fault=taken.fault, remedy=taken.remedy), "failed"
    except Exception:
        import_.trouble = ImportTrouble(
            field="file", fault="The file could not be read to its end.", remedy="Nothing was written. Look at the file."
        )
        import_.state = "failed"
        raise


async def _rehearse(context: Context, import_: Import) -> None:
    came: dict[UUID, dict[int, str]] = {}  # by spec, the newest revision that came earlier in this file
    counts: dict[FileVerdict, int] = dict.fromkeys(("new", "revision", "same", "asks", "refused"), 0)
    bad: list[FileRow] = []
    fine: list[FileRow] = []

    def judge_all(piece: list[Candidate], on_file: dict[UUID, dict[int, str]]) -> str:
        lines = []
        for candidate in piece:
            spec = candidate.spec
            known = on_file.get(spec.id, {}) | came.get(spec.id, {}) if spec is not None else {}
            rows = judge(candidate, known, affirmed=False)
            counts[rows[0].verdict] += 1
            (bad if rows[0].fault else fine).extend(rows)
            if spec is not None and rows[0].verdict in TO_WRITE:
                filed = spec_store.Filed.of(spec)
                came[spec.id] = {spec.revision: filed.digest}
                lines.append(f"{filed.digest} {filed.content}\n")
        return "".join(lines)

    with import_.judged.open("w", encoding="utf-8") as judged:
        async for piece in _pieces(import_.read(import_.path)):
            ids = {candidate.spec.id for candidate in piece if candidate.spec is not None}
            on_file = await context.database.run(lambda connection, ids=ids: spec_store.digests(connection, ids))  # type: ignore[misc]
            judged.write(await asyncio.to_thread(judge_all, piece, on_file))
            del bad[MOST_SHOWN:], fine[MOST_FINE_SHOWN:]
            import_.done += len(piece)
            shown = tuple(sorted((*bad, *fine), key=lambda row: row.number))
            import_.rehearsal = Rehearsal(rows=shown, specs=import_.done, **counts)
    import_.state = "judged"


def _filed(path: Path) -> Iterator[spec_store.Filed]:
    with path.open(encoding="utf-8", newline="\n") as file:
        for line in file:
            digest, _, content = line.rstrip("\n").partition(" ")
            yield spec_store.Filed(Spec.model_validate_json(content), digest, content)


async def _write(context: Context, import_: Import) -> None:
    async def work(connection: AsyncConnection) -> None:
        import_.done = 0
        async for piece in _pieces(_filed(import_.judged)):
            await file_specs(context, connection, import_.actor, piece)
            import_.done += len(piece)

    await context.database.run(work, transaction=True)
    import_.state = "done"
    import_.forget()


async def in_force(context: Context) -> AsyncIterator[list[Spec]]:
    """Every spec that is in force, by id, in batches."""
    last = UUID(int=0)
    while True:
        named = await context.database.run(lambda connection, last=last: search_store.in_force(connection, last, AT_ONCE))  # type: ignore[misc]
        if not named:
            return
        last = named[-1][0]
        specs = await context.database.run(lambda connection, named=named: spec_store.read_many(connection, named))  # type: ignore[misc]
        yield sorted(specs, key=lambda spec: spec.id)
