"""Verifying a ledger against its checkpoints: the log, the streams, and what stands beside them.

Run on the database by the owner's account. The log is hashed anew each time; of the streams either what came after the log
(incremental), or everything, on all cores. Memory stays flat: rows are read in pieces.
"""

import hashlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, field
from functools import partial
from itertools import groupby
from multiprocessing import get_context
from typing import Any

from pydantic import ValidationError
from sqlalchemy import URL, ColumnElement, Connection, and_, func, inspect, not_, or_, select, text

from tight_ledger.core.proof.checkpoints import SignedCheckpoint, given_up, read_checkpoint
from tight_ledger.core.proof.findings import Finding, first_wrong
from tight_ledger.core.proof.keys import PublicKey, SigningKey, place_of
from tight_ledger.core.proof.trees import EMPTY, Frontier, leaf_hash
from tight_ledger.core.records.entries import TIGHTENING
from tight_ledger.core.records.seals import FIRST
from tight_ledger.core.specs.spec import Spec
from tight_ledger.store.addresses import create_engine
from tight_ledger.store.log import row_of
from tight_ledger.store.tables import attachments, checkpoints, ledger, log_leaves, runs, spec_revisions

CURVES = "application/json"
"""The kind of file as which the curve of a pull is kept."""
LEAVES_AT_ONCE = 20_000
ENTRIES_A_PIECE = 5_000
"""About how many entries one worker looks at before it is given the next."""
FEWEST_PIECES = 10
"""With fewer, starting other processes takes longer than the work."""
Tell = Callable[[int, int], None]
"""Told how many of how many entries were looked at."""


@dataclass(frozen=True, slots=True)
class KnownOutside:
    """What is known outside of the database."""

    key: SigningKey | None = None
    """The installation's own, for marks."""
    public: tuple[PublicKey, ...] = ()
    """Keys whose checkpoints are believed."""
    outside: tuple[SignedCheckpoint, ...] = ()
    """Checkpoints that were written outside, and any that somebody brings."""
    shorter: bool = False
    """Whether the log may be shorter than what is known outside: that of a backup is."""


@dataclass(slots=True)
class Verified:
    """What was found."""

    entries: int = 0
    streams: int = 0
    checkpoints: int = 0
    size: int = 0
    given_up: int = 0
    """Checkpoints of an earlier epoch that cover what a restore gave up."""
    findings: list[Finding] = field(default_factory=list)


@contextmanager
def _connected(url: URL) -> Iterator[Connection]:
    engine = create_engine(url)
    try:
        with engine.connect() as connection:
            yield connection
    finally:
        engine.dispose()


def about(url: URL) -> int:
    """About how many entries there are, as the database estimates it, at once."""
    with _connected(url) as connection:
        query = text("SELECT table_rows FROM information_schema.tables WHERE table_schema = :of AND table_name = :name")
        return int(connection.execute(query, {"of": url.database, "name": ledger.name}).scalar() or 0)


def verify(url: URL, known: KnownOutside, *, whole: bool = False, processes: int = 1, tell: Tell = lambda _done, _all: None) -> Verified:
    """Look whether everything fits: the newest findings of each kind of look, the most telling first.

    Args:
        url: of an account that sees all tables.
        whole: every entry, and every specification and file; otherwise what came since the last checkpoint. A copy at a centre
            has no files.
        processes: how many work on the entries.
    """
    done = Verified()
    with _connected(url) as connection:
        done.entries = int(connection.execute(select(func.count()).select_from(ledger)).scalar_one())
        marked = _look_at_log(connection, known, done)
        key = known.key if marked else None
        if (gone := _not_in_ledger(connection)) is not None:
            done.findings.append(gone)
        pieces = list(_pieces(connection, whole=whole))
        done.streams = sum(len(piece) for piece in pieces)
    _look_at_streams(url, pieces, key, done, processes, tell)
    with _connected(url) as connection:
        looks: list[Callable[[Connection], Iterator[Finding]]] = [partial(_runs, whole=whole)]
        looks += [_specs] if whole else []
        looks += [_files] if whole and inspect(connection).has_table(attachments.name) else []
        done.findings += [found for look in looks for found in look(connection)][:1]
    return done


# the log --------------------------------------------------------------------------------------------------------------


