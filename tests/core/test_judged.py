"""Nothing closes as good that was not judged; what is judged is judged as what it is."""

from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import LONG, SHORT, Run, plan_of, wheel_spec
from tests.core.test_any_procedure import procedures, some_entries
from tests.core.test_every_way import SNUG, angle, at, joint, swing
from tests.examples import examples
from tight_ledger.core.base.bands import Reading
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.parsing import parse_measured, parse_torque
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.planning.ranking import equip
from tight_ledger.core.tools.adapters import Extension

SMALL = plan_of(wheel_spec(4, steps=SHORT))
NO_CHECK = Policy(final_check=False)
PLAY = {
    "kind": "measure",
    "what": "end play",
    "band": parse_measured("0.04–0.11 mm").model_dump(),
    "low_means": "too tight",
    "high_means": "too loose",
}
DRAG = {
    "id": "drag",
    "kind": "measure",
    "what": "running torque",
    "per_fastener": True,
    "band": parse_measured("at most 2 N·m").model_dump(),
}
FINAL = {"id": "t", "kind": "torque", "at": parse_torque("500–520 N·m").model_dump()}


def shown(figure, unit="mm"):
    return Reading(figure=figure, unit=unit, where="gauge")


def lacks_a_figure(plan, state):
    """Pulls that count as done, whose step has a figure, and of which nobody knows what they came to."""
    status = {pull.id: pull for pull in state.pulls}
    return [
        pull.id
        for pass_ in plan.passes
        for pull in pass_.pulls
        if pass_.kind in ("torque", "angle", "check", "measure") and (pull.band or pull.rungs)
        if status[pull.id].status == "done" and status[pull.id].outcome != "late" and pull.id not in state.values
    ]


class TestWithoutAFigure:
    @examples(150)
    @given(procedures(), st.randoms(use_true_random=False))
    def test_no_sequence_of_entries_makes_a_run_clean_while_a_pull_lacks_its_figure(self, spec, dice):
        plan = plan_of(spec)
        run = Run(plan, NO_CHECK)
        for _ in range(3):
            some_entries(run, dice, 15)
            wanted = run.now
            if wanted.ask in ("click", "angle", "turned", "measure"):
                kind = {"turned": "checked", "measure": "measured"}.get(wanted.ask, "pulled")
                odd = dice.choice(
                    ({"how": "click"}, {"how": "typed"}, {}, {"rung": "77", "how": "click"}, {"moved": True}, {"how": "wire"})
                )
                run.add(kind, pull=wanted.pull, fastener=wanted.fastener, **odd)
            elif wanted.pull and dice.random() < 0.3:
                run.add("deviated", pull=wanted.pull, fastener=wanted.fastener, text="it is fine")
        run.go_on()
        if run.state.clean:
            assert lacks_a_figure(plan, run.state) == []

    def test_a_row_covers_its_closed_interval(self):
        run = Run(plan_of(joint(DRAG, FINAL | {"plus": "drag"}, count=3)))
        while run.now.ask == "measure":
            run.add("measured", pull=run.now.pull, fastener=run.now.fastener, reading=shown(2.0, "N·m"))
        assert (run.now.figure.low, run.now.figure.high) == ("502", "521")
        run.go_on()
        assert run.state.clean

    def test_above_its_rows_there_is_no_figure_and_the_pull_stays_open(self):
        run = Run(plan_of(joint(DRAG, FINAL | {"plus": "drag"}, count=3)))
        while run.now.ask == "measure":
            run.add("measured", pull=run.now.pull, fastener=run.now.fastener, reading=shown(2.1, "N·m"))
        assert run.now.watch == "its figure is not known yet"
        run.read(run.next, 900)
        assert (run.next, "no_figure" in run.codes) == ("t:1", True)

    @pytest.mark.parametrize("fields", [{}, {"how": "typed"}, {"how": "wire"}, {"how": "click"}])
    def test_a_torque_of_which_nobody_says_what_it_came_to_stays_open(self, fields):
        run = Run(SMALL)
        run.add("pulled", pull="s1:1", fastener="1", **fields)
        assert run.next == "s1:1"
        assert run.codes == ["not_set" if fields.get("how") == "click" else "no_figure"]

    @pytest.mark.parametrize("fields", [{}, {"how": "click"}, {"how": "typed"}])
    def test_an_angle_without_degrees_and_without_a_gauge_stays_open(self, fields):
        run = at(joint(SNUG, angle(85, 95)), "turn:1")
        run.add("pulled", pull="turn:1", fastener="1", **fields)
        assert (run.next, run.codes) == ("turn:1", ["no_figure"])
        run.add("pulled", pull="turn:1", fastener="1", how="gauge")
        assert (run.next, run.codes, run.state.values["turn:1"]) == ("turn:3", [], 90)

    def test_what_a_lead_lets_pass_unmeasured_is_never_good(self):
        run = Run(SMALL).go_on(until="s2:2")
        run.add("deviated", pull="s2:2", fastener="2", text="looks right")
        run.go_on()
        assert (run.state.complete, run.state.clean, run.codes) == (True, False, ["not_judged"])


