"""What a tablet says of its own time is held against the server's: how long it took, how long it waited, and whether it can be."""

from datetime import timedelta
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import SHORT, START, Run, plan_of, wheel_spec
from tests.core.test_every_way import SNUG, joint
from tests.examples import examples
from tight_ledger.core.base.display import span
from tight_ledger.core.base.policy import Policy

WHEELS = {count: plan_of(wheel_spec(count, steps=SHORT)) for count in (4, 5, 10)}
WAIT = {"id": "bead", "kind": "do", "say": "Lay the bead."}


def s(seconds: float) -> timedelta:
    return timedelta(seconds=seconds)


def comes(run: Run, told_s: list[float], came_s: list[float], waited_s: list[float]) -> Run:
    """The same entries as they come from a tablet: when they were done by its clock, when they came, how long they had waited."""
    run.entries = [
        entry.model_copy(update={"at_device": START + s(told), "at_server": START + s(came), "waited_ms": round(waited * 1_000)})
        for entry, told, came, waited in zip(run.entries, told_s, came_s, waited_s, strict=True)
    ]
    return run


def summed(gaps: list[float]) -> list[float]:
    return [sum(gaps[: place + 1]) for place in range(len(gaps))]


def done(count: int) -> Run:
    return Run(WHEELS[count], Policy()).go_on()


@given(st.data())
@examples(100)
def test_an_honest_wheel_is_good_whatever_its_clock_its_network_and_its_time_without_one(data):
    run = done(data.draw(st.sampled_from(sorted(WHEELS))))
    count = len(run.entries)
    done_s = summed(data.draw(st.lists(st.floats(3, 600), min_size=count, max_size=count)))
    network_s = data.draw(st.lists(st.floats(0, 25), min_size=count, max_size=count))
    back_s = data.draw(st.sampled_from([0.0, *done_s, done_s[-1] + 86_400]))  # until then the server was away
    clock_s = data.draw(st.floats(-40_000_000, 100))
    sent_s, came_s = [], []
    for each, late in zip(done_s, network_s, strict=True):  # each is sent when the one before has come
        sent_s.append(max([each, back_s, *came_s[-1:]]))
        came_s.append(sent_s[-1] + late)
    waited_s = [sent - each for sent, each in zip(sent_s, done_s, strict=True)]
    comes(run, [each + clock_s for each in done_s], came_s, waited_s)
    assert (run.all_codes, run.state.clean) == ([], True)


@given(st.data())
@examples(100)
def test_a_wheel_that_came_faster_than_a_hand_is_never_good_whatever_its_clock_says(data):
    run = done(data.draw(st.sampled_from(sorted(WHEELS))))
    count = len(run.entries)
    told_s = summed(data.draw(st.lists(st.floats(2.1, 600), min_size=count, max_size=count)))
    came_s = summed(data.draw(st.lists(st.floats(0, 0.3), min_size=count, max_size=count)))
    assert "hurried" in comes(run, told_s, came_s, [0] * count).codes


def test_a_clock_that_tells_another_time_than_passed_is_told_once():
    run = done(5)
    count = len(run.entries)
    comes(run, summed([66] * count), summed([6] * count), [0] * count)
    [moved] = [verdict for verdict in run.state.verdicts if verdict.code == "clock_moved"]
    assert moved.detail.replace("\u00a0", " ") == "66 s after the last one by its tablet's clock; by the server's 6 s"


def test_a_clock_that_is_ahead_is_looked_at_by_somebody():
    run = done(5)
    count, years = len(run.entries), 73 * 366 * 86_400
    comes(run, [years + each for each in summed([6] * count)], summed([6] * count), [0] * count)
    assert run.codes == ["clock_ahead"]
    run.add("clarified", about=run.state.unanswered()[0].entry, option="looked", text="the tablet's battery was dead")
    assert (run.codes, run.state.clean) == ([], True)


class TestAWaitAcrossTwoTablets:
    """What is done on another tablet is timed by when it was done, not by when it came."""

    def after(self, timing: dict, *, done_s: float, came_s: float) -> list[str]:
        run = Run(plan_of(joint(WAIT, SNUG | {"timing": {"after": "bead"} | timing})))
        run.add("confirmed", pull="bead")
        run.click("snug:1")
        comes(run, [0, done_s - 3_600], [0, came_s], [0, came_s - done_s])  # the other tablet's clock is an hour behind
        run.entries[1] = run.entries[1].model_copy(update={"device": uuid4()})
        return run.codes

    def test_waited_too_short_and_delivered_two_hours_later_it_is_early(self):
        assert self.after({"at_least_s": 600}, done_s=60, came_s=7_200) == ["early"]
        assert self.after({"at_least_s": 600}, done_s=660, came_s=7_200) == []

    def test_done_in_time_and_delivered_later_it_is_in_time(self):
        assert self.after({"at_most_s": 600}, done_s=500, came_s=7_200) == []
        assert self.after({"at_most_s": 600}, done_s=700, came_s=7_200) == ["late"]


@given(gaps=st.lists(st.integers(6, 90), min_size=3, max_size=3), then=st.integers(6, 400), limit=st.integers(20, 300))
@pytest.mark.parametrize("runs_from", [None, "first", "last"])
@examples(60)
def test_a_time_runs_from_the_first_entry_or_the_last_as_the_spec_says(runs_from, gaps, then, limit):
    """If it says nothing, a limit runs from the first and a wait from the last: sealant on four studs, one after the other."""
    timing = {"after": "coat", "runs_from": runs_from}
    coat = {"id": "coat", "kind": "loosen", "amount": 0.1, "unit": "turns"}
    for bound, otherwise in (("at_most_s", "first"), ("at_least_s", "last")):
        run = Run(plan_of(joint(coat, SNUG | {"timing": timing | {bound: limit}})))
        for label, gap in zip("1324", (6, *gaps), strict=True):
            run.add("loosened", pull=f"coat:{label}", fastener=label, after_s=gap)
        run.click("snug:1", after_s=then)
        passed = then + (sum(gaps) if (runs_from or otherwise) == "first" else 0)
        wrong = passed > limit if bound == "at_most_s" else passed < limit
        assert run.codes == ([{"at_most_s": "late", "at_least_s": "early"}[bound]] if wrong else [])


def test_a_time_is_said_in_a_unit_that_a_person_reads():
    said = [span(each).replace("\u00a0", " ") for each in (0.4, 119, 120, 7_199, 7_200, 172_800, 63_113_904, -90)]
    assert said == ["0 s", "119 s", "2 min", "119 min", "2 h", "2 days", "2 years", "90 s"]
