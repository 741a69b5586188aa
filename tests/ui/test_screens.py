"""Every screen: nothing for axe to find in light and dark; an empty shop walks its first person through."""

import gzip
import re
from uuid import uuid4

import pytest
from playwright.sync_api import expect

from tests.shop import BUS_SPEC, PINS, ROOT, Shop
from tests.ui.tablet import Tablet
from tight_ledger.demo.load import demo_id

FRONT = demo_id("spec", "Fennick Causeway 12 Front wheel nuts")
SB05 = demo_id("machine", "SB-05")


MOVED = """() => new Promise(done => {
  let sum = 0;
  const add = (list) => list.getEntries().forEach(shift => { sum += shift.value; });
  new PerformanceObserver(add).observe({ type: 'layout-shift', buffered: true });
  setTimeout(() => done(sum), 50);
})"""


OUT_OF_SIGHT = """() => [...document.querySelectorAll('.btn-primary:not([aria-pressed], li *)')].filter(key => key.checkVisibility()).filter(key => {
  const box = key.getBoundingClientRect();
  const on_top = document.elementFromPoint(box.x + box.width / 2, box.y + box.height / 2);
  return box.top < 0 || box.bottom > innerHeight || !on_top || !(key.contains(on_top) || on_top.contains(key));
}).map(key => key.textContent)"""
"""Main keys that one has to look for, or that something else covers; not those of the lines of a list."""


def settle(tablet, heading):
    expect(tablet.page.get_by_text(heading).first).to_be_visible()
    expect(tablet.page.locator("[aria-busy=true]")).to_have_count(0)
    tablet.comes_to_rest()


def test_axe_finds_nothing_and_nothing_moves_while_a_screen_loads(chromium, shop, ines):
    """Lying, by day, by all rules; upright and at night by those that hang on it."""
    half, done = ines.start(), ines.start()
    ines.go_on(half, until="s2:3")
    ines.post(half, ines.entry("pulled", pull="s2:1", fastener="1", how="click"))
    fresh = ines.start()
    ines.go_on(done, moved=lambda pull: pull.endswith(":4"))
    ines.finish(done, "do not move")
    tablet = Tablet(chromium, shop, scheme="light", width=1280, height=800)
    found, shifted = {}, {}

    def look(name):
        found[name] = tablet.violations() + tablet.page.evaluate(OUT_OF_SIGHT)
        if tablet.page.get_by_role("link", name="how this is done").count() != 1:
            found[f"{name}, no question mark"] = "one is wanted"
        tablet.page.emulate_media(color_scheme="dark")
        tablet.page.set_viewport_size({"width": 800, "height": 1280})
        tablet.comes_to_rest()
        found[f"{name}, upright at night"] = tablet.violations("color-contrast", "target-size") + tablet.page.evaluate(OUT_OF_SIGHT)
        tablet.page.emulate_media(color_scheme="light")
        tablet.page.set_viewport_size({"width": 1280, "height": 800})

    tablet.open("/")
    tablet.tap("Tam Reddick")
    settle(tablet, "Tam Reddick, your PIN")
    look("door")
    tablet.sign_in_by_keyboard("Ines Okoro")
    for name, path, heading in (
        ("home", "/", "In the bay"),
        ("machine", f"/machines/{SB05}", "Done here"),
        ("results", f"/?machine={SB05}", "Rear wheel nuts"),
        ("spec", f"/specs/{BUS_SPEC}?machine={SB05}", "565–605 N·m"),
        ("compare", f"/specs/{FRONT}/compare?old=1&new=2", "lines changed"),
        ("question", f"/?machine={demo_id('machine', 'SV-12')}", "One question first"),
        ("prepare", f"/specs/{BUS_SPEC}/prepare?machine={SB05}", "What do you see on this hub?"),
        ("checklist", f"/runs/{fresh}", "Before the first pull"),
        ("tighten", f"/runs/{half}", "You are back."),
        ("card", f"/runs/{done}/card", "Do not move"),
        ("add machine", "/add/machine", "Maker and model"),
        ("add spec", "/add/spec", "Torque, as written"),
        ("add file", "/add/file", "A CSV, XLSX or JSON file"),
        ("crib", "/crib", "out of reach of the"),
        ("model", "/models?maker=Aldermoor&model=Lapwing", "What separates one from another"),
        ("whole spec", f"/specs/{BUS_SPEC}/edit", "The plan, pull by pull"),
        ("add tool", "/add/tool", "Lowest mark"),
        ("tool", f"/crib/{demo_id('wrench', 'W-13 spare half-inch')}", "In doubt"),
        ("people", "/people", "Put somebody on the list"),
        ("shop", "/shop", "Where mechanics disagree"),
        ("tablets", "/tablets", "Lost or sold"),
        ("add person", "/add/person", "Roles"),
        ("instruments", "/instruments", "Register it"),
        ("my PIN", "/me", "Signed in"),
        ("week", "/week", "How the work ended"),
        ("records", "/records", "Kept from erasure"),
        ("notices", "/notices", "wrench in doubt"),
        ("guide", "/guide/hub", "A hub bearing"),
        ("engine", f"/machines/{SB05}?place=engine", "Connecting rod caps"),
    ):
        tablet.open(path)
        settle(tablet, heading)
        if (moved := tablet.page.evaluate(MOVED)) >= 0.05:
            shifted[name] = moved
        look(name)
        if name == "tighten":
            tablet.tap("Not pulled")
            settle(tablet, "pulled another?")
            look("tighten, going on")
            tablet.tap("End", exact=True)
            settle(tablet, "Not good:")
            look("ending")
    assert ({name: what for name, what in found.items() if what}, shifted) == ({}, {})
    tablet.close()


