"""Every picture of the README, from the demo: `./tight pictures`. The clock stands; nothing is compared."""

import tempfile
from datetime import datetime, timedelta
from pathlib import Path

from playwright.sync_api import Browser, expect, sync_playwright

from tests.clock import Clock
from tests.shop import BUS_SPEC, ROOT, Hand, Shop
from tests.ui.conftest import CHROMIUM, QUIET
from tests.ui.tablet import Tablet
from tight_ledger.demo.load import demo_id, specs

AT = datetime.fromisoformat("2026-06-11T09:40:00+00:00")
PLACE = ROOT / "docs" / "screenshots"
IDS = {f"{spec.applies_to[0].maker} {spec.applies_to[0].model} {spec.title}": str(spec.id) for spec in specs()}
HEAD = "Aldermoor Lapwing Cylinder head"


class Teller(Hand):
    """Somebody whose entries come at the time that they tell of."""

    watch: Clock

    def start_body(self, machine: str, /, **changes: object) -> dict:
        self.watch.set(self.clock)
        return super().start_body(machine, **changes)

    def entry(self, kind: str, after_s: float = 6, **fields: object) -> dict:
        made = super().entry(kind, after_s, **fields)
        self.watch.set(self.clock)
        return made


class Morning:
    """A workshop whose clock stands, and what its people do before the pictures are taken."""

    def __init__(self, data: Path):
        self.shop = Shop(data / "data", at=AT).start()
        self.clock = self.shop.clock

    def hand(self, name: str) -> Hand:
        hand = Teller(self.shop, name)
        self.shop.hands.append(hand)
        hand.watch, hand.clock = self.clock, AT - timedelta(minutes=50)
        return hand

    def wheel(self, hand: Hand, fleet_number: str, side: str) -> str:
        return hand.start(str(demo_id("machine", fleet_number)), position={"axle": "rear", "side": side})

    def begin(self, hand: Hand, fleet_number: str, spec: str, proof: str, **position: str) -> str:
        machine, found = str(demo_id("machine", fleet_number)), IDS[spec]
        body = hand.start_body(machine, spec=found, proof=proof, position=position)
        answer = hand.http.post("/api/runs", json=body | {"tooling": hand.tooling(found, position)})
        assert answer.status_code == 201, answer.text
        return body["id"]


class Camera:
    """A screen of a size, and what it is pointed at."""

    def __init__(self, browser: Browser, shop: Shop, scheme: str = "light", size: tuple[int, int] = (1280, 800), *, local: bool = False):
        shop.clock.set(AT)
        self.tablet = Tablet(browser, shop, scheme=scheme, width=size[0], height=size[1], local=local)
        self.tablet.page.emulate_media(reduced_motion="reduce")

    def out_of_reach(self, *, pulls: int) -> None:
        """The network goes, and the work goes on."""
        self.tablet.context.set_offline(True)
        for _ in range(pulls):
            self.tablet.space()
            self.tablet.page.wait_for_timeout(500)

    def take(self, name: str, path: str, sees: str) -> None:
        """One picture.

        Args:
            sees: words that are there when the screen is ready.
        """
        page = self.tablet.page
        if path:
            self.tablet.open(path)
        expect(page.get_by_text(sees).first).to_be_visible()
        expect(page.locator("[aria-busy=true]")).to_have_count(0)
        page.mouse.move(2, 2)
        page.evaluate("document.fonts.ready")
        page.wait_for_timeout(900)  # the paint is dry
        page.screenshot(path=PLACE / f"{name}.png")


def six_wheels(morning: Morning, tam: Hand, wren: Hand) -> None:
    """A job on the tractor: two people at its rear wheels, one of which waits for the others."""
    machine, spec = str(demo_id("machine", "TT-07")), str(demo_id("spec", "Stourholm Curlew 4 Rear wheel nuts"))
    places = [{"axle": "rear", "side": side, "place": place} for side in ("left", "right") for place in ("inner", "outer")]
    common = {"spec": spec, "wrench": str(demo_id("wrench", "W-05 three-quarter")), "proof": "6 studs, L on the left side"}
    starts = [tam.start_body(machine, position=place, **common) for place in places]
    first, second, _, fourth = tam.http.post("/api/jobs/runs", json={"starts": starts}).json()
    tam.go_on(first, until="lower")
    tam.go_on(second, until="s1:5")
    wren.go_on(fourth, until="s1:2")


def measured(hand: Hand, hub: str) -> None:
    """A hub bearing at its second position: two of three readings are taken."""
    now = hand.go_on(hub, until="play~1")
    dial = next(gauge["id"] for gauge in now["prompt"]["gauges"] if gauge["name"] == "G-02 dial indicator")
    for figure in (0.03, 0.03, 0.03, None, 0.08, 0.08):
        now = hand.now(hub)
        if figure is None:
            hand.act(hub, now, now["prompt"]["acts"][0])
        else:
            hand.act_measured(hub, now, figure, "mm", tools=[dial])


