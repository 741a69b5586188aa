"""The wrench that can do it, set right, on the screen."""

from uuid import uuid4

import pytest
from playwright.sync_api import expect

from tests.core.play import wheel_spec


@pytest.fixture
def joint(tam):
    """A machine of a model of its own, and a spec for it at a torque."""

    def make(torque):
        model = uuid4().hex[:6]
        steps = [{"id": "a", "kind": "torque", "share": 1}]
        spec = wheel_spec(8, torque=torque, id=uuid4(), steps=steps, applies_to=[{"maker": "Fennick", "model": model}])
        layout = spec.layout.model_copy(update={"kinds": {"stud": spec.layout.kinds["stud"].model_copy(update={"thread": "M8"})}})
        body = spec.model_copy(update={"layout": layout}).model_dump(mode="json")
        assert tam.http.post("/api/specs", json=body, params={"affirmed": "figure"}).status_code == 201
        return f"/specs/{spec.id}/prepare?machine={tam.machine(f'Fennick {model}')}"

    return make


def test_a_head_at_13_2_lbf_ft_and_a_wrench_that_starts_at_15(tablet, joint):
    """The three-eighths wrench cannot do it; the quarter-inch one is set in its own unit."""
    page = tablet.sign_in().open(joint("13.2 lbf·ft")).page
    expect(tablet.button("W-04")).to_be_disabled()
    tablet.sees("W-04 three-eighths starts at 15 lbf·ft")
    tablet.tap("W-03 quarter-inch")
    tablet.sees("150 line, then thimble on to 8. Lock it.")
    expect(page.get_by_role("img", name="158 lbf·in: 150 line")).to_be_visible()
    page.get_by_text("Set already? Say what you see.").click()
    page.get_by_role("textbox", name="Last line").fill("150")
    page.get_by_role("textbox", name="Thimble").fill("6")
    tablet.sees("156 lbf·in")
    page.get_by_role("textbox", name="Last line").fill("155")
    tablet.sees("There is no line 155 on this scale.")


def test_87_5_on_a_whole_number_scale_goes_to_the_mark_inside(tablet, joint):
    tablet.sign_in().open(joint("87.5–91 N·m"))
    tablet.tap("W-01 small half-inch")
    tablet.sees("80 line, then thimble on to 9. Lock it.")


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("W-08 beam", "Pull until the pointer shows 90, looking straight at it."),
        ("W-10 electronic", "Key in 89.2, and look that the unit shown is N·m."),
    ],
)
def test_every_construction_is_drawn_its_own_way(tablet, joint, name, words):
    tablet.sign_in().open(joint("87.5–91 N·m"))
    tablet.tap(name)
    tablet.sees(words)


def test_the_crib_shows_its_holes_and_what_to_buy(tablet, tam, joint):
    joint("0.8–0.9 N·m")
    page = tablet.sign_in().page
    page.get_by_role("link", name="Crib").click()
    tablet.sees("out of reach of the")
    expect(page.get_by_role("img", name="out of reach")).to_be_visible()
    tablet.sees("One wrench more would reach")
    crib = tam.get("/api/crib")
    assert len(crib["out_of_reach"]) == min(len(crib["coverage"]["missing"]), 50)
    page.get_by_label("out of reach", exact=True).get_by_role("link").first.click()
    tablet.sees("as written")


def test_a_crowfoot_dragged_from_straight_to_square(tablet, joint):
    """On a lever of 430 a crowfoot of 50: × 0.8958 straight on, no change at 90° (derived)."""
    page = tablet.sign_in().open(joint("95–105 N·m")).page
    tablet.tap("W-02 half-inch")
    tablet.sees("100 line, thimble on 0. Lock it.")
    page.get_by_role("textbox", name="Crowfoot, mm").fill("50")
    tablet.sees("asks for a lower setting: × 0.8958. Hold the grip in its middle")
    tablet.sees("90 line, thimble on 0. Lock it.")
    picture = page.get_by_role("img", name="crowfoot of 50 mm at 0 degrees")
    picture.scroll_into_view_if_needed()
    box = picture.bounding_box()
    drive_x, drive_y = box["x"] + box["width"] * (40 + 430 / 550 * 400) / 600, box["y"] + box["height"] / 2
    page.mouse.move(drive_x + 40, drive_y)
    page.mouse.down()
    page.mouse.move(drive_x + 30, drive_y - 30, steps=4)
    page.mouse.move(drive_x, drive_y - 45, steps=4)
    page.mouse.up()
    tablet.sees("Angle to the handle: 90°")
    tablet.sees("Square to the handle the crowfoot changes nothing.")
    tablet.sees("100 line, thimble on 0. Lock it.")
