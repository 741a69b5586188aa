"""Finding a spec: one box, a machine picked first or named in the words."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property, lru_cache
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import Model
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.vin import VinReading, read_vin
from tight_ledger.core.search.index import ANY_TO, CURRENT, KIND_HEADS, WAITING, Fastened, KindHead, What, Who, machine_names, machine_words
from tight_ledger.core.search.matching import MOST_TOKENS, Dimension, Level, TokenReading, WordMatch, begins_in, levels, line_of, tokens
from tight_ledger.core.specs.applicability import Applies, Fit, Question, fit, separating_question
from tight_ledger.core.specs.spec import Spec
from tight_ledger.services.context import Context
from tight_ledger.store import ledger
from tight_ledger.store import search as search_store
from tight_ledger.store.search import Catalogue, FoundRow

MOST_HITS = 30
MOST_OF_A_MACHINE = 300
MOST_NAMED = 5
FEW = 3
"""With fewer hits than this, notes and sources are searched too."""
MOST_COUNTED = 2_000
MOST_VALUES = 8


class Narrow(Model):
    """The facets that were tapped; every hit fits them."""

    system: str = ""
    maker: str = ""
    model: str = ""
    year: int | None = None


@dataclass(frozen=True, slots=True)
class Hit:
    """A spec that fits the words, with the machine that they named."""

    spec: UUID
    revision: int
    title: str
    joint: str
    system: str
    maker_model: str
    years: str
    threads: str
    figures: tuple[KindHead, ...]
    """What is done to each kind of fastener, stage after stage."""
    hand: str
    positions: str
    trust: str
    checked: bool
    behind: bool
    machine: Machine | None = None
    fleet: tuple[str, ...] = ()
    why: tuple[str, ...] = ()


class SearchAnswer(Model):
    """Hits, best first; machines that fit the words; the machine that was picked."""

    hits: tuple[Hit, ...]
    more: bool = False
    machines: tuple[Machine, ...] = ()
    machine: Machine | None = None
    question: Question | None = None
    vin: VinReading | None = None
    unreadable: bool = False
    """Whether there is no word and no figure in what was asked."""


class FacetValue(Model):
    """One way to narrow, and how many specs it would leave."""

    value: str
    count: int
    maker: str = ""
    """Of a model."""


class Facets(Model):
    """Ways to narrow what was found; `counted` specs were looked at, `all` says whether that was all of them."""

    counted: int
    all: bool
    systems: tuple[FacetValue, ...]
    makers: tuple[FacetValue, ...]
    models: tuple[FacetValue, ...]
    years: tuple[FacetValue, ...]


class _Search:
    """One question, read against the catalogue."""

    def __init__(self, catalogue: Catalogue, asked: str, picked: Machine | None, narrow: Narrow) -> None:
        self.catalogue, self.picked = catalogue, picked
        self.words = list(dict.fromkeys(tokens(asked)))[:MOST_TOKENS]
        self._matches: dict[str, tuple[WordMatch, ...]] = {}
        self._called: dict[UUID, str] = {}
        """By machine, the words of its names."""
        self._fits: dict[tuple[str, UUID], Fit] = {}
        self._fleets: dict[str, tuple[str, ...]] = {}
        """By what a row is for, whether that is a machine, and which of the fleet."""
        self.unreadable = bool(asked.strip()) and not self.words
        self.machine_scores = {token: scores for token in self.words if (scores := self._machines(token))}
        self.year = [TokenReading(year=narrow.year)] if narrow.year is not None else []
        self.held = self._held(narrow)
        self.rows: list[tuple[FoundRow, Machine | None]] | None = None
        """What was found, once all of it was read."""

    def _machines(self, word: str) -> dict[int, int]:
        """The machines that a word may mean; slips only where it means nothing else."""
        found = self.catalogue.machine_words.match(word)
        return found or ({} if self.catalogue.ways(word) else self.catalogue.machine_words.slips(word))

    def _held(self, narrow: Narrow) -> dict[Dimension, list[int]]:
        held: dict[Dimension, list[int]] = {}
        if narrow.maker or narrow.model:
            held["who"] = [
                entry
                for (maker, model), ids in self.catalogue.by_model.items()
                if narrow.maker.casefold() in ("", maker) and narrow.model.casefold() in ("", model)
                for entry in ids
            ]
        if narrow.system:
            held["what"] = [entry for entry, what in self.catalogue.entries["what"].items() if what.system == narrow.system]
        return held

    def named(self) -> list[tuple[Machine, list[str], int]]:
        """Machines that the words name: with the words that are left, and what those that name it count."""
        if self.picked is not None:
            return [(self.picked, [word for word in self.words if not self._names(word, self.picked)], 0)]
        scores: dict[int, int] = {}
        for found in self.machine_scores.values():
            for place, score in found.items():
                scores[place] = scores.get(place, 0) + score
        best = sorted(scores, key=lambda place: (-scores[place], self.catalogue.machines[place].fleet_number))[:MOST_NAMED]
        return [
            (self.catalogue.machines[place], [w for w in self.words if place not in self.machine_scores.get(w, {})], scores[place])
            for place in best
        ]

    def _names(self, word: str, machine: Machine) -> bool:
        return any(self.catalogue.machines[place].id == machine.id for place in self.machine_scores.get(word, {}))

    def fits(self, row: FoundRow, machine: Machine) -> bool:
        """Whether a row is for a machine, as far as it is known. Many rows are for the same machines."""
        key = row.applies, machine.id
        if key not in self._fits:
            self._fits[key] = fit([applies_of(row.applies)], machine)
        return self._fits[key] != "no"

    def fleet_of(self, row: FoundRow) -> tuple[str, ...]:
        """The machines of the fleet that a row is for."""
        if row.who not in self.catalogue.fleet:
            return ()
        if row.applies not in self._fleets:
            self._fleets[row.applies] = tuple(each.fleet_number for each in self.catalogue.machines if self.fits(row, each))
        return self._fleets[row.applies]

    def why(self, row: FoundRow, machine: Machine | None, years: str) -> tuple[str, ...]:
        """For each word of the question, the word of the hit that it matches best. If it matches no name: the hit's years, or a text."""
        said = self.catalogue.words
        known = [said["what"].said[row.what], said["who"].said[row.who], said["fasteners"].said[row.fasteners]]
        if machine is not None:
            if machine.id not in self._called:
                self._called[machine.id] = line_of((*machine_names(machine), *machine_words(machine)))
            known.append(self._called[machine.id])
        matches = zip(*[self._matched(line) for line in known], strict=True)
        return tuple(dict.fromkeys([self._why(word, found, known, years) for word, found in zip(self.words, matches, strict=True)]))

    def _matched(self, line: str) -> tuple[WordMatch, ...]:
        """For each word of the question, which word of a line it is. Many hits share theirs."""
        found = self._matches.get(line)
        if found is None:
            found = self._matches[line] = tuple([begins_in(word, line) for word in self.words])
        return found

    def _why(self, word: str, matches: Iterable[WordMatch], known: Sequence[str], years: str) -> str:
        found = [match for match in matches if match is not None]
        if not found:  # slips are looked for only where nothing else fits
            found = [match for line in known if (match := self.catalogue.slipped(word, line)) is not None]
        if found:
            return max(found, key=lambda match: match[0])[1]
        return years if word.isdigit() and years else f"{word} (in a note or its source)"

    def in_order(self, row: FoundRow) -> tuple[bool, int, str, str]:
        """Of specs that fit equally well, the fleet's first, then the checked, then by title and machine."""
        entries = self.catalogue.entries
        return row.who not in self.catalogue.fleet, row.standing, entries["what"][row.what].title, self.catalogue.shown[row.who]

    @cached_property
    def levels(self) -> list[tuple[Level, Machine | None]]:
        """Every grade of fit, best first, with the machine that it is for."""
        found: list[tuple[Level, Machine | None]] = []
        for machine, rest, extra in self.named():
            who = self.catalogue.of_machine(machine)
            held = self.held | {"who": [entry for entry in who if entry in self.held["who"]] if "who" in self.held else who}
            found += [(level, machine) for level in levels(self._read(rest), held, extra)]
        if self.picked is None:
            found += [(level, None) for level in levels(self._read(self.words), self.held)]
        return sorted(found, key=lambda pair: -pair[0].score)

    def _read(self, words: Iterable[str], texts: bool = False) -> list[list[TokenReading]]:
        ways = [[*self.catalogue.ways(word), *([TokenReading(text=word)] if texts else [])] for word in words]
        return [*ways, self.year] if self.year else ways

    @cached_property
    def levels_with_texts(self) -> list[tuple[Level, Machine | None]]:
        """Like `levels`, where some of the words are only in a note or a source."""
        found: list[tuple[Level, Machine | None]] = []
        if self.picked is None:
            found = [(level, None) for level in levels(self._read(self.words, texts=True), self.held)]
        for machine, rest, extra in self.named():
            held = self.held | {"who": self.catalogue.of_machine(machine)}
            found += [(level, machine) for level in levels(self._read(rest, texts=True), held, extra)]
        return sorted((pair for pair in found if pair[0].texts), key=lambda pair: -pair[0].score)


