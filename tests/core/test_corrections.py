"""What an entry may do is said by its kind: what may be corrected, what answers a choice, whose pull it is, what is one pull."""

from datetime import timedelta
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import LONG, SHORT, Run, plan_of, wheel_spec
from tests.core.test_any_procedure import procedures, some_entries
from tests.core.test_every_way import SNUG, joint
from tests.examples import examples
from tight_ledger.core.base.bands import Reading
from tight_ledger.core.base.errors import Invalid, MustAsk, NotAllowed
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.kinds.readings import Instant
from tight_ledger.core.records.corrections import MOVED
from tight_ledger.core.records.entries import Entry, Flag, Report, Started
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.runs.accepting import accept
from tight_ledger.core.runs.fold import live_entries
from tight_ledger.core.tools.wrenches import Setting

SMALL = plan_of(wheel_spec(4, steps=SHORT))
CHOICE = {"id": "which", "kind": "do", "options": [{"key": "old"}, {"key": "new"}]}


def nm(figure):
    return Reading(figure=figure, unit="N·m")


def offer(run, roles=("mechanic",), at=None, **said):
    """What the rules make of a report.

    Args:
        at: when it was done; by default on the run's tablet, whose clock goes as the server's does.
    """
    report = Report(
        **{"id": uuid4(), "by": run.person, "at_device": run.entries[-1].at_device if run.entries else "2026-03-02T08:00Z"} | said
    )
    started = Started.model_construct(plan=run.plan, policy=run.policy, tooling=(Tooling(wrench=LONG),), gauges=())
    return accept(started, run.state, run.entries, roles, report, at or Instant(run.tablet, report.at_device, report.at_device))


def begun(plan=SMALL, **policy):
    return Run(plan, Policy(final_check=False, **policy))


class TestCorrections:
    def test_a_typed_slip_is_corrected_at_its_own_nut_and_by_its_own_kind_only(self):
        run = begun()
        slip = run.read("s1:1", 200)
        assert offer(run, kind="pulled", pull="s1:1", fastener="1", how="typed", reading=nm(290), corrects=slip.id)
        for said in (
            {"kind": "noted", "text": "never mind"},
            {"kind": "pulled", "pull": "s1:3", "fastener": "3", "how": "typed", "reading": nm(290)},
            {"kind": "pulled", "pull": "s2:1", "fastener": "1", "how": "typed", "reading": nm(585)},
            {"kind": "pulled", "pull": "s1:1", "fastener": "1", "how": "typed", "reading": nm(290), "corrects": uuid4()},
        ):
            with pytest.raises(Invalid, match=r"does not correct|no such entry"):
                offer(run, **{"corrects": slip.id} | said)

    def test_what_an_instrument_showed_stays_and_a_lead_may_say_which_nut_it_was(self):
        run = begun()
        high = run.add("pulled", pull="s1:1", fastener="1", how="wire", reading=nm(380))
        with pytest.raises(Invalid, match="stays as it is"):
            offer(run, ("lead",), kind="pulled", pull="s1:1", fastener="1", how="typed", reading=nm(290), corrects=high.id)
        moved = {"kind": "pulled", "pull": "s1:3", "fastener": "3", "how": "click", "corrects": high.id}
        with pytest.raises(NotAllowed):
            offer(run, **moved)
        assert offer(run, ("lead",), **moved)
        run.add("pulled", **{name: value for name, value in moved.items() if name != "kind"})
        assert [(pull.status, pull.outcome) for pull in run.state.pulls[:2]] == [("open", None), ("done", "high")]
        assert run.state.values["s1:3"] == 380

    def test_where_it_was_is_all_that_a_lead_changes_of_what_was_sent(self):
        run = begun()
        sent = run.add("checked", pull="s1:1", fastener="1", how="wire", reading=nm(290), moved=True, counts="total")
        run.add("checked", pull="s1:3", fastener="3", how="click", corrects=sent.id, counts="swing", rung="x")
        (counted,) = live_entries(run.entries, {"s1:1": "s1", "s1:3": "s1"})
        same = sent.model_dump(exclude=set(MOVED))
        assert (counted.fastener, counted.model_dump(exclude=set(MOVED))) == ("3", same)

    @pytest.mark.parametrize("kind", ["flagged", "finished", "noted"])
    def test_in_a_sealed_run_it_hides_nothing_that_it_may_not(self, kind):
        """A note in the place of a recall, of an end; a typed reading in the place of a sent one."""
        run = begun()
        run.go_on()
        recall = run.add("flagged", flags=(Flag(code="recalled", words="the figure is from the wrong column"),))
        assert not run.state.clean
        end = run.add("finished", outcome="do not move")
        run.add("noted", text="never mind", corrects=end.id if kind == "finished" else recall.id)
        assert (run.state.clean, run.state.standing) == (False, "do not move")

    def test_a_correction_takes_no_flag_and_no_missing_pin_away(self):
        run = begun()
        slip = run.add("pulled", pull="s1:1", fastener="1", how="typed", reading=nm(200), unproven=True, flags=(Flag(code="differs"),))
        run.add("pulled", pull="s1:1", fastener="1", how="typed", reading=nm(290), corrects=slip.id)
        run.go_on()
        assert {verdict.code for verdict in run.state.unanswered()} == {"not_proven", "differs"}


