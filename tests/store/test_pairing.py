"""Codes of wrenches are not guessed."""

import pytest

from tests.shop import Shop
from tight_ledger.core.base.errors import Busy, NotAllowed, NotOnFile
from tight_ledger.services.context import Context
from tight_ledger.services.devices import wrenches
from tight_ledger.services.devices.wrenches import Claim
from tight_ledger.store.database import Database
from tight_ledger.store.server import SERVING


async def test_wrong_codes_make_strangers_wait_and_no_registered_instrument(own: Shop):
    known, tam = own.instrument(), own.hand()
    code = tam.command(f"/api/runs/{tam.begun()}/wrenches").json()["code"]
    context = Context(Database(own.database().url(SERVING)))
    for number in range(wrenches.MOST_GUESSES):
        with pytest.raises(NotOnFile):
            await wrenches.paired(context, f"x{number:05d}", None)
    for stranger, refusal in ((None, Busy), (Claim(known["instrument"], "0" * 32), Busy)):
        with pytest.raises(refusal):
            await wrenches.paired(context, code, stranger)
    registered = Claim(known["instrument"], known["key"])
    with pytest.raises(NotOnFile):
        await wrenches.paired(context, "x99999", registered)
    assert (await wrenches.paired(context, code, registered)).sender.instrument == known["instrument"]
    await context.database.close()


async def test_a_wrong_key_is_refused(own: Shop):
    context = Context(Database(own.database().url(SERVING)))
    wrenches._guesses.clear()
    with pytest.raises(NotAllowed):
        await wrenches.paired(context, "000000", Claim(own.instrument()["instrument"], "0" * 32))
    await context.database.close()
