"""Revisions of a spec: their statuses, which is in force, and what changed between two."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Literal

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.library.sheet import followup_words, hand_words, sheet
from tight_ledger.core.records.notes import Note
from tight_ledger.core.specs.applicability import Applies
from tight_ledger.core.specs.spec import Spec

Status = Literal["draft", "current", "superseded", "withdrawn"]
Change = Literal["first", "wording", "figure", "safety"]
WEIGHT: tuple[Change, ...] = ("first", "wording", "figure", "safety")
"""From what nobody needs to hear to what everybody must."""


class Difference(Model):
    """One line of a comparison; equal lines too, so that it reads as a sheet."""

    where: str
    old: str
    new: str
    changed: bool


def statuses(notes: Iterable[Note]) -> dict[int, Status]:
    """How each revision of one spec stands: draft until a second person checked it, current until a newer one is."""
    found: dict[int, Status] = {}
    for note in notes:
        if note.revision is None:
            continue
        if note.kind == "entered":
            found.setdefault(note.revision, "draft")
        elif note.kind == "withdrawn":
            found[note.revision] = "withdrawn"
        elif note.kind == "checked" and found.get(note.revision) == "draft":
            found |= {older: "superseded" for older, status in found.items() if older < note.revision and status != "withdrawn"}
            newer = any(status == "current" for number, status in found.items() if number > note.revision)
            found[note.revision] = "superseded" if newer else "current"
    return found


def in_force(found: dict[int, Status]) -> int | None:
    """The revision that is worked to: the current one; without one the newest draft; None if all are withdrawn."""
    for wanted in ("current", "draft"):
        numbers = [number for number, status in found.items() if status == wanted]
        if numbers:
            return max(numbers)
    return None


def require_next(spec: Spec, found: dict[int, Status]) -> None:
    """Refuse a revision that does not follow the newest, or does not say what it changes.

    Raises:
        Invalid: see above.
    """
    newest = max(found, default=0)
    if newest == 0:  # the first that comes here; elsewhere it may have had others before it
        return
    if spec.revision != newest + 1:
        raise Invalid("revision", f"Revision {spec.revision} of this spec does not follow {newest}.", f"It is revision {newest + 1}.")
    if spec.change == "first":
        raise Invalid("change", "A later revision says what it changes.", "Choose wording, figure or safety.")


WORDING: frozenset[str] = frozenset({"id", "revision", "change", "title", "source", "cautions", "orientation", "site", "system", "proof"})
"""Fields of a spec that change nothing about how a joint is tightened."""
WORDS: frozenset[str] = frozenset({"say", "written", "tell", "looked_at", "first", "note", "low_means", "high_means", "meanwhile"})
"""Fields that are for eyes, at whatever depth."""


def what_it_changes(old: Spec, new: Spec) -> Change:
    """What a revision changes, found by comparing it; what its author says of it may only raise that."""
    found: Change = "wording" if _meant(old) == _meant(new) else "figure"
    return max(found, new.change, key=WEIGHT.index)


def _meant(spec: Spec) -> object:
    def without_words(value: object) -> object:
        if isinstance(value, dict):
            return {name: without_words(part) for name, part in value.items() if name not in WORDS}
        return [without_words(part) for part in value] if isinstance(value, list | tuple) else value

    return without_words(spec.model_dump(mode="json", exclude=set(WORDING)))


def changes(notes: Sequence[Note], specs: Mapping[int, Spec]) -> dict[int, Change]:
    """By checked revision, what it changes for those who worked to the one that was in force before it.

    Args:
        notes: of one spec, by seq.
        specs: its revisions.
    """
    found: dict[int, Change] = {}
    for place, note in enumerate(notes):
        number = note.revision or 0
        if note.kind != "checked" or number <= 1 or number not in specs:
            continue
        known = statuses(notes[:place])
        worked_to = max((each for each, status in known.items() if status == "current"), default=None)
        before = specs.get(worked_to if worked_to is not None else number - 1)
        found[number] = what_it_changes(before, specs[number]) if before is not None else specs[number].change
    return found


def compare(old: Spec, new: Spec, policy: Policy) -> tuple[Difference, ...]:
    """Two revisions, line by line, as their sheets read."""
    before, after = _lines(old, policy), _lines(new, policy)
    places = list(dict.fromkeys((*before, *after)))
    return tuple(
        Difference(where=place, old=before.get(place, ""), new=after.get(place, ""), changed=before.get(place) != after.get(place))
        for place in places
    )


def _lines(spec: Spec, policy: Policy) -> dict[str, str]:
    said = sheet(spec, policy)
    kinds = [
        ", ".join(
            part
            for part in (f"{figure.stages.named}: {figure.thread}", *(stage.words for stage in figure.stages.stages), figure.about)
            if part
        )
        for figure in said.figures
    ]
    lines = {
        "title": spec.title,
        "figure": "; ".join(kinds),
        "fasteners": f"{said.count}, {hand_words(spec)}",
        "seat": spec.seat,
        "condition": spec.condition,
        "order": _order(spec),
        "re-torque": "; ".join(followup_words(followup) for followup in spec.followups),
        "which way round": " ".join(spec.orientation),
        "for": "; ".join(_applies(applies) for applies in spec.applies_to),
        "cautions": " ".join(spec.cautions),
        "source": said.source,
    }
    for procedure in said.procedures:
        for number, line in enumerate(procedure.lines, start=1):
            figures = ", ".join(f"{figure.of} {figure.figure}".strip() for figure in line.figures)
            lines[f"{procedure.name}, step {number}"] = f"{line.words}{f' · {figures}' if figures else ''}"
    return lines


def _applies(applies: Applies) -> str:
    years = f"{applies.year_from or ''}–{applies.year_to or ''}" if applies.year_from or applies.year_to else ""
    serials = f"serial {applies.serial_from or ''}–{applies.serial_to or ''}" if applies.serial_from or applies.serial_to else ""
    variant = ", ".join(f"{name} {value}" for name, value in applies.variant.items())
    return ", ".join(part for part in (f"{applies.maker} {applies.model}", years, serials, variant) if part)


def _order(spec: Spec) -> str:
    ranks: Sequence[str | tuple[str, ...]] = spec.layout.orders["main"]
    return " ".join(rank if isinstance(rank, str) else "+".join(rank) for rank in ranks)
