"""Drills: any answers lead to a verdict, the right ones pass, and the wrong ones are told why."""

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import LONG, wheel_spec
from tests.examples import examples
from tight_ledger.core.base.errors import Invalid, NotOnFile
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.practice.drills import DrillAnswer, Materials
from tight_ledger.core.practice.measuring import AGAIN, BELIEVE
from tight_ledger.core.practice.progress import DrillResult, comes_again
from tight_ledger.core.practice.registry import DRILLS, drill_now
from tight_ledger.core.practice.spotting import GO_ON, WRONG
from tight_ledger.core.practice.turning import LEAVE, THAT_IS_IT

SHOP = Materials(wrenches=(LONG,), specs=tuple(wheel_spec(count) for count in (6, 8, 10)), policy=Policy())
SEEDS = st.integers(1, 10_000)


def answered(question, chance):
    """Any answer that the screen can give."""
    picture = question.picture
    if question.unit:
        return DrillAnswer(figure=chance.draw(st.integers(0, 200)))
    if picture is not None and picture.kind == "layout":
        return DrillAnswer(key=chance.draw(st.sampled_from([each.label for each in picture.fasteners if not each.marks])))
    if picture is not None and picture.kind in ("turn", "pull") and chance.draw(st.integers(0, 3)):
        return DrillAnswer(figure=getattr(picture, "from_deg", 0) + chance.draw(st.floats(5, 170)))
    if picture is not None and picture.kind == "search":
        return DrillAnswer(key="none", figure=chance.draw(st.integers(1, 30)))
    return DrillAnswer(key=chance.draw(st.sampled_from([each.key for each in question.keys])) if question.keys else "", figure=200)


@given(st.sampled_from(tuple(DRILLS)), SEEDS, st.data())
@examples(40)
def test_any_answers_lead_on_and_what_was_wrong_is_said(name, seed, data):
    """The same answers give the same question again; a wrong one is never passed over in silence."""
    answers = []
    now = drill_now(name, seed, answers, SHOP)
    while not now.done and len(answers) < 60:
        answers.append(answered(now.question, data))
        before, now = now, drill_now(name, seed, answers, SHOP)
        assert len(now.missed) in (len(before.missed), len(before.missed) + 1)
        if not now.done and len(now.missed) > len(before.missed):
            assert (now.question.right, now.question.says) == (False, now.missed[-1])
    assert now == drill_now(name, seed, answers, SHOP)
    if now.done:
        assert now.passed == (not now.missed)
        with pytest.raises(Invalid):
            drill_now(name, seed, [*answers, DrillAnswer()], SHOP)


def search(name, seed, answers, depth=0):
    """Try the keys of each question until one is not told to be wrong."""
    now = drill_now(name, seed, answers, SHOP)
    if now.done:
        return now
    question = now.question
    tries = [DrillAnswer(key=each.key) for each in question.keys]
    picture = question.picture
    if picture is not None and picture.kind == "layout":
        tries = [DrillAnswer(key=each.label) for each in picture.fasteners if not each.marks]
    for answer in tries:
        then = drill_now(name, seed, [*answers, answer], SHOP)
        if len(then.missed) == len(now.missed) and (then.done or then.question != question):
            return search(name, seed, [*answers, answer], depth + 1)
    raise AssertionError(question)


@pytest.mark.parametrize("name", ["order", "units"])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_right_answers_pass(name, seed):
    assert search(name, seed, []).passed


@given(SEEDS)
@examples(20)
def test_the_scale_is_right_where_the_wrench_reads_the_figure(seed):
    answers = []
    while not (now := drill_now("scale", seed, answers, SHOP)).done:
        question, at = now.question, now.question.picture.scale.figure
        if question.unit:
            answers.append(DrillAnswer(figure=at))
            continue
        wanted = float(question.ask.partition(" to ")[2].split()[0])
        steps = {key.key: float(key.key.replace("−", "-")) for key in question.keys[:-1]}
        near = {key: abs(wanted - at - step) for key, step in steps.items()}
        best = min(near, key=lambda key: near[key])
        answers.append(DrillAnswer(key=best if near[best] < abs(wanted - at) - 1e-9 else question.keys[-1].key))
    assert now.passed, now.missed


