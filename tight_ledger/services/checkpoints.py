"""Making checkpoints: at each sign-off, daily, and when somebody asks; and what is known of the last verification."""

from collections.abc import Collection
from datetime import datetime
from uuid import UUID

import structlog
from sqlalchemy import insert, select
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Fault, Unreadable
from tight_ledger.core.base.models import Model, canonical
from tight_ledger.core.proof.checkpoints import Checkpoint, SignedCheckpoint
from tight_ledger.core.proof.findings import Finding
from tight_ledger.services.context import Context
from tight_ledger.store import log as log_store
from tight_ledger.store.database import DatabaseAway
from tight_ledger.store.ids import new_id
from tight_ledger.store.keeper import Keeper
from tight_ledger.store.ledger import moment
from tight_ledger.store.tables import verifications

log = structlog.get_logger()


class Verification(Model):
    """When the ledger was verified, and what was found."""

    at: datetime
    whole: bool
    entries: int
    checkpoints: int
    finding: Finding | None = None


def broken(finding: Finding) -> Unreadable:
    """The refusal to go on over something that does not fit."""
    return Unreadable("ledger", finding.words, "Keep everything as it is, and run ./tight verify --whole.")


async def make(context: Context, streams: Collection[UUID] | None = None, *, restored: bool = False) -> SignedCheckpoint | None:
    """A checkpoint over what moved; the last one if nothing did; None where there is no key.

    Args:
        streams: whose newest entries it covers; None for all. The first covers all, whatever is asked.
        restored: whether the tables were just restored from a backup: a new epoch begins.

    Raises:
        Unreadable: what it would cover, or the log itself, does not hold. Nothing is signed then.
    """
    keeper = context.keeper
    if keeper is None:
        return None
    outside = keeper.newest()  # before the transaction begins: what is written there is in the tables by then

    # Whether marks say nothing yet is read off the file: whoever owns the database could exchange what stands in it.
    adopts = restored or outside is None or not outside.is_signed_by(keeper.key.public)

    async def work(connection: AsyncConnection) -> tuple[SignedCheckpoint | None, bool]:
        before = await log_store.latest(connection)
        if not restored and outside is not None and (wrong := await _log_is_not(connection, outside)) is not None:
            raise broken(wrong)
        moved = await log_store.moved(connection, None if adopts else streams)
        if not moved and not restored:
            return before, False
        wrong = await log_store.wrong_since(connection, [known for known, _ in moved], None if adopts else keeper.key)
        if wrong is not None:
            raise broken(wrong)
        heads = [head for _, head in moved]
        return await log_store.append(connection, heads, _begun(context, keeper, before, outside, restored=restored), keeper.key), True

    made, is_new = await context.database.run(work, transaction=True)
    if made is not None and is_new:
        for failed in keeper.write(made.note):
            log.error("checkpoint not written", folder=failed)
    return made


def _begun(
    context: Context, keeper: Keeper, before: SignedCheckpoint | None, outside: SignedCheckpoint | None, *, restored: bool
) -> Checkpoint:
    """A checkpoint whose size and root are not known yet."""
    epochs = [each.checkpoint.epoch for each in (before, outside) if each is not None]
    epoch, size = max(epochs, default=1), before.checkpoint.size if before is not None else 0
    continues = before.checkpoint.continues if before is not None else 0
    if restored:
        epoch, continues = epoch + 1, size
    return Checkpoint(keeper.key.name, 0, b"", epoch, continues, context.now())


async def _log_is_not(connection: AsyncConnection, outside: SignedCheckpoint) -> Finding | None:
    """What does not fit between the log and the last checkpoint outside."""
    where = f"the checkpoint over {outside.checkpoint.size} leaves"
    found = await log_store.root_at(connection, outside.checkpoint.size)
    if found is None:
        return Finding(what="log cut", where=where)
    return None if found == outside.checkpoint.root else Finding(what="log changed", where=where)


async def newest(context: Context) -> SignedCheckpoint | None:
    """The last checkpoint; None before the first."""
    return await context.database.run(log_store.latest)


async def at_sign_off(context: Context, streams: Collection[UUID]) -> None:
    """A checkpoint over what was signed. That it fails takes nothing back; the log says so, and the next verification names it."""
    try:
        await make(context, streams)
    except (Fault, DatabaseAway, OSError) as error:
        log.error("no checkpoint", why=str(error))


async def keep(context: Context, verification: Verification) -> None:
    """Write down that the ledger was verified."""
    row = {"id": new_id(), "at": moment(verification.at), "content": canonical(verification).decode()}
    await context.database.run(lambda connection: connection.execute(insert(verifications).values(**row)))


async def last_verified(connection: AsyncConnection) -> Verification | None:
    """When the ledger was verified last; None if never."""
    query = select(verifications.c.content).order_by(verifications.c.at.desc()).limit(1)
    found = (await connection.execute(query)).scalar()
    return Verification.model_validate_json(found) if found is not None else None
