"""The lab: a thousand joints of twenty bolts beside the bare products, a bolt that is dragged, every page."""

import statistics
import time
from collections.abc import Callable

import numpy as np

from tight_ledger.core.joints.orders import star
from tight_ledger.core.joints.shapes import circle_points
from tight_ledger.core.lab.registry import PAGES, lab_page
from tight_ledger.core.trials.interaction import Array, Interaction, PullSequence, Tightening, reach_and_give
from tight_ledger.core.trials.registry import MANY, any_page

TRIALS, BOLTS, PASSES, TIMES = 1_000, 20, 4, 25


def _sequence() -> PullSequence:
    points = np.array(circle_points(BOLTS, 300))
    reach, give = reach_and_give(modulus_mpa=70_000, thick_mm=20, gasket_n_per_mm3=80)
    acts = Interaction(points, 3e-6, reach, give)
    pulls = [Tightening(place - 1, turn, to_n=40_000 * (turn + 1) / PASSES) for turn in range(PASSES) for place in star(BOLTS)]
    return PullSequence.of(pulls, BOLTS, acts.taken)


def _bare(sequence: PullSequence, draws: Array) -> Array:
    """The same products and sums, and nothing else: what NumPy takes for them."""
    loads = np.zeros((len(draws), BOLTS))
    for at, pull in enumerate(sequence.pulls):
        assert pull.to_n is not None
        more = np.maximum(pull.to_n * draws[:, at] - loads[:, pull.bolt], 0.0)
        loads += more[:, None] * sequence.columns[at][None, :]
        np.maximum(loads, 0.0, out=loads)
    return loads


def _median_ms(work: Callable[[], object]) -> float:
    took = []
    for _ in range(TIMES):
        began = time.perf_counter()
        work()
        took.append(time.perf_counter() - began)
    return statistics.median(took) * 1_000


def measured() -> dict[str, object]:
    """Medians in milliseconds, and the ratio to the bare products of the same run."""
    draws = np.random.default_rng(1).normal(1, 0.1, (TRIALS, BOLTS * PASSES))
    prepared = _sequence()

    def whole() -> Array:
        return _sequence().trials(draws, 0.1)

    ours, bare = _median_ms(whole), _median_ms(lambda: _bare(prepared, draws))
    return {
        "trials": TRIALS, "bolts": BOLTS, "passes": PASSES,
        "joint_ms": round(ours, 2), "bare_products_ms": round(bare, 2), "ratio": round(ours / bare, 2),
        "pages_ms": {name: round(_median_ms(lambda name=name: any_page(name, {}).model_dump_json()), 2) for name in (*PAGES, *MANY)},  # type: ignore[misc]
        "a_drag_on_one_bolt_ms": round(_median_ms(lambda: lab_page("bolt", {"torque": "70"}).model_dump_json()), 3),
    }  # fmt: skip