def test_the_page_does_not_move_when_the_server_goes_away(tablet, tam):
    moved, run = {}, tam.begun()
    tablet.sign_in()
    for path in ("/", f"/?machine={SB05}", "/crib", f"/runs/{run}"):
        tablet.open(path)
        tablet.sees(
            "space bar" if "runs" in path else "Rear wheel nuts" if "machine" in path else "W-" if path == "/crib" else "In the bay"
        )
        before = tablet.page.evaluate(MOVED)
        tablet.page.route("**/api/health", lambda route: route.abort())
        tablet.sees("The server is away.")
        moved |= {path: after} if (after := tablet.page.evaluate(MOVED) - before) > 0.01 else {}
        tablet.page.unroute("**/api/health")
    assert moved == {}


WIDE = "[document.documentElement.scrollWidth, document.querySelector('main').scrollWidth - document.querySelector('main').clientWidth]"


def test_on_a_phone_nothing_scrolls_sideways_no_main_key_is_out_of_sight_and_the_run_keeps_its_drawing(chromium, shop, tam):
    phone = Tablet(chromium, shop, width=390, height=844).sign_in()
    run, done = tam.start(), tam.start()
    tam.go_on(run, until="s2:3")
    tam.go_on(done)
    tam.finish(done)
    wide, hidden = {}, {}
    for path, heading in (
        (f"/runs/{done}/card", "Good"), (f"/specs/{BUS_SPEC}?machine={SB05}", "565–605 N·m"),
        ("/", "In the bay"), (f"/machines/{SB05}", "Done here"), ("/week", "How the work ended"), ("/notices", "Notices and recalls"),
        ("/records", "Kept from erasure"),
        (f"/specs/{BUS_SPEC}", "565–605 N·m"), (f"/specs/{BUS_SPEC}/prepare?machine={SB05}", "What do you see on this hub?"),
        ("/crib", "out of reach of the"), ("/shop", "Where mechanics disagree"), ("/add/spec", "Torque, as written"),
        ("/add/tool", "Lowest mark"), (f"/specs/{BUS_SPEC}/edit", "The plan, pull by pull"), ("/guide/first-wheel", "in five minutes"),
        (f"/runs/{run}", "You are back."),
    ):  # fmt: skip
        phone.open(path)
        settle(phone, heading)
        page, main = phone.page.evaluate(WIDE)
        wide |= {path: (page, main)} if page > 390 or main > 0 else {}
        hidden |= {path: keys} if (keys := phone.page.evaluate(OUT_OF_SIGHT)) else {}
    assert (wide, hidden) == ({}, {})
    phone.tap("Not pulled")
    box = phone.page.get_by_role("group", name="10 fasteners").bounding_box()
    assert min(box["width"], box["height"]) >= 150
    assert phone.violations() == []
    phone.close()