async def _rows(connection: AsyncConnection, search: _Search, most: int) -> list[tuple[FoundRow, Machine | None]]:
    """Rows that fit, best first, one a spec; what is not worked to any more comes last. What was read to the end is not read again."""
    if search.rows is not None:
        return search.rows
    texts_of: dict[str, set[int]] = {}
    found: dict[str, tuple[FoundRow, Machine | None]] = {}
    behind: dict[str, tuple[FoundRow, Machine | None]] = {}
    limit = MOST_OF_A_MACHINE if search.picked is not None else most + 1

    async def look(ways: Sequence[tuple[Level, Machine | None]]) -> bool:
        """Whether that was all of them."""
        whole = True
        for level, machine in ways:
            texts = await search_store.texts_with(connection, level.texts, texts_of) if level.texts else None
            if texts is not None and not texts:
                continue
            rows: list[FoundRow] = []
            for sql in search_store.statements(level, search.catalogue.fleet, limit, texts):
                rows += (read := await search_store.read(connection, sql))
                whole &= len(read) < limit
                if len({row.spec_id for row in rows if row.standing == CURRENT}) >= limit:
                    whole = False  # what is left of this level was not read
                    break
            for row in sorted(rows, key=search.in_order):
                if row.spec_id not in found and (machine is None or search.fits(row, machine)):
                    (behind if row.standing >= WAITING else found).setdefault(row.spec_id, (row, machine))
            if len(found) > most:
                return False
        return whole

    whole = await look(search.levels)
    if len(found) < (FEW if search.picked is None else 1) and search.words:
        whole &= await look(search.levels_with_texts)
    all_found = [*found.values(), *(pair for spec, pair in behind.items() if spec not in found)]
    search.rows = all_found if whole else None
    return all_found


