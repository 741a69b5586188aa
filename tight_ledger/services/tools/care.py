"""One tool: its checks, what sets it aside, the runs that this puts in doubt, and where it is put at night."""

from datetime import UTC, datetime
from typing import Literal
from uuid import UUID
from zoneinfo import ZoneInfo

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, Unreadable
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import require_right
from tight_ledger.core.base.units import from_nm
from tight_ledger.core.joints.names import by_number
from tight_ledger.core.machines.positions import words_of_key
from tight_ledger.core.records.entries import TIGHTENING, WITH_A_TOOL
from tight_ledger.core.records.notes import Note
from tight_ledger.core.tool_care.care import Care, newest_check, quarantine
from tight_ledger.core.tool_care.suspect_periods import Doubt, Window, doubt, in_doubt
from tight_ledger.core.tools.calibrations import Calibration, Point, points_of
from tight_ledger.core.tools.gauges import Gauge
from tight_ledger.core.tools.inventory import Tool, tool_words
from tight_ledger.core.tools.pieces import PieceNow, piece_words
from tight_ledger.core.tools.wrenches import Wrench
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context, Remembered
from tight_ledger.services.notices import reach
from tight_ledger.services.standing import titles_of
from tight_ledger.services.tools.inventory import cared_for, pieces_now, today_at
from tight_ledger.store import attachments as attachment_store
from tight_ledger.store import ledger
from tight_ledger.store import machines as machine_store
from tight_ledger.store import people as people_store
from tight_ledger.store import tools as tool_store

Mishap = Literal["dropped", "overloaded", "used to loosen", "other"]


class CheckLine(Model):
    """A check, and whether it passed."""

    at: datetime
    by: str
    calibration: Calibration
    good_as_found: bool
    good: bool


class InDoubt(Model):
    """A run in which the tool was used while nobody knew what it gave."""

    run: UUID
    fleet_number: str
    position: str
    title: str
    at: datetime
    pulls: int
    probably: tuple[str, ...]
    """What the pulls probably gave, where a check found out."""
    reviewed: str = ""


class ToolFile(Model):
    """A tool, and all that is known about it."""

    tool: Tool
    words: str
    care: Care | None
    piece: PieceNow | None
    uses: int
    marks: tuple[float, ...]
    """Where on its scale it is checked."""
    lowest: str
    put_away: bool
    used_today: bool
    checks: tuple[CheckLine, ...]
    doubt: Window | None
    in_doubt: tuple[InDoubt, ...]


class Tonight(Model):
    """A spring wrench that was used today and is not put away."""

    id: UUID
    name: str
    lowest: str


class Checked(Command):
    """A check as it is handed in."""

    points: tuple[Point, ...]
    by: str = Field(min_length=1, max_length=120)
    certificate: str = Field(default="", max_length=80)
    attachment: UUID | None = None


class Aside(Command):
    """What happened to a tool."""

    mishap: Mishap
    text: str = Field(default="", max_length=500)


class Said(Command):
    """A reason."""

    text: str = Field(min_length=1, max_length=500)
    run: UUID | None = None


async def _note(context: Context, actor: Actor, tool_id: UUID, note_id: UUID, kind: str, **more: object) -> None:
    """Write into a tool's stream; the same id twice is once.

    Raises:
        NotOnFile: no tool has this id.
        Stale: the id belongs to another entry.
    """
    await context.database.run(lambda connection: tool_store.tool(connection, tool_id))

    def note(seq: int) -> Note:
        common = {"id": note_id, "stream": tool_id, "subject": "tool", "kind": kind, "seq": seq}
        return Note.model_validate(common | {"by": actor.person.id, "device": actor.device, "at_server": context.now()} | more)

    await context.appender.append("tool", tool_id, note_id, note)


