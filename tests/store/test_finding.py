"""The index: what it finds is what a look at every spec would find; made again it is the same."""

import asyncio
import random
from uuid import UUID, uuid4

import pytest
from sqlalchemy import text

from tests.core.play import wheel_spec
from tight_ledger.bench import generated_specs
from tight_ledger.core.base.people import Person
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.search.index import entries
from tight_ledger.core.search.matching import match_word, tokens
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context, index
from tight_ledger.services.machines import file_machine
from tight_ledger.services.specs import revisions
from tight_ledger.services.specs.search import MOST_HITS, Narrow, facets, find
from tight_ledger.store import search as search_store
from tight_ledger.store import tables
from tight_ledger.store.database import Database
from tight_ledger.store.server import SERVING
from tight_ledger.store.specs import Filed

MAKERS, MODELS = ("Aldby", "Brackholm", "Cormden", "Dunnford"), ("Heron 10", "Heron 12", "Curlew", "Teal 4")
TITLES = ("Rear wheel nuts", "Front wheel nuts", "Cylinder head", "Sump", "Hub nut", "Drum cap")
QUESTIONS = (
    "aldby",
    "wheel",
    "rear wheel",
    "heron 10 head",
    "10",
    "brackholm sump",
    "curlw hub",
    "cormden front nuts",
    "te",
    "8 heron",
    "m20x1.5",
)


@pytest.fixture(scope="module")
def specs():
    dice = random.Random(11)
    made = []
    for number in range(240):
        applies = {"maker": dice.choice(MAKERS), "model": dice.choice(MODELS)}
        count, thread = dice.choice((6, 8, 10)), dice.choice(("M20×1.5", "M22×1.5"))
        spec = wheel_spec(
            count, id=UUID(int=dice.getrandbits(128), version=4), title=dice.choice(TITLES), joint="joint", applies_to=[applies]
        )
        kinds = {"stud": spec.layout.kinds["stud"].model_copy(update={"thread": thread})}
        made.append(spec.model_copy(update={"layout": spec.layout.model_copy(update={"kinds": kinds}), "seat": f"seat {number % 7}"}))
    return made


@pytest.fixture
async def context(server, specs):
    opened = Context(Database(server.url(SERVING)))
    actor = Actor(Person(id=uuid4(), name="Ada", roles=("mechanic",)), uuid4())
    filed = [Filed.of(spec) for spec in specs]
    half = len(filed) // 2
    await opened.database.run(lambda c: revisions.file_specs(opened, c, actor, filed[:half], actor), transaction=True)
    await opened.database.run(lambda c: revisions.file_specs(opened, c, actor, filed[half:]), transaction=True)
    yield opened
    await opened.database.close()


def fits(asked, spec):
    """Whether every word matches something that the spec is found by."""
    entry = entries(spec)[0]
    said = [word for part in (entry.who, entry.what, entry.fasteners) for word in (*part.strong(), *part.words())]
    return all(match_word(word, said) is not None for word in tokens(asked) if word != "nuts")


@pytest.mark.parametrize("asked", QUESTIONS)
async def test_every_hit_fits_and_none_is_missing(context, specs, asked):
    expected = {spec.id for spec in specs if fits(asked, spec)}
    found = await find(context, asked, None, most=400)
    assert {hit.spec for hit in found.hits} == expected
    few = await find(context, asked, None)
    assert len(few.hits) == min(len(expected), MOST_HITS)
    assert few.more == (len(expected) > MOST_HITS)
    assert [hit.checked for hit in few.hits] == [hit.checked for hit in found.hits][:MOST_HITS]


async def test_the_texts_of_a_word_are_read_once(context, monkeypatch):
    """No spec is for both models, so each word is also looked for in notes and sources."""
    read = []

    async def heard(connection, sql, parameters=(), fetch=search_store.database.fetch):
        read.extend(tuple(parameters) if "finding_texts" in sql else ())
        return await fetch(connection, sql, parameters)

    monkeypatch.setattr(search_store.database, "fetch", heard)
    await find(context, "aldby curlew teal drum", None)
    assert sorted(read) == sorted(set(read)) != []


async def test_the_checked_come_before_the_unchecked(context):
    found = await find(context, "heron", None, most=400)
    checked = [hit.checked for hit in found.hits]
    assert True in checked
    assert False in checked
    assert checked == sorted(checked, reverse=True)


