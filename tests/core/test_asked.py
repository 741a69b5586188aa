"""What is asked: before something unlikely is recorded, and on coming back to a run."""

from uuid import uuid4

import pytest

from tests.core.play import START, Run, plan_of
from tests.core.test_every_way import SNUG, angle, at, joint, swing
from tests.core.test_judged import PLAY, SMALL, shown
from tight_ledger.core.base.bands import Reading
from tight_ledger.core.base.errors import MustAsk
from tight_ledger.core.base.parsing import parse_measured, parse_torque
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.kinds.readings import Instant
from tight_ledger.core.planning.ranking import equip
from tight_ledger.core.records.entries import Report
from tight_ledger.core.runs.accepting import ask_first
from tight_ledger.core.runs.returning import returning
from tight_ledger.core.tools.wrenches import ANY_WRENCH, Wrench

TO_200 = Wrench(id=uuid4(), name="half-inch", drive="1/2 in", unit="N·m", lowest=40, highest=200, graduation=1)
AT_55 = joint({"id": "t", "kind": "torque", "at": parse_torque("53–57 N·m").model_dump()})
AT_300 = joint({"id": "t", "kind": "torque", "at": parse_torque("280–320 N·m").model_dump()})
RUNGS = [parse_torque(f"{n}–{n + 10} N·m").model_dump() for n in (50, 60)]


def moment(report):
    """A moment at a tablet whose clock goes as the server's does."""
    return Instant(uuid4(), report.at_device, report.at_device)


def ask_about(spec, tool=ANY_WRENCH, *, kind="pulled", pull="t:1", reading, **more):
    run = Run(plan_of(spec, ANY_WRENCH))
    report = Report(
        id=uuid4(), kind=kind, by=run.person, at_device=START, pull=pull, how="typed", reading=reading, tools=(tool.id,), **more
    )
    ask_first(run.plan, Policy(), run.state, (equip(tool, (), 0, Policy())[0],), (), None, report, moment(report))


@pytest.mark.parametrize(
    ("spec", "typed", "said"),
    [
        (AT_55, {"reading": Reading(figure=486, unit="N·m")}, "486 N·m is far off; it would fit as lbf·in taken for N·m"),
        (AT_55, {"reading": Reading(figure=5.5, unit="N·m")}, "kgf·m taken for N·m or a slipped decimal point"),
        (AT_300, {"reading": Reading(figure=310, unit="N·m"), "tool": TO_200}, "beyond the scale of half-inch, which ends at 200 N·m"),
        (joint(PLAY | {"id": "m"}), {"kind": "measured", "pull": "m", "reading": shown(6)}, "6 mm is far off"),
        (joint({"id": "t", "kind": "torque", "ladder": RUNGS}), {"reading": Reading(figure=486, unit="N·m"), "rung": "1"}, "lbf·in"),
    ],
    ids=["another unit", "a point", "beyond the scale", "end play", "a rung"],
)
def test_a_figure_that_is_unlikely_is_asked_about_once(spec, typed, said):
    with pytest.raises(MustAsk) as asked:
        ask_about(spec, **typed)
    assert said in asked.value.fault.replace("\u00a0", " ")
    assert asked.value.choices
    ask_about(spec, **typed, affirmed=("unit",))


@pytest.mark.parametrize(
    ("nought", "honest", "slip"), [(52.3, 52.46, 57.46), (52.3, 52.49, 5.246), (118.07, 118.2, 11.82), (0.02, 0.17, 1.7)]
)
def test_a_length_is_asked_about_by_what_it_differs_from_the_one_before(nought, honest, slip):
    zero = {"id": "zero", "kind": "measure", "what": "length", "per_fastener": True}
    stretch = zero | {"id": "stretch", "what": "stretch", "less": "zero", "band": parse_measured("0.14–0.19 mm").model_dump()}
    run = Run(plan_of(joint(zero, stretch, count=3)))
    run.add("measured", pull="zero:1", fastener="1", reading=shown(nought))

    def typed(figure):
        report = Report(id=uuid4(), kind="measured", by=run.person, at_device=START, pull="stretch:1", how="typed", reading=shown(figure))
        ask_first(run.plan, Policy(), run.state, (equip(ANY_WRENCH, (), 0, Policy())[0],), (), None, report, moment(report))

    typed(honest)
    with pytest.raises(MustAsk, match="differs by"):
        typed(slip)


def test_an_honest_reading_is_not_asked_about():
    ask_about(AT_55, reading=Reading(figure=46, unit="N·m"))
    ask_about(joint(PLAY | {"id": "m"}), kind="measured", pull="m", reading=shown(0.3))


def back(run):
    return returning(run.plan, run.state, run.entries)


def test_an_angle_asks_where_the_mark_stands_and_never_whether_it_clicked():
    run = at(joint(SNUG, angle(85, 95), yields=True), "turn:1")
    swing(run, "turn:1", 60)
    left = run.add("paused", text="end of shift")
    asked = back(run)
    assert (asked.left_by, asked.why, "60° of 90° are recorded" in asked.ask) == (left.by, "end of shift", True)
    assert [(act.kind, act.option, act.counts, act.asks_degrees) for act in asked.answers] == [
        ("resumed", "not pulled", None, False), ("pulled", None, "total", False), ("pulled", None, "total", True),
        ("resumed", "not sure", None, False),
    ]  # fmt: skip
    assert asked.answers[-1].say == "Not sure: it needs a new one"
    assert not any("click" in act.say for act in asked.answers)


def test_a_click_asks_whether_it_clicked_a_task_whether_it_was_done():
    run = Run(SMALL).go_on(until="s1:1")
    run.do(run.now)
    run.click("s1:1")
    assert [act.how for act in back(run).answers] == [None, "click", None]
    task = Run(plan_of(joint(SNUG, {"id": "lower", "kind": "do", "say": "Lower it."})))
    task.go_on(until="lower")
    assert [(act.say, act.kind) for act in back(task).answers] == [("Not done", "resumed"), ("Yes, it is done", "confirmed")]
    assert back(Run(SMALL)) is None