async def calibrate(context: Context, actor: Actor, tool_id: UUID, request: Checked) -> None:
    """Hand in a check of a wrench or a gauge.

    Raises:
        NotOnFile, Invalid: no such tool, one that is not checked so, or readings that are no check.
    """
    tool = await context.database.run(lambda connection: tool_store.tool(connection, tool_id))
    if not isinstance(tool, Wrench | Gauge):
        raise Invalid("tool", f"{tool.name} has no scale to check.", "Wrenches and gauges have.")
    if request.attachment is not None:
        wanted = request.attachment
        await context.database.run(lambda connection: attachment_store.find(connection, wanted))
    for point in request.points:
        if not tool.lowest - 1e-9 <= point.shown <= tool.highest + 1e-9:
            raise Invalid("points", f"{point.shown:g} lies off the scale.", f"It goes from {tool.lowest:g} to {tool.highest:g}.")
    calibration = Calibration(
        points=request.points, permissible_percent=tool.permissible_percent, by=request.by.strip(),
        certificate=request.certificate.strip(), attachment=request.attachment,
    )  # fmt: skip
    await _note(context, actor, tool_id, request.id, "calibrated", calibration=calibration)
    await reach(context, actor, "tool", tool_id)


async def set_aside(context: Context, actor: Actor, tool_id: UUID, request: Aside) -> None:
    """One tap: the tool may be damaged; it is not offered until it is checked.

    Raises:
        NotOnFile: no tool has this id.
    """
    said = request.text.strip() or ("set aside" if request.mishap == "other" else "")
    text = "; ".join(part for part in ("" if request.mishap == "other" else request.mishap, said) if part)
    await _note(context, actor, tool_id, request.id, "quarantined", text=text)
    await reach(context, actor, "tool", tool_id)


async def clear(context: Context, actor: Actor, tool_id: UUID, request: Said) -> None:
    """A lead lets a tool be used again.

    Raises:
        NotAllowed: by somebody who is not a lead.
        Invalid: it is not set aside, or its newest check failed.
    """
    require_right(actor.person.roles, "clear_tool", "tool")
    notes = await context.database.run(lambda connection: ledger.notes(connection, "tool", tool_id))
    if all(note.id != request.id for note in notes):
        if quarantine(notes) is None:
            raise Invalid("tool", "This tool is not set aside.", "It may be used.")
        if (newest := newest_check(notes)) is not None and not newest.good:
            raise Invalid("tool", "Its newest check failed.", "Adjust it, and check it again first.")
    await _note(context, actor, tool_id, request.id, "cleared", text=request.text.strip())


async def review(context: Context, actor: Actor, tool_id: UUID, request: Said) -> None:
    """Say what was done about a run in doubt.

    Raises:
        Invalid: no run is named.
        NotOnFile: no such tool or run.
    """
    if request.run is None:
        raise Invalid("run", "No run is named.", "Name the one that was looked at.")
    await context.run(request.run)
    await _note(context, actor, tool_id, request.id, "reviewed", run=request.run, text=request.text.strip())


async def put_away(context: Context, actor: Actor, tool_id: UUID, note_id: UUID) -> None:
    """A spring wrench was put at its lowest mark.

    Raises:
        NotOnFile: no tool has this id.
    """
    await _note(context, actor, tool_id, note_id, "put_away")


async def tonight(context: Context) -> tuple[Tonight, ...]:
    """The spring wrenches that were used today, and not put at their lowest mark since."""
    shop = await context.shop()

    async def work(connection: AsyncConnection) -> tuple[Tonight, ...]:
        pulled = await tool_store.last_pulls(connection, _midnight(shop.time_zone, context.now()))
        notes = await ledger.notes_of(connection, "tool", list(pulled))
        found = []
        for tool in await tool_store.tools(connection) if pulled else ():
            if isinstance(tool, Wrench) and tool.has_spring and tool.id in pulled:
                known = notes.get(tool.id, [])
                away = [ledger.moment(n.at_server) for n in ([] if isinstance(known, Unreadable) else known) if n.kind == "put_away"]
                if not away or away[-1] < pulled[tool.id]:
                    found.append(Tonight(id=tool.id, name=tool.name, lowest=_lowest(tool)))
        return tuple(found)

    return await context.database.run(work)


def _lowest(wrench: Wrench) -> str:
    return f"{wrench.lowest:g} {wrench.unit}"


