"""A step as the cells of a row, and back. Which cells a kind of step has besides the common ones is in its kind."""

from collections.abc import Callable, Mapping
from typing import Any

from tight_ledger.core.base import cells
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import Registry, StepCells
from tight_ledger.core.specs.steps import Step

STEP_COLUMNS: dict[str, str] = {
    "procedure": "tighten, retorque, remove …",
    "step": "its name within the procedure: s1",
    "inside": "the repeat or each step that it stands in; with “again” after it for what is done between two tries",
    "kind": ", ".join(KINDS),
    "of": "kinds, groups or numbers; empty for all",
    "order": "a named order, or any",
    "figure": "30 %, 565–605 N·m, long 101–109° | short 81–89°, 0.04–0.11 mm; ladder: 51–53 N·m | 56–58 N·m; found in t",
    "watch": "what is watched meanwhile",
    "amount": "turns, 1 positions, 35 deg at most, times of a repeat",
    "what": "what is measured or turned",
    "say": "what is said with it",
    "meanwhile": "turn the hub",
    "hold": "what is held against it: the bolt head",
    "more": "the rest, as JSON: when, timing, until, options …",
}
_OF_FASTENERS = ("of", "order")
_OF_A_KIND = ("figure", "watch", "amount", "what")


class StepKindColumns(Model):
    """A kind of step, for an editor of rows."""

    name: str
    says: str
    """What it is, in one line."""
    columns: tuple[str, ...]
    """The columns of a table that such a step can fill, in the table's order."""


def step_kinds(kinds: Registry = KINDS) -> tuple[StepKindColumns, ...]:
    """Every kind of step with its columns."""
    return tuple(StepKindColumns(name=kind.name, says=kind.says, columns=_columns(kind.cells)) for kind in kinds.values())


def _columns(own: StepCells) -> tuple[str, ...]:
    unused = {name for name in _OF_A_KIND if name not in own.columns} | set(() if own.for_fasteners else _OF_FASTENERS)
    return tuple(name for name in STEP_COLUMNS if name not in unused)


ColumnFault = tuple[str, str, str]
"""Column, fault, remedy."""


def read_step(row: Mapping[str, str], units: Mapping[str, str], kinds: Registry = KINDS) -> tuple[dict[str, Any], list[ColumnFault]]:
    """The step in a row, not validated yet, and the faults of its cells.

    Args:
        row: cells by column.
        units: by column, the unit in its heading.
        kinds: the kinds of step that a row can have.
    """
    faults: list[ColumnFault] = []

    def attempt(column: str, read: Callable[[str], Any]) -> Any:
        text = row.get(column, "")
        if not text:
            return None
        try:
            return read(text)
        except Invalid as error:
            faults.append((column, error.fault, error.remedy))
            return None

    kind = row.get("kind", "")
    step: dict[str, Any] = {"id": row.get("step", ""), "kind": kind}
    if kind not in kinds:
        return step, [("kind", f"There is no step of kind “{kind}”.", f"It can be {', '.join(sorted(kinds))}.")]
    own = kinds[kind].cells
    step |= {name: row[name] for name in ("order", "what", "say", "meanwhile", "hold") if row.get(name)}
    if of := attempt("of", lambda text: cells.read_texts(text, "of")):
        step["of"] = of[0] if len(of) == 1 else of
    if figure := attempt("figure", lambda text: _read_figure(text, kind, own, units.get("figure", ""))):
        step |= figure
    if watch := attempt("watch", lambda text: cells.read_figures(text, own.watch_sort or "torque", units.get("watch", ""), "watch")):
        step["watch"] = watch
    if amount := attempt("amount", lambda text: _read_amount(text, kind, own)):
        step |= amount
    more = attempt("more", lambda text: cells.from_json(text, "more"))
    if isinstance(more, dict):
        step |= more
    elif more is not None:
        faults.append(("more", "This is no JSON object.", 'Write {"name": value}.'))
    return step, faults


def _read_figure(text: str, kind: str, own: StepCells, unit: str) -> dict[str, Any]:
    if (short := own.read_short(text, unit)) is not None:
        return short
    if not own.figure_field:
        raise Invalid("figure", f"A step of kind “{kind}” has no figure.", "Leave it empty, or choose another kind.")
    return {own.figure_field: cells.read_figures(text, own.figure_sort, unit, "figure")}


def _read_amount(text: str, kind: str, own: StepCells) -> dict[str, Any]:
    figure, _, unit = text.replace(",", ".").partition(" ")
    if not own.amount_field:
        raise Invalid("amount", f"A step of kind “{kind}” has no amount.", "Leave it empty, or choose another kind.")
    try:
        number = float(figure)
    except ValueError as error:
        raise Invalid("amount", f"“{text}” is no amount.", "Write a number first: 2 turns, 1 positions.") from error
    found: dict[str, Any] = {own.amount_field: int(number) if number.is_integer() else number}
    if own.amount_units:
        if unit not in own.amount_units:
            raise Invalid(
                "amount", f"“{text}” does not say of what.", "Write 1 positions, 2 turns or 30 deg; leave it empty for all the way."
            )
        found["unit"] = own.amount_units[unit]
    return found


def write_step(step: Step, kinds: Registry = KINDS) -> dict[str, str]:
    """The cells of a step; empty ones left out. The steps inside a block have rows of their own."""
    rest = step.model_dump(mode="json", exclude_defaults=True, exclude={"steps", "again"})
    row = {"step": rest.pop("id"), "kind": rest.pop("kind")}
    own = kinds[step.kind].cells
    for name in ("order", "what", "say", "meanwhile", "hold"):
        if name in rest and rest[name] == rest[name].strip():
            row[name] = rest.pop(name)
    if "of" in rest:
        of = rest.pop("of")
        row["of"] = cells.write_texts([of] if isinstance(of, str) else of)
        if row["of"] and isinstance(of, list) and len(of) == 1:  # a single name that was given as a list
            rest["of"], row["of"] = of, ""
    if own.figure_field and own.figure_field in rest:
        rest.pop(own.figure_field)
        row["figure"] = cells.write_figures(getattr(step, own.figure_field), own.figure_sort)
    elif short := own.write_short(step, rest):
        row["figure"] = short
    if own.watch_sort and "watch" in rest:
        rest.pop("watch")
        row["watch"] = cells.write_figures(getattr(step, "watch"), own.watch_sort)  # noqa: B009
    if own.amount_field in rest and not (own.amount_units and "unit" not in rest):
        amount = rest.pop(own.amount_field)
        row["amount"] = f"{amount!r} {rest.pop('unit')}" if own.amount_units else f"{amount!r}".removesuffix(".0")
    if rest:
        row["more"] = cells.to_json(rest)
    return {name: text for name, text in row.items() if text}
