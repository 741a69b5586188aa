"""One step as the cells of a row, and back."""

from collections.abc import Callable, Mapping
from typing import Any

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.spec_table import cells
from tight_ledger.core.specs.steps import STEP_KINDS, Step

STEP_COLUMNS: dict[str, str] = {
    "procedure": "tighten, retorque, remove …",
    "step": "its name within the procedure: s1",
    "inside": "the repeat or each step that it stands in; with “again” after it for what is done between two tries",
    "kind": "torque, angle, turns, loosen, align, check, rotate, measure, do, stop, each, repeat",
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
LADDER, FOUND = "ladder:", "found in "
AMOUNT_FIELD = {"turns": "turns", "rotate": "turns", "repeat": "times", "align": "at_most_deg", "loosen": "amount"}
FIGURE_SORT = {"torque": "torque", "check": "torque", "angle": "angle", "measure": "measured"}
WATCH_SORT = {"torque": "angle", "angle": "torque"}
_LOOSEN_UNITS = {"turn": "turns", "turns": "turns", "°": "deg", "deg": "deg", "position": "positions", "positions": "positions"}
Fault = tuple[str, str, str]


def read_step(row: Mapping[str, str], units: Mapping[str, str]) -> tuple[dict[str, Any], list[Fault]]:
    """The step that a row says, not validated yet, and the faults of its cells: (column, fault, remedy)."""
    faults: list[Fault] = []

    def attempt(column: str, how: Callable[[str], Any]) -> Any:
        text = row.get(column, "")
        if not text:
            return None
        try:
            return how(text)
        except Invalid as error:
            faults.append((column, error.fault, error.remedy))
            return None

    kind = row.get("kind", "")
    step: dict[str, Any] = {"id": row.get("step", ""), "kind": kind}
    if kind not in STEP_KINDS:
        return step, [("kind", f"There is no step of kind “{kind}”.", f"It can be {', '.join(sorted(STEP_KINDS))}.")]
    step |= {name: row[name] for name in ("order", "what", "say", "meanwhile", "hold") if row.get(name)}
    if of := attempt("of", lambda text: cells.read_texts(text, "of")):
        step["of"] = of[0] if len(of) == 1 else of
    if figure := attempt("figure", lambda text: _read_figure(text, kind, units.get("figure", ""))):
        step |= figure
    if watch := attempt("watch", lambda text: cells.read_figures(text, WATCH_SORT.get(kind, "torque"), units.get("watch", ""), "watch")):
        step["watch"] = watch
    if amount := attempt("amount", lambda text: _read_amount(text, kind)):
        step |= amount
    more = attempt("more", lambda text: cells.from_json(text, "more"))
    if isinstance(more, dict):
        step |= more
    elif more is not None:
        faults.append(("more", "This is no JSON object.", 'Write {"name": value}.'))
    return step, faults


def _read_figure(text: str, kind: str, unit: str) -> dict[str, Any]:
    if kind == "torque" and text.startswith(LADDER):
        return {"ladder": [cells.read_figures(rung, "torque", unit, "figure") for rung in cells.listed(text.removeprefix(LADDER))]}
    if kind == "torque" and text.startswith(FOUND):
        return {"found": text.removeprefix(FOUND).strip()}
    if kind == "torque" and text.endswith("%") and "|" not in text and "±" not in text:
        try:
            return {"share": round(float(text.removesuffix("%").strip().replace(",", ".")) / 100, 6)}
        except ValueError as error:
            raise Invalid("figure", f"“{text}” is no share.", "Write 30 % of the final torque, or a figure with its unit.") from error
    if kind not in FIGURE_SORT:
        raise Invalid("figure", f"A step of kind “{kind}” has no figure.", "Leave it empty, or choose another kind.")
    return {"band" if kind == "measure" else "at": cells.read_figures(text, FIGURE_SORT[kind], unit, "figure")}


def _read_amount(text: str, kind: str) -> dict[str, Any]:
    figure, _, unit = text.replace(",", ".").partition(" ")
    field = AMOUNT_FIELD.get(kind)
    if field is None:
        raise Invalid("amount", f"A step of kind “{kind}” has no amount.", "Leave it empty, or choose another kind.")
    try:
        number = float(figure)
    except ValueError as error:
        raise Invalid("amount", f"“{text}” is no amount.", "Write a number first: 2 turns, 1 positions.") from error
    found: dict[str, Any] = {field: int(number) if number.is_integer() else number}
    if kind == "loosen":
        if unit not in _LOOSEN_UNITS:
            raise Invalid(
                "amount", f"“{text}” does not say of what.", "Write 1 positions, 2 turns or 30 deg; leave it empty for all the way."
            )
        found["unit"] = _LOOSEN_UNITS[unit]
    return found


def write_step(step: Step) -> dict[str, str]:
    """The cells of a step; empty ones left out, and what it holds left to rows of their own."""
    rest = step.model_dump(mode="json", exclude_defaults=True, exclude={"steps", "again"})
    row = {"step": rest.pop("id"), "kind": rest.pop("kind")}
    for name in ("order", "what", "say", "meanwhile", "hold"):
        if name in rest and rest[name] == rest[name].strip():
            row[name] = rest.pop(name)
    if "of" in rest:
        of = rest.pop("of")
        row["of"] = cells.write_texts([of] if isinstance(of, str) else of)
        if row["of"] and isinstance(of, list) and len(of) == 1:  # one name, but given as a list
            rest["of"], row["of"] = of, ""
    _move_figure(step, rest, row)
    field = AMOUNT_FIELD.get(step.kind)
    if field is not None and field in rest and not (step.kind == "loosen" and "unit" not in rest):
        amount = rest.pop(field)
        row["amount"] = f"{amount!r} {rest.pop('unit')}" if step.kind == "loosen" else f"{amount!r}".removesuffix(".0")
    if rest:
        row["more"] = cells.to_json(rest)
    return {name: text for name, text in row.items() if text}


def _move_figure(step: Step, rest: dict[str, Any], row: dict[str, str]) -> None:
    for name in ("at", "band"):
        if name in rest:
            rest.pop(name)
            row["figure"] = cells.write_figures(getattr(step, name), FIGURE_SORT[step.kind])
    if "watch" in rest:
        rest.pop("watch")
        row["watch"] = cells.write_figures(getattr(step, "watch"), WATCH_SORT[step.kind])  # noqa: B009
    if "ladder" in rest and all(_retyped(rung) for rung in getattr(step, "ladder")):  # noqa: B009
        row["figure"] = f"{LADDER} {cells.BETWEEN.join(rung['written'] for rung in rest.pop('ladder'))}"
    if "found" in rest:
        row["figure"] = f"{FOUND}{rest.pop('found')}"
    if "share" in rest:
        text = f"{rest['share'] * 100:.10g} %"
        if _read_figure(text, "torque", "").get("share") == rest["share"]:
            rest.pop("share")
            row["figure"] = text


def _retyped(band: Band) -> bool:
    """Whether what was typed gives this band again."""
    try:
        return bool(band.written) and Band.model_validate(cells.read_figures(band.written, "torque", "", "figure")) == band
    except Invalid:
        return False
