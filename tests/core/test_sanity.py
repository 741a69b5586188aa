"""What is refused before a spec goes on file, and what is only asked about."""

import pytest

from tests.core.play import SHORT, wheel_spec
from tight_ledger.core.base import Invalid
from tight_ledger.core.patterns import bolt_circle
from tight_ledger.core.sanity import doubts, require_sound

ANGLE = {"id": "turn", "kind": "angle", "at": {"quantity": "angle", "low": 85, "high": 95}}
FALLING = [{"id": "a", "kind": "torque", "share": 1}, {"id": "b", "kind": "torque", "share": 0.4}]


def with_thread(thread, name=""):
    return wheel_spec(layout=bolt_circle(count=10, diameter_mm=335, kind="stud", thread=thread, property_class=name))


def test_an_honest_wheel_is_sound_and_undoubted():
    require_sound(wheel_spec())
    assert doubts(wheel_spec()) == ()


@pytest.mark.parametrize(
    ("spec", "said"),
    [
        (wheel_spec(steps=FALLING), "asks for less than the step before"),
        (with_thread("M10", "8.8"), "far over what M10 8.8 can bear"),
        (wheel_spec(torque="6–7 N·m"), "under a tenth of what holds M22×1.5"),
    ],
)
def test_what_is_asked_about(spec, said):
    require_sound(spec)
    asked = doubts(spec)
    assert len(asked) == 1
    assert said in asked[0]


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
