"""The wrench that can do it, set right, on the screen."""

from uuid import uuid4

import pytest
from playwright.sync_api import expect

from tests.core.play import wheel_spec
from tests.shop import BUS_SPEC
from tight_ledger.demo.load import demo_id

ONCE = [{"id": "a", "kind": "torque", "share": 1}]


@pytest.fixture
def joint(tam):
    """A machine of a model of its own, and a spec for it at a torque."""

    def make(torque, steps=ONCE):
        model = uuid4().hex[:6]
        spec = wheel_spec(
            10, condition="clean and dry", torque=torque, id=uuid4(), steps=steps, applies_to=[{"maker": "Fennick", "model": model}]
        )
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
    tablet.sees("150 line, its number on the left, then thimble on to 8. Lock it.")
    expect(page.get_by_role("img", name="158 lbf·in: 150 line, its number on the left")).to_be_visible()
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
    crib = tam.get("/api/tools")
    assert len(crib["out_of_reach"]) == min(len(crib["coverage"]["missing"]), 50)
    page.get_by_label("out of reach", exact=True).get_by_role("link").first.click()
    expect(page.get_by_role("region", name="figure")).to_be_visible()


def test_a_crowfoot_dragged_from_straight_to_square(tablet, joint):
    """On a lever of 430 a crowfoot of 50: × 0.8958 straight on, no change at 90° (derived)."""
    page = tablet.sign_in().open(joint("95–105 N·m")).page
    tablet.tap("W-02 half-inch 40–210")
    tablet.sees("100 line, thimble on 0. Lock it.")
    page.get_by_text("On its end, and how it is held").click()
    tablet.tap("A-02 crowfoot, half-inch")
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
    tablet.sees("Square to the handle the A-02 crowfoot, half-inch changes nothing.")
    tablet.sees("100 line, thimble on 0. Lock it.")
    tablet.tap("take A-02 crowfoot, half-inch off")
    page.get_by_role("textbox", name="A crowfoot that is not here, mm").fill("60")
    tablet.sees("asks for a lower setting: × 0.8776.")


def test_a_multiplier_says_what_its_arm_does(tablet, joint):
    """400 through 5 to 1 at 92 % is 86.96 at the wrench (derived)."""
    page = tablet.sign_in().open(joint("390–410 N·m")).page
    page.get_by_text("On its end, and how it is held").click()
    tablet.tap("M-01 multiplier")
    tablet.tap("W-01 small half-inch")
    tablet.sees("80 line, then thimble on to 7. Lock it.")
    tablet.sees("321 N·m on the arm")
    tablet.sees("It swings anticlockwise, against the way you pull.")
    tablet.sees("it crushes a hand")


def test_two_wrenches_share_what_none_does_alone(tablet, joint):
    """From 7 N·m in the first stage to 90 in the last: no single wrench reaches both."""
    steps = [{"id": "a", "kind": "torque", "share": 0.08}, {"id": "b", "kind": "torque", "share": 1}]
    page = tablet.sign_in().open(joint("88–92 N·m", steps)).page
    tablet.sees("No wrench in the crib does all of it as it is.")
    tablet.tap("Take these 2 wrenches")
    expect(page.get_by_role("region", name="several wrenches")).to_contain_text("a: W-03 quarter-inch")
    tablet.tap("10", exact=True)
    tablet.tap("Start", exact=True)
    for task in ("Threads and seats", "W-03 quarter-inch is whole and read in lbf·in; W-10 electronic is whole and read in N·m"):
        tablet.tap(task)
    expect(page.get_by_role("banner")).to_contain_text("W-03 quarter-inch")


def test_a_lead_uses_a_barred_wrench_with_a_reason_that_stands_on_the_card(tablet, joint):
    page = tablet.sign_in("Ines Okoro").open(joint("95–105 N·m")).page
    tablet.tap("W-13 spare half-inch")
    page.get_by_role("textbox", name="Why may it be used all the same?").fill("held against the dial this morning")
    tablet.tap("Use it", exact=True)
    tablet.tap("10", exact=True)
    tablet.tap("Start", exact=True)
    tablet.sees("W-13 spare half-inch is whole and read in N·m")
    tablet.open(f"{page.url}/card".replace("//card", "/card"))
    tablet.sees("used all the same: held against the dial this morning")


def test_a_drop_sets_a_wrench_aside_and_lists_its_runs(tablet, tam):
    """One tap; the runs since its last good check; looked at, with what was done."""
    name = f"Spare {uuid4().hex[:6]}"
    page = tablet.sign_in().open("/add/tool").page
    for label, text in {
        "Name": name,
        "Lowest mark": "140",
        "Highest mark": "760",
        "Step between two marks": "5",
    }.items():
        page.get_by_role("textbox", name=label, exact=True).fill(text)
    tablet.tap("1 in", exact=True)
    tablet.tap("Put it into the crib")
    expect(page.get_by_role("button", name="Put it into the crib")).to_be_hidden()
    wrench = next(tool["id"] for tool in tam.get("/api/tools")["tools"] if tool["name"] == name)
    run = tam.start(wrench=wrench)
    tam.go_on(run)
    tam.finish(run)
    tablet.open(f"/crib/{wrench}")
    tablet.sees("No check on file")
    tablet.tap("Dropped")
    tablet.sees("Set aside: dropped.")
    tablet.sees("1 run since then, 1 still to be looked at.")
    doubted = page.get_by_role("region", name="runs in doubt")
    expect(doubted.get_by_role("link")).to_contain_text("rear left, Rear wheel nuts")
    tablet.tap("Looked at")
    page.get_by_role("textbox", name="what was found and done").fill("re-torqued with W-11")
    tablet.tap("Keep it")
    tablet.sees("Looked at: re-torqued with W-11")
    tablet.open(f"/specs/{BUS_SPEC}/prepare?machine={tam.machine()}")
    expect(tablet.button(name)).to_be_disabled()
    tablet.sees(f"{name}: Set aside: dropped.")


def test_a_check_is_handed_in_with_its_certificate(tablet, tam, tmp_path):
    paper = tmp_path / "certificate.pdf"
    paper.write_bytes(b"%PDF-1.7 made up")
    wrench = str(uuid4())
    tool = {"kind": "wrench", "id": wrench, "name": f"T-{wrench[:6]}", "drive": "1/2 in", "unit": "N·m", "lowest": 20, "highest": 110}
    assert tam.add_tool(tool | {"graduation": 1}).status_code == 201
    page = tablet.sign_in().open(f"/crib/{wrench}").page
    tablet.tap("Hand in a check")
    for mark, readings in (("22", "21.8 21.9 21,7"), ("66", "62 62 62"), ("110", "109 110 111")):
        page.get_by_role("textbox", name=f"Set to {mark}: as found").fill(readings)
    page.get_by_role("textbox", name="Who checked it").fill("Quayside Metrology")
    page.get_by_label("The certificate, as PDF or photo").set_input_files(paper)
    tablet.tap("Hand it in")
    tablet.sees("Out of tolerance as found (±4 %).")
    tablet.sees("Its last check failed.")
    leads_to = page.get_by_role("link", name="the paper").get_attribute("href")
    assert tam.http.get(leads_to).content == paper.read_bytes()
    assert tablet.violations() == []


def test_a_hand_scanner_types_the_tag_into_the_search(tablet):
    page = tablet.sign_in().page
    page.get_by_role("searchbox").press_sequentially(f"{tablet.page.url.rstrip('/')}/crib/{demo_id('wrench', 'W-11 one-inch')}")
    expect(page.get_by_role("heading", name="W-11 one-inch")).to_be_visible()
