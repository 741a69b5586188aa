"""Compiling a plan, replaying a run, one entry more, beside building as many plain objects; and importing what a run needs."""

import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

from tight_ledger.core.base.parsing import parse_torque
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.joints.shapes import bolt_circle
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Plan, Tooling
from tight_ledger.core.runs.run import Run, replay
from tight_ledger.core.specs.applicability import Applies
from tight_ledger.core.specs.spec import Proof, Source, Spec
from tight_ledger.core.specs.steps import Torque
from tight_ledger.core.tools.wrenches import ANY_WRENCH

ROUNDS = 25


def _spec(count: int, passes: int) -> Spec:
    steps = tuple(Torque(id=f"s{n}", kind="torque", share=(n + 1) / passes) for n in range(passes))
    return Spec(
        id=UUID(int=7), title="many", joint="cover", applies_to=(Applies(maker="a", model="b"),),
        finals={"bolt": parse_torque("95–105 N·m")},
        proof=Proof(ask="?", options=("1", "2"), answer="1"), layout=bolt_circle(count=count, diameter_mm=900, kind="bolt", thread="M12"),
        procedures={"tighten": steps}, source=Source(document="bench"), final_check="never",
    )  # fmt: skip


def _plan(count: int, passes: int) -> Plan:
    return compile_plan(_spec(count, passes), "tighten", (Tooling(wrench=ANY_WRENCH),), Policy())


def _entries(plan: Plan) -> list[Entry]:
    """Every pass in order, its wrench set first."""
    start, person = datetime(2026, 1, 1, tzinfo=UTC), UUID(int=1)
    found: list[Entry] = []

    def add(**said: Any) -> None:
        n = len(found)
        found.append(
            Entry(
                id=UUID(int=n + 100), by=person, recorded_by=person, device=person, at_device=start + timedelta(seconds=5 * n),
                at_server=start, run=person, seq=n + 1, **said,
            )
        )  # fmt: skip

    for pass_ in plan.passes:
        add(kind="set", setting=pass_.pulls[0].setting, tools=(ANY_WRENCH.id,))
        for pull in pass_.pulls:
            add(kind="pulled", pull=pull.id, fastener=pull.fastener, how="click")
    return found


def _median_ms(work: Callable[[], object]) -> float:
    took = []
    for _ in range(ROUNDS):
        started = time.perf_counter()
        work()
        took.append((time.perf_counter() - started) * 1e3)
    return statistics.median(took)


RUN_PATH = ", ".join(f"tight_ledger.core.runs.{module}" for module in ("view", "accepting", "starting", "wire", "outliers")) + (
    ", tight_ledger.core.planning.checklist, tight_ledger.core.planning.ranking"
)


def _import_ms(modules: str) -> float:
    """How long some imports take in a fresh interpreter; the best of 5."""
    script = f"import time; at = time.perf_counter(); import {modules}; print((time.perf_counter() - at) * 1e3)"
    return min(float(subprocess.run([sys.executable, "-c", script], check=True, capture_output=True).stdout) for _ in range(5))


def run() -> dict[str, Any]:
    """Milliseconds, medians of 25; of imports the best of 5."""
    spec, plan = _spec(20, 4), _plan(60, 6)
    entries = _entries(plan)
    tooling = (Tooling(wrench=ANY_WRENCH),)
    plain = _median_ms(lambda: [{"id": n, "kind": "pulled", "pull": str(n)} for n in range(len(entries))])
    more = []
    assert replay(plan, entries, Policy()).clean
    played = Run(plan, Policy())
    played.add(entries[:-ROUNDS])
    played.state()
    for entry in entries[-ROUNDS:]:
        started = time.perf_counter()
        played.add([entry])
        played.state()
        more.append((time.perf_counter() - started) * 1e3)
    replayed = _median_ms(lambda: replay(plan, entries, Policy()))
    return {
        "compile_20_by_4_ms": round(_median_ms(lambda: compile_plan(spec, "tighten", tooling, Policy())), 2),
        "replay_60_by_6_ms": round(replayed, 2), "one_entry_more_ms": round(statistics.median(more), 3),
        "import_run_path_ms": round(_import_ms(RUN_PATH)), "import_pydantic_alone_ms": round(_import_ms("pydantic")),
        "as_many_plain_objects_ms": round(plain, 3), "replay_over_plain": round(replayed / plain, 1),
    }  # fmt: skip
