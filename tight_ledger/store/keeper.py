"""What lies outside the database: the installation's key, and every checkpoint that was made, in files that only grow."""

import hashlib
import os
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from cryptography.hazmat.primitives import serialization
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.proof.checkpoints import SignedCheckpoint, read_checkpoint, read_checkpoints
from tight_ledger.core.proof.keys import PublicKey, SigningKey, read_public

KEY_FILE, CHECKPOINTS_FILE, PUBLIC_FILE = "key.pem", "checkpoints.txt", "public-key.txt"
NAME = "tight-ledger"
TAIL_BYTES = 4_096
"""No checkpoint is longer."""


@dataclass(frozen=True, slots=True)
class Keeper:
    """The folder of the key and the checkpoints; and further folders, on other disks, that get each checkpoint too."""

    folder: Path
    key: SigningKey
    copies: tuple[Path, ...] = ()

    @property
    def file(self) -> Path:
        """The checkpoints, one after the other."""
        return self.folder / CHECKPOINTS_FILE

    @property
    def public(self) -> tuple[PublicKey, ...]:
        """The keys whose checkpoints are believed: this one, and earlier ones that stand in the file of public keys.

        Raises:
            Invalid: a line of the file is no key.
        """
        lines = (self.folder / PUBLIC_FILE).read_text(encoding="utf-8").splitlines()
        return tuple(dict.fromkeys((self.key.public, *(read_public(line) for line in lines if line.strip()))))

    def believe(self, key: str) -> bool:
        """Believe the checkpoints of another public key too. Returns whether it was new.

        Raises:
            Invalid: it is no key.
        """
        if read_public(key) in self.public:
            return False
        with (self.folder / PUBLIC_FILE).open("a", encoding="utf-8") as file:
            file.write(key.strip() + "\n")
        return True

    def written(self) -> list[SignedCheckpoint]:
        """Every checkpoint that was written outside, in the sequence in which they were made.

        Raises:
            Invalid: something else stands in the file.
        """
        return read_checkpoints(self.file.read_text(encoding="utf-8")) if self.file.exists() else []

    def newest(self) -> SignedCheckpoint | None:
        """The last checkpoint that was written outside.

        Raises:
            Invalid: the file does not end with one.
        """
        if not self.file.exists():
            return None
        with self.file.open("rb") as file:
            file.seek(max(0, self.file.stat().st_size - TAIL_BYTES))
            tail = file.read().decode(errors="replace")
        last = tail.rstrip().rpartition("\n\n\n")[2]
        return read_checkpoint(last) if last else None

    def write(self, note: str) -> list[str]:
        """Write a checkpoint into every folder, and onto the disk. Returns the folders in which that failed, with why."""
        failed = []
        for folder in (self.folder, *self.copies):
            try:
                folder.mkdir(parents=True, exist_ok=True)
                handle = os.open(folder / CHECKPOINTS_FILE, os.O_WRONLY | os.O_CREAT | os.O_APPEND, 0o644)
                try:
                    os.write(handle, f"{note}\n\n".encode())
                    os.fsync(handle)
                finally:
                    os.close(handle)
            except OSError as error:
                failed.append(f"{folder}: {error.strerror}")
        return failed


def keeper(folder: Path, copies: Sequence[Path] = ()) -> Keeper:
    """The keeper of a folder; the key is made if there is none.

    Raises:
        Invalid: the key's file holds no such key, or others may read it.
    """
    file = folder / KEY_FILE
    if not file.exists():
        folder.mkdir(parents=True, exist_ok=True)
        made = Ed25519PrivateKey.generate().private_bytes(
            serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
        )
        with os.fdopen(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as new:
            new.write(made)
    key = read_key(file)
    public = folder / PUBLIC_FILE
    if not public.exists():
        public.write_text(key.public.written + "\n", encoding="utf-8")
    return Keeper(folder, key, tuple(copies))


def read_key(file: Path) -> SigningKey:
    """The key in a PEM file.

    Raises:
        Invalid: it holds no Ed25519 key, or others than its owner may read it.
    """
    if file.stat().st_mode & 0o077:
        raise Invalid("key", f"Others may read {file}.", f"Take that right from them: chmod 600 {file}.")
    try:
        private = serialization.load_pem_private_key(file.read_bytes(), password=None)
    except ValueError as error:
        raise Invalid("key", f"{file} holds no key.", "Put the file back from your own copy of it.") from error
    if not isinstance(private, Ed25519PrivateKey):
        raise Invalid("key", f"{file} holds another kind of key.", "Put the file back from your own copy of it.")
    public = private.public_key().public_bytes_raw()
    return SigningKey(f"{NAME}/{hashlib.sha256(public).hexdigest()[:16]}", private.private_bytes_raw())
