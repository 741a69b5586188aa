"""A library of specs that goes from one installation to others: what is signed of it, and whether it holds.

The note has three lines, `tight-ledger library`, the SHA-256 of the file in hex, and how many specs are in it; then an empty line and the
signature, as on a checkpoint.
"""

import base64
import hashlib
import re

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.proof.keys import ID_BYTES, PublicKey, SigningKey, exactly

_NOTE = re.compile(r"(?P<text>tight-ledger library\n[0-9a-f]{64}\n\d{1,9}\n)\n— (?P<name>[^\n ]+) (?P<signature>[A-Za-z0-9+/=]+)\n")
REMEDY = "Get it from the centre again, with its note."


def library_note(content: bytes, specs: int, key: SigningKey) -> str:
    """The signed note of a file with a library.

    Args:
        specs: how many are in it.
    """
    text = f"tight-ledger library\n{hashlib.sha256(content).hexdigest()}\n{specs}\n"
    return f"{text}\n— {key.name} {base64.b64encode(key.public.id + key.sign(text.encode())).decode()}\n"


def require_signed(content: bytes, note: str, key: PublicKey) -> None:
    """Refuse a library that is not as it was signed.

    Raises:
        Invalid: the note is none, it is signed by another key, or the file is another.
    """
    found = _NOTE.fullmatch(note)
    if found is None:
        raise Invalid("note", "This is no signed note of a library.", REMEDY)
    try:
        signed = exactly(found["signature"])
    except ValueError as error:
        raise Invalid("note", "Its signature cannot be read.", REMEDY) from error
    if found["name"] != key.name or signed[:ID_BYTES] != key.id or not key.holds(signed[ID_BYTES:], found["text"].encode()):
        raise Invalid("note", "It is not signed by this key.", "Compare the key with the one that the centre tells.")
    if found["text"].split("\n")[1] != hashlib.sha256(content).hexdigest():
        raise Invalid("file", "The file is not the one that was signed.", REMEDY)
