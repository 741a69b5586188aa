"""The log of checkpoints: which entry was the newest of its stream at each of them, and the tree over all that."""

from collections.abc import Collection, Sequence
from typing import Any, NamedTuple
from uuid import UUID

from sqlalchemy import Row, Subquery, Table, func, insert, select, tuple_
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.proof.checkpoints import Checkpoint, SignedCheckpoint, read_checkpoint
from tight_ledger.core.proof.findings import Finding, LedgerRow, first_wrong
from tight_ledger.core.proof.keys import SigningKey, place_of
from tight_ledger.core.proof.trees import (
    Frontier,
    Node,
    Range,
    complete_parts,
    consistency_ranges,
    inclusion_ranges,
    leaf_hash,
    needed,
    over,
    root,
)
from tight_ledger.core.records.seals import FIRST
from tight_ledger.store.ledger import moment
from tight_ledger.store.tables import checkpoints, ledger, log_leaves, log_nodes

STREAMS_AT_ONCE = 200
ROWS_AT_ONCE = 2_000


class StreamHead(NamedTuple):
    """The newest entry of a stream."""

    stream: UUID
    seq: int
    seal: bytes


class Covered(NamedTuple):
    """Where the log covers an entry."""

    place: int
    head: StreamHead


async def latest(connection: AsyncConnection) -> SignedCheckpoint | None:
    """The newest checkpoint; None before the first."""
    query = select(checkpoints.c.note).order_by(checkpoints.c.number.desc()).limit(1)
    note = (await connection.execute(query)).scalar()
    return read_checkpoint(note) if note is not None else None


async def keys(connection: AsyncConnection) -> list[str]:
    """The public keys, as they are written, under which the checkpoints say that they were signed."""
    return list((await connection.execute(select(checkpoints.c.public_key).distinct())).scalars())


async def nodes(connection: AsyncConnection, wanted: Collection[Node]) -> dict[Node, bytes]:
    """Complete parts of the tree, by level and place."""
    if not wanted:
        return {}
    query = select(log_nodes).where(tuple_(log_nodes.c.level, log_nodes.c.place).in_(list(wanted)))
    return {(row.level, row.place): bytes(row.hash) for row in await connection.execute(query)}


async def root_at(connection: AsyncConnection, size: int) -> bytes | None:
    """The root over the first leaves, from the parts that are kept; None if a part is missing."""
    wanted = complete_parts((0, size))
    found = await nodes(connection, wanted)
    return root(found, size) if len(found) == len(wanted) else None


async def moved(connection: AsyncConnection, streams: Collection[UUID] | None = None) -> list[tuple[StreamHead, StreamHead]]:
    """(what the log says, what the ledger says) of each stream that moved since; for a new stream the log says seq 0.

    Args:
        streams: to be looked at; None for all.
    """
    at, said = _tops(ledger, streams), _tops(log_leaves, streams)
    query = (
        select(at.c.stream, at.c.top, ledger.c.seal, said.c.top.label("known"))
        .join(ledger, (ledger.c.stream == at.c.stream) & (ledger.c.seq == at.c.top))
        .outerjoin(said, said.c.stream == at.c.stream)
        .where((said.c.top.is_(None)) | (said.c.top < at.c.top))
        .order_by(at.c.stream)
    )
    rows = (await connection.execute(query)).all()
    known = await _leaves(connection, [(row.stream, row.known) for row in rows if row.known is not None])
    return [(known.get(row.stream, StreamHead(row.stream, 0, FIRST)), StreamHead(row.stream, row.top, bytes(row.seal))) for row in rows]


def _tops(table: Table, streams: Collection[UUID] | None) -> Subquery:
    """The highest number of each stream in a table."""
    query = select(table.c.stream, func.max(table.c.seq).label("top")).group_by(table.c.stream)
    return (query if streams is None else query.where(table.c.stream.in_(streams))).subquery()


async def _leaves(connection: AsyncConnection, wanted: Sequence[tuple[UUID, int]]) -> dict[UUID, StreamHead]:
    found: dict[UUID, StreamHead] = {}
    for start in range(0, len(wanted), ROWS_AT_ONCE):
        query = select(log_leaves).where(tuple_(log_leaves.c.stream, log_leaves.c.seq).in_(wanted[start : start + ROWS_AT_ONCE]))
        found |= {row.stream: StreamHead(row.stream, row.seq, bytes(row.seal)) for row in await connection.execute(query)}
    return found


