"""Certificates and photos that somebody hands in."""

from uuid import UUID

from tight_ledger.core.base.errors import Invalid
from tight_ledger.store import attachments
from tight_ledger.store.attachments import Attachment
from tight_ledger.work.office import Office

BEGINS: dict[bytes, str] = {b"%PDF-": "application/pdf", b"\xff\xd8\xff": "image/jpeg", b"\x89PNG\r\n": "image/png", b"RIFF": "image/webp"}
"""What a file of a kind begins with; its name is not believed."""


async def keep(office: Office, paper_id: UUID, name: str, content: bytes) -> None:
    """Keep a file; the same id twice is once.

    Raises:
        Invalid: it is empty, or of a kind that is not kept.
    """
    kind = next((kind for begins, kind in BEGINS.items() if content.startswith(begins)), None)
    if kind is None:
        raise Invalid("file", f"“{name}” is no PDF and no picture.", "Send a PDF, JPEG, PNG or WebP.")
    one = Attachment(paper_id, name, kind, content)
    await office.database.run(lambda connection: attachments.add(connection, one, office.now()))


async def find(office: Office, paper_id: UUID) -> Attachment:
    """A file that is kept.

    Raises:
        NotOnFile: none has this id.
    """
    return await office.database.run(lambda connection: attachments.find(connection, paper_id))
