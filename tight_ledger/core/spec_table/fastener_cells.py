"""Kinds of fastener and follow-ups as the cells of a table of specs, and back."""

import re
from collections.abc import Iterable, Mapping
from typing import Any

from tight_ledger.core.base import cells
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.joints.layouts import Kind
from tight_ledger.core.joints.threads import parse_thread
from tight_ledger.core.specs.spec import Followup

_KIND_WORDS = ("noun", "head", "class", "coating", "condition")
_LENGTH = re.compile(r"(\d+(?:[.,]\d+)?) mm")


def read_kinds(text: str) -> dict[str, Any]:
    """`stud = M22×1.5, noun nut, class 10.9, coating zinc, condition oiled, longest 52.4 mm, single use, yields, note …`.

    Raises:
        Invalid: no thread, or a word that means nothing here.
    """
    if cells.is_json(text):
        return dict(cells.from_json(text, "kinds"))
    found: dict[str, Any] = {}
    for name, whole in cells.read_pairs(text, "kinds").items():
        said, _, note = whole.partition(", note ")  # the note is last, and may hold commas
        thread, *rest = (part.strip() for part in said.split(", "))
        kind: dict[str, Any] = {"thread": parse_thread(thread).designation} | ({"note": note.strip()} if note else {})
        for part in rest:
            word, _, value = part.partition(" ")
            if part in ("single use", "yields"):
                kind[part.replace(" ", "_")] = True
            elif word == "slots" and value.isdigit():
                kind["slots"] = int(value)
            elif word == "longest" and (length := _LENGTH.fullmatch(value)):
                kind["longest_mm"] = float(length[1].replace(",", "."))
            elif word in _KIND_WORDS and value:
                kind["property_class" if word == "class" else word] = value
            else:
                raise Invalid(
                    "kinds",
                    f"“{part}” is not understood.",
                    f"After the thread: {', '.join(_KIND_WORDS)}, slots …, longest … mm, single use, yields, note.",
                )
        found[name] = kind
    return found


def write_kinds(kinds: Mapping[str, Kind]) -> str:
    """As they are read."""
    dumped = {name: kind.model_dump(mode="json", exclude_defaults=True) for name, kind in kinds.items()}

    def short(kinds: dict[str, Any]) -> str:
        return cells.BETWEEN.join(
            f"{name} = "
            + ", ".join(
                [kind["thread"]]
                + [f"{word} {kind[key]}" for word in _KIND_WORDS if (key := "property_class" if word == "class" else word) in kind]
                + ([f"slots {kind['slots']}"] if "slots" in kind else [])
                + ([f"longest {kind['longest_mm']:g} mm"] if "longest_mm" in kind else [])
                + [key.replace("_", " ") for key in ("single_use", "yields") if key in kind]
                + ([f"note {kind['note']}"] if "note" in kind else [])
            )
            for name, kind in kinds.items()
        )

    return cells.written(dumped, short, read_kinds, dict)


_FOLLOWUP_UNITS = ("km", "hours", "days")


def read_followups(text: str) -> list[dict[str, Any]]:
    """`short = retorque, 80 km, 14 days, if moved`.

    Raises:
        Invalid: a part that means nothing here.
    """
    if cells.is_json(text):
        return list(cells.from_json(text, "followups"))
    found = []
    for name, said in cells.read_pairs(text, "followups").items():
        procedure, *rest = (part.strip() for part in said.split(", "))
        followup: dict[str, Any] = {"id": name, "procedure": procedure}
        for part in rest:
            figure, _, unit = part.partition(" ")
            if unit in _FOLLOWUP_UNITS and figure.replace(".", "", 1).isdigit():
                followup[unit] = float(figure)
            elif figure == "if":
                followup["again_if"] = sorted(unit.split())
            elif part in ("every", "then"):
                followup[part] = True
            elif figure == "event":
                followup["event"] = unit
            else:
                raise Invalid("followups", f"“{part}” is not understood.", "Write short = retorque, 80 km, 14 days, if moved.")
        found.append(followup)
    return found


def write_followups(followups: Iterable[Followup]) -> str:
    """As they are read."""
    dumped = [followup.model_dump(mode="json", exclude_defaults=True) for followup in followups]

    def short(followups: list[dict[str, Any]]) -> str:
        return cells.BETWEEN.join(
            f"{followup['id']} = "
            + ", ".join(
                [followup["procedure"]]
                + [f"{followup[unit]:g} {unit}" for unit in _FOLLOWUP_UNITS if unit in followup]
                + ([f"event {followup['event']}"] if "event" in followup else [])
                + [word for word in ("every", "then") if word in followup]
                + ([f"if {' '.join(followup['again_if'])}"] if "again_if" in followup else [])
            )
            for followup in followups
        )

    return cells.written(dumped, short, read_followups, list) if dumped else ""
