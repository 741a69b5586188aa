"""Papers and photos."""

import hashlib
from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy import insert, select
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import NotOnFile
from tight_ledger.store.ledger import moment, used_elsewhere
from tight_ledger.store.tables import attachments


@dataclass(frozen=True, slots=True)
class Attachment:
    """A file as it came."""

    id: UUID
    name: str
    media_type: str
    content: bytes

    @property
    def digest(self) -> str:
        """SHA-256 of the content, in hex."""
        return hashlib.sha256(self.content).hexdigest()


async def add(connection: AsyncConnection, attachment: Attachment, at: datetime) -> bool:
    """Keep a file; the same id twice is the same file once. Returns whether it was new.

    Raises:
        Stale: the id stands for a file with another content.
    """
    before = (await connection.execute(select(attachments.c.digest).where(attachments.c.id == attachment.id))).scalar()
    if before not in (None, attachment.digest):
        raise used_elsewhere()
    new = before is None
    if new:
        values = {
            "id": attachment.id,
            "digest": attachment.digest,
            "name": attachment.name,
            "media_type": attachment.media_type,
            "at": moment(at),
        }
        await connection.execute(insert(attachments).values(**values, content=attachment.content))
    return new


async def contents(connection: AsyncConnection, wanted: Collection[UUID]) -> dict[UUID, bytes]:
    """The content of those that are kept."""
    if not wanted:
        return {}
    query = select(attachments.c.id, attachments.c.content).where(attachments.c.id.in_(wanted))
    return {row.id: bytes(row.content) for row in await connection.execute(query)}


async def find(connection: AsyncConnection, wanted: UUID) -> Attachment:
    """One file.

    Raises:
        NotOnFile: none has this id.
    """
    row = (await connection.execute(select(attachments).where(attachments.c.id == wanted))).first()
    if row is None:
        raise NotOnFile("attachment", "This file is not kept here.", "It may have been erased; its digest stands in the entry.")
    return Attachment(row.id, row.name, row.media_type, bytes(row.content))
