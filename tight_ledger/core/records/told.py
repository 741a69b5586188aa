"""What the stream of a machine, a spec, a tool or a person has told, in short: what lists over a whole shop are made from."""

from collections.abc import Sequence
from typing import Literal
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.machines.meters import Meter, MeterJump, jumps_of
from tight_ledger.core.records.notes import Note
from tight_ledger.core.records.recalls import Notice
from tight_ledger.core.specs.followups import Happened

SubjectKind = Literal["spec", "tool", "person", "machine"]
TELLS: dict[str, frozenset[str]] = {
    "spec": frozenset({"withdrawn", "checked", "reviewed"}),
    "tool": frozenset({"quarantined", "calibrated", "reviewed"}),
    "person": frozenset({"left", "roles_set", "reviewed"}),
    "machine": frozenset({"meter_read", "described", "happened", "reviewed"}),
}
"""By subject, the kinds of entry that change what its stream has told."""


class StreamInShort(Model):
    """What a stream has told so far."""

    meters: dict[str, Meter] = {}
    """Of a machine: the newest reading of each of its meters."""
    jumps: tuple[MeterJump, ...] = ()
    """Of a machine: by how much its meters were put right, or exchanged."""
    happened: dict[UUID, tuple[Happened, ...]] = {}
    """Of a machine: by run, the events of its follow-ups that somebody reported."""
    notices: tuple[Notice, ...] = ()
    """In the order of time."""


def tells(note: Note) -> bool:
    """Whether an entry changes what its stream has told. A first check of a spec does not: nothing was worked to before it."""
    first_check = note.kind == "checked" and (note.revision or 1) == 1
    return note.kind in TELLS.get(note.subject, ()) and not first_check


def in_short(notes: Sequence[Note], notices: Sequence[Notice]) -> StreamInShort:
    """What a stream has told.

    Args:
        notes: its entries, by seq.
        notices: that come from them.
    """
    happened: dict[UUID, tuple[Happened, ...]] = {}
    for note in notes:
        if note.kind == "happened" and note.run is not None and note.followup is not None:
            event = Happened(followup=note.followup, at=note.at_server)
            happened[note.run] = (*happened.get(note.run, ()), event)
    read = [(note.at_server, note.meter) for note in notes if note.meter is not None]
    meters = {meter.kind: meter for _, meter in read}
    return StreamInShort(meters=meters, jumps=jumps_of(read), happened=happened, notices=tuple(notices))