def _look_at_log(connection: Connection, known: KnownOutside, done: Verified) -> bool:
    """Whether the log has the roots that its checkpoints state. Returns whether marks say something: the own key has signed."""
    inside = [read_checkpoint(row.note) for row in connection.execute(select(checkpoints.c.note).order_by(checkpoints.c.number))]
    every = [each.checkpoint for each in (*inside, *known.outside)]
    if known.shorter:  # what came after the backup was made, and what a later epoch did instead, is another log
        newest = max((each.checkpoint.epoch for each in inside), default=0)
        every = [each for each in every if each.epoch <= newest]
    done.checkpoints = len({each.note for each in (*inside, *known.outside)})
    done.findings += _unsigned((*inside, *known.outside), known)[:1]
    binding = [each for each in every if not given_up(every, each)]
    done.given_up = len({each.text for each in every}) - len({each.text for each in binding})
    stated: dict[int, set[bytes]] = {}
    for each in binding:
        stated.setdefault(each.size, set()).add(each.root)
    roots, done.size = _roots(connection, set(stated))
    longest = max(stated, default=0)
    if longest > done.size and not known.shorter:
        restored = _restores(connection) >= max(each.epoch for each in every)
        done.findings.append(Finding(what="restored" if restored else "log cut", where=f"{done.size} of {longest} leaves"))
    wrong = next((size for size, found in sorted(stated.items()) if size <= done.size and found != {roots[size]}), None)
    if wrong is not None:
        done.findings.append(Finding(what="log changed", where=f"the checkpoint over {wrong} leaves"))
    # Of a backup the newest of its own checkpoints says it; otherwise what lies outside, which the owner does not reach.
    telling = inside[-1:] if known.shorter else known.outside
    return known.key is not None and any(each.is_signed_by(known.key.public) for each in telling)


def _restores(connection: Connection) -> int:
    query = select(func.count()).where(ledger.c.subject == "shop", ledger.c.kind == "restored")
    return int(connection.execute(query).scalar_one())


def _unsigned(notes: Iterable[SignedCheckpoint], known: KnownOutside) -> list[Finding]:
    if not known.public:
        return []
    return [
        Finding(what="not signed", where=f"the checkpoint over {each.checkpoint.size} leaves")
        for each in notes
        if not any(each.is_signed_by(key) for key in known.public)
    ]


def _roots(connection: Connection, sizes: set[int]) -> tuple[dict[int, bytes], int]:
    """By size, the root over so many leaves, hashed anew; and how many leaves there are."""
    grows = Frontier({})
    found = {0: EMPTY}
    query = select(log_leaves).order_by(log_leaves.c.place)
    for row in connection.execution_options(stream_results=True, max_row_buffer=LEAVES_AT_ONCE).execute(query):
        whole = row.place == grows.size  # where a leaf is missing, no root after it fits
        grows.add(leaf_hash(place_of(row.stream, row.seq, bytes(row.seal))) if whole else EMPTY)
        if grows.size in sizes:
            found[grows.size] = grows.root
    return found, grows.size


def _not_in_ledger(connection: Connection) -> Finding | None:
    """The first entry that the log covers and the ledger does not have so."""
    same = (ledger.c.stream == log_leaves.c.stream) & (ledger.c.seq == log_leaves.c.seq)
    query = (
        select(log_leaves.c.stream, log_leaves.c.seq, ledger.c.seal)
        .outerjoin(ledger, same)
        .where((ledger.c.seal.is_(None)) | (ledger.c.seal != log_leaves.c.seal))
        .order_by(log_leaves.c.place)
        .limit(1)
    )
    row = connection.execute(query).first()
    if row is None:
        return None
    if row.seal is not None:
        return Finding(what="sealed again", stream=row.stream, seq=row.seq)
    anything = connection.execute(select(ledger.c.seq).where(ledger.c.stream == row.stream).limit(1)).first()
    return Finding(what="removed at the end" if anything else "record removed", stream=row.stream, seq=row.seq)


# the streams ----------------------------------------------------------------------------------------------------------


def _pieces(connection: Connection, *, whole: bool) -> Iterator[list[Any]]:
    """Streams to look at, in the database's own sequence, about `ENTRIES_A_PIECE` entries together."""
    at, said = (select(of.c.stream, func.max(of.c.seq).label("top")).group_by(of.c.stream).subquery() for of in (ledger, log_leaves))
    query = select(at.c.stream, at.c.top.label("newest"), said.c.top.label("known"))
    query = query.outerjoin(said, said.c.stream == at.c.stream).order_by(at.c.stream)
    piece: list[Any] = []
    many = 0
    for row in connection.execution_options(stream_results=True).execute(query):
        fresh = row.newest - (0 if whole else row.known or 0)
        if fresh <= 0:
            continue
        piece.append(row.stream)
        many += fresh
        if many >= ENTRIES_A_PIECE:
            yield piece
            piece, many = [], 0
    if piece:
        yield piece


def _look_at_streams(url: URL, pieces: Sequence[list[Any]], key: SigningKey | None, done: Verified, processes: int, tell: Tell) -> None:
    whole = sum(len(piece) for piece in pieces)
    looked = 0
    work = [(url, piece, key) for piece in pieces]
    if processes == 1 or len(work) < FEWEST_PIECES:
        results: Iterable[tuple[int, Finding | None]] = map(_look_at_piece, work)
        for many, found in results:
            looked += many
            done.findings += [found] if found is not None else []
            tell(looked, whole)
        return
    with ProcessPoolExecutor(processes, mp_context=get_context("spawn")) as pool:
        for many, found in pool.map(_look_at_piece, work):
            looked += many
            done.findings += [found] if found is not None else []
            tell(looked, whole)


