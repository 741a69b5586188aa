"""What a fastener is called in a sentence: `nut 4`, `the plug`, `nuts 4, 7 and bolt 2`."""

from collections.abc import Iterable, Mapping, Sequence

MOST_NAMED = 12
"""More fasteners than this are counted, not named."""


def by_number(label: str) -> tuple[int, str]:
    """A key that sorts 2 before 10, and numbers before names."""
    return (int(label), "") if label.isdigit() else (1_000_000, label)


def name_of(nouns: Mapping[str, str], label: str) -> str:
    """`nut 4`; the noun alone where the joint has only one fastener.

    Args:
        nouns: by label, what each fastener of the joint is.
    """
    noun = nouns.get(label, "fastener")
    return noun if len(nouns) == 1 else f"{noun} {label}"


def names_of(nouns: Mapping[str, str], labels: Iterable[str]) -> str:
    """`nuts 4, 7, 10`; kind by kind where they differ: `nuts 4, 7 and bolt 2`; of more than can be taken in, how many: `50 nuts`."""
    grouped: dict[str, list[str]] = {}
    for label in sorted(set(labels), key=by_number):
        grouped.setdefault(nouns.get(label, "fastener"), []).append(label)
    if len(nouns) == 1:
        return " and ".join(grouped)
    return " and ".join(_together(noun, labels) for noun, labels in grouped.items())


def _together(noun: str, labels: Sequence[str]) -> str:
    if len(labels) > MOST_NAMED:
        return f"{len(labels)} {noun}s"
    return f"{noun}{'s' if len(labels) > 1 else ''} {', '.join(labels)}"
