"""Finding among many specs: the search beside its bare SQL, and what its caps miss beside an exhaustive search."""

import asyncio
import random
import statistics
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from itertools import islice
from typing import Any
from unittest.mock import patch
from uuid import uuid4

import asyncmy
import numpy as np
import uvloop
from sqlalchemy import URL, create_engine, text
from sqlalchemy.engine import Connection
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.bench import generated_specs, whole_specs
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.search.index import ANY_FROM, ANY_TO, text_words
from tight_ledger.core.search.matching import DIMENSIONS, TokenReading, options, tokens
from tight_ledger.installation.databases import Databases
from tight_ledger.services import machines
from tight_ledger.services.context import Context
from tight_ledger.services.specs.search import MOST_HITS, SearchAnswer, applies_of, figures_of, find
from tight_ledger.store import database
from tight_ledger.store import search as search_store
from tight_ledger.store.database import Database

AT_ONCE = 5_000
_INDEXES = {
    "finding_who_what": "who, what, fasteners, standing", "finding_what": "what, standing, who", "finding_fasteners": "fasteners, standing",
    "finding_what_fasteners": "what, fasteners, standing", "finding_notes": "notes, standing", "finding_source": "source, standing",
    "finding_standing": "standing, year_from", "finding_who_notes": "who, notes, standing", "finding_who_source": "who, source, standing",
}  # fmt: skip