class TestChoices:
    @pytest.mark.parametrize("option", [None, "banana"])
    def test_a_choice_is_answered_by_one_of_its_options(self, option):
        after = [SNUG | {"id": f"t{key}", "when": {"step": "which", "one_of": [key]}} for key in ("old", "new")]
        run = begun(plan_of(joint(CHOICE, *after)))
        with pytest.raises(Invalid, match=r"option|chosen"):
            offer(run, kind="confirmed", pull="which", option=option)
        run.add("confirmed", pull="which", option=option)
        assert (run.next, run.state.complete) == ("which", False)

    def test_a_lead_who_decides_a_choice_without_choosing_makes_nothing_good(self):
        run = begun(plan_of(joint(CHOICE, SNUG | {"when": {"step": "which", "one_of": ["old"]}})))
        run.add("deviated", pull="which", text="leave it")
        assert (run.state.complete, run.state.clean) == (True, False)


class TestWhoseItIs:
    def test_a_pull_told_for_another_fastener_is_refused_and_counts_for_nobody(self):
        run = begun()
        with pytest.raises(Invalid, match="a pull of fastener 1, not of 3"):
            offer(run, kind="pulled", pull="s1:1", fastener="3", how="typed", reading=nm(290))
        run.add("pulled", pull="s1:1", fastener="3", how="typed", reading=nm(290))
        assert ([pull.status for pull in run.state.pulls[:2]], run.codes) == (["open", "open"], ["off_plan"])

    @given(st.floats(1, 500), st.floats(1.001, 3))
    def test_a_settings_figure_is_what_counts_whatever_is_said_beside_it(self, figure, factor):
        beside = Setting(figure=figure, unit="N·m", torque_nm=figure * factor)
        run = begun()
        with pytest.raises(Invalid, match="N·m is"):
            offer(run, kind="pulled", pull="s1:1", fastener="1", how="click", setting=beside)
        run.add("pulled", pull="s1:1", fastener="1", how="click", setting=beside)
        assert run.state.values.get("s1:1", figure) == pytest.approx(figure, rel=1e-6)


class TestOneOrTwo:
    def twice(self, first, second):
        run = begun(plan_of(wheel_spec(4, steps=SHORT[1:])))
        click = run.add("pulled", pull="s2:1", fastener="1", claimed_seq=1, **first)
        held = run.add("pulled", pull="s2:1", fastener="1", claimed_seq=1, device=uuid4(), **second)
        assert run.state.one_or_two == (held.id,)
        return run, click, held

    def test_one_pull_keeps_what_was_measured(self):
        click = {"how": "click", "setting": Setting(figure=585, unit="N·m", torque_nm=585)}
        run, _, held = self.twice(click, {"how": "wire", "reading": nm(700)})
        run.add("clarified", about=held.id, option="one")
        assert (run.state.values["s2:1"], run.state.pulls[0].outcome) == (700, "high")

    def test_two_readings_are_two_pulls_whatever_is_said(self):
        run, _, held = self.twice({"how": "wire", "reading": nm(585)}, {"how": "wire", "reading": nm(700)})
        with pytest.raises(Invalid, match="two readings are two pulls"):
            offer(run, kind="clarified", about=held.id, option="one")
        run.add("clarified", about=held.id, option="one")
        assert "twice" in run.codes


