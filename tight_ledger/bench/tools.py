"""Ten thousand figures against two hundred wrenches, beside reading the same numbers once."""

import random
import statistics
import time
from typing import Any
from uuid import UUID

import numpy as np

from tight_ledger.core.coverage.coverage import coverage
from tight_ledger.core.tools.wrenches import Wrench

ROUNDS = 9


def _crib(count: int) -> list[Wrench]:
    dice = random.Random(5)
    made = []
    for number in range(count):
        highest = dice.choice((25, 60, 110, 210, 500, 1_000))
        made.append(
            Wrench(
                id=UUID(int=number + 1),
                name=f"W-{number}",
                drive="1/2 in",
                unit="N·m",
                lowest=highest / 5,
                highest=highest,
                graduation=highest / 100,
            )
        )
    return made


def run(specs: int, tools: int) -> dict[str, Any]:
    """Milliseconds of the coverage, of one pass over the same pairs in NumPy, and their ratio."""
    dice = random.Random(6)
    lows = [10 ** dice.uniform(0, 3) for _ in range(specs)]
    bands = [(low, low * 1.1) for low in lows]
    wrenches = _crib(tools)
    low = np.array(lows)
    ours, bare = [], []
    for _ in range(ROUNDS):
        started = time.perf_counter()
        coverage(bands, wrenches)
        ours.append(time.perf_counter() - started)
        started = time.perf_counter()
        for wrench in wrenches:
            np.logical_and(low >= wrench.lowest, low <= wrench.highest).sum()
        bare.append(time.perf_counter() - started)
    took, least = statistics.median(ours) * 1e3, statistics.median(bare) * 1e3
    return {
        "specs": specs,
        "tools": tools,
        "coverage_ms": round(took, 1),
        "one_comparison_ms": round(least, 2),
        "ratio": round(took / least, 1),
    }
