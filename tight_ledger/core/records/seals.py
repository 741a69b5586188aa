"""The chain of seals.

Each entry's seal is SHA-256 over the seal before it in its stream and the entry's stored bytes. The stored bytes are
what is verified, never a re-serialisation.
"""

import hashlib
from collections.abc import Iterable

FIRST = bytes(32)
"""The seal before the first entry of every stream."""


def seal(before: bytes, stored: bytes) -> bytes:
    """The seal of an entry: 32 bytes."""
    return hashlib.sha256(before + stored).digest()


def broken_at(rows: Iterable[tuple[int, bytes, bytes]]) -> int | None:
    """The seq of the first entry of a stream that does not hold, or None.

    Args:
        rows: (seq, stored bytes, seal) by seq. Seq counts from 1 without a gap.
    """
    before = FIRST
    for expected, (seq, stored, kept) in enumerate(rows, start=1):
        if seq != expected or seal(before, stored) != kept:
            return expected
        before = kept
    return None
