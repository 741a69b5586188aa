"""Every way of tightening on the one screen: joints of the demo, each from its first task to its card."""

import asyncio
import base64
import re
import threading
from uuid import uuid4

from playwright.sync_api import expect

from tests.waiting import PATIENCE_S
from tight_ledger.demo.load import demo_id
from tight_ledger.devices.simulated import SimulatedWrench


def figures(prompt):
    """What a gauge would show in the middle of the band."""
    return str((float(prompt["band"]["low"]) + float(prompt["band"]["high"])) / 2) if prompt["band"] else "0.1"


def lead_through(tablet, hand, run):
    """By what the screen asks, to its end; the server says only what it asks for."""
    page, asked = tablet.page, []
    tablet.open(f"/runs/{run}")
    while (now := hand.now(run))["prompt"]["ask"] != "finish":
        prompt = now["prompt"]
        asked.append((prompt["ask"], prompt["fastener"]))
        if prompt["ask"] == "measure":
            page.get_by_role("textbox", name="reading").fill(figures(prompt))
            tablet.later()
            page.get_by_role("button", name=re.compile("read", re.IGNORECASE)).last.click()
        elif prompt["ask"] == "choose":
            page.get_by_role("group", name="choose").get_by_role("button").first.click()
        else:
            act = prompt["acts"][0]
            name = f"{prompt['name']} {act['say']}" if act["of_fastener"] and prompt["name"] else act["say"]
            expect(tablet.button(f"{name} tap, space bar")).to_be_visible()
            tablet.space()
        page.wait_for_function(f"""async () => (await (await fetch('/api/runs/{run}/now')).json()).seq > {now["seq"]}""")
        expect(page.get_by_test_id("seq")).to_have_attribute("data-seq", re.compile(rf"^(?!{now['seq']}$)"))
    tablet.ends_good()
    expect(page).to_have_url(re.compile("/card$"))
    tablet.sees("Every entry's seal holds.")
    return asked


def kinds(asked):
    """Asks one after the other, each with how often it came in a row; not those that set a wrench or confirm a task."""
    found = []
    for ask in (ask for ask, _ in asked if ask not in ("confirm", "set")):
        if found and found[-1][0] == ask:
            found[-1][1] += 1
        else:
            found.append([ask, 1])
    return [tuple(row) for row in found]


class TestJoints:
    def test_a_head_in_three_stages_and_two_angles_with_two_sizes_of_bolt(self, tablet, tam):
        run = tam.begin("Aldermoor Lapwing", "Cylinder head", "10", [("engine", "AL4")])
        asked = lead_through(tablet.sign_in(), tam, run)
        assert kinds(asked) == [("click", 30), ("angle", 20)]
        assert len({fastener for _, fastener in asked if fastener}) == 10

    def test_five_main_caps_seated_released_pulled_and_turned(self, tablet, tam):
        run = tam.begin("Aldermoor Lapwing", "Main bearing caps", "5", [("engine", "AL4")])
        asked = lead_through(tablet.sign_in(), tam, run)
        assert kinds(asked)[:4] == [("click", 10), ("loosen", 10), ("click", 10), ("angle", 10)]

    def test_a_rocker_shaft_down_two_turns_at_a_time(self, tablet, tam):
        run = tam.begin("Aldermoor Lapwing", "Rocker shaft", "9", [("engine", "AL4")])
        asked = lead_through(tablet.sign_in(), tam, run)
        assert [fastener for ask, fastener in asked if ask == "turn"][:9] != []
        assert kinds(asked)[-1] == ("click", 18) or ("click", 18) in kinds(asked)

    def test_a_flywheel_against_a_counter_hold(self, tablet, tam):
        run = tam.begin("Fennick Causeway 12", "Flywheel", "8")
        assert kinds(lead_through(tablet.sign_in(), tam, run)) == [("click", 16), ("turned", 8)]

    def test_a_hub_with_a_one_piece_nut_ends_with_its_play(self, tablet, tam):
        run = tam.begin("Stourholm Curlew 4", "Rear hub, one-piece nut", "1 with lock ring", axle="rear", side="right")
        asked = kinds(lead_through(tablet.sign_in(), tam, run))
        assert (asked[0][0], asked[1][0], asked[-1][0]) == ("click", "loosen", "measure")

    def test_a_wheel_of_twenty(self, tablet, tam):
        run = tam.begin("Stourholm Heron 45", "Drive wheel nuts", "20 studs, wedge ring", axle="front", side="left", place="outer")
        assert ("click", 60) in kinds(lead_through(tablet.sign_in(), tam, run))


