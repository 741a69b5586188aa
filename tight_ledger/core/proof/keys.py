"""The key of an installation: it signs checkpoints (Ed25519, RFC 8032) and marks entries (HMAC-SHA256, RFC 2104).

Its 32 bytes lie outside the database and outside a plain backup. Public keys are written as a verifier key of a signed note:
`name+id+key`, the id in hex, the key in base64 behind a byte 1.
"""

import base64
import hashlib
import hmac
from dataclasses import dataclass
from functools import cached_property
from uuid import UUID

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey

from tight_ledger.core.base.errors import Invalid

ED25519 = b"\x01"
ID_BYTES, KEY_BYTES = 4, 32
_MARKS = b"tight-ledger marks of entries"


def exactly(encoded: str) -> bytes:
    """The bytes of a text in base64, of which only one spelling is right.

    Raises:
        ValueError: it is another, or no base64.
    """
    found = base64.b64decode(encoded, validate=True)
    if base64.b64encode(found).decode() != encoded:
        raise ValueError("another spelling of the same bytes")
    return found


def key_id(name: str, public: bytes) -> bytes:
    """The first four bytes of SHA-256 over name, line feed, the byte 1 and the public key."""
    return hashlib.sha256(name.encode() + b"\n" + ED25519 + public).digest()[:ID_BYTES]


@dataclass(frozen=True)
class PublicKey:
    """A public key, and the name under which it signs."""

    name: str
    public: bytes

    @property
    def id(self) -> bytes:
        """Four bytes by which a signature says whose it is."""
        return key_id(self.name, self.public)

    @property
    def written(self) -> str:
        """`tight-ledger/3f2a…+1a2b3c4d+AbC…`."""
        return f"{self.name}+{self.id.hex()}+{base64.b64encode(ED25519 + self.public).decode()}"

    def holds(self, signature: bytes, signed: bytes) -> bool:
        """Whether a signature of 64 bytes is this key's over these bytes."""
        try:
            Ed25519PublicKey.from_public_bytes(self.public).verify(signature, signed)
        except (InvalidSignature, ValueError):
            return False
        return True


def read_public(written: str) -> PublicKey:
    """A public key as it is written.

    Raises:
        Invalid: it is not written so, or its id does not fit.
    """
    wrong = Invalid("key", "This is no public key of an installation.", "Copy the whole line: name+id+key.")
    try:
        name, said, encoded = written.strip().split("+", 2)
        key = exactly(encoded)
    except ValueError as error:
        raise wrong from error
    if not name or key[:1] != ED25519 or len(key) != 1 + KEY_BYTES or key_id(name, key[1:]).hex() != said:
        raise wrong
    return PublicKey(name, key[1:])


@dataclass(frozen=True)
class SigningKey:
    """The secret of an installation: 32 bytes, and the name under which it signs."""

    name: str
    secret: bytes

    def __reduce__(self) -> "tuple[type[SigningKey], tuple[str, bytes]]":
        """What another process is given: the secret, not what was made of it."""
        return SigningKey, (self.name, self.secret)

    @cached_property
    def _private(self) -> Ed25519PrivateKey:
        return Ed25519PrivateKey.from_private_bytes(self.secret)

    @cached_property
    def public(self) -> PublicKey:
        """What anybody may know of it."""
        return PublicKey(self.name, self._private.public_key().public_bytes_raw())

    @cached_property
    def _marks(self) -> bytes:
        return hmac.digest(self.secret, _MARKS, "sha256")

    def sign(self, text: bytes) -> bytes:
        """The signature over a text: 64 bytes."""
        return self._private.sign(text)

    def mark(self, stream: UUID, seq: int, seal: bytes) -> bytes:
        """The mark of an entry, which only this program can make: 32 bytes. It stands until a checkpoint covers the entry."""
        return hmac.digest(self._marks, place_of(stream, seq, seal), "sha256")


def place_of(stream: UUID, seq: int, seal: bytes) -> bytes:
    """An entry's stream, number and seal as 56 bytes: what is marked, and what a leaf of the log says."""
    return stream.bytes + seq.to_bytes(8, "big") + seal
