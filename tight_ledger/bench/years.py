"""Ten years of a fleet, beside the same program with little in it: what a person opens, how long it takes, and what it reads for it.

Both are opened in turn, so that what else the machine does falls on both.
"""

import asyncio
import json
import os
import random
import statistics
import sys
import tempfile
import time
from collections.abc import Awaitable, Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from uuid import UUID

from sqlalchemy import create_engine, event, text

from tight_ledger.bench.generated_runs import Fleet, fill, fleet
from tight_ledger.demo.load import demo_lead
from tight_ledger.formats.job_card import job_cards_pdf
from tight_ledger.installation.databases import DATA, Databases, bench_databases, with_context
from tight_ledger.installation.programs import Program
from tight_ledger.installation.proof import known_outside
from tight_ledger.services import records
from tight_ledger.services.checkpoints import make
from tight_ledger.services.context import Context
from tight_ledger.services.dashboard import dashboard
from tight_ledger.services.followups import followups
from tight_ledger.services.machines import machine_now
from tight_ledger.services.notices import notices
from tight_ledger.services.records import Wanted
from tight_ledger.services.runs import views
from tight_ledger.services.specs import revisions
from tight_ledger.services.specs.revisions import Withdraw
from tight_ledger.services.week import week
from tight_ledger.store import backups
from tight_ledger.store.ids import new_id
from tight_ledger.store.verification import verify

LITTLE, MANY_ROWS = 10_000, 20_000
"""Entries of the little one; how many rows a statement may look at before it is named."""


def _so_far(found: dict[str, Any]) -> None:
    """Ten million entries take hours: what is known stands on standard error at once, and is not lost with the rest."""
    print(json.dumps(found), file=sys.stderr, flush=True)


class _Watched:
    """Remembers each statement once, so that its plan can be looked at."""

    def __init__(self, context: Context) -> None:
        self.statements: dict[str, Any] = {}
        for engine in (context.database.single, context.database.transaction):
            event.listen(engine.sync_engine, "before_cursor_execute", self._heard)

    def _heard(self, _connection: Any, _cursor: Any, statement: str, parameters: Any, *_: Any) -> None:
        self.statements.setdefault(statement, parameters)


def _reads_much(found: Databases, statements: dict[str, Any]) -> list[str]:
    """The statements that look at many rows, by their plans."""
    engine, told = create_engine(found.owner), []
    with engine.connect() as connection:
        for statement, parameters in statements.items():
            if statement.lstrip().upper().startswith("SELECT"):
                plan = connection.exec_driver_sql(f"EXPLAIN {statement}", parameters or None).mappings().all()
                rows = max((int(step["rows"] or 0) for step in plan), default=0)
                if rows > MANY_ROWS:
                    told.append(f"{rows} rows: {' '.join(statement.split())[:300]}")
    engine.dispose()
    return told


def _opened(made: Fleet, ids: Sequence[UUID], dice: random.Random) -> dict[str, Callable[[Context], Awaitable[object]]]:
    async def card(context: Context) -> bytes:
        return await asyncio.to_thread(job_cards_pdf, [await views.card(context, dice.choice(ids))])

    return {
        "home": dashboard,
        "a machine": lambda context: machine_now(context, dice.choice(made.machines)),
        "a run": lambda context: views.now(context, dice.choice(ids)),
        "the week": week,
        "records by person": lambda context: records.find(context, Wanted(person=dice.choice(made.people))),
        "records by wrench": lambda context: records.find(context, Wanted(tool=dice.choice(made.wrenches))),
        "due list": followups,
        "recall of a spec": notices,
        "card as PDF": card,
    }


@dataclass(frozen=True)
class _Filled:
    """A database with its work in it."""

    found: Databases
    made: Fleet
    ids: Sequence[UUID]
    told: dict[str, Any]


@dataclass
class _Side:
    """One of the two that are opened in turn."""

    context: Context
    filled: _Filled
    dice: random.Random = field(default_factory=lambda: random.Random(1))
    times: list[float] = field(default_factory=list)
    opened: dict[str, Any] = field(default_factory=dict)

    async def open(self, name: str) -> None:
        """Open a thing that was not opened lately, and measure it."""
        self.context.remembered.clear()
        opened = _opened(self.filled.made, self.filled.ids, self.dice)[name]
        began = time.perf_counter()
        await opened(self.context)
        self.times.append((time.perf_counter() - began) * 1e3)

    async def open_first(self, name: str) -> None:
        """Open a thing for the first time, and look at the statements."""
        if name == "recall of a spec":
            withdrawn = Withdraw(id=new_id(), reason="a figure from the wrong column")
            await revisions.withdraw(self.context, demo_lead(), self.filled.made.specs[-1], 1, withdrawn)
        watched = _Watched(self.context)
        await self.open(name)
        self.times.clear()
        much = _reads_much(self.filled.found, watched.statements)
        self.opened[name] = {"statements": len(watched.statements), "looks_at_many_rows": much}

    def tell(self, name: str) -> None:
        """Keep what was measured."""
        times = sorted(self.times)
        self.opened[name] |= {"p50_ms": round(statistics.median(times), 1), "p95_ms": round(times[int(len(times) * 0.95)], 1)}


