"""The shims, spacers, washers and sleeves of a shop: which are at hand, and what each measures."""

from collections.abc import Collection, Mapping, Sequence
from uuid import UUID, uuid5

from pydantic import Field, ValidationError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Fault, Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.records.notes import Note
from tight_ledger.core.tools.pieces import Piece, PieceAct, PieceNow, require_thickness
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context
from tight_ledger.services.tools.inventory import pieces_now, put_into_crib
from tight_ledger.store import ledger
from tight_ledger.store import tools as tool_store

COLUMNS = ("name", "what", "bore_mm", "rim_mm", "nominal_mm", "measured_mm", "at_hand")
MOST_ROWS = 2_000
AT_HAND: dict[str, bool] = {"": True, "yes": True, "no": False}


class PieceSaid(Command):
    """What became of a piece, or what it measures."""

    act: PieceAct
    measured_mm: float | None = Field(default=None, gt=0, le=200)


class StockLine(Model):
    """A line of a file of pieces: what became of it."""

    row: int
    name: str
    said: str
    ok: bool


async def pieces(context: Context) -> tuple[PieceNow, ...]:
    """Every piece, by ring and thickness."""

    async def work(connection: AsyncConnection) -> tuple[PieceNow, ...]:
        found = await pieces_now(connection, await tool_store.tools(connection))
        return tuple(sorted(found.values(), key=lambda now: (now.piece.bore_mm, now.piece.rim_mm, now.thickness_mm, now.piece.name)))

    return await context.database.run(work)


def _note(context: Context, actor: Actor, piece_id: UUID, said: PieceSaid) -> ledger.Build:
    def note(seq: int) -> Note:
        return Note(
            id=said.id, stream=piece_id, subject="tool", kind=said.act, seq=seq, at_server=context.now(),
            by=actor.person.id, device=actor.device, figure=said.measured_mm,
        )  # fmt: skip

    return note


async def say(context: Context, actor: Actor, piece_id: UUID, request: PieceSaid) -> None:
    """Write down that a piece was used, came back, or was measured; the same command twice is once.

    Raises:
        NotOnFile: nothing has this id.
        Invalid: it is no piece, or the thickness cannot be its own.
    """
    tool = await context.database.run(lambda connection: tool_store.tool(connection, piece_id))
    if not isinstance(tool, Piece):
        raise Invalid("tool", f"{tool.name} is no shim, spacer, washer or sleeve.", "Pick one that is.")
    figure = require_thickness(tool, request.measured_mm) if request.act == "sized" else None
    said = request.model_copy(update={"measured_mm": figure})
    await context.appender.append("tool", piece_id, request.id, _note(context, actor, piece_id, said))


async def bring_in(context: Context, actor: Actor, file_id: UUID, rows: Sequence[tuple[int, Mapping[str, str]]]) -> tuple[StockLine, ...]:
    """Pieces from a file, in one transaction. Each line stands for itself; one that is refused says why.

    A piece that is on the list already is measured, or set at hand or not, as the line says. The same file twice is written down
    once: the id of a line's entry comes from the file's.
    """

    async def work(connection: AsyncConnection) -> tuple[StockLine, ...]:
        tools = await tool_store.tools(connection)
        known = {now.piece.name.casefold(): now for now in (await pieces_now(connection, tools)).values()}
        taken = {tool.name.casefold() for tool in tools} - set(known)
        told = []
        for number, row in rows:
            name = row.get("name", "").strip()
            try:
                now, said = _line(file_id, number, row, known.get(name.casefold()), taken)
            except ValidationError as error:
                first = error.errors()[0]
                told.append(StockLine(row=number, name=name, said=f"{first['loc'][-1]}: {first['msg']}", ok=False))
                continue
            except Fault as fault:
                told.append(StockLine(row=number, name=name, said=f"{fault.fault} {fault.remedy}", ok=False))
                continue
            if name.casefold() not in known:
                await put_into_crib(connection, context, now.piece, actor)
            for each in said:
                build = _note(context, actor, now.piece.id, each)
                if await ledger.recorded(connection, now.piece.id, each.id, build) is None:
                    await ledger.add_next(connection, "tool", now.piece.id, build)
            words = [*(["new"] if name.casefold() not in known else []), *(_SAID[each.act] for each in said)]
            known[name.casefold()] = now
            told.append(StockLine(row=number, name=name, said=", ".join(words) or "as it was", ok=True))
        return tuple(told)

    return await context.database.run(work, transaction=True)


_SAID: dict[PieceAct, str] = {"used_up": "not at hand", "returned": "at hand", "sized": "measured"}


def _line(
    file_id: UUID, number: int, row: Mapping[str, str], before: PieceNow | None, taken: Collection[str]
) -> tuple[PieceNow, tuple[PieceSaid, ...]]:
    """A piece as a line describes it, and what is to be written down about it."""
    at_hand = AT_HAND.get(row.get("at_hand", "").strip().casefold())
    if at_hand is None:
        raise Invalid("at_hand", f"“{row.get('at_hand')}” says nothing here.", "Write yes or no.")
    named = {field: row.get(field, "").strip() for field in ("name", "what")}
    if named["name"].casefold() in taken:
        raise Invalid("name", f"{named['name']} is another tool of the crib.", "Give another name.")
    figures = {field: text for field in COLUMNS[2:6] if (text := row.get(field, "").strip().replace(",", "."))}
    given = Piece.model_validate({"kind": "piece", "id": uuid5(file_id, f"{number}")} | named | figures)
    if given.measured_mm is not None:
        require_thickness(before.piece if before is not None else given, given.measured_mm)
    now = before or PieceNow(piece=given, measured_mm=given.measured_mm)
    said = []
    if given.measured_mm is not None and given.measured_mm != now.measured_mm:
        said.append(PieceSaid(id=uuid5(file_id, f"{number} sized"), act="sized", measured_mm=given.measured_mm))
    if at_hand != now.at_hand:
        act: PieceAct = "returned" if at_hand else "used_up"
        said.append(PieceSaid(id=uuid5(file_id, f"{number} {act}"), act=act))
    return now.model_copy(update={"at_hand": at_hand, "measured_mm": given.measured_mm or now.measured_mm}), tuple(said)