@lru_cache(maxsize=20_000)
def applies_of(content: str) -> Applies:
    """What a row is for."""
    return Applies.model_validate_json(content)


@lru_cache(maxsize=20_000)
def figures_of(content: str) -> tuple[KindHead, ...]:
    """The figures of a row."""
    return KIND_HEADS.validate_json(content)


def _hit(search: _Search, row: FoundRow, machine: Machine | None) -> Hit:
    entries = search.catalogue.entries
    what: What = entries["what"][row.what]
    held: Fastened = entries["fasteners"][row.fasteners]
    years = f"{row.year_from or ''}–{row.year_to if row.year_to != ANY_TO else ''}" if (row.year_from or row.year_to != ANY_TO) else ""
    return Hit(
        spec=UUID(row.spec_id),
        revision=row.revision,
        title=what.title,
        joint=what.joint,
        system=what.system,
        maker_model=search.catalogue.shown[row.who],
        years=years,
        threads=held.threads,
        figures=figures_of(row.figures),
        hand=held.hand,
        positions=what.positions,
        trust=row.trust,
        checked=row.standing == CURRENT,
        behind=row.standing >= WAITING,
        machine=machine,
        fleet=search.fleet_of(row),
        why=search.why(row, machine, years),
    )


async def find(
    context: Context, asked: str, machine_id: UUID | None, narrow: Narrow | None = None, *, most: int = MOST_HITS
) -> SearchAnswer:
    """What fits the words. With a machine picked, only specs that apply to its model are offered; none withdrawn.

    Raises:
        NotOnFile: no machine has this id.
    """

    async def work(connection: AsyncConnection) -> SearchAnswer:
        search = await _search(context, connection, asked, machine_id, narrow)
        if search.unreadable:
            return SearchAnswer(hits=(), machine=search.picked, unreadable=True)
        rows = await _rows(connection, search, most)
        context.searches[asked, machine_id, narrow or Narrow()] = search
        hits = [_hit(search, row, machine) for row, machine in rows[:most]]
        question = None
        if search.picked is not None:
            different = dict.fromkeys(row.applies for row, _ in rows if row.standing < WAITING)
            question = separating_question([[applies_of(content)] for content in different], search.picked)
        machines = [machine for machine, rest, _ in search.named() if not rest] if search.picked is None and search.words else []
        vin = next((reading for word in search.words if (reading := read_vin(word)) is not None), None)
        return SearchAnswer(
            hits=tuple(hits), more=len(rows) > most, machines=tuple(machines), machine=search.picked, question=question, vin=vin
        )

    return await context.database.run(work)


