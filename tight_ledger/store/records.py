"""Finding runs in the ledger by what somebody knows of them."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy import ColumnElement, FromClause, Subquery, func, select, union
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.runs.summary import TERM_LENGTH, RunSummary
from tight_ledger.store.ledger import moment
from tight_ledger.store.runs import RunRow, row_of
from tight_ledger.store.tables import ledger, open_places, run_now, run_stale, run_terms, runs


@dataclass(frozen=True, slots=True)
class RecordsAsked:
    """What somebody knows; what is None or empty is not asked for."""

    machine: UUID | None = None
    position: str = ""
    """Its key."""
    joint: str = ""
    person: UUID | None = None
    tool: UUID | None = None
    spec: UUID | None = None
    part: str = ""
    """How the name of a part begins."""
    outcome: str = ""
    """How it stands; `open` for those that have not ended."""
    since: datetime | None = None
    until: datetime | None = None
    """Between which it was started."""


def _conditions(asked: RecordsAsked) -> list[ColumnElement[bool]]:
    plain = {
        runs.c.machine_id: asked.machine, runs.c.position_key: asked.position or None, runs.c.joint: asked.joint or None,
        runs.c.spec_id: asked.spec,
    }  # fmt: skip
    found: list[ColumnElement[bool]] = [column == value for column, value in plain.items() if value is not None]
    if asked.since is not None:
        found.append(runs.c.started_at >= moment(asked.since))
    if asked.until is not None:
        found.append(runs.c.started_at < moment(asked.until))
    if asked.outcome:
        found.append(run_now.c.standing.is_(None) if asked.outcome == "open" else run_now.c.standing == asked.outcome)
    if asked.part:
        begins = f"part:{asked.part.casefold()}"[:TERM_LENGTH]
        found.append(runs.c.id.in_(select(run_terms.c.run_id).where(run_terms.c.term.startswith(begins, autoescape=True))))
    return found


def _with(term: str, named: ColumnElement[bool], name: str) -> Subquery:
    """The runs with a term; of those whose terms are not made yet, those with an entry that names it. Worked out once, then joined."""
    not_yet = union(select(open_places.c.run_id), select(run_stale.c.run_id)).subquery()
    fresh = select(ledger.c.stream).join(not_yet, not_yet.c.run_id == ledger.c.stream).where(named)
    return union(select(run_terms.c.run_id).where(run_terms.c.term == term), fresh).subquery(name)


def _of_person(person: UUID) -> Subquery:
    """The runs in which somebody did or recorded something."""
    return _with(f"person:{person}", ledger.c.body.contains(str(person), autoescape=True), "theirs")


def _of_tool(tool: UUID) -> Subquery:
    """The runs in which somebody pulled with a tool."""
    return _with(f"tool:{tool}", ledger.c.tool == tool, "with_it")


async def worked_in(connection: AsyncConnection, person: UUID) -> list[tuple[UUID, UUID]]:
    """(run, machine) of every run in which somebody did or recorded something."""
    theirs = _of_person(person)
    query = select(runs.c.id, runs.c.machine_id).join(theirs, theirs.c.run_id == runs.c.id).order_by(runs.c.number)
    return [(row.id, row.machine_id) for row in await connection.execute(query)]


def _among(asked: RecordsAsked) -> FromClause:
    """The runs, with those of a person and a tool alone if they are asked for; and the short form of each."""
    found: FromClause = runs
    for wanted in [*([_of_person(asked.person)] if asked.person else []), *([_of_tool(asked.tool)] if asked.tool else [])]:
        found = found.join(wanted, wanted.c.run_id == runs.c.id)
    return found.outerjoin(run_now, run_now.c.run_id == runs.c.id)


async def find(connection: AsyncConnection, asked: RecordsAsked, most: int) -> Sequence[tuple[RunRow, RunSummary | None]]:
    """Runs with their short forms, the newest first."""
    query = select(runs, run_now.c.content).select_from(_among(asked)).where(*_conditions(asked))
    rows = await connection.execute(query.order_by(runs.c.number.desc()).limit(most))
    return [(row_of(row), RunSummary.model_validate_json(row.content) if row.content is not None else None) for row in rows]


async def count(connection: AsyncConnection, asked: RecordsAsked) -> int:
    """How many runs there are."""
    query = select(func.count()).select_from(_among(asked)).where(*_conditions(asked))
    return int((await connection.execute(query)).scalar_one())


async def parts(connection: AsyncConnection) -> list[str]:
    """The names of all parts that runs are found by."""
    query = select(run_terms.c.term).where(run_terms.c.term.startswith("part:")).distinct().order_by(run_terms.c.term)
    return [term.removeprefix("part:") for term in (await connection.execute(query)).scalars()]


async def joints(connection: AsyncConnection) -> list[str]:
    """The joints that were ever worked on."""
    return list((await connection.execute(select(runs.c.joint).distinct().order_by(runs.c.joint))).scalars())
