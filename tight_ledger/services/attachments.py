"""Certificates and photos that somebody hands in."""

from uuid import UUID

from tight_ledger.core.base.errors import Invalid
from tight_ledger.services.context import Context
from tight_ledger.store import attachments as attachment_store
from tight_ledger.store.attachments import Attachment

BEGINS: dict[bytes, str] = {b"%PDF-": "application/pdf", b"\xff\xd8\xff": "image/jpeg", b"\x89PNG\r\n": "image/png", b"RIFF": "image/webp"}
"""First bytes of each kind of file that is kept; the name of a file is not trusted."""


async def keep(context: Context, attachment_id: UUID, name: str, content: bytes) -> None:
    """Keep a file; the same id twice is once.

    Raises:
        Invalid: it is empty, or of a kind that is not kept.
    """
    kind = next((kind for begins, kind in BEGINS.items() if content.startswith(begins)), None)
    if kind is None:
        raise Invalid("file", f"“{name}” is no PDF and no picture.", "Send a PDF, JPEG, PNG or WebP.")
    attachment = Attachment(attachment_id, name, kind, content)
    await context.database.run(lambda connection: attachment_store.add(connection, attachment, context.now()))


async def find(context: Context, attachment_id: UUID) -> Attachment:
    """A file that is kept.

    Raises:
        NotOnFile: none has this id.
    """
    return await context.database.run(lambda connection: attachment_store.find(connection, attachment_id))
