"""The Merkle tree over a log (RFC 6962, section 2.1): roots, proofs that an entry is in it, proofs that it only grew.

Of the tree the complete parts are kept, by level and place: the node (level, place) stands over the leaves from place · 2**level on,
2**level of them. Everything else is worked out from those.
"""

import hashlib
from collections.abc import Iterable, Mapping, Sequence

Node = tuple[int, int]
"""Level and place of a complete part; level 0 are the leaves."""
Range = tuple[int, int]
"""The leaves from the first up to, but without, the second."""
EMPTY = hashlib.sha256(b"").digest()
"""The root over no leaves."""


class NoSuchProof(ValueError):
    """A proof was asked for of a leaf, or of a size, that the tree does not have."""


def leaf_hash(data: bytes) -> bytes:
    """The hash of a leaf: 32 bytes."""
    return hashlib.sha256(b"\x00" + data).digest()


def node_hash(left: bytes, right: bytes) -> bytes:
    """The hash over two parts: 32 bytes."""
    return hashlib.sha256(b"\x01" + left + right).digest()


def complete_parts(leaves: Range) -> list[Node]:
    """The complete parts that make up a range, from the left. The range begins where a part of its size may begin."""
    first, end = leaves
    parts = []
    while first < end:
        level = (end - first).bit_length() - 1
        parts.append((level, first >> level))
        first += 1 << level
    return parts


def over(nodes: Mapping[Node, bytes], leaves: Range) -> bytes:
    """The hash over a range of leaves, from its complete parts."""
    if leaves[0] == leaves[1]:
        return EMPTY
    hashes = [nodes[part] for part in complete_parts(leaves)]
    found = hashes.pop()
    while hashes:
        found = node_hash(hashes.pop(), found)
    return found


def root(nodes: Mapping[Node, bytes], size: int) -> bytes:
    """The root over the first leaves of a log."""
    return over(nodes, (0, size))


class Frontier:
    """A growing log, of which only the complete parts at its end are kept: one for each bit of its size."""

    def __init__(self, nodes: Mapping[Node, bytes], size: int = 0) -> None:
        """Begin with a log of a size.

        Args:
            nodes: at least `complete_parts((0, size))`.
        """
        self.size = size
        self._last = {level: nodes[level, place] for level, place in complete_parts((0, size))}

    def add(self, leaf: bytes) -> list[tuple[Node, bytes]]:
        """Add the hash of a leaf. Returns the parts that are complete now, from the leaf upwards."""
        level, place, found = 0, self.size, leaf
        made = [((0, place), leaf)]
        while (place >> level) & 1:
            found = node_hash(self._last.pop(level), found)
            level += 1
            made.append(((level, place >> level), found))
        self._last[level] = found
        self.size += 1
        return made

    @property
    def root(self) -> bytes:
        """The root over the log as it is."""
        found = None
        for level in sorted(self._last):
            found = self._last[level] if found is None else node_hash(self._last[level], found)
        return EMPTY if found is None else found


def _split(size: int) -> int:
    """The largest power of two below a size of at least 2."""
    return 1 << ((size - 1).bit_length() - 1)


def inclusion_ranges(place: int, size: int) -> list[Range]:
    """The ranges whose hashes prove that a leaf is in a log of a size, from the leaf upwards (RFC 6962, 2.1.1).

    Raises:
        NoSuchProof: the log has no such leaf.
    """
    if not 0 <= place < size:
        raise NoSuchProof(f"a log of {size} has no leaf {place}")
    ranges, first, end = [], 0, size
    while end - first > 1:
        middle = first + _split(end - first)
        if place < middle:
            ranges.append((middle, end))
            end = middle
        else:
            ranges.append((first, middle))
            first = middle
    return ranges[::-1]


def consistency_ranges(earlier: int, size: int) -> list[Range]:
    """The ranges whose hashes prove that a log of a size begins with what it was at an earlier one (RFC 6962, 2.1.2).

    Raises:
        NoSuchProof: the earlier size is 0 or larger than the later one.
    """
    if not 0 < earlier <= size:
        raise NoSuchProof(f"a log of {size} did not grow from {earlier}")
    ranges, first, end, whole = [], 0, size, True
    while earlier < end:
        middle = first + _split(end - first)
        if earlier <= middle:
            ranges.append((middle, end))
            end = middle
        else:
            ranges.append((first, middle))
            first, whole = middle, False
    return (ranges if whole else [*ranges, (first, end)])[::-1]


def needed(ranges: Iterable[Range]) -> set[Node]:
    """The complete parts from which the hashes over ranges are worked out."""
    return {part for each in ranges for part in complete_parts(each)}


def is_in(leaf: bytes, place: int, size: int, proof: Sequence[bytes], stated: bytes) -> bool:
    """Whether a proof shows that a leaf stands at a place of a log with a root (RFC 9162, 2.1.3.2)."""
    if not 0 <= place < size:
        return False
    here, last, found = place, size - 1, leaf
    for each in proof:
        if last == 0:
            return False
        if here & 1 or here == last:
            found = node_hash(each, found)
            while not here & 1 and here:
                here, last = here >> 1, last >> 1
        else:
            found = node_hash(found, each)
        here, last = here >> 1, last >> 1
    return last == 0 and found == stated


def only_grew(earlier: int, size: int, before: bytes, stated: bytes, proof: Sequence[bytes]) -> bool:
    """Whether a proof shows that a log with one root only grew to one with another (RFC 9162, 2.1.4.2)."""
    if earlier == size:
        return not proof and before == stated
    if not 0 < earlier < size or not proof:
        return False
    path = [before, *proof] if earlier & (earlier - 1) == 0 else list(proof)
    here, last = earlier - 1, size - 1
    while here & 1:
        here, last = here >> 1, last >> 1
    old = new = path[0]
    for each in path[1:]:
        if last == 0:
            return False
        if here & 1 or here == last:
            old, new = node_hash(each, old), node_hash(each, new)
            while not here & 1 and here:
                here, last = here >> 1, last >> 1
        else:
            new = node_hash(new, each)
        here, last = here >> 1, last >> 1
    return last == 0 and old == before and new == stated
