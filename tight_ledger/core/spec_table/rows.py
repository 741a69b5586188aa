"""A spec as rows of a table, one a step, and back: the same content, however it came.

What is said of the spec as a whole stands in the first of its rows; later rows leave it empty or say the same.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, get_args
from uuid import NAMESPACE_URL, UUID, uuid5

from pydantic import ValidationError

from tight_ledger.core.base import cells
from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.shapes import lay_out, proposed_order
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.spec_table.fastener_cells import read_followups, read_kinds, write_followups, write_kinds
from tight_ledger.core.spec_table.layout_cells import Points, read_layout, read_marks, read_order, write_layout, write_marks, write_order
from tight_ledger.core.spec_table.step_cells import STEP_COLUMNS, read_step, write_step
from tight_ledger.core.specs.spec import Spec, System
from tight_ledger.core.specs.steps import Each, Repeat, Step

SPEC_COLUMNS: dict[str, str] = {
    "spec": "what the rows of one spec have in common: its id, or any word",
    "revision": "1, or the next number",
    "change": "first, wording, figure or safety",
    "title": "as a mechanic calls it: Rear wheel nuts",
    "joint": "the kind of joint: wheel, hub nut, cylinder head, main cap …",
    "system": ", ".join(get_args(System)),
    "maker": "of the machine",
    "model": "of the machine",
    "year_from": "first model year",
    "year_to": "last model year",
    "serial_from": "first serial",
    "serial_to": "last serial",
    "variant": "what separates machines of one model: bearing = press-in | driven = yes",
    "tell": "how to tell: bearing = no bolts around it",
    "also_applies": "further machines, JSON",
    "axles": "front | rear",
    "sides": "left | right",
    "places": "inner | outer, cylinder 1 | cylinder 2",
    "thread_hand": "right or left",
    "hand_by_side": "left = left",
    "seat": "cone, ball, flat, gasket, taper",
    "condition": "of the threads: dry, oiled, paste, locking fluid",
    "orientation": "which way round things go",
    "cautions": "what can hurt",
    "proof_ask": "what to look at on the machine",
    "proof_options": "what one may see there",
    "proof_answer": "which of them proves this spec",
    "layout": "circle 10, 335 mm; line 9, 400 mm; grid 2 × 5, 360 × 90 mm; rectangle 6 × 4, 300 × 200 mm; one; points 0,0 | 50,0",
    "looked_at": "from where",
    "first": "how to find number 1 again",
    "marks": "what helps to hold the drawing right, mm: valve 0,150 | dowel -40,10 | front 0,200",
    "kinds": "stud = M22×1.5, noun nut, head flanged, class 10.9, condition oiled, longest 52.4 mm, single use, yields, note …",
    "kind_of": "fasteners that are not of the first kind: m8 = 11 12 13",
    "groups": "cap1 = 1 2 | cap2 = 3 4",
    "units": "groups that come loose together: cap1 | cap2",
    "orders": "main = 1 6 2 7 3+8; empty for the order that the layout proposes",
    "finals": "final torque: 565–605 N·m, or long 60 N·m | short 40 N·m",
    "followups": "short = retorque, 80 km, 14 days, if moved",
    "final_check": "shop or never",
    "site": "on an engine seen from its side: top, middle, bottom, front or rear",
    "document": "where it stands",
    "page": "",
    "edition": "",
    "year": "of the document",
    "stages_by": "source or shop: whose the stages below the final torque are",
    "grade": "maker's manual, maker's bulletin, fastener maker or shop experience",
}
COLUMNS: dict[str, str] = SPEC_COLUMNS | STEP_COLUMNS
"""Every column and what stands in it."""


class TableRow(Model):
    """One row: its number in the file, its cells by column, and the unit that a heading gives."""

    number: int
    cells: dict[str, str]
    units: dict[str, str] = {}


class CellFault(Model):
    """One cell that cannot be used."""

    row: int
    column: str
    fault: str
    remedy: str

    def as_fault(self) -> Invalid:
        """To be raised."""
        return Invalid(self.column, self.fault, self.remedy)


def spec_id(key: str, first: Mapping[str, str]) -> UUID:
    """The id that stands there, else one made from the key, the machine and the document: the same rows, the same id."""
    try:
        return UUID(key)
    except ValueError:
        named = "/".join(first.get(name, "").casefold() for name in ("maker", "model", "title", "document", "page"))
        return uuid5(NAMESPACE_URL, f"tight-ledger/table/{key}/{named}")


@dataclass(slots=True)
class _Reader:
    rows: Sequence[TableRow]
    faults: list[CellFault] = field(default_factory=list)
    where: dict[tuple[str | int, ...], int] = field(default_factory=dict)
    repeated: set[str] = field(init=False)

    def __post_init__(self) -> None:
        self.repeated = {column for row in self.rows[1:] for column in row.cells}

    def say(self, row: int, column: str, fault: str, remedy: str) -> None:
        said = CellFault(row=row, column=column, fault=fault, remedy=remedy)
        if said not in self.faults:  # a cell that is read twice is wrong once
            self.faults.append(said)

    def cell(self, column: str) -> str:
        """A cell of the spec as a whole, from its first row."""
        first = self.rows[0].cells.get(column, "")
        for row in self.rows[1:] if column in self.repeated else ():
            if row.cells.get(column, "") not in ("", first):
                self.say(row.number, column, "This says something else than the first row of the spec.", "Leave it empty, or say the same.")
        return first

    def read(self, column: str, how: Callable[[str], Any], default: Any = None) -> Any:
        """A cell, read; its fault is written down."""
        text = self.cell(column)
        if not text:
            return default
        try:
            return how(text)
        except Invalid as error:
            self.say(self.rows[0].number, column, error.fault, error.remedy)
            return default

    def number(self, column: str) -> int | None:
        def whole(text: str) -> int:
            if not text.removesuffix(".0").isdigit():
                raise Invalid(column, f"“{text}” is no whole number.", "Write digits only.")
            return int(float(text))

        found = self.read(column, whole)
        return None if found is None else int(found)


def read_spec(rows: Sequence[TableRow]) -> tuple[Spec | None, list[CellFault]]:
    """The spec that some rows say, or what is wrong with them, cell by cell.

    Args:
        rows: the rows of one spec, at least one.
    """
    reader = _Reader(rows)
    raw = {
        "id": spec_id(rows[0].cells.get("spec", ""), rows[0].cells),
        "revision": reader.number("revision") or 1,
        **{name: text for name, default in _TEXTS.items() if (text := reader.cell(name) or default)},
        "applies_to": [_applies(reader), *reader.read("also_applies", lambda t: cells.from_json(t, "also_applies"), [])],
        "positions": {name: reader.read(name, lambda t, n=name: cells.read_texts(t, n), []) for name in ("axles", "sides", "places")},  # type: ignore[misc]
        "hand_by_side": reader.read("hand_by_side", lambda t: cells.read_pairs(t, "hand_by_side"), {}),
        **{name: reader.read(name, lambda t, n=name: cells.read_texts(t, n), []) for name in ("orientation", "cautions")},  # type: ignore[misc]
        "proof": {
            "ask": reader.cell("proof_ask"),
            "options": reader.read("proof_options", lambda t: cells.read_texts(t, "proof_options"), []),
            "answer": reader.cell("proof_answer"),
        },
        "layout": _layout(reader),
        "finals": _finals(reader),
        "procedures": _procedures(reader),
        "followups": reader.read("followups", read_followups, []),
        "source": {name: reader.cell(name) for name in ("document", "page", "edition", "grade", "stages_by") if reader.cell(name)}
        | ({"year": year} if (year := reader.number("year")) is not None else {}),
    }
    if reader.faults:
        return None, reader.faults
    try:
        return Spec.model_validate(raw), []
    except ValidationError as error:
        for each in error.errors():
            row, column = _place(reader, each["loc"])
            reader.say(row, column, f"{str(each['msg']).removeprefix('Value error, ').rstrip('.')}.", "See what the column holds.")
        return None, reader.faults


_TEXTS = {
    "change": "first", "title": "", "joint": "", "system": "other", "thread_hand": "right", "seat": "", "condition": "",
    "final_check": "shop", "site": "",
}  # fmt: skip
_APPLIES = ("maker", "model", "year_from", "year_to", "serial_from", "serial_to", "variant", "tell")


def _applies(reader: _Reader) -> dict[str, Any]:
    found: dict[str, Any] = {name: reader.cell(name) for name in ("maker", "model", "serial_from", "serial_to")}
    found |= {name: reader.number(name) for name in ("year_from", "year_to")}
    return found | {name: reader.read(name, lambda t, n=name: cells.read_pairs(t, n), {}) for name in ("variant", "tell")}  # type: ignore[misc]


def _layout(reader: _Reader) -> Any:
    text = reader.cell("layout")
    if cells.is_json(text):
        return reader.read("layout", lambda t: cells.from_json(t, "layout"))
    shape, rows, points = reader.read("layout", read_layout, ("one", 1, [(0.0, 0.0)]))
    kinds = reader.read("kinds", read_kinds, {})
    if not kinds and not reader.cell("kinds"):
        reader.say(reader.rows[0].number, "kinds", "No kind of fastener is described.", "Write name = thread: stud = M22×1.5.")
    if not kinds:
        return None
    of_kind = reader.read("kind_of", lambda t: cells.read_pairs(t, "kind_of"), {})
    orders = reader.read("orders", lambda t: cells.read_pairs(t, "orders"), {})
    labels = {str(place + 1) for place in range(len(points))}
    more: dict[str, Any] = {
        "groups": {name: text.split() for name, text in reader.read("groups", lambda t: cells.read_pairs(t, "groups"), {}).items()},
        "units": reader.read("units", lambda t: cells.read_texts(t, "units"), []),
    }
    more |= {name: reader.cell(name) for name in ("looked_at", "first") if reader.cell(name)}
    more |= {"marks": marks} if (marks := reader.read("marks", read_marks, [])) else {}
    if orders:
        more["orders"] = {name: read_order(text) for name, text in orders.items()}
    kind_of = {label: name for name, text in of_kind.items() for label in text.split()}
    for column, named in (("kind_of", set(kind_of)), ("groups", {label for group in more["groups"].values() for label in group})):
        if unknown := named - labels:
            reader.say(reader.rows[0].number, column, f"There is no fastener {', '.join(sorted(unknown))}.", f"There are {len(points)}.")
    try:
        return lay_out(points, proposed_order(shape, points, rows), kinds=kinds, kind_of=kind_of, **more)
    except ValidationError as error:
        said = str(error.errors()[0]["msg"]).removeprefix("Value error, ")
        reader.say(reader.rows[0].number, "orders" if orders else "layout", f"{said[:1].upper()}{said[1:]}.", "Look at numbers and orders.")
        return None


def _finals(reader: _Reader) -> Any:
    text = reader.cell("finals")
    if not text:
        return {}
    found = reader.read("finals", lambda t: cells.read_figures(t, "torque", reader.rows[0].units.get("finals", ""), "finals"), {})
    if not isinstance(found, Band) and "quantity" not in found:
        return found
    kinds = reader.read("kinds", read_kinds, {})
    return dict.fromkeys(kinds, found)


# steps ----------------------------------------------------------------------------------------------------------------


def _procedures(reader: _Reader) -> dict[str, list[dict[str, Any]]]:
    found: dict[str, list[dict[str, Any]]] = {}
    blocks: dict[tuple[str, str], dict[str, Any]] = {}
    paths: dict[int, tuple[str | int, ...]] = {}
    for row in reader.rows:
        if not row.cells.get("step") and not row.cells.get("kind"):
            if len(reader.rows) > 1:
                reader.say(row.number, "step", "The step has no name.", "Give it a short one that no other step of the procedure has.")
            continue
        procedure, (block, _, branch) = row.cells.get("procedure", "") or "tighten", row.cells.get("inside", "").partition(" ")
        step, faults = read_step(row.cells, row.units)
        for column, fault, remedy in faults:
            reader.say(row.number, column, fault, remedy)
        parent = blocks.get((procedure, block)) if block else None
        if block and parent is None:
            reader.say(row.number, "inside", f"There is no block “{block}” above.", "Name a repeat or each step that stands higher up.")
            continue
        inside = found.setdefault(procedure, []) if parent is None else parent.setdefault("again" if branch == "again" else "steps", [])
        at = ("procedures", procedure) if parent is None else (*paths[id(parent)], "again" if branch == "again" else "steps")
        paths[id(step)] = (*at, len(inside))
        reader.where[paths[id(step)]] = row.number
        inside.append(step)
        if step.get("kind") in {name for name, kind in KINDS.items() if kind.is_block}:
            step.setdefault("steps", [])
            blocks[procedure, str(step.get("id"))] = step
    return found


def _place(reader: _Reader, location: tuple[str | int, ...]) -> tuple[int, str]:
    """The row and column that a place in the model came from."""
    names = [part for part in location if isinstance(part, str)]
    column = next((part for part in reversed(names) if part in COLUMNS), "")
    plain = tuple(part for part in location if part not in KINDS)
    for size in range(len(plain), 1, -1):
        if plain[:size] in reader.where:
            inside = column if column in STEP_COLUMNS else "kind" if size == len(plain) else {"id": "step"}.get(str(names[-1]), "more")
            return reader.where[plain[:size]], inside
    known = {
        "applies_to": "maker",
        "source": "document",
        "proof": "proof_ask",
        "positions": "axles",
        "layout": "layout",
        "procedures": "step",
    }
    return reader.rows[0].number, column or known.get(str(location[0]) if location else "", "step")


def write_spec(spec: Spec) -> list[dict[str, str]]:
    """The rows of a spec; cells by column, empty ones left out."""
    first = spec.applies_to[0]
    layout = spec.layout
    points = [(f.x_mm, f.y_mm) for f in layout.fasteners]
    numbered = [f.label for f in layout.fasteners] == [str(i + 1) for i in range(len(points))]
    kinds = list(layout.kinds)
    head: dict[str, str] = {
        "spec": str(spec.id),
        "revision": str(spec.revision),
        **{name: str(getattr(spec, name)) for name in _TEXTS},
        **{name: str(value) for name in _APPLIES[:6] if (value := getattr(first, name)) not in (None, "")},
        "variant": cells.write_pairs(first.variant) if first.variant else "",
        "tell": cells.write_pairs(first.tell) if first.tell else "",
        "also_applies": cells.to_json([applies.model_dump(mode="json", exclude_defaults=True) for applies in spec.applies_to[1:]])
        if len(spec.applies_to) > 1
        else "",
        **{
            name: cells.write_texts(getattr(spec.positions, name)) for name in ("axles", "sides", "places") if getattr(spec.positions, name)
        },
        "hand_by_side": cells.write_pairs(spec.hand_by_side) if spec.hand_by_side else "",  # type: ignore[arg-type]
        **{name: cells.write_texts(getattr(spec, name)) for name in ("orientation", "cautions") if getattr(spec, name)},
        "proof_ask": spec.proof.ask,
        "proof_options": cells.write_texts(spec.proof.options),
        "proof_answer": spec.proof.answer,
        "finals": cells.write_figures(spec.finals, "torque") if spec.finals else "",
        "followups": write_followups(spec.followups),
        **{name: str(value) for name in ("document", "page", "edition", "year", "grade") if (value := getattr(spec.source, name))},
        "stages_by": "" if spec.source.stages_by == "source" else spec.source.stages_by,
    }
    if len(set(map(str, spec.finals.values()))) == 1 and list(spec.finals) == kinds:
        head["finals"] = cells.write_figures(next(iter(spec.finals.values())), "torque")
    head |= (
        _write_layout(spec, points)
        if numbered and len(points) <= 60
        else {"layout": _layout_json(spec), "kinds": write_kinds(spec.layout.kinds)}
    )
    rows = [
        {"procedure": procedure, **row}
        for procedure, steps in spec.procedures.items()
        for row in _write_steps(steps, "")
    ]  # fmt: skip
    rows = [{"spec": str(spec.id), **row} for row in rows] or [{}]
    rows[0] = {name: text for name, text in head.items() if text} | rows[0]
    return rows


def _layout_json(spec: Spec) -> str:
    return cells.to_json(spec.layout.model_dump(mode="json", exclude_defaults=True))


def _write_layout(spec: Spec, points: Points) -> dict[str, str]:
    layout, kinds = spec.layout, list(spec.layout.kinds)
    shape_text = write_layout(points)
    shape, rows, _ = read_layout(shape_text)
    proposed = [str(place) for place in proposed_order(shape, points, rows)]
    orders = {name: write_order(order) for name, order in layout.orders.items()}
    found = {
        "layout": shape_text,
        "looked_at": layout.looked_at if layout.looked_at != "from outside" else "",
        "first": layout.first,
        "marks": write_marks(layout.marks),
        "kinds": write_kinds(spec.layout.kinds),
        "kind_of": cells.write_pairs({k: " ".join(f.label for f in layout.fasteners if f.kind == k) for k in kinds[1:]})
        if len(kinds) > 1
        else "",
        "groups": cells.write_pairs({name: " ".join(labels) for name, labels in layout.groups.items()}) if layout.groups else "",
        "units": cells.write_texts(layout.units) if layout.units else "",
        "orders": "" if orders == {"main": " ".join(proposed)} else cells.write_pairs(orders),
    }
    rows_back = [TableRow(number=1, cells=found)]
    try:
        if _layout(_Reader(rows_back)) == layout:
            return found
    except Invalid:
        pass
    return {"layout": _layout_json(spec), "kinds": found["kinds"]}


def _write_steps(steps: Sequence[Step], inside: str) -> list[dict[str, str]]:
    rows = []
    for step in steps:
        rows.append(({"inside": inside} if inside else {}) | write_step(step))
        if isinstance(step, Repeat | Each):
            rows += _write_steps(step.steps, step.id)
        if isinstance(step, Repeat):
            rows += _write_steps(step.again, f"{step.id} again")
    return rows
