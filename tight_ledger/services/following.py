"""Following the ledger: what other server processes recorded reaches the listeners of this one."""

import asyncio

import structlog

from tight_ledger.services.context import Context
from tight_ledger.store import runs as run_store
from tight_ledger.store.database import DatabaseAway

log = structlog.get_logger()
ASKED_EVERY_S = 0.15


async def follow_the_ledger(context: Context) -> None:
    """Ask for the heads of all runs that somebody listens to, again and again, with one query each time."""
    away = False
    while True:
        await asyncio.sleep(ASKED_EVERY_S)
        runs = context.listeners.runs
        if not runs:
            continue
        try:
            heads = await context.database.run(lambda connection, runs=runs: run_store.heads(connection, runs))  # type: ignore[misc]
        except DatabaseAway:
            if not away:
                log.warning("database away", listening=len(runs))
            away = True
            continue
        away = False
        for run, seq in heads.items():
            context.listeners.changed(run, seq)
