"""Matching what a person types against what is on file: tokens in any order, part words, synonyms, one slip a word.

What a spec is found by falls into a few dimensions (who made the machine, what the joint is, what holds it), each with
far fewer entries than there are specs. A token is matched against the entries; the specs are then those that have one
matching entry for every token.
"""

import re
from bisect import bisect_left
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import islice, product
from typing import Literal

from rapidfuzz import process
from rapidfuzz.distance import OSA

_TOKEN = re.compile(r"[a-z0-9µ]+(?:[./][0-9]+)*")
WHOLE, BEGINNING, SLIP = 3, 2, 1
"""What a token counts that matches a whole word, its beginning, or either with one slip."""
STRONG = 1
"""What it counts more in a title, or in what a machine is called by."""
IN_A_NOTE = 1
"""What a token counts that stands in a note or a source only."""

SYNONYMS: tuple[tuple[frozenset[str], ...], ...] = tuple(
    tuple(frozenset(phrase.split()) for phrase in group.split(", "))
    for group in (
        "wheel, lug", "axle, hub", "tyre, tire", "sump, oil pan", "main cap, main bearing", "rod cap, rod bearing, big end",
        "manual, book", "lorry, truck", "calliper, caliper", "brake carrier, brake bracket, calliper carrier, caliper bracket",
        "propshaft, driveshaft", "half-shaft, half shaft, axle shaft", "shock absorber, damper", "screw, bolt", "petrol, gasoline",
        "cover, lid", "cam cover, rocker cover, valve cover", "track rod, tie rod", "final drive, differential",
        "glow plug, heater plug", "pulley, damper",
    )
)  # fmt: skip
"""Trade words for the same thing, and both spellings. Common practice, no source."""
PASSED_OVER = frozenset(
    {
        "stud", "studs", "nut", "nuts", "bolt", "bolts", "screw", "screws", "torque", "spec", "specs", "figure",
        "the", "of", "for", "and", "on",
    }
)  # fmt: skip
"""Words that raise the score if they match, and need not match."""
LEAST_FOR_A_SLIP = 4
"""Shorter words are too much alike."""
MOST_TOKENS, MOST_WAYS, MOST_LEVELS = 10, 128, 60
"""Beyond these a question is cut: words, ways to read them, and grades of fit."""
FIRST_YEAR, LAST_YEAR = 1950, 2100

WordMatch = tuple[int, str] | None
"""How well a word matches some words, and which of them it is; None if it matches none."""
Dimension = Literal["who", "what", "fasteners"]
DIMENSIONS: tuple[Dimension, ...] = ("who", "what", "fasteners")


class Scores(dict[int, int]):
    """By entry, how well it matches."""

    @classmethod
    def of(cls, entries: Iterable[int], score: int) -> "Scores":
        """Entries that all match equally well."""
        return cls(dict.fromkeys(entries, score))

    @cached_property
    def grades(self) -> tuple[tuple[int, tuple[int, ...]], ...]:
        """The entries that match equally well, as (score, entries)."""
        found: dict[int, list[int]] = {}
        for entry, matched in self.items():
            found.setdefault(matched, []).append(entry)
        return tuple((matched, tuple(sorted(ids))) for matched, ids in found.items())


def tokens(text: str) -> list[str]:
    """Lower-case words and numbers; `M22×1.5` and `1/2` stay one word, `SB-04` is `sb` and `04`."""
    return _TOKEN.findall(text.casefold().replace("×", "x").replace("½", "1/2"))[:400]


def with_synonyms(words: Iterable[str]) -> list[str]:
    """The words, and the other trade words for the same things."""
    known = dict.fromkeys(words)
    said = frozenset(known)
    for group in SYNONYMS:
        if any(phrase <= said for phrase in group):
            known |= dict.fromkeys(word for phrase in group for word in sorted(phrase))
    return list(known)


def is_number(token: str) -> bool:
    """Numbers match whole, and are never misspelt."""
    return token.replace(".", "").replace("/", "").isdigit()


