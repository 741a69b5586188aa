"""The forms by which tools are put into the crib: for each kind of tool its lines, with the choices that its model has."""

from typing import Any, Literal, get_args

from tight_ledger.core.base.models import Model
from tight_ledger.core.base.units import USUAL_UNITS, TorqueUnit
from tight_ledger.core.tools.adapters import Drive, Extension
from tight_ledger.core.tools.gauges import Gauge, GaugeKind
from tight_ledger.core.tools.inventory import Holder, Support
from tight_ledger.core.tools.pieces import Piece
from tight_ledger.core.tools.wrenches import Construction, Face, Wrench


class ToolField(Model):
    """A line of a form."""

    name: str
    """The field of the tool's model."""
    say: str
    hint: str = ""
    takes: Literal["figure", "text", "choice", "yes or no"] = "figure"
    options: tuple[str, ...] = ()
    start: str = ""
    optional: bool = False
    divided_by: float = 1.0
    """What a typed figure is divided by: per cent become a share."""
    part: str = ""
    """The part of the tool that the field belongs to; the part is left out while its first field is not given."""
    drawn: bool = False
    """Asked beside a drawing of what it means."""


class UsualTool(Model):
    """A tool as many shops have it: what its lines would hold. Whatever differs is typed over."""

    say: str
    typed: dict[str, str]


class ToolForm(Model):
    """The form of a kind of tool, without name, serial number and owner, which every tool has."""

    kind: str
    say: str
    fields: tuple[ToolField, ...]
    usual: tuple[UsualTool, ...] = ()


def _choices(model: type[Model], field: str) -> tuple[str, ...]:
    return get_args(model.model_fields[field].annotation)


def _choice(name: str, say: str, options: tuple[str, ...], start: str, **more: Any) -> ToolField:
    return ToolField(name=name, say=say, takes="choice", options=options, start=start, **more)


_DRIVE = _choice("drive", "Square", get_args(Drive), "1/2 in")
_TO = _choice("to", "To which square", get_args(Drive), "3/4 in")
_LENGTH = ToolField(name="length_mm", say="Length, mm")


def _limit(say: str = "Bears at most, N·m", *, optional: bool = True) -> ToolField:
    return ToolField(name="limit_nm", say=say, hint="as its maker says", optional=optional)


def _on_the_end(kind: str, say: str, *fields: ToolField) -> ToolForm:
    return ToolForm(kind=kind, say=say, fields=(_DRIVE, *fields, _limit()))


def _other_side(name: str, say: str) -> ToolField:
    return ToolField(name=name, say=f"Other side, {say}", optional=True, part="second")


_USUAL_RANGES: dict[str, tuple[tuple[str, str, str, str], ...]] = {
    "N·m": (
        ("1/4 in", "5", "25", "0.5"), ("3/8 in", "20", "100", "1"), ("1/2 in", "20", "200", "1"), ("1/2 in", "60", "320", "2"),
        ("3/4 in", "140", "760", "5"), ("1 in", "200", "1000", "5"),
    ),
    "lbf·ft": (("3/8 in", "10", "75", "0.5"), ("1/2 in", "30", "150", "1"), ("3/4 in", "100", "600", "5"), ("1 in", "200", "1000", "5")),
}  # fmt: skip
"""Square, lowest mark, highest mark, step between two marks, by the unit of the scale. Common practice, no source."""


def _usual(unit: str) -> tuple[UsualTool, ...]:
    return tuple(
        UsualTool(
            say=f"{drive}, {lowest}–{highest} {unit}, a mark every {step}",
            typed={
                "name": f"{drive} {lowest}–{highest} {unit}", "drive": drive, "unit": unit,
                "lowest": lowest, "highest": highest, "graduation": step,
            },
        )
        for drive, lowest, highest, step in _USUAL_RANGES.get(unit, ())
    )  # fmt: skip


def tool_forms(unit: TorqueUnit = "N·m") -> tuple[ToolForm, ...]:
    """The form of every kind of tool.

    Args:
        unit: of torque, that the shop sets for a new wrench.
    """

    def starting(field: ToolField) -> ToolField:
        return field.model_copy(update={"start": unit}) if field.name == "unit" and not field.part else field

    return tuple(
        form.model_copy(update={"fields": tuple(starting(field) for field in form.fields), "usual": _usual(unit)})
        if form.kind == "wrench"
        else form
        for form in TOOL_FORMS
    )