class TestChecks:
    CHECK = plan_of(joint({"id": "s", "kind": "torque", "share": 1}, {"id": "c", "kind": "check"}))

    def checked(self, figure, plan=None, **fields):
        run = Run(plan or self.CHECK).go_on(until="c:1")
        run.add("checked", pull="c:1", fastener="1", how="typed", reading=shown(figure, "N·m"), **fields)
        return run

    def test_below_the_figure_it_proves_nothing(self):
        run = self.checked(500, moved=False)
        assert (run.next, run.codes) == ("c:1", ["check_low"])
        assert run.state.verdicts[-1].remedy == "Pull again, to the figure."

    def test_above_its_limit_it_was_over_torqued(self):
        assert self.checked(700, moved=False).codes == ["high"]

    def test_the_fold_says_whether_it_turned_less_the_windup(self):
        bar = Extension(kind="extension", drive="1 in", length_mm=250, across_mm=20)
        tooling, _ = equip(LONG, (bar,), 0, NO_CHECK)
        spec = joint({"id": "s", "kind": "torque", "share": 1}, {"id": "c", "kind": "check"})
        through_a_bar = compile_plan(spec, "tighten", (tooling,), NO_CHECK)
        windup = through_a_bar.passes[1].pulls[0].windup_deg
        assert windup > 4
        for plan, turned, moved in ((self.CHECK, 1.9, False), (self.CHECK, 2.1, True), (through_a_bar, windup + 1.9, False)):
            run = self.checked(585, plan, turned=Reading(figure=turned, unit="°"), moved=not moved)
            assert {pull.id: pull.outcome for pull in run.state.pulls}["c:1"] == ("moved" if moved else "still")


