"""Certificates and photos that somebody hands in."""

from io import BytesIO
from uuid import UUID

import filetype
from PIL import Image, ImageOps
from sqlalchemy.ext.asyncio import AsyncConnection
from starlette.concurrency import run_in_threadpool

from tight_ledger.core.base.errors import Invalid
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.proof.privacy import seal_file
from tight_ledger.store import attachments as attachment_store
from tight_ledger.store.attachments import Attachment

PICTURES = {"image/jpeg": "JPEG", "image/png": "PNG", "image/webp": "WEBP"}
KEPT: frozenset[str] = frozenset({"application/pdf", *PICTURES})
"""Kinds of file that are kept, told by their content; the name of a file is not trusted."""
QUALITY = 92


async def keep(context: Context, attachment_id: UUID, name: str, content: bytes, actor: Actor | None = None) -> None:
    """Keep a file, and seal its digest; the same id twice is once. A picture is kept without what its camera wrote beside it.

    Raises:
        Invalid: it is empty, damaged, or of a kind that is not kept.
        Stale: the id stands for a file with another content.
    """
    kind = filetype.guess_mime(content)
    if kind not in KEPT:
        raise Invalid("file", f"“{name}” is no PDF and no picture.", "Send a PDF, JPEG, PNG or WebP.")
    if kind in PICTURES:
        content = await run_in_threadpool(only_the_picture, content, PICTURES[kind])
    attachment = Attachment(attachment_id, name, kind, content)

    async def work(connection: AsyncConnection) -> None:
        if await attachment_store.add(connection, attachment, context.now()):
            await seal_file(connection, attachment, context.now(), actor)

    await context.database.run(work, transaction=True)


def only_the_picture(content: bytes, form: str) -> bytes:
    """A picture as it is looked at, without place, time, device or a small second picture.

    Args:
        form: as Pillow calls it.

    Raises:
        Invalid: it cannot be read, or is larger than any camera makes it.
    """
    try:
        with Image.open(BytesIO(content), formats=[form]) as opened:
            picture = ImageOps.exif_transpose(opened)
            picture.info.clear()
            made = BytesIO()
            picture.save(made, form, quality=QUALITY, exif=b"", xmp=b"", comment=b"")
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise Invalid("file", "This picture cannot be read.", "Take it again, or send it as PDF.") from error
    return made.getvalue()


async def find(context: Context, attachment_id: UUID) -> Attachment:
    """A file that is kept.

    Raises:
        NotOnFile: none has this id.
    """
    return await context.database.run(lambda connection: attachment_store.find(connection, attachment_id))
