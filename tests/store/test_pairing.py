"""Codes of wrenches are not guessed."""

import pytest

from tight_ledger.core.base.errors import Busy, NotOnFile
from tight_ledger.services.context import Context
from tight_ledger.services.devices import wrenches
from tight_ledger.store.database import Database
from tight_ledger.store.server import SERVING


async def test_after_ten_wrong_codes_an_address_gets_no_answer_and_others_do(server):
    context = Context(Database(server.url(SERVING)))
    for number in range(wrenches.MOST_GUESSES):
        with pytest.raises(NotOnFile):
            await wrenches.paired(context, f"{number:06d}", None, "10.0.0.9")
    with pytest.raises(Busy):
        await wrenches.paired(context, "123456", None, "10.0.0.9")
    with pytest.raises(NotOnFile):
        await wrenches.paired(context, "123456", None, "10.0.0.10")
    await context.database.close()