def test_nothing_on_file_says_so_with_the_way_on(tablet):
    tablet.sign_in().page.keyboard.type("drum brake")
    tablet.sees("No spec on file for “drum brake”.")
    tablet.page.get_by_role("link", name="Enter a spec").click()
    tablet.sees("Torque, as written")


def test_the_one_question_and_a_second_person(tablet, tam):
    """Near-twins ask one question; a figure from the wrong column asks; a typed spec waits for a second person."""
    van = tam.machine("Aldermoor Lapwing")
    page = tablet.sign_in().open(f"/?machine={van}").page
    tablet.sees("One question first: which wheel")
    expect(page.get_by_role("link", name="Wheel nuts, steel wheel")).to_be_visible()
    tablet.tap("alloy cast spokes")
    expect(page.get_by_role("link", name="Wheel nuts, steel wheel")).to_have_count(0)
    model = f"Slip {uuid4().hex[:4]}"
    tablet.open("/add/spec")
    typed = {
        "Maker and model": f"Marrowby {model}",
        "Torque, as written": "110 lbf·ft",
        "Thread": "M8",
        "Document": "a page",
    }
    for label, text in typed.items():
        page.get_by_role("textbox", name=label).fill(text)
    tablet.tap("6", exact=True)
    tablet.tap("8.8", exact=True)
    tablet.sees("about 25.5 N·m: 75 % of proof load")
    tablet.tap("Put it on file, unchecked")
    tablet.sees("Say how many there are")
    for answer in ("clean and dry", "after 14 days", "this shop's own way"):
        tablet.tap(answer)
    tablet.tap("Put it on file, unchecked")
    tablet.sees("is far over what M8 8.8 can bear")
    page.get_by_role("textbox", name="Torque, as written").fill("110 lbf·in")
    tablet.tap("Put it on file, unchecked")
    tablet.sees("unchecked, entered by Tam Reddick")
    tablet.tap("I have held it against its document")
    tablet.sees("Who entered a spec does not check it.")
    page.context.clear_cookies(name="tight_session")
    tablet.sign_in("Ines Okoro")
    page.get_by_role("link", name=f"Marrowby {model}").click()
    tablet.tap("I have held it against its document")
    tablet.sees("checked by a second person")


def test_a_wrong_pin_and_a_wrong_hub(tablet, tam):
    tablet.open("/")
    tablet.at_the_door("Wren Halloway", "0000")
    tablet.sees("This is not the PIN.")
    tablet.sign_in().open(f"/specs/{BUS_SPEC}/prepare?machine={tam.machine()}")
    tablet.tap("rear right")
    tablet.tap("W-07")
    tablet.tap("8 studs, M20")
    tablet.tap("Start", exact=True)
    tablet.sees("You see “8 studs, M20”; this spec is for “10 studs, M22”.")


@pytest.fixture
def empty_shop(tmp_path):
    """A shop without the demo, before its first person; stopped whatever becomes of the test."""
    with Shop(tmp_path / "data", "--empty") as running:
        yield running


