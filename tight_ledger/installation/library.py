"""The library's way from a centre to its depots: a file, and beside it the note that signs it."""

import asyncio
import os
from pathlib import Path
from uuid import UUID

from tight_ledger.core.base.errors import Invalid, NotOnFile
from tight_ledger.core.proof.keys import read_public
from tight_ledger.core.proof.library import library_note, require_signed
from tight_ledger.formats.json_files import read_json
from tight_ledger.installation.databases import Databases, with_context
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.specs import library
from tight_ledger.services.specs.importing import document
from tight_ledger.store import people as people_store

AT_THE_SERVER = UUID(int=0)
"""What stands in the place of a tablet for what is done on the server itself."""


def note_of(file: Path) -> Path:
    """Where the note of a library stands."""
    return file.with_name(f"{file.name}.note")


def write(found: Databases, file: Path) -> str:
    """Write the library and its note. Returns what to tell.

    Raises:
        Invalid: nothing is signed here, or the file is there already.
    """
    if found.keeper is None:
        raise Invalid("proof", "There is no key here that could sign.", "Start the program once; it makes its key.")
    if file.exists():
        raise Invalid("file", f"{file} is there already.", "Give a new name.")

    async def work(context: Context) -> list[bytes]:
        return [piece async for piece in document(context, drafts=False)]

    pieces = asyncio.run(with_context(found, work))
    content, many = b"".join(pieces), len(pieces) - 2  # the first and the last piece hold no spec
    for place, written in ((file, content), (note_of(file), library_note(content, many, found.keeper.key).encode())):
        new = place.with_name(f"{place.name}.new")
        new.write_bytes(written)
        os.replace(new, place)
    return f"{file}: {many} checked specs, signed by {found.keeper.key.public.written}"


def bring(found: Databases, file: Path, key: str, by: str) -> str:
    """Put a library on file. Returns what to tell.

    Args:
        key: the public key that must have signed it, as it is written.
        by: the name of the lead who brings it in.

    Raises:
        Invalid: it cannot be read, it is not signed by this key, or one of its specs cannot be put on file.
        NotOnFile: nobody has this name.
        NotAllowed: by somebody who is not a lead.
    """
    signer = read_public(key)
    try:
        content, note = file.read_bytes(), note_of(file).read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise Invalid("file", f"{file} or {note_of(file).name} cannot be read.", "Copy both to the same folder.") from error
    require_signed(content, note, signer)

    async def work(context: Context) -> library.BroughtIn:
        everybody = await context.database.run(people_store.here)
        person = next((each for each in everybody if each.name == by), None)
        if person is None:
            raise NotOnFile("by", f"Nobody here is called “{by}”.", "Give a lead's name as it stands on the list.")
        return await library.bring(context, Actor(person, AT_THE_SERVER), read_json(file), signer.written)

    done = asyncio.run(with_context(found, work))
    return f"{done.new} new, {done.same} here already, {done.taken_back} withdrawn because the centre has them no more."
