"""A checkpoint: how long the log is and what its root is, as a signed note that anybody can keep and check.

Its text has six lines: the log's name, the number of leaves, the root in base64, and the lines `epoch`, `continues` and `time`.
An empty line follows, then one line for each signature: a dash, the key's name, and in base64 the key's id with the signature.
"""

import base64
import hashlib
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.proof.keys import ID_BYTES, PublicKey, SigningKey, exactly

_NOTE = re.compile(r"(?P<text>(?:[^\n]+\n)+)\n(?P<signatures>(?:— [^\n]+\n)+)")
_TEXT = re.compile(
    r"(?P<log>[^\n+ ]+)\n(?P<size>0|[1-9]\d{0,17})\n(?P<root>[A-Za-z0-9+/]{43}=)\n"
    r"epoch (?P<epoch>\d{1,9})\ncontinues (?P<continues>\d{1,18})\ntime (?P<time>[0-9TZ:-]{20})\n"
)
CODE_BYTES = 10


@dataclass(frozen=True)
class Checkpoint:
    """What a log was at a moment."""

    log: str
    size: int
    root: bytes
    epoch: int
    """One more with each restore from a backup."""
    continues: int
    """How many leaves this epoch began with; those of an earlier epoch beyond them were given up."""
    time: datetime

    @property
    def text(self) -> str:
        """What is signed."""
        time = self.time.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
        root = base64.b64encode(self.root).decode()
        return f"{self.log}\n{self.size}\n{root}\nepoch {self.epoch}\ncontinues {self.continues}\ntime {time}\n"

    @property
    def code(self) -> str:
        """A short code, to be compared by eye: sixteen letters and digits in groups of four."""
        letters = base64.b32encode(hashlib.sha256(self.text.encode()).digest()[:CODE_BYTES]).decode()
        return "-".join(letters[place : place + 4] for place in range(0, len(letters), 4))

    def signed_by(self, key: SigningKey) -> str:
        """The whole note."""
        signature = base64.b64encode(key.public.id + key.sign(self.text.encode())).decode()
        return f"{self.text}\n— {key.name} {signature}\n"


@dataclass(frozen=True)
class SignedCheckpoint:
    """A checkpoint and who signed it."""

    checkpoint: Checkpoint
    signatures: tuple[tuple[str, bytes], ...]
    """(name, id and signature) of each."""
    note: str

    def is_signed_by(self, key: PublicKey) -> bool:
        """Whether a key signed it."""
        text = self.checkpoint.text.encode()
        return any(
            name == key.name and signed[:ID_BYTES] == key.id and key.holds(signed[ID_BYTES:], text) for name, signed in self.signatures
        )


def read_checkpoint(note: str) -> SignedCheckpoint:
    """A checkpoint from its note.

    Raises:
        Invalid: it is not one.
    """
    found = _NOTE.fullmatch(note if note.endswith("\n") else note + "\n")
    said = _TEXT.fullmatch(found["text"]) if found else None
    try:
        if found is None or said is None:
            raise ValueError
        signatures = tuple(_signature(line) for line in found["signatures"].splitlines())
        time = datetime.strptime(said["time"], "%Y-%m-%dT%H:%M:%SZ").replace(tzinfo=UTC)
        root = exactly(said["root"])
    except ValueError as error:
        raise Invalid("checkpoint", "This is no checkpoint.", "Give the whole note, with the line of its signature.") from error
    checkpoint = Checkpoint(said["log"], int(said["size"]), root, int(said["epoch"]), int(said["continues"]), time)
    return SignedCheckpoint(checkpoint, signatures, found[0])


def _signature(line: str) -> tuple[str, bytes]:
    _dash, name, encoded = line.split(" ", 2)
    return name, exactly(encoded)


def read_checkpoints(text: str) -> list[SignedCheckpoint]:
    """The checkpoints of a file in which they stand one after the other, each followed by an empty line.

    Raises:
        Invalid: something else stands in it.
    """
    notes = _NOTE.findall(text)
    found = [read_checkpoint(f"{body}\n{signatures}") for body, signatures in notes]
    left = _NOTE.sub("", text).strip()
    if left:
        raise Invalid("checkpoints", f"“{left.splitlines()[0][:60]}” belongs to no checkpoint.", "Keep the file as it was written.")
    return found


def given_up(checkpoints: Iterable[Checkpoint], of: Checkpoint) -> bool:
    """Whether what a checkpoint covers beyond a certain size was given up by a later restore: it is known, and no alarm."""
    begins: Mapping[int, int] = {each.epoch: each.continues for each in checkpoints}
    return any(epoch > of.epoch and size < of.size for epoch, size in begins.items())
