"""Matching what a person types against what is on file: tokens in any order, part words."""

import re
from collections.abc import Iterable, Sequence

_TOKEN = re.compile(r"[a-z0-9]+(?:\.[0-9]+)?")


def tokens(text: str) -> list[str]:
    """Lower-case words and numbers; `M22×1.5` stays one word, `SB-04` is `sb` and `04`."""
    return _TOKEN.findall(text.casefold().replace("×", "x").replace("½", "1/2"))


def score(asked: Sequence[str], words: Iterable[str]) -> tuple[int, tuple[str, ...]] | None:
    """How well all the asked tokens match, and which words did; None if one matches nothing.

    A number matches whole; anything else from its beginning. A whole word counts more.
    """
    total, why = 0, []
    known = list(dict.fromkeys(words))
    for token in asked:
        if token in known:
            total += 3
            why.append(token)
            continue
        found = next((word for word in known if word.startswith(token) and not token.isdigit()), None)
        if found is None:
            return None
        total += 2
        why.append(found)
    return total, tuple(dict.fromkeys(why))