async def tool_file(context: Context, tool_id: UUID) -> ToolFile:
    """A tool, its checks, and the runs that are in doubt.

    Raises:
        NotOnFile: no tool has this id.
    """
    shop, now = await context.shop(), context.now()
    left_out = {wrench.id for wrench in await tonight(context)}

    async def work(connection: AsyncConnection) -> ToolFile:
        tool = await tool_store.tool(connection, tool_id)
        notes = await ledger.notes(connection, "tool", tool_id)
        cared = await cared_for(connection, [tool], shop.policy, now, today_at(shop, now))
        piece = (await pieces_now(connection, [tool])).get(tool_id)
        names = {person.id: person.name for person in await people_store.everybody(connection)}
        window = in_doubt(notes)
        used_today = tool_id in await tool_store.last_pulls(connection, _midnight(shop.time_zone, now))
        return ToolFile(
            tool=tool,
            words=piece_words(piece.piece, piece.measured_mm) if piece is not None else tool_words(tool),
            care=cared.get(tool_id),
            piece=piece,
            uses=await tool_store.pulls(connection, tool_id),
            marks=points_of(tool) if isinstance(tool, Wrench | Gauge) else (),
            lowest=_lowest(tool) if isinstance(tool, Wrench) and tool.has_spring else "",
            put_away=tool_id not in left_out,
            used_today=used_today,
            checks=tuple(_check_line(note, names) for note in reversed(notes) if note.calibration is not None),
            doubt=window,
            in_doubt=tuple(await _in_doubt(context, connection, tool, window, notes)) if window is not None else (),
        )

    return await context.database.run(work)


def _midnight(zone: str, now: datetime) -> datetime:
    local = now.astimezone(ZoneInfo(zone))
    return local.replace(hour=0, minute=0, second=0, microsecond=0).astimezone(UTC)


def _check_line(note: Note, names: dict[UUID, str]) -> CheckLine:
    assert note.calibration is not None
    found = note.calibration
    by = names.get(note.by, "") if note.by is not None else ""
    return CheckLine(at=note.at_server, by=by, calibration=found, good_as_found=found.good_as_found, good=found.good)


async def _in_doubt(context: Context, connection: AsyncConnection, tool: Tool, window: Window, notes: list[Note]) -> list[InDoubt]:
    rows = await tool_store.runs_with(connection, notes[0].stream, window.since, window.until)
    machines = await machine_store.fleet_numbers(connection, {row.machine_id for row in rows})
    titles = await titles_of(connection, rows)
    reviewed = {
        note.run: note.text or "" for note in notes if note.kind == "reviewed" and note.at_server > (window.since or note.at_server)
    }
    found = []
    for row in rows:
        run = await context.readable(connection, row.id)
        used = [entry for entry in run.entries if entry.kind in WITH_A_TOOL and tool.id in (entry.tools or ())] if run is not None else []
        found.append(
            InDoubt(
                run=row.id, fleet_number=machines.get(row.machine_id, ""), position=words_of_key(row.position_key),
                title=titles[row.id], at=row.started_at.replace(tzinfo=UTC), pulls=len(used), reviewed=reviewed.get(row.id, ""),
                probably=_said(_doubts(run, tool, window)) if run is not None else ("its record cannot be read",),
            )
        )  # fmt: skip
    return found


def _doubts(run: Remembered, tool: Tool, window: Window) -> dict[str, Doubt]:
    """By fastener, what the last pull with the tool probably gave; empty without a check that says how far off it is."""
    found = window.found
    if found is None or not isinstance(tool, Wrench):
        return {}
    pulls = {pull.id: pull for pass_ in run.started.plan.passes for pull in pass_.pulls}
    doubts: dict[str, Doubt] = {}
    for entry in run.entries:
        pull = pulls.get(entry.pull or "")
        if entry.kind not in TIGHTENING or tool.id not in (entry.tools or ()) or entry.id not in run.state.live:
            continue
        if pull is None or pull.band is None or pull.fastener is None:
            continue
        shown = entry.reading or entry.setting or pull.setting
        if shown is not None:
            doubts[pull.fastener] = doubt(found, from_nm(shown.torque_nm, tool.unit), pull.at_fastener(shown.torque_nm), pull.band)
    return doubts


def _said(doubts: dict[str, Doubt]) -> tuple[str, ...]:
    """`1, 2, 3: probably 612 N·m, above 565–605`."""
    named: dict[str, list[str]] = {}
    for fastener, doubted in doubts.items():
        named.setdefault(doubted.words, []).append(fastener)
    return tuple(f"{', '.join(sorted(labels, key=by_number))}: {words}" for words, labels in named.items())
