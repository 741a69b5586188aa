"""How a run may end."""

import pytest

from tests.core.play import SHORT, Run, plan_of, wheel_spec
from tight_ledger.core.base.errors import Invalid, NotAllowed, Stale
from tight_ledger.core.runs.outcomes import judge_finish, reasons

SMALL = plan_of(wheel_spec(4, steps=SHORT))
BUS = plan_of(wheel_spec())


def judge(run, outcome, roles=("mechanic",), text=""):
    return judge_finish(run.plan, run.state, outcome, roles, text)


def bad_run():
    run = Run(SMALL).go_on()
    run.click("s2:4")
    run.click("s2:2")
    return run


def test_good_is_for_clean_runs():
    assert judge(Run(SMALL).go_on(), "good") == ()
    with pytest.raises(Invalid, match="nuts 2, 4: pulled twice"):
        judge(bad_run(), "good")
    with pytest.raises(Invalid, match="nuts 1, 2, 3, 4: not finished"):
        judge(Run(SMALL), "good")


def test_release_takes_a_lead_and_a_reason():
    with pytest.raises(NotAllowed, match="Only a lead"):
        judge(bad_run(), "released", text="looked at")
    with pytest.raises(Invalid, match="reason is missing"):
        judge(bad_run(), "released", roles=("lead",), text=" ")
    assert judge(bad_run(), "released", roles=("lead",), text="looked at") == ("nuts 2, 4: pulled twice", "looked at")


def test_abandoning_names_what_was_pulled():
    run = Run(SMALL)
    run.click("s1:1")
    run.click("s1:3")
    assert judge(run, "abandoned", text="wrong spec")[-2:] == ("nuts 1, 3: already pulled", "wrong spec")
    with pytest.raises(Invalid, match="reason is missing"):
        judge(run, "abandoned")


def test_do_not_move_names_what_turned_in_the_last_check():
    run = Run(BUS).go_on(moved=lambda pull: pull.endswith((":7", ":2")) or pull == "check~1:4")
    assert judge(run, "do not move") == ("nuts 2, 7: turned in every check",)


def test_reasons_name_every_kind_of_fault():
    run = Run(SMALL)
    run.read("s1:1", 400)
    run.click("s1:3", after_s=6)
    run.click("s1:2", after_s=0.3)
    run.click("s2:4")
    run.go_on()
    assert reasons(run.plan, run.state) == ("nut 1: above the band", "nut 2: faster than a pull can be made", "nut 4: left out in a stage")


def test_it_ends_once_but_red_can_be_released():
    run = Run(SMALL).go_on()
    run.add("finished", outcome="good")
    with pytest.raises(Stale, match="already ended: good"):
        judge(run, "abandoned", text="x")
    red = bad_run()
    red.add("finished", outcome="do not move")
    assert judge(red, "released", roles=("lead",), text="new studs")[-1] == "new studs"
