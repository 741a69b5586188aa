"""What a search reads, and how it is kept: rows over a few dimensions whose entries are matched in process."""

import gc
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, MutableMapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from itertools import chain
from typing import Any, NamedTuple
from uuid import UUID

from cachetools import LRUCache
from sqlalchemy import Table, and_, delete, func, select, tuple_, update
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import NotOnFile, Unreadable
from tight_ledger.core.base.models import Model, canonical
from tight_ledger.core.library.revisions import Status, statuses
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.search.index import (
    CURRENT,
    DRAFT,
    KIND_HEADS,
    SUPERSEDED,
    WAITING,
    Fastened,
    What,
    Who,
    entries,
    key,
    machine_names,
    machine_words,
    standing,
    text_words,
)
from tight_ledger.core.search.matching import DIMENSIONS, Dimension, Level, TokenReading, Vocabulary, WordMatch, options, slipped
from tight_ledger.core.specs.spec import Spec
from tight_ledger.store import database
from tight_ledger.store import machines as machine_store
from tight_ledger.store.ledger import notes_of
from tight_ledger.store.tables import finding, finding_entries, finding_state, finding_texts, runs, spec_revisions

FORM = 2
"""Version of the form of the index; if it differs from the stored one, everything is indexed again."""
MODELS: dict[Dimension, type[Model]] = {"who": Who, "what": What, "fasteners": Fastened}
AT_ONCE = 1_000
FIRST_PIECE, LATER_PIECE = 40, 400
"""Number of entries of `who` in the first statement of a level, and in each that follows."""
MOST_RANGES = 3_000
"""Largest number of pairs of entries that are looked up one by one."""
WORTH_FREEZING = 5_000
"""After growing by this many entries, the catalogue is frozen for the garbage collector, whose rounds would delay every search."""
MOST_TEXTS, FEW_TEXTS = 500, 100
MOST_READINGS, MOST_COMPARED = 2_000, 50_000
"""Words whose readings are kept, and pairs of a word and an entry. A word of a large library has a few thousand entries at most."""
_COLUMNS = "spec_id, revision, standing, who, what, fasteners, year_from, year_to, figures, trust, applies"

Compared = Callable[[str, str], WordMatch]


class FoundRow(NamedTuple):
    """One row of a search's answer, as the driver gives it."""

    spec_id: str
    revision: int
    standing: int
    who: int
    what: int
    fasteners: int
    year_from: int
    year_to: int
    figures: str
    trust: str
    applies: str


@dataclass(frozen=True, slots=True)
class Catalogue:
    """An immutable snapshot of the entries of every dimension and the fleet. A search uses one snapshot from start to end."""

    version: int = -1
    entries: Mapping[Dimension, Mapping[int, Any]] = field(default_factory=lambda: {name: {} for name in DIMENSIONS})
    words: Mapping[Dimension, Vocabulary] = field(default_factory=lambda: {name: Vocabulary() for name in DIMENSIONS})
    shown: Mapping[int, str] = field(default_factory=dict)
    """By entry of `who`, what a hit says."""
    by_model: Mapping[tuple[str, str], list[int]] = field(default_factory=dict)
    machines: tuple[Machine, ...] = ()
    machine_words: Vocabulary = field(default_factory=Vocabulary)
    fleet: frozenset[int] = frozenset()
    """The entries of `who` that a machine of the fleet matches."""
    readings: MutableMapping[str, list[TokenReading]] = field(init=False, default_factory=lambda: LRUCache(MOST_READINGS))
    """By word that was asked for lately, the ways to read it."""
    slipped: Compared = field(init=False, default_factory=lambda: lru_cache(MOST_COMPARED)(lambda word, line: slipped(word, line.split())))
    """Compares a word with those of a line. That takes long, and the same are compared again and again."""

    def ways(self, word: str) -> list[TokenReading]:
        """The ways to read a word, apart from a machine's name."""
        found = self.readings.get(word)
        if found is None:
            found = self.readings[word] = options(word, self.words)
        return found

    def of_machine(self, machine: Machine) -> list[int]:
        """The entries of `who` for a machine's model, whatever the variant."""
        return self.by_model.get((machine.maker.casefold(), machine.model.casefold()), [])

    def machine(self, machine_id: UUID) -> Machine:
        """A machine of the fleet.

        Raises:
            NotOnFile: no machine has this id.
        """
        found = next((machine for machine in self.machines if machine.id == machine_id), None)
        if found is None:
            raise NotOnFile("machine", "No machine on file has this id.", "Find it by its fleet number, or add it.")
        return found


