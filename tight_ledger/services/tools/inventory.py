"""The crib as a whole: its tools and how each stands, what its wrenches reach of the shop's specs, and what they do not."""

from collections.abc import Sequence
from datetime import date, datetime
from uuid import UUID
from zoneinfo import ZoneInfo

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.display import written_day
from tight_ledger.core.base.errors import Invalid, NotOnFile, Unreadable
from tight_ledger.core.base.given_names import require_name
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.coverage.coverage import Coverage, coverage
from tight_ledger.core.records.notes import Note
from tight_ledger.core.tool_care.care import Care, Use, after_months, care, last_good
from tight_ledger.core.tool_care.stock import piece_now
from tight_ledger.core.tools.gauges import Gauge
from tight_ledger.core.tools.inventory import Tool, tool_id, tool_words
from tight_ledger.core.tools.pieces import Piece, PieceNow, piece_words
from tight_ledger.core.tools.scales import Seen, require_read_back
from tight_ledger.core.tools.wrenches import Wrench
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context
from tight_ledger.store import ledger
from tight_ledger.store import search as search_store
from tight_ledger.store import tools as tool_store
from tight_ledger.store.ids import new_id
from tight_ledger.store.shop import Shop
from tight_ledger.store.specs import read_many as specs_on_file

MOST_FIGURES = 20_000
MOST_MISSING = 50


class Missing(Model):
    """A spec that nothing in the crib can pull."""

    spec: UUID
    title: str
    maker_model: str


class ToolLine(Model):
    """A tool in the list: what it is, and how it stands."""

    id: UUID
    name: str
    kind: str
    tool: Tool
    words: str
    care: Care | None
    """Of what is checked: wrenches and gauges."""
    piece: PieceNow | None = None
    """Of a shim, spacer, washer or sleeve: what it measures, and whether it is at hand."""


class Crib(Model):
    """The tools, the picture, and the specs that are out of reach."""

    tools: tuple[ToolLine, ...]
    coverage: Coverage
    in_use: int
    """How many wrenches are fit for use; the picture is of these."""
    specs: int
    out_of_reach: tuple[Missing, ...]


def today_at(shop: Shop, now: datetime) -> date:
    """The shop's own date."""
    return now.astimezone(ZoneInfo(shop.time_zone)).date()


async def cared_for(connection: AsyncConnection, tools: Sequence[Tool], policy: Policy, now: datetime, today: date) -> dict[UUID, Care]:
    """How each wrench and gauge stands."""
    checked = [tool_id(tool) for tool in tools if isinstance(tool, Wrench | Gauge)]
    notes = await ledger.notes_of(connection, "tool", checked)
    known = {tool_id: said for tool_id in checked if not isinstance(said := notes.get(tool_id, []), Unreadable)}
    use = await tool_store.use(connection, {tool_id: last_good(said)[0] for tool_id, said in known.items()}, now)
    lost = Care(standing="quarantined", words="its record cannot be read: not to be used")
    return {tool_id: care(known[tool_id], use.get(tool_id, Use()), policy, today) if tool_id in known else lost for tool_id in checked}


async def certificates(connection: AsyncConnection, tools: Sequence[UUID], policy: Policy) -> dict[UUID, str]:
    """By tool, the certificate of its last check, of when it is, and until when; tools without one are left out."""
    found = {}
    for tool, said in (await ledger.notes_of(connection, "tool", tools)).items():
        checks = [note for note in said if note.calibration is not None] if not isinstance(said, Unreadable) else []
        if checks and (last := checks[-1]).calibration is not None and last.calibration.certificate:
            on = last.at_server.date()
            due = written_day(after_months(on, policy.due_months))
            found[tool] = f"{last.calibration.certificate} of {written_day(on)}, due {due}"
    return found


async def add_tool(context: Context, tool: Tool, actor: Actor | None = None) -> Tool:
    """Put a tool into the crib, with the first entry of its stream.

    Raises:
        Invalid: the name is taken or cannot be read, or it has no id.
    """
    require_name("name", tool.name)
    await context.database.run(lambda connection: put_into_crib(connection, context, tool, actor), transaction=True)
    return tool