@given(SEEDS)
@examples(15)
def test_in_every_run_with_a_mistake_the_fold_finds_one_line_wrong(seed):
    """Going past the wrong line is told as a miss. Stopping at it and naming the mistake passes."""
    answers = []
    while (now := drill_now("wrong", seed, answers, SHOP)).question.keys[0].key == GO_ON:
        if not now.missed:
            stops = drill_now("wrong", seed, [*answers, DrillAnswer(key=WRONG)], SHOP)
            if not stops.missed:
                ends = [
                    drill_now("wrong", seed, [*answers, DrillAnswer(key=WRONG), DrillAnswer(key=each.key)], SHOP)
                    for each in stops.question.keys
                ]
                assert 1 <= sum(each.passed for each in ends) < len(ends)
        answers.append(DrillAnswer(key=GO_ON))
    assert len(now.missed) == 1
    assert now.missed[0].startswith("You passed it")


@given(SEEDS)
@examples(60)
def test_readings_are_believed_as_in_real_work_and_some_move_is_right(seed):
    answers = []
    while not (now := drill_now("measure", seed, answers, SHOP)).done:
        keys = [each.key for each in now.question.keys]
        tries = [DrillAnswer(key=each) for each in keys] or [DrillAnswer(figure=now.question.picture.figure)]
        good = [each for each in tries if not drill_now("measure", seed, [*answers, each], SHOP).missed]
        assert len(good) == 1, (now.question, good)
        if keys == [BELIEVE, AGAIN]:
            figures = [float(line.split(": ")[1].split()[0]) for line in now.question.picture.lines]
            apart = abs(figures[0] - figures[1]) > drill_graduation(now.question.ask) + 1e-9
            assert good[0].key == (AGAIN if len(figures) == 2 and apart else BELIEVE)
        answers += good
    assert now.passed


def drill_graduation(ask):
    return float(ask.partition("the dial shows ")[2].removesuffix(". Do you believe these?") or 0)


def test_an_angle_too_far_is_never_made_up_and_ones_own_error_is_told():
    answers = []
    while not (now := drill_now("angle", 5, answers, SHOP)).done:
        turn = now.question.picture
        answers.append(DrillAnswer(key=THAT_IS_IT) if turn.done_deg else DrillAnswer(figure=turn.aim_deg + (4 if turn.gauge else 8)))
    assert (now.passed, "+8° off, within ±8°" in now.says, now.by_eye_deg) == (True, True, 8)
    over = drill_now("angle", 5, [DrillAnswer(figure=170), DrillAnswer(figure=30), DrillAnswer(key=THAT_IS_IT)], SHOP)
    assert "never made up on the next one" in over.missed[0]


def test_a_pull_is_let_go_at_the_click_and_a_bolt_goes_in_its_three_ways():
    answers = []
    while (now := drill_now("pull", 3, answers, SHOP)).question.picture is not None:
        answers.append(DrillAnswer(figure=now.question.picture.clicks_at_deg + 2))
    assert drill_now("pull", 3, [*answers, DrillAnswer(key=LEAVE)], SHOP).passed
    broken = drill_now("snap", 1, [], SHOP).question.picture.breaks_at_deg
    assert "Too far" in drill_now("snap", 1, [DrillAnswer(figure=broken)], SHOP).missed[0]
    assert not drill_now("snap", 1, [DrillAnswer(figure=broken * 0.4), DrillAnswer(figure=broken)], SHOP).missed


def test_a_shop_with_nothing_on_file_is_told_so():
    with pytest.raises(Invalid, match="nothing on file"):
        drill_now("wrench", 1, [], Materials())
    with pytest.raises(NotOnFile):
        drill_now("juggle", 1, [], SHOP)


@given(st.lists(st.tuples(st.integers(0, 5), st.booleans()), max_size=12))
@examples(100)
def test_what_was_missed_comes_again_after_1_3_and_7_days(days):
    """Right three times after the last miss, each on its day or later, and it is done; never missed, it never comes again."""
    on, results = date(2026, 3, 2), []
    for after, passed in days:
        on += timedelta(days=after)
        results.append(DrillResult(drill="scale", seed=7, on=on, passed=passed))
    waits = comes_again(results)
    last_miss = max((place for place, each in enumerate(results) if not each.passed), default=None)
    since = 0 if last_miss is None else len(results) - 1 - last_miss
    if last_miss is None or since >= 3:
        assert waits == ()
    else:
        assert [(each.seed, each.due) for each in waits] == [(7, results[-1].on + timedelta(days=(1, 3, 7)[since]))]