class TestMeasured:
    def test_out_of_its_band_as_the_last_step_is_not_good(self):
        run = Run(plan_of(joint(PLAY | {"id": "m"})))
        run.add("measured", pull="m", reading=shown(0.5))
        assert (run.state.complete, run.state.clean) == (True, False)
        assert run.state.unanswered()[0].words == "end play: too loose"
        run.add("deviated", text="the bearing is worn; booked for Monday")
        assert run.codes == []

    def test_low_says_what_it_means(self):
        run = Run(plan_of(joint(PLAY | {"id": "m"})))
        run.add("measured", pull="m", reading=shown(0.01))
        assert run.state.unanswered()[0].words == "end play: too tight"

    def test_measured_again_in_its_band_answers_it(self):
        loop = {"id": "l", "kind": "repeat", "times": 3, "until": {"step": "m", "one_of": ["ok"]}, "steps": [PLAY | {"id": "m"}]}
        run = Run(plan_of(joint(loop)))
        run.add("measured", pull="m~1", reading=shown(0.5))
        assert (run.codes, run.next) == ([], "m~2")  # the loop goes on: not yet right
        run.add("measured", pull="m~2", reading=shown(0.07))
        assert (run.state.clean, run.codes) == (True, [])

    def test_a_loop_that_ends_on_what_is_out_of_band_leaves_it_said(self):
        """As a crush sleeve that was gone too far with."""
        loop = {"id": "l", "kind": "repeat", "times": 3, "until": {"step": "m", "one_of": ["ok", "high"]}, "steps": [PLAY | {"id": "m"}]}
        run = Run(plan_of(joint(loop)))
        run.add("measured", pull="m~1", reading=shown(0.01))
        run.add("measured", pull="m~2", reading=shown(0.5))
        assert (run.state.complete, run.codes) == (True, ["out_of_band"])

    def test_so_does_a_measurement_that_was_taken_because_of_it(self):
        again = PLAY | {"id": "again", "when": {"step": "m", "one_of": ["high", "low"]}}
        run = Run(plan_of(joint(PLAY | {"id": "m"}, again)))
        run.add("measured", pull="m", reading=shown(0.5))
        run.add("measured", pull="again", reading=shown(0.07))
        assert run.state.clean

    def test_when_the_loop_gives_up_the_verdict_names_what_was_tried(self):
        loop = {"id": "l", "kind": "repeat", "times": 2, "until": {"step": "m", "one_of": ["ok"]}, "steps": [PLAY | {"id": "m"}]}
        run = Run(plan_of(joint(loop)))
        for pull in ("m~1", "m~2"):
            run.add("measured", pull=pull, reading=shown(0.5))
        assert run.state.unanswered()[-1].words == "end play out of its band after 2 tries"

    def test_no_slot_within_the_limit_is_not_good(self):
        run = Run(plan_of(joint({"id": "slot", "kind": "align", "at_most_deg": 35}, count=3)))
        run.add("turned", pull="slot:1", fastener="1", reading=Reading(figure=40, unit="°"))
        run.add("turned", pull="slot:3", fastener="3", option="high")
        assert [verdict.words for verdict in run.state.unanswered()] == [
            "nut 1: no slot within the limit",
            "nut 3: no slot within the limit",
        ]

    def test_a_stretch_is_the_reading_less_what_the_gauge_showed_at_nought(self):
        zero = {"id": "zero", "kind": "measure", "what": "gauge zero", "per_fastener": True}
        stretch = {
            "id": "stretch",
            "kind": "measure",
            "what": "stretch",
            "per_fastener": True,
            "less": "zero",
            "band": parse_measured("0.14–0.19 mm").model_dump(),
        }
        run = Run(plan_of(joint(zero, stretch, count=3)))
        for label, nought in (("1", 0.02), ("3", 0.0), ("2", 0.1)):
            run.add("measured", pull=f"zero:{label}", fastener=label, reading=shown(nought))
        for label, read in (("1", 0.17), ("3", 0.17), ("2", 0.17)):
            run.add("measured", pull=f"stretch:{label}", fastener=label, reading=shown(read))
        found = [run.state.values[f"stretch:{label}"] for label in ("1", "3", "2")]
        assert found == [pytest.approx(0.15), pytest.approx(0.17), pytest.approx(0.07)]
        assert [(verdict.name, verdict.code) for verdict in run.state.unanswered()] == [("nut 2", "out_of_band")]


