"""The odd one out, and how often the rule cries wolf."""

import random

import pytest

from tests.core.play import Run, plan_of, wheel_spec
from tight_ledger.core.bands import Reading
from tight_ledger.core.scatter import findings, odd_ones

STAGES = [{"id": "s1", "kind": "torque", "share": 0.5}, {"id": "s2", "kind": "torque", "share": 1}]


def test_final_torques_at_one_angle_agree_and_the_one_that_does_not_is_named():
    """Across a row of caps within a few per cent (common practice, no source)."""
    caps = {"1": 101.0, "2": 99.0, "3": 100.5, "4": 98.5, "5": 83.0}
    assert set(odd_ones(caps)) == {"5"}
    assert odd_ones({**caps, "5": 97.0}) == {}
    assert odd_ones({"1": 100, "2": 50, "3": 100}) == {}


def test_how_often_it_points_at_a_good_one():
    dice, passes = random.Random(3), 2_000
    wrong = sum(bool(odd_ones({str(n): dice.gauss(100, 5) for n in range(10)})) for _ in range(passes))
    assert wrong / passes < 0.12
    found = sum("x" in odd_ones({**{str(n): dice.gauss(100, 5) for n in range(9)}, "x": 60.0}) for _ in range(passes))
    assert found / passes > 0.9


@pytest.mark.parametrize(
    ("fastener", "torque", "degrees", "said"),
    [
        ("3", 585, 0.4, "the torque rose and it did not turn"),
        ("3", 585, 55, "turned 55°, the others about 20°"),
        ("3", 300, 120, "it turns and the torque does not rise"),
    ],
)
def test_what_stands_out_in_a_rising_stage(fastener, torque, degrees, said):
    run = Run(plan_of(wheel_spec(8, steps=STAGES)))
    run.go_on(until="s2:1")
    for label, turned in zip("15372648", (20, 21, 19, 20, 22, 18, 20, 21), strict=True):
        odd = label == fastener
        reading = Reading(figure=torque if odd else 585, unit="N·m")
        run.add(
            "pulled",
            pull=f"s2:{label}",
            fastener=label,
            how="wire",
            reading=reading,
            turned=Reading(figure=degrees if odd else turned, unit="°"),
        )
    (found,) = findings(run.plan, run.entries)
    assert (found.fastener, found.pass_id) == (fastener, "s2")
    assert said in found.what
    assert found.then
