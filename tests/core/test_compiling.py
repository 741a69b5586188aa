"""From spec to plan: ids, rounds, figures, and what is refused."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.core.play import LONG, SHORT, Run, plan_of, wheel_spec
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import canonical
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.joints.orders import star
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.records.plans import Plan, Tooling


def test_the_wheel_of_the_bus():
    plan = plan_of(wheel_spec())
    assert [p.id for p in plan.passes] == [
        "hand", "first", "s1", "lower", "s2", "s3", "check~1", "check~2", "check~3", "settle!",
    ]  # fmt: skip
    s1, s3 = plan.passes[2], plan.passes[5]
    assert [pull.id for pull in s1.pulls[:3]] == ["s1:1", "s1:6", "s1:3"]
    assert [passed.pulls[0].setting.figure for passed in (s1, plan.passes[4], s3)] == [175, 350, 585]
    assert (s3.pulls[0].band.low, s3.pulls[0].band.high) == (565, 605)


@given(st.integers(3, 48))
def test_every_torque_pass_takes_every_nut_once_in_star_order(count):
    plan = plan_of(wheel_spec(count))
    for pass_ in plan.passes:
        if pass_.kind in ("torque", "check"):
            assert tuple(int(pull.fastener) for pull in pass_.pulls) == star(count)


@given(st.integers(3, 48), st.sampled_from(["low", "middle", "high"]))
def test_another_wrench_changes_settings_and_no_identity(count, figure_in_range):
    spec, policy = wheel_spec(count), Policy(figure_in_range=figure_in_range)
    coarse = LONG.model_copy(update={"graduation": 10, "unit": "lbf·ft", "lowest": 50, "highest": 600})
    ids = [[pull.id for pass_ in plan_of(spec, wrench, policy).passes for pull in pass_.pulls] for wrench in (LONG, coarse)]
    assert ids[0] == ids[1]
    assert len(set(ids[0])) == len(ids[0])


def test_a_plan_is_the_same_bytes_again():
    plan = plan_of(wheel_spec())
    assert canonical(Plan.model_validate_json(canonical(plan))) == canonical(plan)


def test_the_shop_may_add_a_final_check():
    torque_only = wheel_spec(5, steps=SHORT)
    rounds = [f"+check~{n}" for n in (1, 2, 3)]
    assert [p.id for p in plan_of(torque_only, policy=Policy(final_check=True)).passes] == ["s1", "s2", *rounds, "+settle!"]
    assert [p.id for p in plan_of(torque_only, policy=Policy(final_check=False)).passes] == ["s1", "s2"]
    never = wheel_spec(5, steps=SHORT, final_check="never")
    assert [p.id for p in plan_of(never, policy=Policy(final_check=True)).passes] == ["s1", "s2"]


def test_nuts_that_turned_in_the_shops_check_are_checked_again_until_none_turns():
    shop = Policy(final_check=True)
    run = Run(plan_of(wheel_spec(5, steps=SHORT), policy=shop), shop)
    run.go_on(moved=lambda pull: pull == "+check~1:3")
    again = [entry.pull for entry in run.entries if (entry.pull or "").startswith("+check~2")]
    assert (again, run.codes) == ([f"+check~2:{n}" for n in "13524"], [])
    stuck = Run(run.plan, shop).go_on(moved=lambda pull: pull.endswith(":3"))
    assert (stuck.now.ask, stuck.codes) == ("stop", ["stopped"])


def test_reverse_and_any_order():
    steps = ({"id": "a", "kind": "torque", "reverse": True}, {"id": "b", "kind": "torque", "order": "any"})
    first, other = plan_of(wheel_spec(4, steps=steps)).passes
    assert [pull.fastener for pull in first.pulls] == ["4", "2", "3", "1"]
    assert {pull.rank for pull in other.pulls} == {0}


def test_tooling_by_fastener():
    special = LONG.model_copy(update={"name": "special", "graduation": 1})
    plan = compile_plan(wheel_spec(4), "tighten", (Tooling(wrench=special, of="3", factor=0.9), Tooling(wrench=LONG)), Policy())
    figures = {pull.fastener: pull.setting.figure for pull in plan.passes[6].pulls}
    assert figures == {"1": 585, "2": 585, "3": 526, "4": 585}


LOOP = {"id": "l", "kind": "repeat", "times": 2, "until": {"step": "c", "one_of": ["still"]}}


@pytest.mark.parametrize(
    ("steps", "why"),
    [
        ([{"id": "a", "kind": "torque", "when": {"step": "b", "one_of": ["ok"]}}, {"id": "b", "kind": "torque"}], "does not come earlier"),
        ([{"id": "a", "kind": "torque", "of": "bolt"}], "no group, kind or fastener"),
        ([{"id": "a", "kind": "torque", "order": "spiral"}], "no order “spiral”"),
        ([{**LOOP, "steps": [{"id": "d", "kind": "do"}]}], "Not every round reaches"),
        ([{"id": "t", "kind": "torque"}, {**LOOP, "until": {"step": "c", "one_of": ["happy"]}, "steps": [{"id": "c", "kind": "check"}]}], "no outcome"),
        ([{"id": "r", "kind": "repeat", "times": 50, "steps": [{"id": "q", "kind": "repeat", "times": 50, "steps": [{"id": "t", "kind": "torque"}]}]}], "past 5000"),
    ],
)  # fmt: skip
def test_refuses_by_name(steps, why):
    with pytest.raises(Invalid, match=why):
        plan_of(wheel_spec(steps=steps))


def test_refuses_a_fastener_without_one_figure():
    spec = wheel_spec(4)
    no_figure = spec.model_copy(update={"finals": {}})
    two = spec.model_copy(update={"finals": {"stud": spec.finals["stud"], "half": spec.finals["stud"]}})
    grouped = two.model_copy(update={"layout": two.layout.model_copy(update={"groups": {"half": ("1", "3")}})})
    for bad, why in ((no_figure, "no figure"), (grouped, "2 figures")):
        with pytest.raises(Invalid, match=why):
            plan_of(bad)


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({"procedures": {"tighten": [{"id": "a", "kind": "do"}, {"id": "a", "kind": "do"}]}}, "step id a twice"),
        ({"followups": [{"id": "f", "procedure": "polish"}]}, "follow-ups name procedures"),
        ({"proof": {"ask": "?", "options": ["1"], "answer": "2"}}, "none of the options"),
        ({"procedures": {"tighten": [{"id": "a", "kind": "torque", "share": 1, "found": "b"}]}}, "more than one of"),
    ],
)  # fmt: skip
def test_a_spec_hangs_together(change, why):
    with pytest.raises(ValidationError, match=why):
        wheel_spec(**change)