async def wrong_since(connection: AsyncConnection, since: Sequence[StreamHead], key: SigningKey | None) -> Finding | None:
    """The first entry after those given that does not hold; None if all do.

    Args:
        since: of each stream, what is known already.
        key: whose marks they must carry; None where marks say nothing yet.
    """
    known = {head.stream: head for head in since}
    streams = list(known)
    for start in range(0, len(streams), STREAMS_AT_ONCE):
        few = streams[start : start + STREAMS_AT_ONCE]
        query = select(ledger).where(ledger.c.stream.in_(few)).order_by(ledger.c.stream, ledger.c.seq)
        lines: dict[UUID, list[LedgerRow]] = {}
        for row in await connection.execute(query):
            if row.seq > known[row.stream].seq:
                lines.setdefault(row.stream, []).append(row_of(row))
        for stream, rows in lines.items():
            head = known[stream]
            if (found := first_wrong(stream, rows, (head.seq, head.seal), key=key)) is not None:
                return found
    return None


def row_of(row: Row[Any]) -> LedgerRow:
    """A row of the ledger."""
    return LedgerRow(
        row.stream, row.seq, row.id, row.subject, row.kind, row.at_server, row.tool, row.body.encode(), bytes(row.seal), row.mark
    )


async def append(connection: AsyncConnection, heads: Sequence[StreamHead], made: Checkpoint, key: SigningKey) -> SignedCheckpoint:
    """Add the heads to the log, and a checkpoint over all of it. In a transaction; raises IntegrityError if another was first.

    Args:
        made: whose size and root are not known yet; they are worked out here.
    """
    before = await latest(connection)
    size = before.checkpoint.size if before is not None else 0
    kept = await nodes(connection, complete_parts((0, size)))
    grows = Frontier(kept, size)
    fresh = [part for head in heads for part in grows.add(leaf_hash(place_of(*head)))]
    leaves = [{"place": size + n, "stream": head.stream, "seq": head.seq, "seal": head.seal} for n, head in enumerate(heads)]
    for start in range(0, len(leaves), ROWS_AT_ONCE):
        await connection.execute(insert(log_leaves), leaves[start : start + ROWS_AT_ONCE])
    parts = [{"level": level, "place": place, "hash": found} for (level, place), found in fresh]
    for start in range(0, len(parts), ROWS_AT_ONCE):
        await connection.execute(insert(log_nodes), parts[start : start + ROWS_AT_ONCE])
    name = before.checkpoint.log if before is not None else made.log
    checkpoint = Checkpoint(name, grows.size, grows.root, made.epoch, made.continues, made.time)
    note = checkpoint.signed_by(key)
    number = (await connection.execute(select(func.coalesce(func.max(checkpoints.c.number), 0)))).scalar_one() + 1
    await connection.execute(
        insert(checkpoints).values(number=number, size=grows.size, at=moment(made.time), public_key=key.public.written, note=note)
    )
    return read_checkpoint(note)


async def covering(connection: AsyncConnection, stream: UUID) -> Covered | None:
    """Where the log covers the newest entry of a stream that it covers; None if it covers none."""
    query = select(log_leaves).where(log_leaves.c.stream == stream).order_by(log_leaves.c.seq.desc()).limit(1)
    row = (await connection.execute(query)).first()
    return Covered(row.place, StreamHead(row.stream, row.seq, bytes(row.seal))) if row is not None else None


async def _hashes(connection: AsyncConnection, ranges: Sequence[Range]) -> list[bytes]:
    kept = await nodes(connection, needed(ranges))
    return [over(kept, each) for each in ranges]


async def inclusion(connection: AsyncConnection, place: int, size: int) -> list[bytes]:
    """The hashes that prove that a leaf is in the log of a size."""
    return await _hashes(connection, inclusion_ranges(place, size))


async def consistency(connection: AsyncConnection, earlier: int, size: int) -> list[bytes]:
    """The hashes that prove that the log only grew from one size to another."""
    return await _hashes(connection, consistency_ranges(earlier, size))
