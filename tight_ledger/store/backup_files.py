"""The file of a backup: a line that names the format, a line of facts, and the packed dump, encrypted if there is a passphrase.

Encrypted with AES-256-GCM in chunks, so that a cut, a change or a chunk in another place is noticed; the key comes from
the passphrase by scrypt (RFC 7914).
"""

import gzip
import hashlib
import io
import json
import os
import secrets
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import IO, Any

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESGCM
from cryptography.hazmat.primitives.kdf.scrypt import Scrypt

from tight_ledger.core.base.errors import Invalid

MAGIC, FIRST_MAGIC = b"TIGHT-LEDGER-BACKUP 2\n", b"TIGHT-LEDGER-BACKUP 1\n"
CHUNK = 1 << 20
COST = {"n": 1 << 15, "r": 8, "p": 1}
"""Of scrypt: about 32 MB and a tenth of a second."""
MOST_COST = 1 << 20
"""Largest `n` that is worked on: a file must not make this machine compute for hours."""


def _key(passphrase: str, said: dict[str, Any]) -> AESGCM:
    if not 2 <= int(said["n"]) <= MOST_COST or int(said["r"]) > 16 or int(said["p"]) > 4:
        raise ValueError("the cost of the key is out of range")
    salt = bytes.fromhex(said["salt"])
    return AESGCM(Scrypt(salt=salt, length=32, n=said["n"], r=said["r"], p=said["p"]).derive(passphrase.encode()))


class _Encrypting(io.RawIOBase):
    """Writes chunks; the last one is marked, so that none can be cut off."""

    def __init__(self, raw: IO[bytes], key: AESGCM, prefix: bytes) -> None:
        self._raw, self._key, self._prefix = raw, key, prefix
        self._waiting, self._number = bytearray(), 0

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        self._waiting += data
        while len(self._waiting) > CHUNK:
            self._put(bytes(self._waiting[:CHUNK]), last=False)
            del self._waiting[:CHUNK]
        return len(data)

    def finish(self) -> None:
        """Write what is left, as the last chunk."""
        self._put(bytes(self._waiting), last=True)

    def _put(self, plain: bytes, *, last: bool) -> None:
        sealed = self._key.encrypt(_nonce(self._prefix, self._number), plain, b"last" if last else b"more")
        self._raw.write(len(sealed).to_bytes(4, "big") + sealed)
        self._number += 1


def _nonce(prefix: bytes, number: int) -> bytes:
    return prefix + number.to_bytes(4, "big")


def _decrypted(raw: IO[bytes], key: AESGCM, prefix: bytes) -> Iterator[bytes]:
    number, last = 0, False
    while not last:
        size = int.from_bytes(raw.read(4), "big")
        if not 16 <= size <= CHUNK + 16:
            raise ValueError("a chunk is missing")
        sealed, here = raw.read(size), raw.tell()
        last = raw.read(1) == b""
        raw.seek(here)
        yield key.decrypt(_nonce(prefix, number), sealed, b"last" if last else b"more")
        number += 1


def write(file: Path, dump: Path, facts: dict[str, Any], passphrase: str = "") -> None:
    """Write a backup from a dump, whole or not at all, readable by nobody else.

    Args:
        facts: what the second line says, besides how it is packed.
        passphrase: to encrypt it with; without one it is not encrypted.
    """
    with dump.open("rb") as source:
        digest = hashlib.file_digest(source, "sha256").hexdigest()
    prefix = secrets.token_bytes(8)
    encryption = COST | {"kdf": "scrypt", "salt": secrets.token_hex(16), "prefix": prefix.hex()} if passphrase else None
    packed = dump.with_suffix(".packed")
    with os.fdopen(os.open(packed, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as raw, dump.open("rb") as source:
        raw.write(MAGIC + json.dumps(facts | {"sha256": digest, "encryption": encryption}).encode() + b"\n")
        into: Any = _Encrypting(raw, _key(passphrase, encryption), prefix) if encryption is not None else raw
        with gzip.GzipFile(fileobj=into, mode="wb") as out:
            shutil.copyfileobj(source, out, CHUNK)
        if isinstance(into, _Encrypting):
            into.finish()
    packed.rename(file)


def read(file: Path, dump: IO[bytes], passphrase: str = "") -> dict[str, Any]:
    """Unpack a backup; returns its facts, with `version`.

    Raises:
        Invalid: not a backup, damaged, or another passphrase.
    """
    if not file.exists():
        raise Invalid("file", f"There is no {file}.", "Give the path of a backup.")
    with file.open("rb") as raw:
        magic = raw.readline(len(MAGIC) + 1)
        if magic not in (MAGIC, FIRST_MAGIC):
            raise Invalid("file", f"{file.name} is not a backup of Tight Ledger.", "Give one that ./tight backup wrote.")
        try:
            facts: dict[str, Any] = json.loads(raw.readline(10_000))
            said = facts.get("encryption")
            if said is not None and not passphrase:
                raise Invalid("passphrase", f"{file.name} is encrypted.", "Give its passphrase.")
            with _Unpacked(raw, said, passphrase) as packed:
                shutil.copyfileobj(packed, dump, CHUNK)
        except InvalidTag as error:
            raise Invalid("passphrase", f"{file.name} is damaged, or this is not its passphrase.", "Type it once more.") from error
        except (EOFError, OSError, ValueError, KeyError, TypeError) as error:
            raise Invalid("file", f"{file.name} is damaged.", "Take another backup.") from error
    dump.flush()
    dump.seek(0)
    if hashlib.file_digest(dump, "sha256").hexdigest() != facts.get("sha256"):  # type: ignore[arg-type]
        raise Invalid("file", f"{file.name} is damaged.", "Take another backup.")
    dump.seek(0)
    return facts | {"version": 1 if magic == FIRST_MAGIC else 2}


class _Unpacked(gzip.GzipFile):
    """The dump in a file, read piece by piece."""

    def __init__(self, raw: IO[bytes], said: dict[str, Any] | None, passphrase: str) -> None:
        source: Any = raw
        if said is not None:
            source = io.BufferedReader(_Pieces(_decrypted(raw, _key(passphrase, said), bytes.fromhex(said["prefix"]))), CHUNK)
        super().__init__(fileobj=source)


class _Pieces(io.RawIOBase):
    """Pieces of bytes as a file."""

    def __init__(self, pieces: Iterator[bytes]) -> None:
        self._pieces, self._left = pieces, b""

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: Any) -> int:
        while not self._left:
            piece = next(self._pieces, None)
            if piece is None:
                return 0
            self._left = piece
        taken = self._left[: len(buffer)]
        buffer[: len(taken)] = taken
        self._left = self._left[len(taken) :]
        return len(taken)