async def refresh(connection: AsyncConnection, known: Catalogue) -> Catalogue:
    """The catalogue as it is now; only what came since is read. The known one stays as it is."""
    version = (await database.fetch(connection, "SELECT version FROM finding_state WHERE id = 1"))[0][0]
    if version == known.version:
        return known
    rows = (await connection.execute(select(finding_entries).where(finding_entries.c.version > known.version))).all()
    machines = await machine_store.read_all(connection)
    grown = with_entries(known, [(row.dimension, row.id, row.content) for row in rows])
    words = Vocabulary()
    for place, machine in enumerate(machines):
        words.add(place, machine_names(machine), machine_words(machine))
    fleet = frozenset(entry for machine in machines for entry in grown.of_machine(machine))
    fresh = replace(grown, version=version, machines=tuple(machines), machine_words=words, fleet=fleet)
    if len(rows) > WORTH_FREEZING:
        gc.collect()
        gc.freeze()
    return fresh


def with_entries(known: Catalogue, rows: Iterable[tuple[Dimension, int, str]]) -> Catalogue:
    """A catalogue with more entries of its dimensions; the known one stays as it is."""
    fresh = {(dimension, entry): content for dimension, entry, content in rows if entry not in known.entries[dimension]}
    if not fresh:
        return known
    touched = {dimension for dimension, _ in fresh}
    entries_ = {name: dict(held) if name in touched else held for name, held in known.entries.items()}
    words = {name: held.copy() if name in touched else held for name, held in known.words.items()}
    shown, by_model = dict(known.shown), {key: list(ids) for key, ids in known.by_model.items()}
    for (dimension, entry), content in fresh.items():
        model: Any = MODELS[dimension].model_validate_json(content)
        entries_[dimension][entry] = model  # type: ignore[index]
        words[dimension].add(entry, model.strong(), model.words())
        if isinstance(model, Who):
            shown[entry] = model.shown
            by_model.setdefault((model.maker.casefold(), model.model.casefold()), []).append(entry)
    return replace(known, entries=entries_, words=words, shown=shown, by_model=by_model)


async def changed(connection: AsyncConnection) -> int:
    """Count up the version of the catalogue after a change; returns the new version."""
    await connection.execute(update(finding_state).where(finding_state.c.id == 1).values(version=finding_state.c.version + 1))
    return int((await connection.execute(select(finding_state.c.version).where(finding_state.c.id == 1))).scalar_one())


def rows_of(spec: Spec, where: int) -> tuple[list[dict[str, Any]], dict[tuple[Dimension, int], str], dict[int, str]]:
    """The rows of a revision, the entries that they name, and its texts."""
    rows, named, texts = [], {}, {}
    for ordinal, entry in enumerate(entries(spec)):
        ids: dict[str, int] = {}
        for dimension in DIMENSIONS:
            model: Model = getattr(entry, dimension)
            content = canonical(model).decode()
            ids[dimension] = key(content)
            named[dimension, ids[dimension]] = content
        for name in ("notes", "source"):
            text = getattr(entry, name)
            ids[name] = key(text)
            texts[ids[name]] = text
        rows.append(
            {
                "spec_id": spec.id, "revision": spec.revision, "ordinal": ordinal, "standing": where, **ids,
                **{name: getattr(entry, name) for name in ("year_from", "year_to", "trust", "low_nm", "high_nm")},
                "figures": KIND_HEADS.dump_json(entry.figures).decode(), "applies": canonical(entry.applies).decode(),
            }
        )  # fmt: skip
    return rows, named, texts


async def add(connection: AsyncConnection, specs: Iterable[tuple[Spec, int]]) -> None:
    """Index revisions, each with its standing; in the transaction that puts them on file."""
    rows: list[dict[str, Any]] = []
    named: dict[tuple[Dimension, int], str] = {}
    texts: dict[int, str] = {}
    for spec, where in specs:
        own, entries_, said = rows_of(spec, where)
        rows += own
        named |= entries_
        texts |= said
    if not rows:
        return
    await add_entries(connection, named)
    await add_texts(connection, texts)
    await connection.execute(insert(finding), rows)


async def add_entries(connection: AsyncConnection, named: Mapping[tuple[Dimension, int], str]) -> None:
    """Insert the entries that are new, under a new version."""
    table = finding_entries
    known = (await connection.execute(select(table.c.dimension, table.c.id).where(tuple_(table.c.dimension, table.c.id).in_(named)))).all()
    fresh = set(named) - {(row.dimension, row.id) for row in known}
    if fresh:
        version = await changed(connection)
        rows = [{"dimension": d, "id": i, "version": version, "content": named[d, i]} for d, i in sorted(fresh)]
        await connection.execute(_or_keep(table, "version"), rows)