def _look_at_piece(work: tuple[URL, list[Any], SigningKey | None]) -> tuple[int, Finding | None]:
    """How many streams were looked at, and the first entry in them that does not hold."""
    url, streams, key = work
    with _connected(url) as connection:
        covered: dict[Any, dict[int, bytes]] = {}
        for row in connection.execute(select(log_leaves).where(log_leaves.c.stream.in_(streams))):
            covered.setdefault(row.stream, {})[row.seq] = bytes(row.seal)
        query = select(ledger).where(ledger.c.stream.in_(streams)).order_by(ledger.c.stream, ledger.c.seq)
        rows = connection.execution_options(stream_results=True, max_row_buffer=1_000).execute(query)
        for stream, lines in groupby(rows, key=lambda row: row.stream):
            found = first_wrong(stream, (row_of(row) for row in lines), (0, FIRST), key=key, covered=covered.get(stream))
            if found is not None:
                rows.close()
                return len(streams), found
    return len(streams), None


# what stands beside ---------------------------------------------------------------------------------------------------


def _runs(connection: Connection, *, whole: bool) -> Iterator[Finding]:
    """Runs whose row says something else than their first entry; unless whole, of those alone whose entry does not hold the same words."""
    first = (ledger.c.stream == runs.c.id) & (ledger.c.seq == 1)
    said = {
        "machine_id": func.json_value(ledger.c.body, "$.started.machine"),
        "spec_id": func.json_value(ledger.c.body, "$.started.plan.spec"),
        "spec_revision": func.json_value(ledger.c.body, "$.started.spec_revision"),
    }
    query = select(runs, ledger.c.seq, *(each.label(f"said_{name}") for name, each in said.items())).outerjoin(ledger, first)
    if not whole:
        query = query.where(or_(ledger.c.seq.is_(None), not_(_holds_its_words())))
    for row in connection.execution_options(stream_results=True).execute(query):
        if row.seq is None:
            yield Finding(what="record removed", stream=row.id, where="its row in the list of runs is left")
        for name in said:
            stated = row._mapping[f"said_{name}"]
            if stated is not None and str(row._mapping[name]) != str(stated):
                yield Finding(what="run", stream=row.id, where=f"column {name}")


def _holds_its_words() -> ColumnElement[bool]:
    """Whether the body of a run's first entry names its machine, its spec and its revision somewhere: much faster than to read it."""
    body = ledger.c.body
    number = or_(*(body.like(func.concat('%"spec_revision":', runs.c.spec_revision, f"{end}%")) for end in (",", "}")))
    names = {"machine": runs.c.machine_id, "spec": runs.c.spec_id}
    return and_(number, *(body.like(func.concat(f'%"{name}":"', column, '"%')) for name, column in names.items()))


def _specs(connection: Connection) -> Iterator[Finding]:
    """Specifications whose content is not what was entered."""
    entered = select(
        ledger.c.stream,
        func.json_value(ledger.c.body, "$.revision").label("revision"),
        func.json_value(ledger.c.body, "$.digest").label("digest"),
    ).where(ledger.c.subject == "spec", ledger.c.kind == "entered")
    digests: dict[Any, set[str]] = {}
    for row in connection.execute(entered):
        digests.setdefault((row.stream, int(row.revision)), set()).add(row.digest)
    for row in connection.execution_options(stream_results=True).execute(select(spec_revisions)):
        known = digests.get((row.spec_id, row.revision), set())
        if row.digest not in known or _digest_of(row.content) != row.digest:
            yield Finding(what="spec", stream=row.spec_id, where=f"revision {row.revision}")


def _digest_of(content: str) -> str:
    """The digest of a specification's content; empty if it is none."""
    try:
        return Spec.model_validate_json(content).digest
    except ValidationError:
        return ""


def _files(connection: Connection) -> Iterator[Finding]:
    """Papers and photos whose content is not what was handed in; curves are held against the entries that name them."""
    said = select(ledger.c.stream, func.json_value(ledger.c.body, "$.digest").label("digest")).where(
        ledger.c.subject == "file", ledger.c.kind == "filed"
    )
    sealed = {row.stream: row.digest for row in connection.execute(said)}
    curves = select(func.json_value(ledger.c.body, "$.curve")).where(ledger.c.kind.in_(TIGHTENING), ledger.c.body.contains('"curve":'))
    sealed_curves = set(connection.execute(curves).scalars())
    for row in connection.execution_options(stream_results=True, max_row_buffer=20).execute(select(attachments)):
        found = hashlib.sha256(bytes(row.content)).hexdigest()
        known = sealed.get(row.id, found if found in sealed_curves or row.media_type != CURVES else "")
        if found != row.digest or found != known:
            yield Finding(what="file", where=f"{row.name} ({row.id})")