async def put_into_crib(connection: AsyncConnection, context: Context, tool: Tool, actor: Actor | None) -> None:
    """As `add_tool`, on a connection."""

    def note(seq: int) -> Note:
        return Note(
            id=new_id(), stream=tool_id(tool), subject="tool", kind="added", seq=seq, at_server=context.now(),
            by=actor.person.id if actor else None, device=actor.device if actor else None,
        )  # fmt: skip

    if await tool_store.add(connection, tool):
        await ledger.begin(connection, "tool", tool_id(tool), note)


class NewTool(Command):
    """A tool to put into the crib; its id is the command's."""

    tool: Tool
    seen: Seen | None = None
    """What shows on a wrench that is set by lines, when it is set to its read-back figure."""
    seen_second: Seen | None = None
    """The same of its other side."""


async def add_new_tool(context: Context, actor: Actor, request: NewTool) -> Tool:
    """Put a tool into the crib that somebody has in hand.

    Raises:
        Invalid: the name is taken, or a wrench was not read back, or reads otherwise than it is described.
    """
    if isinstance(request.tool, Wrench):
        require_read_back(request.tool, request.seen, request.seen_second)
    tool: Tool = request.tool.model_copy(update={"id": request.id})
    return await add_tool(context, tool, actor)


async def wrench(context: Context, wrench_id: UUID) -> Wrench:
    """One wrench.

    Raises:
        NotOnFile: no tool has this id.
        Invalid: it is no wrench.
    """
    return await context.database.run(lambda connection: wrench_of(connection, wrench_id))


async def wrench_of(connection: AsyncConnection, wrench_id: UUID) -> Wrench:
    """As `wrench`, on a connection."""
    try:
        found = await tool_store.tool(connection, wrench_id)
    except NotOnFile as none:
        raise NotOnFile("wrench", "No wrench in the crib has this id.", "Pick one from the list.") from none
    if not isinstance(found, Wrench):
        raise Invalid("wrench", f"{found.name} is no torque wrench.", "Pick one from the list.")
    return found


async def crib(context: Context) -> Crib:
    """The crib against what the shop works to."""
    shop, now = await context.shop(), context.now()

    async def work(connection: AsyncConnection) -> Crib:
        tools = await tool_store.tools(connection)
        cared = await cared_for(connection, tools, shop.policy, now, today_at(shop, now))
        now_of = await pieces_now(connection, tools)
        fit = [tool for tool in tools if isinstance(tool, Wrench) and cared[tool.id].standing not in ("quarantined", "due")]
        figures = await search_store.figures(connection, MOST_FIGURES)
        found = coverage([(low, high) for _, low, high in figures], [side for tool in fit for side in tool.sides()])
        wanted = {figures[place][0] for place in found.missing[:MOST_MISSING]}
        named = await search_store.in_force_of(connection, wanted)
        missing = [
            Missing(spec=spec.id, title=spec.title, maker_model=f"{spec.applies_to[0].maker} {spec.applies_to[0].model}")
            for spec in await specs_on_file(connection, named)
        ]
        return Crib(
            tools=tuple(_line(tool, cared, now_of) for tool in tools),
            coverage=found, in_use=len(fit), specs=len(figures), out_of_reach=tuple(sorted(missing, key=lambda spec: spec.title)),
        )  # fmt: skip

    return await context.database.run(work)


async def pieces_now(connection: AsyncConnection, tools: Sequence[Tool]) -> dict[UUID, PieceNow]:
    """How each shim, spacer, washer and sleeve among some tools stands."""
    pieces = [tool for tool in tools if isinstance(tool, Piece)]
    notes = await ledger.notes_of(connection, "tool", [piece.id for piece in pieces])
    return {piece.id: piece_now(piece, said) for piece in pieces if not isinstance(said := notes.get(piece.id, []), Unreadable)}


def _line(tool: Tool, cared: dict[UUID, Care], now_of: dict[UUID, PieceNow]) -> ToolLine:
    at, now = tool_id(tool), now_of.get(tool_id(tool))
    words = piece_words(now.piece, now.measured_mm) if now is not None else tool_words(tool)
    return ToolLine(id=at, name=tool.name, kind=tool.kind, tool=tool, words=words, care=cared.get(at), piece=now)