async def add_texts(connection: AsyncConnection, texts: Mapping[int, str]) -> None:
    """Insert the words of texts that no row names yet."""
    named: set[int] = set()
    for column in (finding.c.notes, finding.c.source):
        named |= set((await connection.execute(select(column).where(column.in_(texts)).distinct())).scalars())
    rows = [{"word": word, "text": text} for text, said in texts.items() if text not in named for word in text_words(said)]
    for start in range(0, len(rows), AT_ONCE):
        await connection.execute(_or_keep(finding_texts, "word"), rows[start : start + AT_ONCE])


def _or_keep(table: Table, column: str) -> Any:
    """An insert that leaves existing rows unchanged."""
    inserting = insert(table)
    return inserting.on_duplicate_key_update({column: getattr(inserting.inserted, column)})


async def stand(connection: AsyncConnection, spec_id: UUID, found: Mapping[int, Status]) -> None:
    """Store how a spec's revisions stand now."""
    for revision in found:
        await connection.execute(
            update(finding)
            .where(finding.c.spec_id == spec_id, finding.c.revision == revision)
            .values(standing=standing(dict(found), revision))
        )


async def rebuild(connection: AsyncConnection) -> int:
    """Index every spec on file again, if the form of the index is not this program's; how many revisions."""
    state = (await connection.execute(select(finding_state.c.form).where(finding_state.c.id == 1))).scalar_one()
    if state == FORM:
        return 0
    for table in (finding, finding_entries, finding_texts):
        await connection.execute(delete(table))
    count, last = 0, UUID(int=0)
    while True:
        ids = select(spec_revisions.c.spec_id).where(spec_revisions.c.spec_id > last).distinct().order_by(spec_revisions.c.spec_id)
        spec_ids = [row.spec_id for row in await connection.execute(ids.limit(AT_ONCE))]
        if not spec_ids:
            break
        last = spec_ids[-1]
        notes = await notes_of(connection, "spec", spec_ids)
        standing_of = {spec: statuses(said) for spec, said in notes.items() if not isinstance(said, Unreadable)}
        found = await connection.execute(select(spec_revisions.c.content).where(spec_revisions.c.spec_id.in_(spec_ids)))
        specs = [spec for row in found if (spec := Spec.model_validate_json(row.content)).id in standing_of]
        await add(connection, [(spec, standing(standing_of[spec.id], spec.revision)) for spec in specs])
        count += len(specs)
    await connection.execute(update(finding_state).where(finding_state.c.id == 1).values(form=FORM))
    return count


# reading --------------------------------------------------------------------------------------------------------------


def _among(column: str, ids: Iterable[int]) -> str:
    """A condition on a column; the numbers come from the catalogue, never from a person."""
    return f"{column} IN ({','.join(map(str, ids))})"


def statements(level: Level, fleet: frozenset[int], limit: int, texts: Iterable[int] | None = None) -> Iterator[str]:
    """The statements of a level, to be read until there is enough.

    Where `who` is known it is gone through piece by piece, those of the fleet first; a long list of pairs costs more to
    plan than to read. Without it, each standing is a part of its own, limited by itself; what comes after the fleet's and
    the checked is a statement of its own, as it is seldom needed.
    """
    said = None if texts is None else sorted(texts)
    columns = ("notes", "source") if said is not None else ("",)
    if level.who is None:
        ours = replace(level, who=tuple(sorted(fleet)))
        first = [(ours, CURRENT), (ours, DRAFT)] if fleet else []
        for among in ([*first, (level, CURRENT)], [(level, DRAFT), (level, WAITING), (level, SUPERSEDED)]):
            parts = [_part(of, f"standing = {where}", column, said, limit) for of, where in among for column in columns]
            yield " UNION ALL ".join(parts)
        return
    ids = sorted(level.who, key=lambda entry: (entry not in fleet, entry))
    start, size = 0, FIRST_PIECE
    while start < len(ids):
        batch = replace(level, who=tuple(ids[start : start + size]))
        parts = [_part(batch, f"standing <= {SUPERSEDED}", column, said, limit, "standing") for column in columns]
        yield " UNION ALL ".join(parts)
        start, size = start + size, LATER_PIECE


def _part(level: Level, standing_: str, column: str, texts: Sequence[int] | None, limit: int, order: str = "") -> str:
    conditions = [standing_]
    conditions += [_among(name, ids) for name in DIMENSIONS if (ids := getattr(level, name)) is not None]
    as_filter = " + 0" if level.who is not None else ""  # over the index of `who`: planning every pair would cost more than reading
    if as_filter and level.what is not None:
        conditions[2] = _among(f"what{as_filter}", level.what)
    if level.year is not None:
        stated = f"year_from BETWEEN 1 AND {level.year} AND year_to >= {level.year}"
        conditions.append(stated if level.year_stated else "year_from = 0 AND year_to = 9999")
    if texts is not None:
        conditions.append(_among(f"{column}{as_filter}", texts))
    index = _index(level, column, len(texts or ()))
    if index == "finding_standing":
        order = "year_from DESC"  # of those that began before, the last are likeliest to fit
    ordered = f" ORDER BY {order}" if order else ""
    return f"(SELECT {_COLUMNS} FROM finding FORCE INDEX ({index}) WHERE {' AND '.join(conditions)}{ordered} LIMIT {limit})"