async def _measure(sides: Sequence[_Side], each: int) -> None:
    for name in _opened(sides[0].filled.made, sides[0].filled.ids, sides[0].dice):
        for side in sides:
            await side.open_first(name)
        for _ in range(each):
            for side in sides:
                await side.open(name)
        for side in sides:
            side.tell(name)
            _so_far({name: side.opened[name]})


def _fill(found: Databases, entries: int) -> _Filled:
    """Fill a database."""
    assert found.keeper is not None
    began = time.perf_counter()
    made = asyncio.run(with_context(found, lambda context: fleet(context, entries)))
    written = fill(found.owner, made, found.keeper.key)
    took = time.perf_counter() - began
    engine = create_engine(found.owner)
    with engine.connect() as connection:
        connection.execute(text("ANALYZE TABLE ledger, runs, run_now, run_terms, jobs"))
        ids = [UUID(str(each)) for each in connection.execute(text("SELECT id FROM runs ORDER BY RAND(1) LIMIT 400")).scalars()]
        sizes = {
            str(row.name): round(row.size / 1e6, 1)
            for row in connection.execute(
                text(
                    "SELECT table_name AS name, data_length + index_length AS size FROM information_schema.tables WHERE table_schema = :d"
                ),
                {"d": found.owner.database},
            )
        }
        many = {name: int(connection.execute(text(f"SELECT COUNT(*) FROM {name}")).scalar_one()) for name in ("ledger", "runs", "machines")}
        kinds = connection.execute(
            text("SELECT kind, COUNT(*) AS many, AVG(LENGTH(body)) AS bytes FROM ledger GROUP BY kind ORDER BY COUNT(*) DESC LIMIT 6")
        ).all()
    engine.dispose()
    told = {
        "entries": many["ledger"], "runs": many["runs"], "machines": many["machines"], "specs": len(made.specs),
        "filling_s": round(took, 1), "entries_a_second": round(written / took),
        "kb_a_run": round(sum(sizes.values()) * 1e3 / many["runs"], 1), "tables_mb": {name: mb for name, mb in sizes.items() if mb > 1},
        "largest_kinds": {row.kind: {"many": row.many, "bytes": round(float(row.bytes))} for row in kinds},
    }  # fmt: skip
    _so_far(told)
    return _Filled(found, made, ids, told)


def _kept(found: Databases, aside: Path, *, backup: bool) -> dict[str, float]:
    """How long it takes to make a first checkpoint, to verify, to start a process, and to back up and restore if that is wanted."""
    assert found.keeper is not None
    urls = {"TIGHT_DATABASE_URL": found.serving, "TIGHT_OWNER_DATABASE_URL": found.owner}
    known = {name: url.render_as_string(hide_password=False) for name, url in urls.items()}
    program, file = Program(aside / "program", environment=known | {"TIGHT_PROOF": str(found.keeper.folder)}), aside / "whole.backup"
    took = {}

    def started() -> None:
        program.start()
        program.wait()

    works: list[tuple[str, Callable[[], object]]] = [
        ("first_checkpoint_s", lambda: asyncio.run(with_context(found, make))),
        ("verified_incrementally_s", lambda: verify(found.owner, known_outside(found))),
        ("verified_whole_s", lambda: verify(found.owner, known_outside(found), whole=True, processes=os.cpu_count() or 1)),
        ("process_started_s", started),
        ("process_stopped_s", program.stop),
    ]
    if backup:
        works += [
            ("backed_up_and_tried_s", lambda: backups.backup(found.places, file, known_outside(found))),
            ("restored_s", lambda: backups.restore(found.places, file, known_outside(found), "", 0)),
        ]
    for name, work in works:
        began = time.perf_counter()
        work()
        took[name] = round(time.perf_counter() - began, 1)
        _so_far({name: took[name]})
    return took | ({"backup_mb": round(file.stat().st_size / 1e6, 1)} if backup else {})


def run(entries: int, each: int, *, backup: bool) -> dict[str, Any]:
    """Measure both, and say what grew.

    Args:
        entries: of the large one.
        each: how often each thing is opened.
        backup: whether the large one is also backed up and restored.
    """
    with bench_databases() as few, bench_databases() as many:
        filled = _fill(few, LITTLE), _fill(many, entries)

        async def measured(first: Context, second: Context) -> list[_Side]:
            sides = [_Side(context, each_filled) for context, each_filled in zip((first, second), filled, strict=True)]
            await _measure(sides, each)
            return sides

        little, large = asyncio.run(with_context(few, lambda first: with_context(many, lambda second: measured(first, second))))
        with tempfile.TemporaryDirectory(dir=DATA.parent) as aside:
            kept = _kept(many, Path(aside), backup=backup)
    return {
        "little": filled[0].told | {"opened": little.opened},
        "large": filled[1].told | {"opened": large.opened} | kept,
        "grew": {
            name: {figure: round(large.opened[name][figure] / told[figure], 2) for figure in ("p50_ms", "p95_ms")}
            for name, told in little.opened.items()
        },
    }
