"""The fold: what is next, what counts, what is wrong."""

import random
from datetime import timedelta
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import SHORT, Run, plan_of, wheel_spec
from tests.examples import examples
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.runs.run import replay

BUS = plan_of(wheel_spec())
SMALL = plan_of(wheel_spec(4, steps=SHORT))


def test_as_planned_is_clean():
    run = Run(BUS).go_on()
    assert run.state.complete
    assert run.state.clean
    assert run.all_codes == []


def test_a_nut_pulled_out_of_order_counts_and_the_missed_one_comes_next():
    run = Run(BUS).go_on(until="s2:9")
    run.click("s2:4")
    assert run.all_codes == ["out_of_order"]
    assert run.next == "s2:9"


def test_a_stage_begun_early_covers_what_it_jumped():
    run = Run(SMALL)
    run.click("s1:1")
    run.click("s2:3")
    assert run.all_codes == ["stage_early", "skipped"]
    assert run.next == "s1:2"  # 3's first stage is never asked for again
    assert run.go_on().codes == ["skipped"]


def test_pulled_twice_is_judged_and_a_check_click_by_policy_is_not():
    run = Run(SMALL)
    run.click("s1:1")
    run.click("s1:1")
    assert run.codes == ["twice"]
    friendly = Run(SMALL, Policy(second_click="check"))
    friendly.entries = run.entries
    assert friendly.codes == []


def test_low_stays_open_high_closes():
    run = Run(SMALL)
    run.read("s1:1", 200)
    assert (run.next, run.codes) == ("s1:1", ["low"])
    run.read("s1:1", 290)
    assert (run.next, run.codes) == ("s1:3", [])
    run.read("s1:3", 400)
    assert (run.next, run.codes) == ("s1:2", ["high"])


def test_a_reading_is_judged_in_its_own_unit():
    run = Run(SMALL)
    run.read("s1:1", 215.7, "lbf·ft")
    assert run.codes == []


def test_a_check_that_turned_brings_the_pass_again():
    run = Run(BUS).go_on(moved=lambda pull: pull == "check~1:4")
    assert run.state.clean
    statuses = {p.id: p.status for p in run.state.passes}
    assert (statuses["check~1"], statuses["check~2"], statuses["check~3"]) == ("done", "done", "skipped")


def test_at_the_limit_it_stops_for_a_lead():
    run = Run(BUS).go_on(moved=lambda pull: pull.endswith(":4"))
    assert (run.next, run.codes) == ("settle!", ["stopped"])
    run.add("deviated", pull="settle!", text="new stud ordered")
    assert run.state.complete
    assert run.codes == []


def test_undo_and_undo_of_undo():
    run = Run(SMALL)
    pulled = run.click("s1:1")
    taken_back = run.undo(pulled)
    assert run.next == "s1:1"
    run.undo(taken_back)
    assert run.next == "s1:3"


def test_an_instruments_reading_is_never_undone():
    run = Run(SMALL)
    pulled = run.add("pulled", pull="s1:1", fastener="1", how="wire", reading={"figure": 290, "unit": "N·m"})
    run.undo(pulled)
    assert run.next == "s1:3"
    assert pulled.id not in run.state.undoable


def test_a_correction_is_folded_in_the_place_of_what_it_corrects():
    run = Run(SMALL)
    wrong = run.read("s1:1", 400)
    run.click("s1:3")
    first = run.add("pulled", pull="s1:1", fastener="1", corrects=wrong.id, reading={"figure": 200, "unit": "N·m"})
    assert run.codes == ["low"]
    again = run.add("pulled", pull="s1:1", fastener="1", corrects=first.id, reading={"figure": 290, "unit": "N·m"})
    assert run.all_codes == []  # in its first place, so the second nut is not out of order
    run.undo(again)
    assert run.codes == ["low"]


def test_loosening_brings_that_nut_up_through_its_stages_alone():
    run = Run(BUS).go_on(until="check~1:3")
    run.click("s3:6")
    assert run.codes == ["twice"]
    run.add("loosened", fastener="6", text="to look at it")
    assert run.codes == []  # the doubled pull is answered
    asked = []
    while run.next and not run.next.startswith("check~1:3"):
        asked.append(run.next)
        run.click(run.next) if run.next.startswith("s") else run.check(run.next)
    assert asked == ["s1:6", "s2:6", "s3:6", "check~1:6"]


def test_loosening_in_a_later_round_reopens_only_that_round():
    run = Run(BUS).go_on(until="check~2:3", moved=lambda pull: pull == "check~1:4")
    run.add("replaced", fastener="1", text="new nut")
    status = {pull.id: pull.status for pull in run.state.pulls}
    assert status["check~1:1"] == "done"
    assert status["check~2:1"] == status["s1:1"] == "open"


def test_units_come_loose_together():
    spec = wheel_spec(4, steps=SHORT)
    grouped = spec.layout.model_copy(update={"groups": {"cap": ("1", "3")}, "units": ("cap",)})
    run = Run(plan_of(spec.model_copy(update={"layout": grouped}))).go_on()
    run.add("loosened", fastener="3")
    assert [pull.id for pull in run.state.pulls if pull.status == "open"] == ["s1:1", "s1:3", "s2:1", "s2:3"]


