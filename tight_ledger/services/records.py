"""One search over the ledger: every card by machine, position, joint, person, wrench, spec, part, outcome, period."""

import csv
from datetime import date, datetime
from io import StringIO
from typing import Literal
from uuid import UUID
from zoneinfo import ZoneInfo

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.cells import harmless
from tight_ledger.core.base.models import Model
from tight_ledger.core.records.entries import Outcome
from tight_ledger.core.runs.summary import RunSummary
from tight_ledger.services.context import Context
from tight_ledger.services.people import names_shown
from tight_ledger.services.proof.holds import moments
from tight_ledger.services.summaries import catch_up
from tight_ledger.store import machines as machine_store
from tight_ledger.store import records as record_store
from tight_ledger.store.records import RecordsAsked
from tight_ledger.store.runs import RunRow
from tight_ledger.store.shop import Shop

MOST_SHOWN = 100
MOST_EXPORTED = 20_000
HEAD = ("started", "ended", "machine", "position", "joint", "procedure", "outcome", "people", "wrenches", "pulls", "reasons", "run")


class Wanted(Model):
    """What somebody knows of a run; what is left out is not asked for."""

    machine: UUID | None = None
    position: str = Field(default="", max_length=130)
    joint: str = Field(default="", max_length=60)
    person: UUID | None = None
    tool: UUID | None = None
    spec: UUID | None = None
    part: str = Field(default="", max_length=80)
    outcome: Literal["", "open"] | Outcome = ""
    since: date | None = None
    until: date | None = None
    """Days of the shop; both are part of the period."""


class RecordLine(Model):
    """A run in the list."""

    run: UUID
    machine: UUID
    fleet_number: str
    position: str
    joint: str
    title: str
    procedure: str
    standing: Outcome | None
    people: tuple[str, ...]
    wrenches: tuple[str, ...]
    pulls: int
    reasons: tuple[str, ...]
    started_at: datetime
    ended_at: datetime | None


class Found(Model):
    """What was found, the newest first."""

    lines: tuple[RecordLine, ...]
    in_all: int
    joints: tuple[str, ...]
    parts: tuple[str, ...]
    """What can be asked for."""


def asked_of(wanted: Wanted, shop: Shop) -> RecordsAsked:
    """What is asked of the tables: a period from the first moment of its first day to the end of its last, by the shop's clock."""
    since, until = moments(wanted.since, wanted.until, shop)
    return RecordsAsked(
        machine=wanted.machine, position=wanted.position, joint=wanted.joint, person=wanted.person, tool=wanted.tool, spec=wanted.spec,
        part=wanted.part.strip(), outcome=wanted.outcome, since=since, until=until,
    )  # fmt: skip


async def _lines(connection: AsyncConnection, asked: RecordsAsked, most: int) -> list[RecordLine]:
    people, found = await names_shown(connection), await record_store.find(connection, asked, most)
    fleet = await machine_store.fleet_numbers(connection, {row.machine_id for row, _ in found})
    return [_line(row, short, fleet, people) for row, short in found]


def _line(row: RunRow, short: RunSummary | None, fleet: dict[UUID, str], people: dict[UUID, str]) -> RecordLine:
    return RecordLine(
        run=row.id, machine=row.machine_id, fleet_number=fleet.get(row.machine_id, ""), position=short.position if short else "",
        joint=row.joint, title=(short.title if short else "") or row.joint, procedure=row.procedure,
        standing=short.standing if short else None, people=tuple(people.get(each, "") for each in short.people) if short else (),
        wrenches=short.wrenches if short else (), pulls=short.pulls if short else 0, reasons=short.reasons if short else (),
        started_at=row.started_at.replace(tzinfo=ZoneInfo("UTC")), ended_at=short.ended_at if short else None,
    )  # fmt: skip


async def find(context: Context, wanted: Wanted) -> Found:
    """The runs that fit, the newest first, at most `MOST_SHOWN`; and how many there are in all."""
    await catch_up(context)
    asked = asked_of(wanted, await context.shop())

    async def work(connection: AsyncConnection) -> Found:
        return Found(
            lines=tuple(await _lines(connection, asked, MOST_SHOWN)), in_all=await record_store.count(connection, asked),
            joints=tuple(await record_store.joints(connection)), parts=tuple(await record_store.parts(connection)),
        )  # fmt: skip

    return await context.database.run(work)


async def export(context: Context, wanted: Wanted) -> bytes:
    """The runs that fit as CSV, at most `MOST_EXPORTED`; times are the shop's."""
    await catch_up(context)
    shop = await context.shop()
    zone, made = ZoneInfo(shop.time_zone), StringIO()
    table = csv.writer(made)
    table.writerow(HEAD)
    for line in await context.database.run(lambda connection: _lines(connection, asked_of(wanted, shop), MOST_EXPORTED)):
        ended = line.ended_at.astimezone(zone).isoformat(timespec="minutes") if line.ended_at is not None else ""
        cells = (
            [
                line.started_at.astimezone(zone).isoformat(timespec="minutes"), ended, line.fleet_number, line.position, line.title,
                line.procedure, line.standing or "open", "; ".join(line.people), "; ".join(line.wrenches), line.pulls,
                "; ".join(line.reasons), line.run,
            ]
        )  # fmt: skip
        table.writerow([harmless(str(cell)) for cell in cells])
    return made.getvalue().encode()


async def find_all(context: Context, wanted: Wanted, most: int) -> list[RecordLine]:
    """The runs that fit, the newest first: all of them, or one more than `most`."""
    await catch_up(context)
    asked = asked_of(wanted, await context.shop())
    return await context.database.run(lambda connection: _lines(connection, asked, most + 1))