class Vocabulary:
    """The words of one dimension's entries."""

    def __init__(self) -> None:
        self._ids: dict[str, list[int]] = {}
        self._strong: dict[str, set[int]] = {}
        self._sorted: list[str] | None = None
        self._beginnings: dict[int | None, dict[str, list[str]]] = {}
        self.said: dict[int, str] = {}
        """By entry, its words in one line, those that say most first."""

    def add(self, entry: int, strong: Iterable[str], words: Iterable[str] = ()) -> None:
        """Take in an entry's words, those that say most of it apart."""
        said = dict.fromkeys(strong)
        every = dict.fromkeys((*said, *words))
        self.said[entry] = line_of(every)
        for word in every:
            self._ids.setdefault(word, []).append(entry)
        for word in said:
            self._strong.setdefault(word, set()).add(entry)
        self._sorted = None
        self._beginnings.clear()

    def copy(self) -> "Vocabulary":
        """A copy; adding words to it leaves the original unchanged."""
        other = Vocabulary()
        other._ids = {word: list(ids) for word, ids in self._ids.items()}
        other._strong = {word: set(ids) for word, ids in self._strong.items()}
        other.said = dict(self.said)
        return other

    def match(self, token: str) -> Scores:
        """What matches whole or from the beginning, and how well."""
        found = Scores()
        if not is_number(token):
            words = self._words()
            for place in range(bisect_left(words, token), len(words)):
                if not words[place].startswith(token):
                    break
                self._grade(found, words[place], BEGINNING)
        self._grade(found, token, WHOLE)
        return found

    def slips(self, token: str) -> Scores:
        """What matches with one letter wrong, missing, doubled or swapped; whole words before beginnings."""
        if len(token) < LEAST_FOR_A_SLIP or not token.isalpha():
            return Scores()
        for length in (None, len(token), len(token) - 1, len(token) + 1):
            near = self._near(length)
            if close := process.extract(token, near.keys(), scorer=OSA.distance, score_cutoff=1, limit=None):
                return Scores.of((entry for cut, _, _ in close for word in near[cut] for entry in self._ids[word]), SLIP)
        return Scores()

    def _grade(self, found: dict[int, int], word: str, score: int) -> None:
        strong = self._strong.get(word, ())
        for entry in self._ids.get(word, ()):
            found[entry] = max(found.get(entry, 0), score + STRONG if entry in strong else score)

    def _near(self, length: int | None) -> dict[str, list[str]]:
        """Words without digits, by themselves or by what is left of them when they are cut to a length."""
        if length not in self._beginnings:
            found: dict[str, list[str]] = {}
            for word in self._words():
                if word.isalpha():
                    found.setdefault(word[:length], []).append(word)
            self._beginnings[length] = found
        return self._beginnings[length]

    def _words(self) -> list[str]:
        if self._sorted is None:
            self._sorted = sorted(self._ids)
        return self._sorted


@dataclass(frozen=True, slots=True)
class TokenReading:
    """One way to read a token: as a word of a dimension, as a year, as a word of a text, or as one to pass over."""

    dimension: Dimension | None = None
    scores: Scores = field(default_factory=Scores)
    year: int | None = None
    text: str = ""


def options(token: str, vocabularies: Mapping[Dimension, Vocabulary]) -> list[TokenReading]:
    """The ways to read a token, without texts. Slips are tried only where nothing else fits."""
    found = [TokenReading(name, scores) for name, words in vocabularies.items() if (scores := words.match(token))]
    if token.isdigit() and len(token) == 4 and FIRST_YEAR <= int(token) <= LAST_YEAR:
        found.append(TokenReading(year=int(token)))
    if token in PASSED_OVER:
        found.append(TokenReading())
    if not found:
        found = [TokenReading(name, scores) for name, words in vocabularies.items() if (scores := words.slips(token))]
    return found


@dataclass(frozen=True, slots=True)
class Level:
    """Specs that fit equally well: entries of each dimension (None: any), a year, words that a text must hold."""

    score: int
    who: tuple[int, ...] | None = None
    what: tuple[int, ...] | None = None
    fasteners: tuple[int, ...] | None = None
    year: int | None = None
    year_stated: bool = False
    texts: tuple[str, ...] = ()