TOOL_FORMS: tuple[ToolForm, ...] = (
    ToolForm(
        kind="wrench", say="Torque wrench", fields=(
            _choice("construction", "How it is made", get_args(Construction), "click"), _DRIVE,
            _choice("unit", "Unit of the scale", USUAL_UNITS, "N·m"),
            ToolField(name="lowest", say="Lowest mark"), ToolField(name="highest", say="Highest mark"),
            ToolField(name="graduation", say="Step between two marks"),
            ToolField(name="body_graduation", say="Step between two lines on the body", optional=True, drawn=True),
            _choice("face", "How a set scale is read", get_args(Face), "upper edge"),
            ToolField(name="lever_mm", say="Handle, mm", hint="from the drive to the middle of the grip", optional=True),
            _choice("tightens", "Measures", _choices(Wrench, "tightens"), "both ways"),
            ToolField(
                name="accuracy_percent", say="Its maker's own deviation, ± %", hint="if closer than the standard's 4", optional=True,
            ),
            _choice("unit", "Unit of the other side's scale", ("none", *USUAL_UNITS), "none", part="second"),
            _other_side("lowest", "lowest mark"), _other_side("highest", "highest mark"),
            _other_side("graduation", "step between two marks"), _other_side("body_graduation", "step between two lines"),
        ),
    ),
    _on_the_end("crowfoot", "Crowfoot", _LENGTH.model_copy(update={"hint": "from the drive to the middle of the fastener"})),
    _on_the_end(
        "extension", "Extension", _LENGTH,
        ToolField(name="across_mm", say="Thickness, mm", hint="its diameter, or the side of its square"),
        _choice("section", "Section", _choices(Extension, "section"), "round"),
    ),
    _on_the_end("step", "Step up or down", _TO),
    _on_the_end("universal", "Universal joint"),
    _on_the_end(
        "socket", "Socket", ToolField(name="fits", say="What it fits", hint="keyed, splined: say so", takes="text", optional=True)
    ),
    ToolForm(
        kind="multiplier", say="Multiplier", fields=(
            _DRIVE, _TO, ToolField(name="ratio", say="Ratio", hint="by its teeth: 5 for five to one"),
            ToolField(name="efficiency", say="Efficiency, %", hint="by its maker's sheet", start="90", divided_by=100),
            ToolField(name="anti_windback", say="A catch against running back", takes="yes or no", options=("no", "yes"), start="no"),
            _limit("Its anvil bears, N·m", optional=False),
        ),
    ),
    ToolForm(
        kind="gauge", say="Gauge", fields=(
            _choice("what", "Which", get_args(GaugeKind), "angle gauge"), _choice("unit", "Unit", _choices(Gauge, "unit"), "°"),
            ToolField(name="highest", say="Highest mark"), ToolField(name="graduation", say="Step between two marks"),
            ToolField(name="divisions", say="Marks in one revolution", hint="of a dial", optional=True),
            ToolField(name="uncertainty", say="Uncertainty, ±", hint="as its certificate says, in its unit", optional=True),
        ),
    ),
    ToolForm(kind="holder", say="Holder of an indicator", fields=(_choice("what", "Which", _choices(Holder, "what"), "magnetic base"),)),
    ToolForm(
        kind="support", say="Jack or stand", fields=(
            _choice("what", "Which", _choices(Support, "what"), "stand"),
            ToolField(name="rated_kg", say="Rated, kg", hint="as its plate says"),
        ),
    ),
    ToolForm(
        kind="piece", say="Shim, spacer, washer or sleeve", fields=(
            _choice("what", "Which", _choices(Piece, "what"), "shim"),
            ToolField(name="bore_mm", say="Bore, mm"), ToolField(name="rim_mm", say="Rim, mm", hint="the outer diameter"),
            ToolField(name="nominal_mm", say="Thickness as marked, mm"),
            ToolField(name="measured_mm", say="Measured, mm", hint="by micrometer", optional=True),
        ),
    ),
)  # fmt: skip
