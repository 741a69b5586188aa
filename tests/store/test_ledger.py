"""Streams under many hands: once, in order, sealed."""

import asyncio
from uuid import uuid4

import pytest
from sqlalchemy import create_engine, text

from tests.clock import START
from tight_ledger.core.records.notes import Note
from tight_ledger.core.records.seals import broken_at
from tight_ledger.store import ledger
from tight_ledger.store.database import Database, fetch
from tight_ledger.store.server import OWNER, SERVING


@pytest.fixture
async def database(server):
    opened = Database(server.url(SERVING))
    yield opened
    await opened.close()


def note(stream, entry_id):
    def build(seq):
        return Note(id=entry_id, stream=stream, subject="tool", kind="added", seq=seq, at_server=START)

    return build


async def append(database, stream, entry_id, by=None):
    appender = by or ledger.Appender(database)  # one of its own: another process, or another server
    return await appender.append("tool", stream, entry_id, note(stream, entry_id))


async def test_the_same_entry_ten_times_at_once_is_one(database):
    stream, entry_id = uuid4(), uuid4()
    stored = await asyncio.gather(*(append(database, stream, entry_id) for _ in range(10)))
    assert {s.seq for s in stored} == {1}
    assert [s.entry is None for s in stored].count(False) == 1
    assert len(await database.run(lambda c: ledger.read(c, stream))) == 1


async def test_many_writers_one_unbroken_chain(database):
    """Every writer starts from a head that is soon stale: nothing is lost, nothing doubled."""
    stream, ids = uuid4(), [uuid4() for _ in range(40)]
    await asyncio.gather(*(append(database, stream, entry_id) for entry_id in ids))
    rows = await database.run(lambda c: ledger.read(c, stream))
    assert {Note.model_validate_json(body).id for _, body, _ in rows} == set(ids)
    assert [seq for seq, _, _ in rows] == list(range(1, 41))
    assert broken_at(rows) is None


async def test_what_comes_together_goes_in_together(database):
    """Forty entries of two streams, two of them sent twice, through one appender."""
    mine, streams, ids = ledger.Appender(database), [uuid4(), uuid4()], [uuid4() for _ in range(40)]
    ids += ids[:2]
    await asyncio.gather(*(append(database, streams[int(i.int % 2)], i, mine) for i in ids))
    for stream in streams:
        rows = await database.run(lambda c, s=stream: ledger.read(c, s))
        assert {Note.model_validate_json(body).id for _, body, _ in rows} == {i for i in ids if streams[int(i.int % 2)] == stream}
        assert broken_at(rows) is None


async def test_a_stale_hint_never_forks_the_chain(database):
    stream, mine = uuid4(), ledger.Appender(database)
    await append(database, stream, uuid4(), mine)
    await append(database, stream, uuid4())
    assert (await append(database, stream, uuid4(), mine)).seq == 3
    assert broken_at(await database.run(lambda c: ledger.read(c, stream))) is None


def lose_every_connection(server):
    engine = create_engine(server.url(OWNER))
    with engine.connect() as owner:
        for (number,) in owner.execute(text("SELECT ID FROM information_schema.PROCESSLIST WHERE USER = :u"), {"u": SERVING}).all():
            owner.execute(text(f"KILL {number}"))
    engine.dispose()


async def test_a_lost_connection_is_tried_again(database, server):
    stream = uuid4()
    await append(database, stream, uuid4())
    lose_every_connection(server)
    assert (await append(database, stream, uuid4())).seq == 2
    lose_every_connection(server)
    assert await database.run(lambda c: fetch(c, "SELECT %s", (7,))) == [(7,)]


SLEEPING = "SELECT 1 FROM information_schema.PROCESSLIST WHERE INFO LIKE 'SELECT SLEEP(%'"


async def test_the_answer_to_a_question_that_was_given_up_is_not_taken_for_another(database):
    assert await database.run(lambda c: fetch(c, "SELECT 7")) == [(7,)]
    for _ in range(3):
        asked = asyncio.create_task(database.run(lambda c: fetch(c, "SELECT SLEEP(30), 8")))
        while not await database.run(lambda c: fetch(c, SLEEPING)):
            await asyncio.sleep(0.01)
        asked.cancel()
        assert await database.run(lambda c: fetch(c, "SELECT 7")) == [(7,)]
