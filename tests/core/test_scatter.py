"""The odd one out, how often the rule cries wolf, and how often it sees one."""

import random

import pytest

from tests.core.play import LONG, Run, plan_of, wheel_spec
from tight_ledger.core.base.bands import Reading
from tight_ledger.core.runs.outliers import ASSUMED, POWER, odd_ones, of_run

STAGES = [{"id": "s1", "kind": "torque", "share": 0.5}, {"id": "s2", "kind": "torque", "share": 1}]
SNUG_AND_TURN = [
    {"id": "snug", "kind": "torque", "share": 0.5},
    {"id": "turn", "kind": "angle", "at": {"quantity": "angle", "low": 85, "high": 95}},
]
END = ASSUMED["torque at one angle"]


def test_final_torques_at_one_angle_agree_and_the_one_that_does_not_is_named():
    """Across a row of caps within a few per cent (common practice, no source)."""
    caps = {"1": 101.0, "2": 99.0, "3": 100.5, "4": 98.5, "5": 83.0}
    assert set(odd_ones(caps, END)) == {"5"}
    assert odd_ones({**caps, "5": 97.0}, END) == {}
    assert odd_ones({"1": 100, "2": 50, "3": 100}, END) == {}
    assert set(odd_ones({**dict.fromkeys("1234", 100.0), "5": 104.0}, END)) == {"5"}


def test_how_often_it_points_at_a_good_one():
    """At the assumed scatter, whatever that is: at most 1 in 50 passes of eight."""
    dice, passes = random.Random(3), 3_000
    for assumed in ASSUMED.values():
        wrong = sum(bool(odd_ones({str(n): dice.gauss(100, 100 * assumed) for n in range(8)}, assumed)) for _ in range(passes))
        assert wrong / passes <= 1 / 50


@pytest.mark.parametrize("count", POWER)
def test_how_often_it_names_a_bad_one_is_as_stated(count):
    dice, passes = random.Random(count), 1_500
    for off, stated in zip((3, 5, 8), POWER[count], strict=True):
        rest = ({str(n): dice.gauss(100, 1) for n in range(count - 1)} for _ in range(passes))
        named = sum("x" in odd_ones({**good, "x": dice.gauss(100 + off, 1)}, END) for good in rest)
        assert named / passes == pytest.approx(stated, abs=0.05)


@pytest.mark.parametrize(
    ("fastener", "torque", "degrees", "said"),
    [
        ("3", 585, 0.4, "the torque rose and it did not turn"),
        ("3", 585, 55, "turned 55°, 168 % above the others (20°)"),
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
    (found,) = of_run(run.plan, run.entries).odd
    assert (found.fastener, found.name, found.pass_id) == (fastener, "nut 3", "s2")
    assert said in found.what
    assert found.then


def test_readings_at_one_figure_are_drawn_in_the_wrenchs_unit_and_nobody_is_asked_about_one_in_its_band():
    pound = LONG.model_copy(update={"unit": "lbf·ft", "lowest": 100, "highest": 560, "graduation": 5})
    run = Run(plan_of(wheel_spec(5), pound)).go_on(until="s3:1")
    for label, figure in zip("14253", (430, 431, 429, 430, 444), strict=True):
        run.read(f"s3:{label}", figure, "lbf·ft")
    scatter = of_run(run.plan, run.entries)
    drawn = next(each for each in scatter.passes if each.evidence == "torque to one figure")
    assert (drawn.unit, drawn.odd, scatter.odd) == ("lbf·ft", (), ())
    run.entries[-1] = run.entries[-1].model_copy(update={"reading": Reading(figure=470, unit="lbf·ft")})
    scatter = of_run(run.plan, run.entries)
    drawn = next(each for each in scatter.passes if each.evidence == "torque to one figure")
    assert (drawn.odd, drawn.values["3"], scatter.odd) == (("3",), pytest.approx(470), ())


def test_a_nut_that_turned_at_its_first_try_did_turn():
    run = Run(plan_of(wheel_spec(5))).go_on(until="s2:1")
    for label, figure, turned in (("1", 300, 31), ("1", 351, 0.8), ("4", 351, 30), ("2", 351, 29), ("5", 351, 31), ("3", 351, 30)):
        reading = Reading(figure=figure, unit="N·m")
        run.add("pulled", pull=f"s2:{label}", fastener=label, how="wire", reading=reading, turned=Reading(figure=turned, unit="°"))
    assert of_run(run.plan, run.entries).odd == ()


def test_a_deviation_is_drawn_and_what_cannot_be_told_is_said():
    run = Run(plan_of(wheel_spec(5, steps=SNUG_AND_TURN)))
    pulls = next(pass_.pulls for pass_ in run.plan.passes if pass_.id == "turn")
    for pull in pulls:
        end = Reading(figure=312 if pull.fastener == "4" else 300, unit="N·m")
        run.add("pulled", pull=pull.id, fastener=pull.fastener, how="wire", reading=Reading(figure=90, unit="°"), end_torque=end)
    scatter = of_run(run.plan, run.entries)
    (drawn,) = scatter.passes
    assert (drawn.values["4"], drawn.middle, drawn.odd) == (312, 300, ("4",))
    assert drawn.low < 300 < drawn.high < 312
    assert "This cannot tell one that is off by less than 3.5 %." in drawn.words
    assert "4 % above the others" in scatter.odd[0].what
    few = of_run(run.plan, run.entries[-3:])
    assert few.odd == ()
    assert "too few" in few.passes[0].words
