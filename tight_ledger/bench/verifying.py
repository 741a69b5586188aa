"""`./tight bench verify`: a checkpoint, a whole and an incremental verification of many entries, beside plain SHA-256 of the same bytes."""

import asyncio
import hashlib
import os
import resource
import time
from collections.abc import Iterator
from datetime import UTC, datetime
from uuid import UUID, uuid4

from sqlalchemy import Connection, create_engine, insert, select

from tight_ledger.core.base.canonical_json import canonical_json
from tight_ledger.core.proof.keys import SigningKey
from tight_ledger.core.records.seals import FIRST, seal
from tight_ledger.installation.databases import Databases, with_context
from tight_ledger.installation.proof import known_outside
from tight_ledger.services.checkpoints import make
from tight_ledger.store.tables import ledger
from tight_ledger.store.verification import verify

OF_A_STREAM = 60
"""Entries of a run of a wheel, about."""
ROWS_AT_ONCE = 5_000
WORDS = "clicked at the figure that the plan says, by the wrench that was set to it and read back; " * 4
AT = datetime(2026, 1, 1, tzinfo=UTC)


def _row(stream: UUID, seq: int, before: bytes, key: SigningKey | None) -> dict[str, object]:
    entry = uuid4()
    body = canonical_json(
        {
            "id": str(entry), "stream": str(stream), "subject": "tool", "kind": "reviewed", "seq": seq, "v": 1, "text": WORDS,
            "at_server": AT.isoformat(),
        }
    )  # fmt: skip
    found = seal(before, body)
    return {
        "stream": stream, "seq": seq, "id": entry, "subject": "tool", "kind": "reviewed", "tool": None,
        "at_server": AT.replace(tzinfo=None),
        "body": body.decode(), "seal": found, "mark": key.mark(stream, seq, found) if key is not None else None,
    }  # fmt: skip


def _stream(stream: UUID, after: int, before: bytes, many: int, key: SigningKey | None = None) -> Iterator[dict[str, object]]:
    for seq in range(after + 1, after + many + 1):
        row = _row(stream, seq, before, key)
        before = bytes(row["seal"])  # type: ignore[call-overload]
        yield row


def _fill(connection: Connection, entries: int) -> list[UUID]:
    streams = [uuid4() for _ in range(-(-entries // OF_A_STREAM))]
    rows: list[dict[str, object]] = []
    for place, stream in enumerate(streams):
        rows += _stream(stream, 0, FIRST, min(OF_A_STREAM, entries - place * OF_A_STREAM))
        if len(rows) >= ROWS_AT_ONCE:
            connection.execute(insert(ledger), rows)
            connection.commit()
            rows = []
    if rows:
        connection.execute(insert(ledger), rows)
        connection.commit()
    return streams


def _more(connection: Connection, streams: list[UUID], key: SigningKey) -> None:
    """One entry more in each of some streams, marked."""
    query = select(ledger.c.stream, ledger.c.seal).where(ledger.c.stream.in_(streams), ledger.c.seq == OF_A_STREAM)
    rows = [next(_stream(row.stream, OF_A_STREAM, bytes(row.seal), 1, key)) for row in connection.execute(query)]
    connection.execute(insert(ledger), rows)
    connection.commit()


def _plain(connection: Connection) -> int:
    """SHA-256 over the same bytes, read the same way. Returns their number."""
    many = 0
    query = select(ledger.c.body, ledger.c.seal).order_by(ledger.c.stream, ledger.c.seq)
    for row in connection.execution_options(stream_results=True, max_row_buffer=1_000).execute(query):
        body = row.body.encode()
        hashlib.sha256(bytes(row.seal) + body).digest()
        many += len(body)
    return many


def run(found: Databases, entries: int, more: int) -> dict[str, object]:
    """Measure.

    Args:
        entries: how many there are at first.
        more: how many come after the checkpoint.
    """
    assert found.keeper is not None
    engine, took, processes = create_engine(found.owner), {}, os.cpu_count() or 1

    def timed(name: str, began: float) -> None:
        took[name] = round(time.perf_counter() - began, 2)

    with engine.connect() as connection:
        began = time.perf_counter()
        streams = _fill(connection, entries)
        timed("filling_s", began)
        began = time.perf_counter()
        asyncio.run(with_context(found, make))
        timed("first_checkpoint_s", began)
        began = time.perf_counter()
        many = _plain(connection)
        timed("plain_sha256_s", began)
        _more(connection, streams[:more], found.keeper.key)
    engine.dispose()
    known = known_outside(found)
    began = time.perf_counter()
    incremental = verify(found.owner, known)
    timed("incremental_s", began)
    began = time.perf_counter()
    whole = verify(found.owner, known, whole=True, processes=processes)
    timed("whole_s", began)
    assert incremental.findings == whole.findings == []
    return {
        "entries": whole.entries, "streams": len(streams), "bytes": many, "processes": processes, **took,
        "whole_by_plain": round(took["whole_s"] / took["plain_sha256_s"], 2),
        "memory_mb": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1_024,
        "memory_of_a_worker_mb": resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss // 1_024,
    }  # fmt: skip