def test_past_its_time_a_pull_is_asked_about_first():
    timed = SNUG | {"timing": {"after": "bead", "at_most_s": 30}}
    run = begun(plan_of(joint({"id": "bead", "kind": "do"}, timed)))
    bead = run.add("confirmed", pull="bead")
    late = {"kind": "pulled", "pull": "snug:1", "fastener": "1", "how": "click", "at_device": bead.at_device.replace(minute=30)}
    with pytest.raises(MustAsk, match="ran out"):
        offer(run, **late)
    assert offer(run, affirmed=("late",), **late)
    slow = Instant(uuid4(), late["at_device"], bead.done_at + timedelta(seconds=20))  # another tablet, whose clock is half an hour ahead
    assert offer(run, at=slow, **late)
    slower = Instant(uuid4(), bead.at_device, bead.done_at + timedelta(seconds=31))
    with pytest.raises(MustAsk, match="ran out 1 s ago"):
        offer(run, at=slower, **late | {"at_device": bead.at_device})


# what must hold for any plan and any reports --------------------------------------------------------------------------


def anything(run, dice):
    """A report drawn from all fields, honest or not."""
    pulls = [pull for passed in run.plan.passes for pull in passed.pulls]
    any_of = lambda *values: dice.choice([None, *values])  # noqa: E731
    pull, other = dice.choice(pulls), dice.choice(pulls)
    known = [entry.id for entry in run.entries] or [uuid4()]
    figure = dice.choice([0.07, 5.0, 42.0, 90.0, 320.0, 585.0, 900.0])
    return {
        "kind": dice.choice(["pulled", "checked", "measured", "confirmed", "turned", "loosened", "noted", "undone", "clarified", "set"]),
        "pull": any_of(pull.id, other.id), "fastener": any_of(pull.fastener, other.fastener),
        "how": any_of("click", "typed", "gauge", "wire"), "option": any_of("one", "two", "old", "banana"),
        "reading": any_of(nm(figure), Reading(figure=figure, unit="mm", where="gauge"), Reading(figure=figure, unit="°")),
        "setting": any_of(pull.setting, Setting(figure=figure, unit="N·m", torque_nm=figure * dice.choice([1, 2]))),
        "moved": any_of(True, False), "corrects": any_of(dice.choice(known)), "undoes": any_of(dice.choice(known)),
        "about": any_of(dice.choice(known)), "text": any_of("why"), "unproven": None,
    }  # fmt: skip


def outside(plan, entry: Entry):
    """Whether an instrument read something outside of the band of the pull that it names."""
    _, pull = plan.planned.get(entry.pull or "", (None, None))
    if pull is None or pull.band is None or entry.reading is None or entry.how != "wire" or entry.fastener != pull.fastener:
        return False
    if entry.reading.quantity != {"torque": "torque", "drag": "torque", "angle": "angle", "length": "length"}[pull.band.quantity]:
        return False
    read = pull.at_fastener(entry.reading.torque_nm) if entry.reading.quantity == "torque" else entry.reading.stored
    return entry.kind == "pulled" and pull.band.quantity == "torque" and pull.band.judge(read) == "high"


@examples(300)
@given(procedures(), st.randoms(use_true_random=False))
def test_a_run_is_good_only_if_every_pull_was_judged_and_nothing_that_was_sent_is_hidden(spec, dice):
    """Reports drawn from all fields, sealed as they come: the fold alone has to hold."""
    plan = plan_of(spec)
    run = begun(plan)
    some_entries(run, dice, 8)
    for _ in range(12):
        run.add(**{name: value for name, value in anything(run, dice).items() if value is not None})
        some_entries(run, dice, 3)
    if run.now.ask not in ("finish", "stop"):
        run.go_on() if dice.random() < 0.5 else some_entries(run, dice, 30)
    state = run.state
    if not state.clean:
        return
    pulls = {pull.id: pull for pull in state.pulls}
    live = set(state.live)
    for passed in plan.passes:
        for pull in passed.pulls:
            has_figure = passed.kind in ("torque", "angle", "measure") and (pull.band is not None or bool(pull.rungs))
            if has_figure and pulls[pull.id].status == "done":
                assert pull.id in state.values
    hidden = [entry for entry in run.entries if entry.how == "wire" and entry.id not in live and entry.kind in ("pulled", "measured")]
    moved = {entry.corrects for entry in run.entries if entry.corrects is not None}
    assert all(entry.id in moved for entry in hidden)
    read = [entry for entry in run.entries if entry.id in live and outside(plan, entry)]
    loosened = {verdict.entry for verdict in state.verdicts if verdict.answered}
    assert all(entry.id in loosened for entry in read)