class TestIntoYield:
    BOLT = joint(SNUG, angle(85, 95), yields=True)

    def test_another_pull_on_it_has_one_remedy(self):
        run = at(self.BOLT, "turn:3")
        swing(run, "turn:1", 20)
        run.click("snug:1")
        assert run.codes == ["spent", "spent"]
        assert {verdict.remedy for verdict in run.state.unanswered()} == {"Replace it; the new one comes up through every stage."}

    def test_loosened_it_is_used_up_and_only_a_new_one_puts_it_right(self):
        run = at(self.BOLT, "turn:3")
        run.add("loosened", fastener="1", text="to look at it")
        assert run.codes == ["spent"]
        run.go_on()
        assert run.codes == ["spent"]
        run.add("replaced", fastener="1", text="new bolt")
        run.go_on()
        assert run.state.clean

    def test_one_that_may_be_used_again_may_be_loosened(self):
        kind = self.BOLT.layout.kinds["stud"].model_copy(update={"longest_mm": 60.0})
        spec = self.BOLT.model_copy(update={"layout": self.BOLT.layout.model_copy(update={"kinds": {"stud": kind}})})
        run = at(spec, "turn:3")
        run.add("loosened", fastener="1", text="to look at it")
        assert run.codes == []

    def test_no_loop_turns_it_on_again(self):
        loop = {"id": "l", "kind": "repeat", "times": 3, "until": {"step": "turn", "one_of": ["ok"]}, "steps": [angle(85, 95)]}
        with pytest.raises(Invalid, match="no loop turns it on"):
            plan_of(joint(SNUG, loop, yields=True))


class TestOnePullOrTwo:
    def twice(self, claimed):
        run = Run(SMALL)
        first = run.click("s1:1", claimed_seq=1)
        second = run.click("s1:1", claimed_seq=claimed, device=uuid4(), after_s=-30)
        run.add("noted", text="back on the first device's clock", after_s=36)
        return run, first, second

    def test_not_having_seen_the_first_it_is_asked_and_nobody_is_told_to_loosen(self):
        """By the number that was claimed; the second device's clock runs behind."""
        run, _, second = self.twice(claimed=1)
        assert run.codes == ["one_or_two"]
        assert run.state.one_or_two == (second.id,)
        assert not any("oosen" in verdict.remedy for verdict in run.state.unanswered())
        assert second.id in run.state.live
        run.go_on()
        assert (run.state.complete, run.state.clean) == (True, False)

    def test_one_pull_recorded_twice_is_good(self):
        run, _, second = self.twice(claimed=1)
        run.add("clarified", about=second.id, option="one")
        run.go_on()
        assert run.state.clean

    def test_two_pulls_are_two(self):
        run, _, second = self.twice(claimed=1)
        run.add("clarified", about=second.id, option="two")
        assert run.codes == ["twice"]

    def test_having_seen_the_first_it_is_a_second_pull(self):
        run, _, _ = self.twice(claimed=2)
        assert run.codes == ["twice"]

    def test_a_swing_that_two_recorded_counts_only_once_it_is_said_to_be_two(self):
        run = at(joint(SNUG, angle(115, 125)), "turn:1")
        seen = len(run.entries) + 1
        swing(run, "turn:1", 60, claimed_seq=seen)
        second = swing(run, "turn:1", 60, claimed_seq=seen, device=uuid4())
        assert (run.now.degrees_done, run.codes) == (60, ["one_or_two"])
        run.add("clarified", about=second.id, option="two")
        assert (run.state.values["turn:1"], run.codes) == (120, [])


