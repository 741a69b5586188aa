"""What a crib holds: wrenches, what goes on their ends, gauges, jacks and stands, shims."""

from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field, TypeAdapter

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.tools.adapters import Crowfoot, DriveAdapter, Extension, Multiplier, Socket, Universal
from tight_ledger.core.tools.gauges import Gauge
from tight_ledger.core.tools.pieces import Piece, piece_words
from tight_ledger.core.tools.wrenches import Wrench


class Holder(Model):
    """What holds an indicator: a magnetic base, a clamp, a stand."""

    kind: Literal["holder"]
    id: UUID
    name: str = Field(min_length=1, max_length=80)
    what: Literal["magnetic base", "clamp", "stand"]
    serial: str = Field(default="", max_length=40)
    owner: str = Field(default="", max_length=80)


class Support(Model):
    """A jack or a stand. `rated_kg` is what its plate says that one bears."""

    kind: Literal["support"]
    id: UUID
    name: str = Field(min_length=1, max_length=80)
    what: Literal["jack", "stand"]
    rated_kg: float = Field(gt=0, le=200_000)
    serial: str = Field(default="", max_length=40)
    owner: str = Field(default="", max_length=80)


Tool = Annotated[
    Wrench | Crowfoot | Extension | DriveAdapter | Universal | Socket | Multiplier | Gauge | Holder | Support | Piece,
    Field(discriminator="kind"),
]
TOOL: TypeAdapter[Tool] = TypeAdapter(Tool)


def tool_id(tool: Tool) -> UUID:
    """The id of a thing in the crib.

    Raises:
        Invalid: it has none.
    """
    if tool.id is None:
        raise Invalid("id", f"{tool.name} has no id.", "Give one.")
    return tool.id


def tool_words(tool: Tool) -> str:
    """What a tool is, in a line: `1/2 in, 40–210 N·m, marks 1 apart`."""
    if isinstance(tool, Wrench):
        return ", ".join(
            (tool.drive, *(f"{side.lowest:g}–{side.highest:g} {side.unit}, marks {side.graduation:g} apart" for side in tool.sides()))
        )
    if isinstance(tool, Gauge):
        gap = "" if tool.unit == "°" else " "
        dial = f", {tool.divisions} marks in one revolution" if tool.divisions is not None else ""
        return f"{tool.what}, to {tool.highest:g}{gap}{tool.unit}, marks {tool.graduation:g} apart{dial}"
    if isinstance(tool, Support):
        return f"{tool.what}, bears {tool.rated_kg:,.0f} kg"
    if isinstance(tool, Piece):
        return piece_words(tool)
    if isinstance(tool, Holder):
        return f"{tool.what} for an indicator"
    return _on_the_end_words(tool)


def _on_the_end_words(tool: Crowfoot | Extension | DriveAdapter | Universal | Socket | Multiplier) -> str:
    if isinstance(tool, Crowfoot):
        what = f"crowfoot, {tool.length_mm:g} mm"
    elif isinstance(tool, Extension):
        what = f"extension, {tool.length_mm:g} mm, {tool.section} {tool.across_mm:g} mm"
    elif isinstance(tool, DriveAdapter):
        what = f"to {tool.to}"
    elif isinstance(tool, Multiplier):
        what = f"multiplier, {tool.ratio:g} to 1, {tool.efficiency:.0%}, to {tool.to}"
    elif isinstance(tool, Universal):
        what = "universal joint"
    else:
        what = f"socket{', ' if tool.fits else ''}{tool.fits}"
    bears = f", bears {tool.limit_nm:g} N·m" if tool.limit_nm is not None else ""
    return f"{tool.drive}, {what}{bears}"
