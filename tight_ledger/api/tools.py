"""The crib: its tools, their checks, their scales, their tags."""

from io import BytesIO
from uuid import UUID

import segno
from fastapi import APIRouter, Request, Response

from tight_ledger.api.dependencies import SignedIn, TheContext, Working
from tight_ledger.core.base.units import TorqueUnit
from tight_ledger.core.tools.forms import ToolForm, tool_forms
from tight_ledger.core.tools.inventory import Tool
from tight_ledger.core.tools.scales import Scale, ScaleProof, proof, read, scale
from tight_ledger.core.tools.wrenches import Setting, Wrench
from tight_ledger.services.commands import Command
from tight_ledger.services.tools import care, inventory
from tight_ledger.services.tools.care import Aside, Checked, Said, Tonight, ToolFile
from tight_ledger.services.tools.inventory import Crib, NewTool

router = APIRouter(prefix="/api", tags=["tools"])


@router.get("/tools", operation_id="list_tools")
async def list_tools(context: TheContext, actor: SignedIn) -> Crib:
    """The tools and how they stand, what they reach of the shop's specs, and what they do not."""
    return await inventory.crib(context)


@router.get("/tools/forms", operation_id="list_tool_forms")
async def list_tool_forms(context: TheContext, actor: SignedIn) -> tuple[ToolForm, ...]:
    """What can be put into the crib, and the lines of each kind's form."""
    return tool_forms((await context.shop()).settings.torque_unit)


@router.get("/tools/tonight", operation_id="read_tonight")
async def read_tonight(context: TheContext, actor: SignedIn) -> tuple[Tonight, ...]:
    """The spring wrenches that were used today and are not at their lowest mark."""
    return await care.tonight(context)


@router.post("/tools", operation_id="add_tool", status_code=201)
async def add_tool(request: NewTool, context: TheContext, actor: Working) -> Tool:
    """Put a tool into the crib; a wrench that is set by lines was read back first."""
    return await inventory.add_new_tool(context, actor, request)


@router.post("/tools/scale", operation_id="draw_scale")
async def draw_scale(request: Wrench, context: TheContext, actor: Working) -> ScaleProof:
    """The scale of a wrench that is being added, and the figure at which it is read back. Nothing is written."""
    return proof(request)


@router.get("/tools/{tool_id}", operation_id="read_tool")
async def read_tool(tool_id: UUID, context: TheContext, actor: SignedIn) -> ToolFile:
    """A tool, its checks, and the runs that are in doubt."""
    return await care.tool_file(context, tool_id)


@router.post("/tools/{tool_id}/checks", operation_id="check_tool", status_code=204)
async def check_tool(tool_id: UUID, request: Checked, context: TheContext, actor: Working) -> None:
    """Hand in a check: readings as found and as left."""
    await care.calibrate(context, actor, tool_id, request)


@router.post("/tools/{tool_id}/aside", operation_id="set_tool_aside", status_code=204)
async def set_tool_aside(tool_id: UUID, request: Aside, context: TheContext, actor: Working) -> None:
    """Dropped, overloaded, used to loosen: it is not offered until it is checked."""
    await care.set_aside(context, actor, tool_id, request)


@router.post("/tools/{tool_id}/clear", operation_id="clear_tool", status_code=204)
async def clear_tool(tool_id: UUID, request: Said, context: TheContext, actor: Working) -> None:
    """A lead lets it be used again."""
    await care.clear(context, actor, tool_id, request)


@router.post("/tools/{tool_id}/reviews", operation_id="review_run", status_code=204)
async def review_run(tool_id: UUID, request: Said, context: TheContext, actor: Working) -> None:
    """Say what was done about a run in doubt."""
    await care.review(context, actor, tool_id, request)


@router.post("/tools/{tool_id}/away", operation_id="put_tool_away", status_code=204)
async def put_tool_away(tool_id: UUID, request: Command, context: TheContext, actor: Working) -> None:
    """It was put at its lowest mark."""
    await care.put_away(context, actor, tool_id, request.id)


@router.get("/tools/{tool_id}/tag.svg", operation_id="read_tag", response_class=Response)
async def read_tag(tool_id: UUID, request: Request, context: TheContext, actor: SignedIn) -> Response:
    """A code that leads to the tool's page, to print and stick on."""
    await care.tool_file(context, tool_id)
    drawn = BytesIO()
    segno.make_qr(f"{str(request.base_url).rstrip('/')}/crib/{tool_id}", error="q").save(drawn, kind="svg", scale=4, light="#fff")
    return Response(drawn.getvalue(), media_type="image/svg+xml")


@router.get("/wrenches/{wrench_id}/scale", operation_id="set_scale")
async def set_scale(wrench_id: UUID, figure: float, context: TheContext, actor: SignedIn, unit: TorqueUnit | None = None) -> Scale:
    """A wrench's scale set to a figure."""
    return scale((await inventory.wrench(context, wrench_id)).read_in(unit), figure)


@router.get("/wrenches/{wrench_id}/reading", operation_id="read_scale")
async def read_scale(
    wrench_id: UUID, line: float, context: TheContext, actor: SignedIn, thimble: float = 0, unit: TorqueUnit | None = None
) -> Setting:
    """What a wrench is set to on which a person sees a line and a mark of the thimble."""
    return read((await inventory.wrench(context, wrench_id)).read_in(unit), line, thimble)
