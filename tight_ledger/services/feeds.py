"""Addresses at which a calendar program reads what is due. It does not sign in: the address contains a key."""

import hashlib
import secrets
from uuid import UUID

from tight_ledger.core.base.errors import NotOnFile
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context
from tight_ledger.store import feeds as feed_store


def _hash(key: str) -> bytes:
    return hashlib.sha256(key.encode()).digest()


async def make(context: Context, actor: Actor, request: Command) -> str:
    """Make such an address. Returns its key, which is not stored; the same id again replaces the key."""
    key = secrets.token_urlsafe(32)
    keep = feed_store.keep
    await context.database.run(lambda c: keep(c, request.id, _hash(key), actor.person.id, context.now()), transaction=True)
    return key


async def end(context: Context, actor: Actor) -> None:
    """Remove every such address that this person made."""
    await context.database.run(lambda connection: feed_store.end(connection, actor.person.id), transaction=True)


async def require(context: Context, feed: UUID, key: str) -> None:
    """Refuse another key than the feed's.

    Raises:
        NotOnFile: no feed has this id and key, or whoever made it has left.
    """
    known = await context.database.run(lambda connection: feed_store.key_of(connection, feed))
    if known is None or not secrets.compare_digest(known, _hash(key)):
        raise NotOnFile("feed", "There is nothing to follow at this address.", "Make a new one in the application, under Shop.")
