"""What does not fit in a ledger: the first thing that is wrong, and what that means.

An entry holds if its number follows, its seal is that over the entry before and its own bytes, the columns beside it say what its
bytes say, and, as long as no checkpoint covers it, it carries the installation's mark.
"""

import hmac
import json
from collections.abc import Iterable, Mapping
from datetime import UTC, datetime
from typing import Any, Literal, NamedTuple
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.proof.keys import SigningKey
from tight_ledger.core.records.entries import WITH_A_TOOL
from tight_ledger.core.records.seals import FIRST, seal

FindingKind = Literal[
    "changed", "missing", "removed at the end", "record removed", "sealed again", "added", "another record's", "columns", "log changed",
    "log cut", "checkpoint changed", "not signed", "restored", "spec", "run", "file", "name",
]  # fmt: skip

MEANING: Mapping[FindingKind, str] = {
    "changed": "The entry's text is not the one that was sealed: somebody changed it.",
    "missing": "An entry before it is gone: somebody removed it.",
    "removed at the end": "A checkpoint covers entries that are gone: somebody removed the end of this record.",
    "record removed": "A checkpoint covers a record that is gone as a whole: somebody removed it.",
    "sealed again": "Its seal is not the one that the checkpoint covers: somebody changed the record and sealed it again.",
    "added": "This program did not write the entry: it lacks the mark of the installation.",
    "another record's": "The entry belongs to another record: somebody moved or exchanged them.",
    "columns": "What stands beside the entry says something else than the entry: lists and searches were led astray.",
    "log changed": "The log does not have the root that its checkpoint states: somebody changed the log.",
    "log cut": "A checkpoint that was written outside covers more than the log has: somebody removed its end, or all of it.",
    "checkpoint changed": "A checkpoint in the database is not the one that was written outside.",
    "not signed": "A checkpoint is not signed by a key that is known here.",
    "restored": "The tables were restored from a backup, and no checkpoint says so: the restore did not end. Restore once more.",
    "spec": "The specification is not the one that was entered: its digest is another.",
    "run": "The list of runs says something else than the run's own first entry.",
    "file": "The file is not the one that was kept: its digest is another.",
    "name": "The name is not the one that was sealed.",
}


class Finding(Model):
    """Something that does not fit."""

    what: FindingKind
    stream: UUID | None = None
    seq: int | None = None
    where: str = ""
    """Which column, which file, which checkpoint."""

    @property
    def words(self) -> str:
        """In a sentence: where, and what it means."""
        place = [f"record {self.stream}"] if self.stream is not None else []
        place += [f"entry {self.seq}"] if self.seq is not None else []
        place += [self.where] if self.where else []
        return f"{', '.join(place) or 'the ledger'}: {MEANING[self.what]}"


class LedgerRow(NamedTuple):
    """A line of the ledger's table."""

    stream: UUID
    seq: int
    id: UUID
    subject: str
    kind: str
    at_server: datetime
    tool: UUID | None
    body: bytes
    seal: bytes
    mark: bytes | None


def first_wrong(
    stream: UUID,
    rows: Iterable[LedgerRow],
    begins: tuple[int, bytes] = (0, FIRST),
    *,
    key: SigningKey | None = None,
    covered: Mapping[int, bytes] | None = None,
) -> Finding | None:
    """The first entry of a stream that does not hold; None if all do.

    Args:
        rows: by seq, after the entry in `begins`.
        begins: number and seal of the entry before them.
        key: whose mark each must carry that no checkpoint covers; None where marks say nothing.
        covered: by number, the seals that the log covers.
    """
    at, before = begins
    covered = covered or {}
    most = max(covered, default=0)
    for row in rows:
        what = _wrong_with(row, at, before, covered)
        if what is None and key is not None and row.seq > most and not _is_marked(row, key):
            what = "added"
        if what is not None:
            return Finding(what=what, stream=stream, seq=row.seq)
        if (wrong := beside(row)) is not None:
            return wrong
        at, before = row.seq, row.seal
    if at < most:
        return Finding(what="record removed" if at == 0 else "removed at the end", stream=stream, seq=at + 1)
    return None


def _wrong_with(row: LedgerRow, at: int, before: bytes, covered: Mapping[int, bytes]) -> FindingKind | None:
    """What is wrong with an entry's place or seal; None if nothing is."""
    if row.seq != at + 1:
        return "missing"
    if seal(before, row.body) != row.seal:
        return "changed"
    return "sealed again" if covered.get(row.seq, row.seal) != row.seal else None


def _is_marked(row: LedgerRow, key: SigningKey) -> bool:
    return row.mark is not None and hmac.compare_digest(row.mark, key.mark(row.stream, row.seq, row.seal))


def beside(row: LedgerRow) -> Finding | None:
    """What the columns beside an entry say otherwise than the entry; None if nothing."""
    try:
        return _beside(row)
    except (ValueError, KeyError, TypeError, AttributeError):
        return Finding(what="columns", stream=row.stream, seq=row.seq, where="it is no entry")


def _beside(row: LedgerRow) -> Finding | None:
    said: dict[str, Any] = json.loads(row.body)
    if UUID(str(said.get("run") if "run" in said and "subject" not in said else said.get("stream"))) != row.stream:
        return Finding(what="another record's", stream=row.stream, seq=row.seq)
    named = (said.get("tools") or [None])[0]
    pulled = row.kind in WITH_A_TOOL
    expected = {
        "seq": (row.seq, said.get("seq")),
        "id": (str(row.id), said.get("id")),
        "subject": (row.subject, said.get("subject", "run")),
        "kind": (row.kind, said.get("kind")),
        "at_server": (_moment(row.at_server), _moment(datetime.fromisoformat(said["at_server"]))),
        # Pulls from before they named their wrench have that of the start beside them.
        "tool": (None if row.tool is None or (pulled and named is None) else str(row.tool), named if pulled else None),
    }
    wrong = next((name for name, (column, body) in expected.items() if column != body), None)
    return Finding(what="columns", stream=row.stream, seq=row.seq, where=f"column {wrong}") if wrong is not None else None


def _moment(at: datetime) -> datetime:
    """A moment to the millisecond, UTC without a zone."""
    plain = at.astimezone(UTC).replace(tzinfo=None) if at.tzinfo is not None else at
    return plain.replace(microsecond=plain.microsecond // 1000 * 1000)