def _index(level: Level, text: str, texts: int) -> str:
    """The index to read a level by. The optimiser guesses badly over long lists."""
    if level.who is not None:
        return f"finding_who_{text}" if text else "finding_who_what"
    if text and texts <= FEW_TEXTS:
        return f"finding_{text}"
    if level.what is not None:
        few = level.fasteners is not None and len(level.what) * len(level.fasteners) <= MOST_RANGES
        return "finding_what_fasteners" if few else "finding_what"
    if level.fasteners is not None:
        return "finding_fasteners"
    return f"finding_{text}" if text else "finding_standing"


async def read(connection: AsyncConnection, sql: str) -> list[FoundRow]:
    """The rows of a statement."""
    return [FoundRow(*row) for row in await database.fetch(connection, sql)]


_TEXTS = f"SELECT text FROM finding_texts WHERE word LIKE %s LIMIT {MOST_TEXTS}"


async def texts_with(connection: AsyncConnection, words: Sequence[str], known: dict[str, set[int]]) -> set[int]:
    """The texts that hold every one of some words, or words that begin so; at most 500 are looked at for each.

    Args:
        connection: to read by.
        words: at least one.
        known: what was read for words before; what is read now is added.
    """
    for word in words:
        if word not in known:
            like = word.replace("\\", "").replace("%", "").replace("_", "")
            known[word] = set(chain.from_iterable(await database.fetch(connection, _TEXTS, (f"{like}%",))))
        if not known[word]:
            return set()
    return set.intersection(*(known[word] for word in words))


async def in_force(connection: AsyncConnection, after: UUID, limit: int, *, drafts: bool) -> list[tuple[UUID, int]]:
    """Spec and revision of every spec in force, by id; with the drafts that nobody has checked, or without."""
    standings = (CURRENT, DRAFT) if drafts else (CURRENT,)
    query = select(finding.c.spec_id, finding.c.revision).where(finding.c.standing.in_(standings), finding.c.spec_id > after)
    return [(row.spec_id, row.revision) for row in await connection.execute(query.distinct().order_by(finding.c.spec_id).limit(limit))]


async def drafts_used(connection: AsyncConnection) -> dict[tuple[UUID, int], int]:
    """How many runs were started from each draft that was worked to."""
    query = select(runs.c.spec_id, runs.c.spec_revision, func.count().label("many")).join(
        finding, and_(finding.c.spec_id == runs.c.spec_id, finding.c.revision == runs.c.spec_revision, finding.c.ordinal == 0)
    )
    rows = await connection.execute(query.where(finding.c.standing.in_((DRAFT, WAITING))).group_by(runs.c.spec_id, runs.c.spec_revision))
    return {(row.spec_id, row.spec_revision): row.many for row in rows}


async def drafts(connection: AsyncConnection, used: Collection[tuple[UUID, int]], limit: int) -> tuple[list[tuple[UUID, int]], int]:
    """Drafts as (spec, revision), those among `used` first, and how many there are."""
    draft, first = finding.c.standing.in_((DRAFT, WAITING)), finding.c.ordinal == 0
    query = select(finding.c.spec_id, finding.c.revision).where(draft, first).limit(limit)
    found: list[tuple[UUID, int]] = []
    for part in (query.where(tuple_(finding.c.spec_id, finding.c.revision).in_(used)), query) if used else (query,):
        found += [(row.spec_id, row.revision) for row in await connection.execute(part)]
    many = (await connection.execute(select(func.count()).select_from(finding).where(draft, first))).scalar_one()
    return list(dict.fromkeys(found))[:limit], many


async def figures(connection: AsyncConnection, limit: int) -> list[tuple[UUID, float, float]]:
    """The last torque [N·m] of each spec that is worked to, as (spec, low, high)."""
    query = select(finding.c.spec_id, finding.c.low_nm, finding.c.high_nm).where(
        finding.c.standing.in_((CURRENT, DRAFT)), finding.c.ordinal == 0, finding.c.low_nm.is_not(None)
    )
    return [(row.spec_id, row.low_nm, row.high_nm) for row in await connection.execute(query.limit(limit))]


async def in_force_of(connection: AsyncConnection, specs: Collection[UUID]) -> list[tuple[UUID, int]]:
    """Spec and revision in force, of the given specs."""
    query = select(finding.c.spec_id, finding.c.revision).where(finding.c.standing.in_((CURRENT, DRAFT)), finding.c.spec_id.in_(specs))
    return [(row.spec_id, row.revision) for row in await connection.execute(query.distinct())]