def take_all(browser: Browser, morning: Morning) -> None:
    tam, wren = morning.hand("Tam Reddick"), morning.hand("Wren Halloway")
    angle = morning.begin(wren, "TG-02", "Marrowby Pintle 40 Cylinder head", "13")
    bad = morning.wheel(tam, "SB-04", "left")
    tam.go_on(bad, until="s3:7")
    tam.record(bad, "pulled", pull="s3:7", fastener="7", how="typed", reading={"figure": 640, "unit": "N·m"})
    tam.go_on(bad, moved=lambda pull: pull.endswith(":8"))
    tam.finish(bad, "do not move")
    wheel = morning.wheel(tam, "SB-05", "right")
    morning.wheel(wren, "SB-05", "left")
    hub = morning.begin(tam, "LW-1", "Tarn & Oake Capstan 9 Drum hub bearing", "tab washer")
    six_wheels(morning, tam, wren)
    morning.clock.set(AT)
    camera = Camera(browser, morning.shop)
    tablet, page = camera.tablet, camera.tablet.page
    tablet.sign_in("Tam Reddick")
    camera.take("home", "", "In the bay")
    camera.take("machine", f"/machines/{demo_id('machine', 'TG-02')}", "Re-torque")
    camera.take("job", f"/machines/{demo_id('machine', 'TT-07')}", "next for this tablet")
    camera.take("notices", "/notices", "wrench in doubt")
    camera.take("week", "/week", "How the work ended")
    camera.take("spec", f"/specs/{BUS_SPEC}?machine={demo_id('machine', 'SB-04')}", "565–605 N·m")
    camera.take("prepare", f"/specs/{BUS_SPEC}/prepare?machine={demo_id('machine', 'SB-05')}", "What do you see on this hub?")
    camera.take("records", f"/records?person={tam.id}", "Kept from erasure")
    tam.go_on(wheel, until="s2:1")
    tablet.open(f"/runs/{wheel}")
    tablet.tap("Go on", exact=True)
    tam.act(wheel, now := tam.now(wheel), now["prompt"]["acts"][0])
    tam.go_on(wheel, until="s2:8")
    tablet.open(f"/runs/{wheel}")
    tablet.tap("Not pulled")
    camera.take("tighten", "", "stage 2 of 3")
    wren.go_on(angle, until=next(pass_["id"] for pass_ in wren.now(angle)["passes"] if "angle" in pass_["words"]) + ":5")
    pull = wren.now(angle)["prompt"]
    swing = {"figure": 60, "unit": "°", "where": "gauge"}
    wren.record(angle, "pulled", pull=pull["pull"], fastener=pull["fastener"], how="gauge", counts="swing", reading=swing)
    tablet.open(f"/runs/{angle}")
    tablet.tap("Where it stood")
    camera.take("angle", "", "60° done")
    measured(tam, hub)
    tablet.open(f"/runs/{hub}")
    tablet.tap("Go on")
    page.get_by_label("read with").select_option("G-02 dial indicator")
    tablet.space()
    page.get_by_label("reading, ").fill("0.08")
    camera.take("measure", "", "reading 3 of 3")
    camera.take("card", f"/runs/{bad}/card", "Do not move")
    camera.take("lab", "/lab/bolt?lubricant=molybdenum+paste&torque=75", "on another lubricant")
    camera.take("practice", "/practice/wrong?seed=2", "Is the newest line right?")
    camera.take("crib", "/crib", "out of reach of the")
    camera.take("tool", f"/crib/{demo_id('wrench', 'W-13 spare half-inch')}", "In doubt")
    camera.take("editor", f"/specs/{BUS_SPEC}/edit", "The plan, pull by pull")
    tablet.close()
    night = Camera(browser, morning.shop, "dark", (800, 1280), local=True)
    night.tablet.sign_in("Tam Reddick").at_held_run(wheel)
    night.out_of_reach(pulls=2)
    night.take("tighten-portrait-dark", "", "The server is away.")
    night.tablet.context.set_offline(False)
    night.tablet.close()
    yard = Camera(browser, morning.shop, local=True)
    yard.tablet.sign_in("Tam Reddick").open("/outbox")
    expect(yard.tablet.page.get_by_text("the crib with them")).to_be_visible()
    yard.tablet.at_held_run(wheel)
    yard.out_of_reach(pulls=3)
    yard.take("outbox", "/outbox", "Not sent yet: ")
    yard.tablet.context.set_offline(False)
    yard.tablet.close()


def main() -> None:
    with tempfile.TemporaryDirectory() as made:
        morning = Morning(Path(made))
        try:
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path=CHROMIUM, args=QUIET)
                take_all(browser, morning)
                browser.close()
        finally:
            morning.shop.stop()


if __name__ == "__main__":
    main()
