"""The same figures on every Python: what the last digit of a cosine is reaches no plan and no verdict."""

import json
import math
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import LONG
from tests.core.test_vectors import FILES, played, said
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.rounding import is_above, is_below, nine_digits
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.planning.ranking import equip
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.runs.run import replay
from tight_ledger.core.tools.adapters import Crowfoot, Universal
from tight_ledger.core.tools.wrenches import ANY_WRENCH
from tight_ledger.demo import load
from tight_ledger.formats.tables import read_csv

DIFFER = ("cos", "sin", "hypot", "atan2", "radians", "exp", "log10")
"""What platforms compute to different last digits."""
DEMO = Path(load.__file__).parent / "specs.csv"


def plans():
    """Every main plan of the demo; and a crowfoot and a joint at every whole degree."""
    found = []
    for candidate in read_csv(DEMO):
        procedure = next(iter(candidate.spec.procedures))
        found.append(compile_plan(candidate.spec, procedure, (Tooling(wrench=ANY_WRENCH),), Policy()).model_dump_json())
    for angle_deg in range(0, 181, 3):
        wrench = LONG.model_copy(update={"lever_mm": 1_003.0})
        bent = (Crowfoot(kind="crowfoot", drive="1 in", length_mm=77, angle_deg=angle_deg),)
        joint = (Universal(kind="universal", drive="1 in", bend_deg=angle_deg / 20),)
        found += [equip(wrench, adapters, angle_deg / 20, Policy())[0].model_dump_json() for adapters in (bent, joint)]
    return found


@pytest.mark.parametrize("way", [math.inf, -math.inf])
def test_a_last_digit_that_differs_changes_no_plan_and_no_verdict(monkeypatch, way):
    here = plans()
    for name in DIFFER:
        real = getattr(math, name)
        monkeypatch.setattr(math, name, lambda *given, real=real: math.nextafter(real(*given), way))
    assert plans() == here
    for file in FILES:
        vector = json.loads(file.read_text(encoding="utf-8"))
        plan, entries = played(vector)
        last = vector["steps"][-1]
        assert said(replay(plan, entries[: last["entries"]], Policy(final_check=False))) == last["said"]


@given(st.floats(1e-6, 1e6), st.integers(-4, 4))
def test_a_limit_and_a_figure_a_few_last_digits_away_are_the_same(figure, places):
    near = figure
    for _ in range(abs(places)):
        near = math.nextafter(near, math.inf if places > 0 else -math.inf)
    assert not is_below(nine_digits(near), nine_digits(figure))
    assert not is_above(nine_digits(near), nine_digits(figure))
    assert is_below(figure * 0.999999, figure)
    assert is_above(figure * 1.000001, figure)
