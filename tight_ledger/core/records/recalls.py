"""Notices: what happened elsewhere and bears on work that is going on or done. A fold over the notes of the ledger."""

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import Literal
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import rights_of
from tight_ledger.core.records.notes import Note

NoticeKind = Literal["spec withdrawn", "spec replaced", "wrench in doubt", "rights ended", "machine corrected"]
REMEDY: dict[NoticeKind, str] = {
    "spec withdrawn": "Look at every joint that was worked to it; tighten it again to a spec that is in force.",
    "spec replaced": "Hold every joint against the new figure; tighten it again where it differs.",
    "wrench in doubt": "Check every joint that was pulled with it, with a wrench that is known to be right.",
    "rights ended": "Look at what was done since.",
    "machine corrected": "Look whether the joints were worked to the spec that fits.",
}
STOPS: frozenset[NoticeKind] = frozenset({"spec withdrawn", "spec replaced", "wrench in doubt", "machine corrected"})
"""Of these a lead decides in a run that is under way; the others are read."""
MATTERS: frozenset[str] = frozenset({"figure", "safety"})
"""Changes of a spec for which the joints that were worked to an older revision are looked at again."""


class Notice(Model):
    """Something that happened, and about what."""

    id: UUID
    """Of its entry in the ledger."""
    kind: NoticeKind
    at: datetime
    by: UUID | None = None
    """Nobody, if the server itself was asked to."""
    subject: UUID
    """The spec, the tool, the person or the machine."""
    revision: int | None = None
    """Of a spec: the revision that is not worked to any more; or the first that is right."""
    since: datetime | None = None
    """Of a wrench in doubt: when it was last known to be right, if it ever was."""
    reason: str = ""
    reviewed: dict[UUID, str] = {}
    """By run that was looked at because of it: what was found."""

    @property
    def remedy(self) -> str:
        """What to do about what was done before."""
        return REMEDY[self.kind]


def of_spec(notes: Sequence[Note], changes: dict[int, str]) -> tuple[Notice, ...]:
    """The notices in a spec's notes: a revision that was withdrawn, or replaced for a figure or for safety.

    Args:
        changes: by revision, what it changed.
    """
    found = []
    for note in notes:
        if note.kind == "withdrawn":
            found.append(_notice(note, "spec withdrawn", notes, note.text or ""))
        elif note.kind == "checked" and (note.revision or 1) > 1 and changes.get(note.revision or 0) in MATTERS:
            found.append(_notice(note, "spec replaced", notes, f"revision {note.revision} changes its {changes[note.revision or 0]}"))
    return tuple(found)


def of_tool(notes: Sequence[Note]) -> tuple[Notice, ...]:
    """The notices in a tool's notes: set aside, or found wrong in a check."""
    found = []
    for note in notes:
        if note.kind == "quarantined":
            found.append(_notice(note, "wrench in doubt", notes, note.text or "set aside"))
        elif note.calibration is not None and not note.calibration.good_as_found:
            found.append(_notice(note, "wrench in doubt", notes, "its check found it out of its limits"))
    return tuple(found)


def of_person(notes: Sequence[Note]) -> tuple[Notice, ...]:
    """The notices in a person's notes: they left, or their roles do not let them record any more."""
    found = []
    for note in notes:
        if note.kind == "left":
            found.append(_notice(note, "rights ended", notes, "left"))
        elif note.roles is not None and "work" not in rights_of(note.roles):
            found.append(_notice(note, "rights ended", notes, f"now {', '.join(note.roles)}"))
    return tuple(found)


def of_machine(notes: Sequence[Note]) -> tuple[Notice, ...]:
    """The notices in a machine's notes: something that was known about it turned out to be otherwise."""
    known: dict[str, str] = {}
    found = []
    for note in notes:
        if note.attribute is None or note.value is None:
            continue
        before = known.get(note.attribute, note.value)
        if before != note.value:
            found.append(_notice(note, "machine corrected", notes, f"its {note.attribute} is {note.value}, not {before}"))
        known[note.attribute] = note.value
    return tuple(found)


def _notice(note: Note, kind: NoticeKind, notes: Iterable[Note], reason: str) -> Notice:
    later = (each for each in notes if each.kind == "reviewed" and each.run is not None and each.seq > note.seq)
    return Notice(
        id=note.id, kind=kind, at=note.at_server, by=note.by, subject=note.stream, revision=note.revision, reason=reason,
        reviewed={each.run: each.text or "looked at" for each in later if each.run is not None},
    )  # fmt: skip
