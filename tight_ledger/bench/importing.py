"""Large files coming in: a table of specs, how long its rehearsal and its writing take and how much memory they need; and meters."""

import asyncio
import resource
import tempfile
import time
from functools import partial
from pathlib import Path
from typing import Any
from uuid import uuid4

import uvloop
from sqlalchemy import URL

from tight_ledger.core.spec_table.rows import write_spec
from tight_ledger.demo.load import demo_lead, specs
from tight_ledger.formats import tables
from tight_ledger.services.context import Context
from tight_ledger.services.imports import ImportProgress
from tight_ledger.services.meter_files import MOST_ROWS, read_meters
from tight_ledger.services.specs import importing
from tight_ledger.store import machines as machine_store
from tight_ledger.store import told
from tight_ledger.store.database import Database


def _table(path: Path, rows: int) -> int:
    """A CSV of at least so many rows: the demo's specs again and again, for models of their own; how many specs."""
    written = count = 0
    known = specs()
    with path.open("wb") as file:
        file.write(tables.csv_head())
        while written < rows:
            spec = known[count % len(known)]
            applies = spec.applies_to[0].model_copy(update={"maker": f"Maker {count % 400}", "model": f"Model {count // 7}"})
            fresh = spec.model_copy(update={"id": uuid4(), "applies_to": (applies,)})
            file.write(tables.csv_rows([fresh]))
            written += len(write_spec(fresh))
            count += 1
    return count


def _memory_mb() -> float:
    """Memory of this process now [MB]."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * resource.getpagesize() / 1e6


async def _until(context: Context, progress: ImportProgress) -> tuple[ImportProgress, float]:
    """Wait until the import stops; gives it, and the most memory that was used meanwhile [MB]."""
    most = 0.0
    while progress.state in ("judging", "writing"):
        await asyncio.sleep(0.2)
        most = max(most, _memory_mb())
        progress = await importing.look(context, progress.id)
    return progress, most


async def measure(serving: URL, rows: int) -> dict[str, Any]:
    """Rehearse and write; seconds, rows a second, and the growth of the largest memory ever used."""
    context = Context(Database(serving))
    actor = demo_lead()
    path = Path(tempfile.mkdtemp()) / "specs.csv"
    count = await asyncio.to_thread(_table, path, rows)
    before, started = _memory_mb(), time.perf_counter()
    told, first = await _until(context, await importing.receive(context, uuid4(), "bench", path, tables.read_file))
    judged = time.perf_counter() - started
    done, second = await _until(context, await importing.bring_in(context, actor, told.id, affirmed=True))
    took = time.perf_counter() - started
    await context.database.close()
    assert done.state == "done", done.trouble
    return {
        "rows": rows,
        "specs": count,
        "rehearsal_s": round(judged, 1),
        "writing_s": round(took - judged, 1),
        "rows_per_s": round(rows / took),
        "memory_before_mb": round(before),
        "memory_most_mb": round(max(first, second)),
    }


async def _meters(serving: URL) -> dict[str, Any]:
    """A file of as many readings as one may have, over all machines that have a meter."""
    context = Context(Database(serving))
    machines = [each for each in await context.database.run(machine_store.read_all) if each.meters]
    known = {each.id: await context.database.run(partial(told.meters, machine_id=each.id)) for each in machines}
    last = {each.id: max((meter.figure for meter in known[each.id]), default=0.0) for each in machines}
    rows = []
    for number in range(MOST_ROWS):
        each = machines[number % len(machines)]
        figure = last[each.id] + 1 + number // len(machines)
        rows.append((number, {"machine": each.fleet_number, "meter": each.meters[0], "figure": f"{figure:g}"}))
    started = time.perf_counter()
    lines = await read_meters(context, demo_lead(), uuid4(), rows)
    took = time.perf_counter() - started
    await context.database.close()
    return {"meter_rows": len(lines), "meter_rows_written": sum(line.ok for line in lines), "meters_s": round(took, 2)}


def run(serving: URL, *, rows: int) -> dict[str, Any]:
    """Make the table, import it, and give the figures; then the file of meters."""
    return uvloop.run(measure(serving, rows)) | uvloop.run(_meters(serving))
