"""Matching what a person types against what is on file: tokens in any order, part words, synonyms, one slip a word."""

import re
from collections.abc import Iterable, Sequence

from rapidfuzz.distance import OSA

_TOKEN = re.compile(r"[a-z0-9]+(?:\.[0-9]+)?")
WHOLE, BEGINNING, SLIP = 3, 2, 1
"""What a token counts that matches a whole word, its beginning, or either with one slip."""

SYNONYMS: tuple[frozenset[str], ...] = tuple(
    frozenset(group.split())
    for group in ("wheel lug", "axle hub", "tyre tire", "sump pan", "cap bearing", "stud bolt", "manual book", "lorry truck")
)
"""Trade words for the same thing, and both spellings. Common practice, no source."""

LEAST_FOR_A_SLIP = 4
"""Shorter words are too much alike."""


def tokens(text: str) -> list[str]:
    """Lower-case words and numbers; `M22×1.5` stays one word, `SB-04` is `sb` and `04`."""
    return _TOKEN.findall(text.casefold().replace("×", "x").replace("½", "1/2"))


def with_synonyms(words: Iterable[str]) -> list[str]:
    """The words, and the other trade words for the same things."""
    known = dict.fromkeys(words)
    for group in SYNONYMS:
        if not group.isdisjoint(known):
            known |= dict.fromkeys(sorted(group))
    return list(known)


def score(asked: Sequence[str], words: Iterable[str]) -> tuple[int, tuple[str, ...]] | None:
    """How well all the asked tokens match, and which words did; None if one matches nothing.

    A number matches whole; anything else from its beginning, or with one letter wrong, missing, doubled or swapped.
    """
    total, why = 0, []
    known = list(dict.fromkeys(words))
    for token in asked:
        found = _match(token, known)
        if found is None:
            return None
        total += found[0]
        why.append(found[1])
    return total, tuple(dict.fromkeys(why))


def _match(token: str, known: Sequence[str]) -> tuple[int, str] | None:
    if token in known:
        return WHOLE, token
    if token.replace(".", "").isdigit():
        return None
    beginning = next((word for word in known if word.startswith(token)), None)
    if beginning is not None:
        return BEGINNING, beginning
    if len(token) < LEAST_FOR_A_SLIP or not token.isalpha():
        return None
    return next(((SLIP, word) for word in known if word.isalpha() and _one_slip(token, word)), None)


def _one_slip(token: str, word: str) -> bool:
    size = len(token)
    return any(OSA.distance(token, part, score_cutoff=1) <= 1 for part in {word, word[:size], word[: size - 1], word[: size + 1]})