class TestSetting:
    def test_every_stage_is_set_and_asked_for_once(self):
        run = Run(plan_of(wheel_spec(4)))
        asked = []
        while run.now.ask != "finish":
            if run.now.ask == "set":
                asked.append((run.now.stage, run.now.acts[0].say))
            run.do(run.now)
        assert asked == [
            ("stage 1 of 3", "set to 175 N·m, locked"), ("stage 2 of 3", "set to 350 N·m, locked"), ("stage 3 of 3", "set to 585 N·m, locked"),
        ]  # fmt: skip
        assert run.state.clean

    def test_a_click_is_worth_what_the_wrench_was_set_to(self):
        run = Run(SMALL).go_on(until="s2:1")
        run.add("pulled", pull="s2:1", fastener="1", how="click", tools=(LONG.id,))  # still on the first stage's setting
        assert (run.next, run.codes) == ("s2:1", ["low"])

    def test_a_wrench_that_is_watched_is_not_set(self):
        dial = LONG.model_copy(update={"construction": "dial"})
        run = Run(plan_of(wheel_spec(4, steps=SHORT), dial))
        assert run.now.ask == "click"
        run.add("pulled", pull="s1:1", fastener="1", how="click")
        assert run.next == "s1:3"

    def test_a_plan_from_before_is_judged_as_it_was(self):
        old = SMALL.model_copy(
            update={
                "passes": tuple(
                    pass_.model_copy(update={"pulls": tuple(p.model_copy(update={"is_set": False}) for p in pass_.pulls)})
                    for pass_ in SMALL.passes
                )
            }
        )
        run = Run(old)
        run.add("pulled", pull="s1:1", fastener="1", how="click")
        assert run.next == "s1:3"


class TestPace:
    def wheel(self, seconds):
        run = Run(plan_of(wheel_spec(5)), Policy())
        while run.now.ask not in ("finish", "stop"):
            run.do(run.now, after_s=seconds)
        return run

    def test_a_wheel_pressed_through_in_half_a_minute_is_not_good(self):
        assert self.wheel(1.4).codes == ["hurried"] * 4

    def test_a_hand_that_walks_round_is(self):
        assert self.wheel(4).state.clean

    def test_a_person_who_presses_on_two_tablets_in_turn_is_one_pair_of_hands_and_two_people_are_two(self):
        alone = self.wheel(1.4)
        tablets, people = (uuid4(), uuid4()), (uuid4(), uuid4())
        for number, entry in enumerate(alone.entries):
            alone.entries[number] = entry.model_copy(update={"device": tablets[number % 2], "at_server": entry.at_device})
        assert alone.codes == ["hurried"] * 4
        for number, entry in enumerate(alone.entries):
            alone.entries[number] = entry.model_copy(update={"by": people[number % 2]})
        assert alone.codes == []

    def test_a_check_at_a_pace_that_a_hand_can_keep_answers_it(self):
        run = Run(plan_of(wheel_spec(5)), Policy())
        while run.now.ask not in ("finish", "stop"):
            run.do(run.now, after_s=4 if run.now.ask == "turned" else 1.4)
        assert (run.all_codes, run.codes) == (["hurried"] * 3, [])

    def test_what_an_instrument_tells_may_be_quick(self):
        run = Run(SMALL, Policy())
        for label in "1324":
            run.add("pulled", pull=f"s1:{label}", fastener=label, how="wire", reading={"figure": 290, "unit": "N·m"}, after_s=1.1)
        assert run.all_codes == []


class TestComingBackUnsure:
    def test_an_angle_of_which_nobody_knows_starts_again(self):
        run = at(joint(SNUG, angle(85, 95)), "turn:1")
        swing(run, "turn:1", 60)
        run.add("resumed", pull="turn:1", fastener="1", option="not sure")
        assert (run.codes, run.now.ask, [act.kind for act in run.now.acts]) == (["unsure"], "start again", ["loosened", "replaced"])
        run.do(run.now)
        assert (run.codes, run.next) == ([], "snug:1")

    def test_into_yield_only_a_new_bolt_will_do(self):
        run = at(joint(SNUG, angle(85, 95), yields=True), "turn:1")
        swing(run, "turn:1", 60)
        run.add("resumed", pull="turn:1", fastener="1", option="not sure")
        assert (run.codes, [act.kind for act in run.now.acts]) == (["spent"], ["replaced"])
        run.do(run.now)
        assert (run.codes, run.next) == ([], "snug:1")

    def test_a_torque_is_simply_pulled_again(self):
        run = Run(SMALL).go_on(until="s1:3")
        run.add("resumed", pull="s1:3", fastener="3", option="not sure")
        assert (run.codes, run.next, run.now.ask) == ([], "s1:3", "click")
