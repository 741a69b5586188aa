"""The machine from above: where its wheels are drawn, and what each place says."""

from datetime import UTC, datetime
from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import wheel_spec
from tests.examples import examples
from tight_ledger.core.machines.form import SIZES, Axle, Form, drawing_of
from tight_ledger.core.machines.positions import Position, Positions
from tight_ledger.core.runs.machine_map import DueAt, JointKnown, machine_map

BUS = Form(body="bus", axles=(Axle(name="front"), Axle(name="rear", duals=True)), engine="rear", cylinders=6)
WHEEL = wheel_spec(positions=Positions(axles=("front", "rear"), sides=("left", "right")), system="wheels and hubs")
HEAD = wheel_spec(title="Head", joint="head", id=UUID(int=8), system="engine", site="top")
REAR = Position(axle="rear", side="left")


def known(standing, *, touched=True):
    return JointKnown(
        position=REAR, joint="wheel", standing=standing, run=UUID(int=1), at=datetime(2026, 3, 2, tzinfo=UTC), touched=touched
    )


@examples(200)
@given(
    body=st.sampled_from(sorted(SIZES)), duals=st.lists(st.booleans(), max_size=9), engine=st.sampled_from([None, "front", "middle", "rear"]),
    hitch=st.sampled_from([None, "front", "rear"]), boom=st.booleans(),
)  # fmt: skip
def test_every_wheel_is_drawn_once_on_its_side_and_inside_the_picture(body, duals, engine, hitch, boom):
    axles = tuple(Axle(name=f"axle {number}", duals=each) for number, each in enumerate(duals))
    drawing = drawing_of(Form(body=body, axles=axles, engine=engine, hitch=hitch, boom=boom))
    wheels = [spot for spot in drawing.spots if spot.wheel]
    assert len({spot.key for spot in drawing.spots}) == len(drawing.spots)
    assert len(wheels) == 2 * sum(2 if each else 1 for each in duals)
    assert all((spot.x_mm < 0) == ("/left/" in spot.key) for spot in wheels)
    assert all(abs(spot.x_mm) + spot.width_mm / 2 <= drawing.width_mm / 2 for spot in drawing.spots)
    for axle in axles:
        outer, inner = (
            next((s for s in wheels if s.key == Position(axle=axle.name, side="right", place=place).key), None)
            for place in ("outer", "inner")
        )
        if axle.duals:
            assert outer.x_mm - outer.width_mm / 2 >= inner.x_mm + inner.width_mm / 2


@pytest.mark.parametrize(
    ("standing", "touched", "due", "state"),
    [
        ("good", True, None, "done"), ("released", True, "waiting", "done"), ("good", True, "due", "due"), ("good", True, "overdue", "overdue"),
        ("do not move", True, None, "do not move"), (None, True, None, "open"), ("abandoned", False, None, "never recorded"),
        ("abandoned", True, None, "do not move"),
    ],
)  # fmt: skip
def test_a_place_says_how_its_joint_stands(standing, touched, due, state):
    dues = [DueAt(position_key=REAR.key, joint="wheel", status=due, words="after 80 km", procedure="retorque")] if due else []
    found = machine_map(BUS, [WHEEL], [known(standing, touched=touched)], dues)
    spots = {spot.key: spot for spot in found.spots}
    assert spots["rear/left/outer"].state == state  # the joint has no inner and outer: it is drawn at the outer wheel
    assert spots["front/left/"].state == "never recorded"
    assert spots["rear/left/outer"].joints[0].procedure == ("retorque" if due else "tighten")


def test_an_engine_has_its_own_drawing_and_a_machine_without_a_form_a_list():
    found = machine_map(BUS, [WHEEL, HEAD], [], [])
    assert [(row.site, [joint.title for joint in row.joints]) for row in found.engine] == [("top", ["Head"])]
    assert "engine" in {spot.key for spot in found.spots}
    bare = machine_map(None, [WHEEL, HEAD], [], [])
    assert (bare.drawing, len(bare.spots)) == (None, 5)
