"""What earlier runs have done to the fasteners of a place that no later work undoes."""

from collections import Counter
from collections.abc import Iterable

from tight_ledger.core.records.entries import Started
from tight_ledger.core.runs.run import RunState


def in_yield_after(runs: Iterable[tuple[Started, RunState]]) -> dict[str, int]:
    """By fastener, how often it was turned into yield since it was replaced, or since all were said to be new or within their length.

    Args:
        runs: of one place, the first one first.
    """
    times: Counter[str] = Counter()
    for started, state in runs:
        if started.bolts is not None:
            times.clear()
        for label in state.replaced:
            del times[label]
        times.update(state.in_yield)
    return dict(times)
