"""Certificates and photos that somebody hands in."""

from uuid import UUID

import filetype

from tight_ledger.core.base.errors import Invalid
from tight_ledger.services.context import Context
from tight_ledger.store import attachments as attachment_store
from tight_ledger.store.attachments import Attachment

KEPT: frozenset[str] = frozenset({"application/pdf", "image/jpeg", "image/png", "image/webp"})
"""Kinds of file that are kept, told by their content; the name of a file is not trusted."""


async def keep(context: Context, attachment_id: UUID, name: str, content: bytes) -> None:
    """Keep a file; the same id twice is once.

    Raises:
        Invalid: it is empty, or of a kind that is not kept.
    """
    kind = filetype.guess_mime(content)
    if kind not in KEPT:
        raise Invalid("file", f"“{name}” is no PDF and no picture.", "Send a PDF, JPEG, PNG or WebP.")
    attachment = Attachment(attachment_id, name, kind, content)
    await context.database.run(lambda connection: attachment_store.add(connection, attachment, context.now()))


async def find(context: Context, attachment_id: UUID) -> Attachment:
    """A file that is kept.

    Raises:
        NotOnFile: none has this id.
    """
    return await context.database.run(lambda connection: attachment_store.find(connection, attachment_id))
