"""What a person reads of a run, sealed with its first entry; and names as commitments, which can be proved and erased."""

import hashlib
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.layouts import Layout
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.specs.spec import Hand, Source, Spec

SALT_BYTES = 16


class RunFacts(Model):
    """A run's machine, spec and papers, as they were when it started. Whatever the tables say later, a card shows these."""

    machine: Machine
    title: str
    joint: str
    procedure: str
    spec: UUID
    spec_digest: str
    checked: bool
    """Whether a second person had checked the spec."""
    hand: Hand
    layout: Layout
    source: Source
    condition: str
    seat: str
    proof_ask: str
    certificates: dict[UUID, str] = {}
    """By wrench, the certificate of its last check."""


def facts_of(
    spec: Spec, machine: Machine, position: Position, procedure: str, *, checked: bool, certificates: dict[UUID, str] | None = None
) -> RunFacts:
    """The facts of a run from the spec that it is worked to and the machine.

    Args:
        checked: whether a second person had checked the spec when the run started.
        certificates: by wrench, the certificate of its last check.
    """
    return RunFacts(
        machine=machine, title=spec.title, joint=spec.joint, procedure=procedure, spec=spec.id, spec_digest=spec.digest, checked=checked,
        hand=spec.hand_at(position), layout=spec.layout, source=spec.source, condition=spec.condition, seat=spec.seat,
        proof_ask=spec.proof.ask, certificates=certificates or {},
    )  # fmt: skip


def commitment(salt: bytes, text: str) -> str:
    """SHA-256 over a salt of 16 bytes and a text, in hex: who has the salt can prove the text; without it nobody can guess it.

    Raises:
        ValueError: another length of salt.
    """
    if len(salt) != SALT_BYTES:
        raise ValueError(f"a salt has {SALT_BYTES} bytes")
    return hashlib.sha256(salt + text.encode()).hexdigest()
