"""How a run may end."""

from uuid import uuid4

import pytest

from tests.core.play import SHORT, Run, plan_of, wheel_spec
from tight_ledger.core.base.errors import Invalid, NotAllowed, Stale
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.records.entries import Flag
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
    with pytest.raises(Invalid, match="not begun"):
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


@pytest.mark.parametrize(
    ("until", "words"),
    [
        ("s1:2", "stage 1 of 2: 2 of 4 done"), ("s2:1", "stage 1 of 2 done"), ("s2:2", "nuts 2, 4: not finished"),
        ("s1:1", "not begun"),
    ],
)  # fmt: skip
def test_what_is_not_finished_is_said_as_how_far_it_came(until, words):
    """Where every fastener is left to do, a list of all of them says nothing."""
    run = Run(SMALL).go_on(until=until)
    assert reasons(run.plan, run.state) == (words,)
    if until == "s2:1":  # all of them were pulled: that is what the stage says
        assert judge(run, "abandoned", text="the phone") == (words, "the phone")


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


def test_a_joint_that_the_shop_has_a_second_person_check_is_not_good_without():
    shop = Policy(final_check=False, second_person=frozenset({"wheel"}))
    run = Run(plan_of(wheel_spec(4, steps=SHORT), policy=shop), shop).go_on(until="+second")
    with pytest.raises(Invalid, match="not finished"):
        judge(run, "good")
    run.add("confirmed", pull="+second")  # by the one who pulled
    with pytest.raises(Invalid, match="checked by somebody who pulled here"):
        judge(run, "good")
    run.add("confirmed", pull="+second", by=uuid4())
    assert judge(run, "good") == ()
    run.add("loosened", fastener="2", text="to look at it")  # the joint that was looked at is another one now
    run.go_on(until="+second")
    assert run.next == "+second"


def test_a_notice_is_read_and_a_recall_is_a_leads_before_it_ends_good():
    run = Run(SMALL).go_on()
    told = run.add("flagged", flags=(Flag(code="notice", words="rights ended: Wren", notice=uuid4()),))
    with pytest.raises(Invalid, match="rights ended: Wren"):
        judge(run, "good")
    run.add("clarified", about=told.id, option="seen")
    assert judge(run, "good") == ()
    recalled = run.add("flagged", flags=(Flag(code="recalled", words="spec withdrawn: Rear wheel nuts", notice=uuid4()),))
    run.add("clarified", about=recalled.id, option="seen")
    with pytest.raises(Invalid, match="spec withdrawn"):
        judge(run, "good")
    run.add("deviated", about=recalled.id, text="checked at the new figure, none turned")
    assert judge(run, "good") == ()
