"""What a server does by itself at its start and once a day: a checkpoint over everything, and erasing what is too old."""

import asyncio
from datetime import timedelta

import structlog

from tight_ledger.core.base.errors import Fault
from tight_ledger.services.checkpoints import make
from tight_ledger.services.context import Context
from tight_ledger.services.proof.privacy import erase_old
from tight_ledger.store import shop as shop_store
from tight_ledger.store.database import DatabaseAway

log = structlog.get_logger()
DAILY = timedelta(hours=24)
LOOK_S = 600.0
"""How often a server process looks whether a day is over; what failed is tried again then."""


async def daily(context: Context) -> None:
    """At once, and a day after each time that it was done; for as long as the server runs.

    A sign-off covers its own streams only, so the time of the last checkpoint says nothing of this.
    """
    due = context.now()
    while True:
        try:
            if context.now() >= due:
                if await context.database.run(shop_store.read) is not None:
                    await erase_old(context)
                await make(context)
                due = context.now() + DAILY
        except (Fault, DatabaseAway, OSError) as error:
            log.error("not done today", why=str(error))
        await asyncio.sleep(LOOK_S)