async def test_facets_go_on_from_the_hits_and_count_the_same(context, monkeypatch):
    """Each question twice: with the hits first, and by itself."""
    reads = []

    async def counted(connection, sql, read=search_store.read):
        reads.append(sql)
        return await read(connection, sql)

    monkeypatch.setattr(search_store, "read", counted)
    for asked in QUESTIONS:
        alone = await facets(context, asked, None, Narrow())
        found = await find(context, asked, None)
        reads.clear()
        assert await facets(context, asked, None, Narrow()) == alone
        assert found.more or not reads
        assert (await facets(context, asked, None, Narrow())) == alone
        assert reads or not alone.counted, "facets asked for again are counted again"


async def test_a_facet_is_a_wall(context, specs):
    found = await find(context, "wheel", None, Narrow(maker="Aldby", model="Teal 4"), most=400)
    expected = {s.id for s in specs if "wheel" in s.title and (s.applies_to[0].maker, s.applies_to[0].model) == ("Aldby", "Teal 4")}
    assert {hit.spec for hit in found.hits} == expected


async def test_made_again_the_index_is_the_same(context):
    tables = ("finding", "finding_texts")
    entries_ = "SELECT dimension, id, content FROM finding_entries ORDER BY dimension, id"

    async def everything(connection):
        rows = [sorted(map(str, await connection.execute(text(f"SELECT * FROM {table}")))) for table in tables]
        return rows, list(map(tuple, await connection.execute(text(entries_))))

    await context.database.run(lambda c: c.execute(text("UPDATE finding_state SET form = 0")), transaction=True)
    await index(context)
    before = await context.database.run(everything)
    assert await index(context) == 0
    await context.database.run(lambda c: c.execute(text("UPDATE finding_state SET form = 0")), transaction=True)
    assert await index(context) >= 240
    assert await context.database.run(everything) == before


async def test_another_process_hears_of_new_entries(context, server):
    other = Context(Database(server.url(SERVING)))
    model = f"New{uuid4().hex[:6]}"
    assert (await find(other, model, None)).hits == ()
    spec = Filed.of(wheel_spec(id=uuid4(), applies_to=[{"maker": "Aldby", "model": model}]))
    await context.database.run(lambda c: revisions.file_specs(context, c, None, [spec]), transaction=True)
    assert len((await find(other, model, None)).hits) == 1
    await other.database.close()


async def test_a_search_while_the_fleet_changes_names_the_machine_that_was_asked_for(context):
    """Machines that sort before the one asked for are added meanwhile."""
    asked = f"Zz-{uuid4().hex[:6]}"
    wanted = Machine(id=uuid4(), fleet_number=asked, maker="Aldby", model="Teal 4")
    await file_machine(context, wanted)
    before = await context.database.run(context.catalogue)
    fleet = before.machines

    async def grow():
        for number in range(20):
            await file_machine(context, Machine(id=uuid4(), fleet_number=f"A{number}{uuid4().hex[:6]}", maker="Aldby", model="Heron 10"))

    async def search():
        return [await find(context, f"{asked} wheel", None) for _ in range(40)]

    _, *answers = await asyncio.gather(grow(), search(), search())
    named = {hit.machine.fleet_number for found in answers for answer in found for hit in answer.hits if hit.machine}
    assert named == {asked}
    assert before.machines == fleet
    assert len((await context.database.run(context.catalogue)).machines) == len(fleet) + 20


async def test_a_long_list_is_read_in_pieces_until_there_is_enough(context):
    catalogue = await context.database.run(context.catalogue)
    who = tuple(catalogue.entries["who"])
    level = search_store.Level(score=1, who=who)
    sizes = [sql.count(",") for sql in search_store.statements(level, frozenset(), 31)]
    assert len(sizes) == 1 + max(0, -(-(len(who) - search_store.FIRST_PIECE) // search_store.LATER_PIECE))


def test_the_bench_fills_what_the_search_reads():
    assert set(generated_specs.COLUMNS) == set(tables.finding.columns.keys())
    assert {len(row) for row in generated_specs.rows(300)} == {len(generated_specs.COLUMNS)}
    assert list(generated_specs.rows(300)) == list(generated_specs.rows(300))
