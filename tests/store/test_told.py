"""What streams have told, in short: the same whether it was kept or not, and home asks no more for what is worked off."""

from uuid import uuid4

import pytest
from sqlalchemy import event

from tests.clock import START
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.records.notes import Note
from tight_ledger.services.context import Context
from tight_ledger.services.notices import notices
from tight_ledger.services.summaries import catch_up
from tight_ledger.store import ledger, told
from tight_ledger.store.database import Database
from tight_ledger.store.server import SERVING


@pytest.fixture
async def context(server):
    opened = Context(Database(server.url(SERVING)))
    yield opened
    await opened.database.close()


async def tell(context, subject, stream, kind, **said):
    def note(seq):
        return Note(id=uuid4(), stream=stream, subject=subject, kind=kind, seq=seq, at_server=START, **said)

    await context.database.run(lambda c: ledger.add_next(c, subject, stream, note), transaction=True)


async def test_what_was_told_is_read_before_it_is_kept_and_is_the_same_afterwards(context):
    machine, others = uuid4(), uuid4()

    async def read():
        found = await context.database.run(lambda c: told.read(c, "machine", [machine, others]))
        assert found[others].meters == {}
        return found[machine]

    for km in (40_115, 40_140, 40_160):
        await tell(context, "machine", machine, "meter_read", meter=Meter(kind="km", figure=km))
        fresh = await read()
        assert fresh.meters["km"].figure == km
        await catch_up(context)
        assert await read() == fresh
    await tell(context, "machine", machine, "described", attribute="wheel", value="alloy")
    await tell(context, "machine", machine, "described", attribute="wheel", value="steel")
    assert [notice.reason for notice in (await read()).notices] == ["its wheel is steel, not alloy"]


async def test_home_asks_as_little_after_many_notices_that_nothing_is_left_of_as_after_a_few(context):
    statements = []
    event.listen(context.database.single.sync_engine, "before_cursor_execute", lambda *heard: statements.append(heard[2]))

    async def asked(how_many):
        for _ in range(how_many):
            machine = uuid4()  # without a run
            for value in ("alloy", "steel"):
                await tell(context, "machine", machine, "described", attribute="wheel", value=value)
        await notices(context, most_worked_off=0)  # looked at, and settled
        statements.clear()
        assert await notices(context, most_worked_off=0) == ()
        return len(statements)

    assert await asked(2) == await asked(30)
