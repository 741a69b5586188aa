"""What is refused before a spec goes on file, and what is only asked about."""

import pytest

from tests.core.play import SHORT, wheel_spec
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.parsing import parse_torque
from tight_ledger.core.joints.shapes import bolt_circle
from tight_ledger.core.library.sanity import doubts, require_sound

ANGLE = {"id": "turn", "kind": "angle", "at": {"quantity": "angle", "low": 85, "high": 95}}
FALLING = [{"id": "a", "kind": "torque", "share": 1}, {"id": "b", "kind": "torque", "share": 0.4}]


ONCE = [{"id": "a", "kind": "torque", "share": 1}]
AT = {"id": "a", "kind": "torque"}
LADDER = {"id": "t", "kind": "torque", "ladder": [parse_torque(f"{n}–{n + 9} N·m").model_dump() for n in (70, 80, 2001)]}


def with_thread(thread, name="", **more):
    return wheel_spec(layout=bolt_circle(count=10, diameter_mm=335, kind="stud", thread=thread, property_class=name), **more)


def plain_round(count):
    layout = bolt_circle(count=count, diameter_mm=335, kind="stud", thread="M22×1.5")
    return layout.model_copy(update={"orders": {"main": tuple(str(n + 1) for n in range(count))}})


def test_an_honest_wheel_is_sound_and_undoubted():
    require_sound(wheel_spec())
    assert doubts(wheel_spec()) == ()


@pytest.mark.parametrize(
    ("spec", "said"),
    [
        (wheel_spec(steps=FALLING), "asks for less than the step before"),
        (with_thread("M10", "8.8"), "far over what M10 8.8 can bear"),
        (wheel_spec(torque="6–7 N·m"), "under a tenth of what holds M22×1.5"),
        (with_thread("M12", "8.8", torque="65 lbf·in", steps=ONCE), "65 lbf·in is little for M12 8.8; in N·m or lbf·ft it would be usual."),
        (
            with_thread("M12", "8.8", finals={}, procedures={"tighten": [AT | {"at": parse_torque("65 lbf·in").model_dump()}]}),
            "in N·m or lbf·ft it would be usual",
        ),
        (with_thread("M12", "8.8", finals={}, procedures={"tighten": [LADDER]}), "2001–2010 N·m is far over what M12 8.8 can bear"),
        (wheel_spec(8, layout=plain_round(8)), "leans by up to 2.6 fasteners; an order that crosses keeps it at 1. Is it written so?"),
    ],
)
def test_what_is_asked_about(spec, said):
    require_sound(spec)
    assert any(said in doubt for doubt in doubts(spec))


def test_a_figure_in_another_unit_than_the_stage_before_names_the_slip():
    steps = [AT | {"at": parse_torque("60 N·m").model_dump()}, AT | {"id": "b", "at": parse_torque("45 N·m").model_dump()}]
    assert doubts(wheel_spec(finals={}, steps=steps, torque="60 N·m"))[-1].endswith("It would fit as lbf·ft taken for N·m.")


def test_snug_before_an_angle_is_not_doubted():
    snug = AT | {"at": parse_torque("25 N·m").model_dump()}
    assert doubts(with_thread("M12", "10.9", finals={}, steps=[snug, ANGLE])) == ()


def test_seated_high_released_and_brought_up_low_is_no_fall():
    loosened = [FALLING[0], {"id": "free", "kind": "loosen"}, FALLING[1]]
    assert doubts(wheel_spec(steps=loosened)) == ()


def test_what_this_version_cannot_play_may_go_on_file():
    require_sound(wheel_spec(steps=[*SHORT, ANGLE]))


@pytest.mark.parametrize(
    "spec",
    [with_thread("stud"), wheel_spec(steps=[{"id": "a", "kind": "torque", "of": "bolt"}]), wheel_spec(finals={})],
)
def test_what_is_refused(spec):
    with pytest.raises(Invalid):
        require_sound(spec)