async def _search(context: Context, connection: AsyncConnection, asked: str, machine_id: UUID | None, narrow: Narrow | None) -> _Search:
    catalogue = await context.catalogue(connection)
    picked = catalogue.machine(machine_id) if machine_id is not None else None
    return _Search(catalogue, asked, picked, narrow or Narrow())


async def facets(context: Context, asked: str, machine_id: UUID | None, narrow: Narrow) -> Facets:
    """Ways to narrow what fits the words, counted over at most 2,000 specs; goes on from the hits of the same question."""

    async def work(connection: AsyncConnection) -> Facets:
        known = context.searches.pop((asked, machine_id, narrow), None)
        search = known if isinstance(known, _Search) else await _search(context, connection, asked, machine_id, narrow)
        rows = [row for row, _ in await _rows(connection, search, MOST_COUNTED)] if not search.unreadable else []
        entries = search.catalogue.entries
        counts: Mapping[str, dict[tuple[str, str], int]] = {"systems": {}, "makers": {}, "models": {}, "years": {}}
        for row in rows[:MOST_COUNTED]:
            who: Who = entries["who"][row.who]
            stated = row.year_from and row.year_to != ANY_TO
            said = {
                "systems": [(entries["what"][row.what].system, "")],
                "makers": [(who.maker, "")],
                "models": [(who.model, who.maker)],
                "years": [(str(year), "") for year in range(row.year_from, row.year_to + 1)] if stated else [],
            }
            for facet, values in said.items():
                for value in values:
                    counts[facet][value] = counts[facet].get(value, 0) + 1
        return Facets(
            counted=min(len(rows), MOST_COUNTED),
            all=len(rows) <= MOST_COUNTED,
            **{facet: _most(found) for facet, found in counts.items()},
        )

    return await context.database.run(work)


def _most(counts: Mapping[tuple[str, str], int]) -> tuple[FacetValue, ...]:
    best = sorted(counts.items(), key=lambda pair: (-pair[1], pair[0]))[:MOST_VALUES]
    return tuple(FacetValue(value=value, maker=maker, count=count) for (value, maker), count in best)


async def checked_by(connection: AsyncConnection, spec: Spec, at: datetime) -> bool:
    """Whether a second person had checked this revision by then."""
    notes = await ledger.notes(connection, "spec", spec.id)
    return any(n.kind == "checked" and n.revision == spec.revision and n.at_server <= at for n in notes)
