"""Who pressed a command: its session's key shows it, even if the command is sent in somebody else's session."""

from dataclasses import dataclass, replace
from datetime import UTC, timedelta
from uuid import UUID

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.asymmetric.utils import encode_dss_signature

from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.store import press_keys
from tight_ledger.store.ledger import moment

HALF = 32
"""Bytes of each of the two numbers of a signature."""


@dataclass(frozen=True, slots=True)
class Signed:
    """What a tablet signed at the press: the method and path of a command, a line feed, and its body."""

    key: UUID
    signature: bytes
    text: bytes


def read_mark(mark: str, text: bytes) -> Signed | None:
    """The mark of a press as it is sent: the id of its key, a point, the signature in hex; None if it cannot be read.

    Args:
        text: what it has to be the signature of.
    """
    key, _, signature = mark.partition(".")
    try:
        signed = Signed(UUID(key), bytes.fromhex(signature), text)
    except ValueError:
        return None
    return signed if len(signed.signature) == 2 * HALF else None


def readable(public: bytes) -> bool:
    """Whether these bytes are a public key: a point of the curve P-256, uncompressed (SEC 1, 2.3.3)."""
    try:
        ec.EllipticCurvePublicKey.from_encoded_point(ec.SECP256R1(), public)
    except ValueError:
        return False
    return True


def holds(public: bytes, signed: Signed) -> bool:
    """Whether a signature is this key's: ECDSA on P-256 with SHA-256 (FIPS 186-5), as its two numbers of 32 bytes."""
    key = ec.EllipticCurvePublicKey.from_encoded_point(ec.SECP256R1(), public)
    r, s = (int.from_bytes(half) for half in (signed.signature[:HALF], signed.signature[HALF:]))
    try:
        key.verify(encode_dss_signature(r, s), signed.text, ec.ECDSA(hashes.SHA256()))
    except InvalidSignature:
        return False
    return True


async def presser(context: Context, deliverer: Actor, signed: Signed | None, waited: timedelta) -> Actor:
    """Who pressed what is delivered. They act, not the person whose session delivers it.

    Args:
        deliverer: in whose session it comes.
        signed: as its tablet signed it at the press; None if that cannot be read.
        waited: how long it waited there, as the tablet says.

    Returns:
        The person of the key. Where it is not known, is of another tablet, had ended before, or signed something else: the
        deliverer, as one who cannot show it.
    """
    unshown = replace(deliverer, unproven=True)
    if signed is None:
        return unshown
    if deliverer.key is not None and signed.key == deliverer.key.id:
        return deliverer if holds(deliverer.key.public, signed) else unshown
    key = await context.database.run(lambda connection: press_keys.key_of(connection, signed.key))
    pressed_at = moment((context.now() - waited).astimezone(UTC))
    if key is None or key.device != deliverer.device or pressed_at > key.until or not holds(key.public, signed):
        return unshown
    return Actor(key.person, key.device, key.must_change)