def build(owner: URL, count: int) -> dict[str, Any]:
    """Fill the index with `count` specs; how long it took, and how large it is."""
    engine = create_engine(owner, isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        started = time.perf_counter()
        _fill(connection, count)
        took = round(time.perf_counter() - started, 1)
        connection.execute(text("ANALYZE TABLE finding, finding_entries, finding_texts"))
        sizes = connection.execute(
            text("SELECT table_name, data_length + index_length FROM information_schema.tables WHERE table_name LIKE 'finding%'")
        ).all()
    engine.dispose()
    return {
        "specs": count,
        "build_s": took,
        "size_mb": round(sum(size for _, size in sizes) / 1e6),
        "made_of": generated_specs.described(count),
    }


def _fill(connection: Connection, count: int) -> None:
    for name in _INDEXES:
        connection.execute(text(f"ALTER TABLE finding DROP INDEX {name}"))
    made = generated_specs.stock(count)
    raw: Any = connection.connection.dbapi_connection
    with raw.cursor() as cursor:
        entries = [(dimension, number, 1, content) for dimension, number, content in made.entries()]
        _insert(raw, cursor, "finding_entries (dimension, id, version, content)", iter(entries))
        words = {(word, number) for number, said in (*made.notes, *made.sources) for word in text_words(said)}
        _insert(raw, cursor, "finding_texts (word, text)", iter(sorted(words)))
        _insert(raw, cursor, f"finding ({', '.join(generated_specs.COLUMNS)})", generated_specs.rows(count))
    added = ", ".join(f"ADD INDEX {name} ({columns})" for name, columns in _INDEXES.items())
    connection.execute(text(f"ALTER TABLE finding {added}"))
    connection.execute(text("UPDATE finding_state SET version = version + 1"))


def _insert(raw: Any, cursor: Any, into: str, rows: Any) -> None:
    while batch := list(islice(rows, AT_ONCE)):
        marks = ", ".join(["%s"] * len(batch[0]))
        cursor.executemany(f"INSERT INTO {into} VALUES ({marks})", batch)
        raw.commit()


def questions(count: int, each: int) -> dict[str, list[tuple[str, bool]]]:
    """The questions of each class, and whether the machine is picked first."""
    dice = random.Random(3)
    made = generated_specs.stock(count)
    joints = sorted({what.joint for _, what in made.what})
    makers = sorted({who.maker for _, who in made.who})

    def slipped(word: str) -> str:
        at = dice.randrange(1, len(word) - 1)
        return dice.choice(
            (word[:at] + word[at + 1 :], word[:at] + word[at + 1] + word[at] + word[at + 2 :], word[:at] + "x" + word[at + 1 :])
        )

    long_makers = [maker for maker in makers if len(maker) >= 6]
    return {
        "one machine's joint": [(dice.choice(joints), True) for _ in range(each)],
        "maker and joint": [(f"{dice.choice(makers)} {dice.choice(joints)}", False) for _ in range(each)],
        "joint only": [(dice.choice(joints), False) for _ in range(each)],
        "broad": [
            (dice.choice(("wheel", "m12", "10 stud", "2019", "rear", "b", "engine bolt", "m14x1.5", "cap")), False) for _ in range(each)
        ],
        "with a slip": [(f"{slipped(dice.choice(long_makers))} {dice.choice(joints)}", False) for _ in range(each)],
        "in a note": [(f"{dice.choice(makers)} {dice.choice(('recall', 'sealant', 'hollow'))}", False) for _ in range(each)],
    }


@contextmanager
def _listening() -> Iterator[list[tuple[str, Sequence[object]]]]:
    """Remembers every statement of a search, so that they can be run bare."""
    statements: list[tuple[str, Sequence[object]]] = []
    asked = database.fetch

    async def heard(connection: AsyncConnection, sql: str, parameters: Sequence[object] = ()) -> list[tuple[Any, ...]]:
        statements.append((sql, parameters))
        return await asked(connection, sql, parameters)

    with patch.object(database, "fetch", heard):
        yield statements


async def _bare(connection: Any, statements: Sequence[tuple[str, Any]]) -> float:
    started = time.perf_counter()
    async with connection.cursor() as cursor:
        for sql, parameters in statements:
            await cursor.execute(sql, parameters or None)
            await cursor.fetchall()
    return time.perf_counter() - started


def _p(times: Sequence[float], share: float) -> float:
    return round(sorted(times)[min(int(len(times) * share), len(times) - 1)] * 1e3, 2)


class _Exhaustive:
    """Every row held against a question, in memory: what a search without caps would find."""

    def __init__(self, owner: URL) -> None:
        engine = create_engine(owner)
        with engine.connect() as connection:
            raw = connection.exec_driver_sql("SELECT spec_id, who, what, fasteners, year_from, year_to FROM finding").all()
        engine.dispose()
        self.place = {str(row[0]): number for number, row in enumerate(raw)}
        self.columns = {name: np.array([row[1 + i] for row in raw], dtype=np.int64) for i, name in enumerate(DIMENSIONS)}
        self.codes = {name: np.unique(column, return_inverse=True) for name, column in self.columns.items()}
        self.year_from = np.array([row[4] for row in raw])
        self.year_to = np.array([row[5] for row in raw])

    def scores(self, asked: str, catalogue: search_store.Catalogue) -> Any:
        """By row, the score; 0 where a token fits nothing."""
        total = np.zeros(len(self.year_from), dtype=np.int32)
        fits = np.ones(len(total), dtype=bool)
        for word in tokens(asked):
            ways = options(word, catalogue.words)
            best = np.zeros(len(total), dtype=np.int32)
            passed = any(way.dimension is None and way.year is None for way in ways)
            for way in ways:
                best = np.maximum(best, self._of(way))
            fits &= (best > 0) | passed
            total += best
        return np.where(fits, total, -1)

    def _of(self, way: TokenReading) -> Any:
        if way.year is not None:
            stated = ~((self.year_from == ANY_FROM) & (self.year_to == ANY_TO))
            return np.where((self.year_from <= way.year) & (self.year_to >= way.year), np.where(stated, 3, 1), 0)
        if way.dimension is None:
            return 0
        unique, code = self.codes[way.dimension]
        return np.array([way.scores.get(int(entry), 0) for entry in unique], dtype=np.int32)[code]

    def recall(self, asked: str, found: SearchAnswer, catalogue: search_store.Catalogue) -> float:
        """Of the best 30, counted by score, the share that was found."""
        scores = self.scores(asked, catalogue)
        best = np.sort(scores[scores >= 0])[::-1][:MOST_HITS].tolist()
        mine = sorted((int(scores[self.place[str(hit.spec)]]) for hit in found.hits), reverse=True)
        if not best:
            return 1.0
        hit = 0
        for score in mine:
            if score in best:
                best.remove(score)
                hit += 1
        return hit / (hit + len(best))


async def measure(owner: URL, serving: URL, count: int, each: int) -> dict[str, Any]:
    """Every class of question: the search, its bare SQL, their ratio, and recall."""
    context, listener = Context(Database(serving)), Context(Database(serving))
    made = generated_specs.stock(count)
    maker = made.who[len(made.who) // 2][1]
    machine = Machine(id=uuid4(), fleet_number=f"Q9{uuid4().int % 10**6}", maker=maker.maker, model=maker.model)
    await machines.file_machine(context, machine)
    started = time.perf_counter()
    await find(context, "wheel", None)
    loaded = time.perf_counter() - started
    await find(listener, "wheel", None)
    bare = await asyncmy.connect(
        host=serving.host, port=serving.port or 3306, user=serving.username, password=serving.password, db=serving.database, autocommit=True
    )
    classes: dict[str, dict[str, Any]] = {}
    answered: dict[str, list[tuple[str, SearchAnswer]]] = {}
    for name, asked in questions(count, each).items():
        searches: list[float] = []
        sql: list[float] = []
        answers: list[tuple[str, SearchAnswer]] = []
        heard: list[list[tuple[str, Any]]] = []
        for question, picked in asked:
            with _listening() as statements:
                await find(listener, question, machine.id if picked else None)
            heard.append(statements)
        for keeps in (applies_of, figures_of):
            keeps.cache_clear()  # what is timed is asked for the first time, by a context that has heard nothing of it
        for (question, picked), statements in zip(asked, heard, strict=True):
            await _bare(bare, statements)
            started = time.perf_counter()
            found = await find(context, question, machine.id if picked else None)
            searches.append(time.perf_counter() - started)
            sql.append(await _bare(bare, statements))
            if not picked and name != "in a note":
                answers.append((question, found))
        classes[name] = {
            "search_ms": {"p50": _p(searches, 0.5), "p95": _p(searches, 0.95)},
            "bare_sql_ms": {"p50": _p(sql, 0.5), "p95": _p(sql, 0.95)},
            "ratio": {"p50": round(_p(searches, 0.5) / _p(sql, 0.5), 2), "p95": round(_p(searches, 0.95) / _p(sql, 0.95), 2)},
        }
        answered[name] = answers
    bare.close()
    exhaustive = await asyncio.to_thread(_Exhaustive, owner)  # only now: a million rows in memory would disturb the timing
    for name, answers in answered.items():
        if answers:
            classes[name]["recall"] = round(statistics.mean(exhaustive.recall(q, found, context.known) for q, found in answers), 4)
    for each_context in (context, listener):
        await each_context.database.close()
    return {"catalogue_load_ms": round(loaded * 1e3), "questions_each": each, "classes": classes}


def run(found: Databases, *, specs: int, each: int, whole: bool) -> dict[str, Any]:
    """Build what is searched, then measure.

    Args:
        specs: how many.
        each: questions of each class.
        whole: whether the specs are filed whole, or only what the search reads of them, which is faster.
    """
    built = whole_specs.build(found, specs) if whole else build(found.owner, specs)
    return {"index": built, **uvloop.run(measure(found.owner, found.serving, specs, each))}