def levels(read: Sequence[Sequence[TokenReading]], within: Mapping[Dimension, Iterable[int]] | None = None, extra: int = 0) -> list[Level]:
    """Every grade of fit, best first.

    Args:
        read: the ways to read each token; none for a token means that nothing fits.
        within: entries that each dimension is held to.
        extra: what each of them counts more, for tokens that are answered already.
    """
    ways = [_Way({name: Scores.of(ids, 0) for name, ids in (within or {}).items()})]
    for choices in read:
        ways = list(islice((further for way in ways for option in choices if (further := way.with_option(option)) is not None), MOST_WAYS))
    best: dict[tuple[object, ...], Level] = {}
    for level in sorted((level for way in ways for level in way.levels(extra)), key=lambda level: -level.score):
        best.setdefault((level.who, level.what, level.fasteners, level.year, level.year_stated, level.texts), level)
    return list(best.values())[:MOST_LEVELS]


@dataclass(frozen=True, slots=True)
class _Way:
    """One way to read the tokens so far: what fits all of them in each dimension that they name."""

    held: Mapping[Dimension, Scores]
    year: int | None = None
    texts: tuple[str, ...] = ()

    def with_option(self, option: TokenReading) -> "_Way | None":
        """The way with one token more; None if nothing fits it."""
        if option.dimension is not None:
            before = self.held.get(option.dimension)
            both = option.scores if before is None else _both(before, option.scores)
            return _Way({**self.held, option.dimension: both}, self.year, self.texts) if both else None
        if option.year is not None and self.year not in (None, option.year):
            return None
        texts = self.texts if not option.text or option.text in self.texts else (*self.texts, option.text)
        return _Way(self.held, self.year if option.year is None else option.year, texts)

    def levels(self, extra: int) -> list[Level]:
        """The grades of fit of this way."""
        graded: list[Sequence[tuple[int, tuple[int, ...] | None]]] = []
        for name in DIMENSIONS:
            if name not in self.held:
                graded.append([(0, None)])
                continue
            graded.append(self.held[name].grades)
        years = [(WHOLE, True), (SLIP, False)] if self.year is not None else [(0, False)]
        return [
            Level(
                score=extra + sum(score for score, _ in grades) + plus + IN_A_NOTE * len(self.texts),
                who=grades[0][1], what=grades[1][1], fasteners=grades[2][1], year=self.year, year_stated=stated, texts=self.texts,
            )
            for grades in product(*graded)
            for plus, stated in years
        ]  # fmt: skip


def _both(scores: Scores, other: Scores) -> Scores:
    few, many = (scores, other) if len(scores) <= len(other) else (other, scores)
    return Scores((entry, score + many[entry]) for entry, score in few.items() if entry in many)


def score(asked: Sequence[str], words: Iterable[str]) -> tuple[int, tuple[str, ...]] | None:
    """How well all the asked tokens match some words, and which did; None if one matches nothing."""
    total, why = 0, []
    known = list(dict.fromkeys(words))
    for token in asked:
        found = match_word(token, known)
        if found is None:
            return None
        total += found[0]
        why.append(found[1])
    return total, tuple(dict.fromkeys(why))


def line_of(words: Iterable[str]) -> str:
    """Words in one line, with a space before and after each."""
    return f" {' '.join(words)} "


def begins_in(token: str, line: str) -> WordMatch:
    """How well a token matches the words of a line whole or from the beginning, and which of them it is."""
    if f" {token} " in line:
        return WHOLE, token
    place = line.find(f" {token}") + 1
    return (BEGINNING, line[place : line.index(" ", place)]) if place and not is_number(token) else None


def match_word(token: str, known: Sequence[str]) -> WordMatch:
    """How well one token matches some words, and which of them it is."""
    return begins_in(token, line_of(known)) or slipped(token, known)


def slipped(token: str, known: Sequence[str]) -> WordMatch:
    """Which of some words one token is but for a slip."""
    if is_number(token) or len(token) < LEAST_FOR_A_SLIP or not token.isalpha():
        return None
    for length in (None, len(token), len(token) - 1, len(token) + 1):
        near = {word[:length]: word for word in reversed(known) if word.isalpha()}
        if (best := process.extractOne(token, list(near), scorer=OSA.distance, score_cutoff=1)) is not None:
            return SLIP, near[best[0]]
    return None