def test_degrees_are_typed_swing_by_swing_and_what_is_left_stands_large(tablet, tam):
    """A swing of 78 on a 120° step leaves 42 (common practice, no source)."""
    spec = {
        "title": "Odd bolts", "joint": "cover", "applies_to": [{"maker": "Fennick", "model": uuid4().hex[:6]}], "id": str(uuid4()),
        "proof": {"ask": "How many?", "options": ["2", "1"], "answer": "1"}, "source": {"document": "a book"},
        "layout": {
            "fasteners": [{"label": "1", "kind": "bolt", "x_mm": 0, "y_mm": 0}], "orders": {"main": ["1"]},
            "kinds": {"bolt": {"thread": "M12", "noun": "bolt", "property_class": "10.9", "yields": True}},
        },
        "procedures": {"tighten": [
            {"id": "snug", "kind": "torque", "at": {"quantity": "torque", "low": 56, "high": 64}},
            {"id": "turn", "kind": "angle", "at": {"quantity": "angle", "low": 115, "high": 125, "target": 120}},
        ]},
    }  # fmt: skip
    assert tam.http.post("/api/specs", json=spec, params={"affirmed": "figure"}).status_code == 201
    machine = tam.machine(f"Fennick {spec['applies_to'][0]['model']}", meters=())
    run = tam.start(machine, spec=spec["id"], proof="1", position={}, wrench=str(demo_id("wrench", "W-02 half-inch")))
    tam.go_on(run, until="turn:1")
    page = tablet.sign_in().open(f"/runs/{run}").page
    tablet.sees("0° of 120° are recorded. Where does the mark stand?")
    tablet.tap("Where it stood, at 0°")
    expect(page.get_by_test_id("seq")).to_have_attribute("aria-busy", "false")
    tablet.tap("Type degrees")
    page.get_by_role("textbox", name="reading").fill("78")
    tablet.tap("bolt read 78°")
    expect(page.get_by_test_id("figure")).to_have_text("42°")
    tablet.tap("Pause")
    tablet.tap("end of shift")
    tablet.page.reload()
    tablet.sees("Tam Reddick left it at")
    tablet.sees("end of shift")
    tablet.sees("78° of 120° are recorded. Where does the mark stand?")
    expect(tablet.button("clicked")).to_have_count(0)
    tablet.tap("Elsewhere: type the degrees")
    page.get_by_role("textbox", name="Degrees in all").fill("144")
    tablet.tap("The mark stands at 144°")
    tablet.sees("Done, but not good.")
    tablet.sees("bolt: past its angle into yield")


def test_a_head_by_the_wrench_on_the_line_and_no_tap(tablet, tam, shop):
    """The screen goes on by itself, shows what the wrench shows, and ends with the curves on the card."""
    run = tam.begin("Aldermoor Lapwing", "Cylinder head", "10", [("engine", "AL4")])
    tam.go_on(run, until=next(pass_["id"] for pass_ in tam.now(run)["passes"] if not pass_["task"]) + ":3")
    page = tablet.sign_in().open(f"/runs/{run}").page
    tablet.tap("Wrench on the line")
    tablet.tap("Pair a wrench")
    expect(page.get_by_text("Tell the wrench:")).to_be_visible()
    code = page.get_by_text("Tell the wrench:").locator("b").inner_text()
    wrench = SimulatedWrench(f"{shop.url.replace('http', 'ws')}/api/devices", code, manner="fast", **shop.instrument())
    pulling = threading.Thread(target=lambda: asyncio.run(wrench.work()))
    pulling.start()
    expect(page.get_by_role("region", name="live")).to_be_visible()
    expect(page.get_by_text("All done.")).to_be_visible()
    pulling.join(PATIENCE_S)
    tablet.tap("Finish")
    tablet.tap("Good: end it")
    expect(page.get_by_role("img", name="angle 2 of 2: 10 curves")).to_be_visible()
    assert tablet.violations() == []


def test_a_wrench_in_the_browser_is_held_and_let_go(tablet, tam):
    run = tam.begin("Fennick Causeway 12", "Flywheel", "8")
    tam.go_on(run, until=next(pass_["id"] for pass_ in tam.now(run)["passes"] if not pass_["task"]) + ":1")
    before = tam.now(run)["seq"]
    page = tablet.sign_in().open(f"/runs/{run}").page
    tablet.tap("Wrench on the line")
    tablet.tap("slow", exact=True)
    tablet.press_down("Hold to pull")
    expect(page.get_by_role("region", name="live")).to_be_visible()
    page.mouse.up()
    expect(page.get_by_test_id("seq")).to_have_attribute("data-seq", str(before + 1))
    tablet.sees("below the band")
    tablet.tap("Battery low")
    tablet.sees("The wrench says: battery")


def test_a_pause_a_note_and_a_photo_stand_on_the_card(tablet, tam, tmp_path):
    photo = tmp_path / "seat.png"
    photo.write_bytes(base64.b64decode("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="))
    run = tam.start()
    page = tablet.sign_in().open(f"/runs/{run}").page
    tablet.tap("Pause")
    tablet.tap("the phone")
    tablet.sees(": the phone.")
    tablet.tap("Not done")
    tablet.tap("Note, photo")
    page.get_by_label("note", exact=True).fill("seat of 4 is rusty")
    page.get_by_label("photo", exact=True).set_input_files(photo)
    tablet.tap("Keep it")
    expect(page.get_by_label("note", exact=True)).to_be_hidden()
    tablet.open(f"/runs/{run}/card")
    tablet.unfold("Recorded: ")
    tablet.sees("paused (the phone)")
    tablet.sees("noted (seat of 4 is rusty)")
    expect(page.get_by_role("img", name="kept with this entry")).to_be_visible()