def test_a_first_shop_from_nothing(chromium, empty_shop):
    tablet = Tablet(chromium, empty_shop, known=None)
    page = tablet.open("/").page
    page.get_by_label("Code").fill("00000000")
    page.get_by_label("Name of the shop").fill("Slipway 3")
    page.get_by_label("Your name").fill("Ada Finch")
    page.get_by_label("Your PIN").fill("5083")
    page.get_by_label("Name of this tablet").fill("desk")
    tablet.tap("Set it up")
    tablet.sees("This is not the code.")
    page.get_by_label("Code").fill(empty_shop.setup_code())
    tablet.tap("Set it up")
    tablet.sees("Who are you?")
    PINS["Ada Finch"] = "5083"
    tablet.sign_in_by_keyboard("Ada Finch")
    tablet.sees("Nothing stands open.")
    tablet.counts()
    page.get_by_role("link", name="Add a machine").click()
    page.get_by_label("Fleet number").fill("X-1")
    page.get_by_label("Maker and model").fill("Marrowby Slip 9")
    tablet.tap("Add it")
    tablet.sees("No spec on file")
    page.get_by_role("link", name="Enter a spec").click()
    expect(page.get_by_label("Maker and model")).to_have_value("Marrowby Slip 9")
    for label, text in (("Torque, as written", "110"), ("Thread", "M14×1.5"), ("Document", "Slip 9 book")):
        page.get_by_role("textbox", name=label).fill(text)
    for answer in ("5", "clean and dry", "after 80 km, at", "this shop's own way"):
        tablet.tap(answer, exact=answer == "5")
    tablet.tap("Put it on file, unchecked")
    tablet.sees("The torque has no unit.")
    page.get_by_role("textbox", name="Torque, as written").fill("105–115 Nm")
    tablet.tap("Put it on file, unchecked")
    tablet.sees("unchecked, entered by Ada Finch")
    page.get_by_role("link", name="Prepare X-1").click()
    tablet.sees("No wrench in the crib does all of it as it is.")
    page.get_by_role("link", name="Add a wrench").click()
    tablet.tap("1/2 in, 20–200 N·m, a mark every 1")
    tablet.tap("a line every 10, thimble 0 to 9")
    tablet.tap("Put it into the crib")
    tablet.sees("Nobody has read 1/2 in 20–200 N·m back.")
    for label, text in (("Last line that shows", "110"), ("Mark of the thimble", "9")):
        page.get_by_role("textbox", name=label).fill(text)
    tablet.tap("Put it into the crib")
    for choice in ("front left", "1/2 in 20–200", "5"):
        tablet.tap(choice, exact=choice != "1/2 in 20–200")
    tablet.tap("Start", exact=True)
    tablet.sees("Before the first pull")
    tablet.press_until("nut 1 clicked")
    counted = tablet.counted()
    assert counted["fields"] <= 8, counted  # one of them is the torque, typed again with its unit
    assert counted["presses"] <= 31, counted  # and one for trying it without
    tablet.close()


def test_a_lost_answer_makes_nothing_twice_and_refuses_nothing_that_succeeded(tablet, tam):
    number, run = f"L-{uuid4().hex[:5]}", tam.start()
    tam.go_on(run)
    page = tablet.sign_in().open("/add/machine").page
    page.get_by_role("textbox", name="Fleet number").fill(number)
    page.get_by_role("textbox", name="Maker and model").fill("Marrowby Slip 9")
    tablet.loses_an_answer("**/api/machines")
    tablet.tap("Add it")
    expect(page.get_by_role("searchbox")).to_be_visible()
    assert [machine["fleet_number"] for machine in tam.get("/api/machines")].count(number) == 1
    tablet.open(f"/runs/{run}")
    tablet.tap("End", exact=True)
    tablet.loses_an_answer("**/finish")
    tablet.tap("Good: end it")
    tablet.loses_an_answer("**/sign")
    tablet.tap("Sign as Tam Reddick")
    tablet.sees("Signed: Tam Reddick")
    assert [line["kind"] for line in tam.get(f"/api/runs/{run}/entries")][-2:] == ["finished", "signed"]


def test_the_first_load_is_light():
    page = ROOT / "web" / "dist" / "index.html"
    named = set(re.findall(r"/(assets/[^\"]+\.(?:js|css))", page.read_text()))
    assert named
    assert sum(len(gzip.compress((page.parent / name).read_bytes())) for name in named) < 180_000


def test_nothing_is_fetched_from_elsewhere(chromium, shop):
    tablet = Tablet(chromium, shop)
    asked = []
    tablet.page.on("request", lambda request: asked.append(request.url))
    tablet.sign_in()
    assert asked
    assert [url for url in asked if not url.startswith((shop.url, "data:"))] == []
    tablet.close()