def test_faster_than_a_pull_is_implausible_for_one_person_on_whatever_tablet():
    run = Run(SMALL)
    run.click("s1:1")
    run.click("s1:3", after_s=0.2)
    assert run.codes == ["implausible"]
    run.entries = [entry.model_copy(update={"at_server": entry.at_device}) for entry in run.entries]
    soon = run.entries[-1]
    for change, codes in (
        ({"device": uuid4()}, ["implausible"]),
        ({"by": uuid4()}, []),  # two people, two wrenches
        ({"device": uuid4(), "at_device": soon.at_device + timedelta(seconds=6)}, []),  # it waited on its tablet
        ({"device": uuid4(), "at_server": soon.at_server + timedelta(seconds=6)}, []),  # the other clock stands apart
    ):
        run.entries[-1] = soon.model_copy(update=change)
        assert run.codes == codes


def test_two_devices_nothing_is_lost():
    run = Run(SMALL)
    run.click("s1:1", claimed_seq=1)
    run.click("s1:1", claimed_seq=1, device=uuid4())
    assert set(run.all_codes) == {"conflict", "one_or_two"}
    assert len(run.state.live) == 2


def test_the_same_entry_twice_is_once():
    run = Run(SMALL)
    run.entries.append(run.click("s1:1"))
    assert run.all_codes == []


def test_a_pull_after_the_end_unsettles_it():
    run = Run(SMALL).go_on()
    run.add("finished", outcome="good")
    assert run.state.standing == "good"
    run.click("s2:1")
    assert run.state.standing == "do not move"
    assert "not_called_for" in run.codes


def test_a_leads_decision_answers_for_the_nut_that_it_names():
    run = Run(SMALL)
    run.click("s1:1")
    run.click("s1:1")
    run.read("s1:3", 400)
    run.add("deviated", fastener="1", text="looked at it")
    assert run.codes == ["high"]
    run.add("deviated", text="both are fine")
    assert run.codes == []


@pytest.mark.parametrize(("pull", "code"), [("s9:1", "off_plan"), ("check~2:1", "off_plan")])
def test_what_the_plan_has_not_is_kept_and_flagged(pull, code):
    run = Run(BUS)
    run.click(pull)
    assert code in run.codes
    assert run.state.touched == ("1",)


def test_a_check_round_that_does_not_come_is_not_called_for():
    run = Run(BUS).go_on()
    run.check("check~2:1")
    assert run.codes == ["not_called_for"]


def test_what_a_later_round_hangs_on_cannot_be_taken_back():
    run = Run(BUS).go_on(until="check~2:6", moved=lambda pull: pull == "check~1:4")
    by_pull = {entry.pull: entry.id for entry in run.entries}
    assert by_pull["check~1:4"] not in run.state.undoable
    assert by_pull["check~2:1"] in run.state.undoable


def test_per_fastener_loops_let_accepted_fasteners_drop_out():
    steps = [
        {"id": "t", "kind": "torque"},
        {"id": "l", "kind": "repeat", "times": 3, "until": {"step": "c", "one_of": ["still"], "per": "fastener"}, "steps": [{"id": "c", "kind": "check"}]},
    ]  # fmt: skip
    run = Run(plan_of(wheel_spec(4, steps=steps))).go_on(moved=lambda pull: pull in ("c~1:3", "c~2:3"))
    taken = [entry.pull for entry in run.entries if entry.kind == "checked"]
    assert taken == ["c~1:1", "c~1:3", "c~1:2", "c~1:4", "c~2:3", "c~3:3"]
    assert run.state.clean


def test_a_condition_skips_a_step():
    steps = [
        {"id": "t", "kind": "torque"},
        {"id": "c", "kind": "check"},
        {"id": "u", "kind": "torque", "when": {"step": "c", "one_of": ["moved"]}},
    ]
    run = Run(plan_of(wheel_spec(4, steps=steps))).go_on(moved=lambda pull: pull == "c:2")
    assert [entry.pull for entry in run.entries][-1] == "u:2"
    assert run.state.clean


gestures = st.lists(st.tuples(st.sampled_from(["next", "other", "twice", "loose", "undo", "low"]), st.integers(0, 10_000)), max_size=40)


@examples(150)
@given(gestures)
def test_any_run_can_be_brought_to_an_end(acts):
    """Whatever was done, doing what is asked ends the run; the order in which entries arrive does not matter."""
    run = Run(SMALL)
    for act, dice in acts:
        here, nut = run.next, str(dice % 4 + 1)
        if act == "next" and here:
            run.click(here)
        elif act == "other":
            run.click(f"s{dice % 2 + 1}:{nut}")
        elif act == "twice" and run.entries:
            run.click(f"s1:{nut}")
        elif act == "loose":
            run.add("loosened", fastener=nut)
        elif act == "undo" and run.state.undoable:
            undoable = run.state.undoable
            run.add("undone", undoes=undoable[dice % len(undoable)], text="x")
        elif act == "low" and here:
            run.read(here, 1)
    run.go_on()
    state = run.state
    assert state.complete
    assert all(pull.status != "open" for pull in state.pulls)
    shuffled = run.entries[:]
    random.Random(len(acts)).shuffle(shuffled)
    assert replay(SMALL, shuffled + shuffled[:3], run.policy) == state


@examples(60)
@given(st.integers(3, 24), st.data())
def test_a_skipped_nut_is_always_named(count, data):
    run = Run(plan_of(wheel_spec(count, steps=SHORT)))
    missed = str(data.draw(st.integers(1, count)))
    for pull in [p.id for p in run.plan.passes[0].pulls if p.fastener != missed]:
        run.click(pull)
    run.click(f"s2:{missed}")
    run.go_on()
    assert {(v.code, v.fastener) for v in run.state.unanswered()} == {("skipped", missed)}


def test_clocks_that_run_back_are_no_haste():
    run = Run(SMALL)
    first = run.click("s1:1")
    run.click("s1:3", at_device=first.at_device - timedelta(seconds=30))
    assert run.codes == []
