"""Measured adjustments on the screen: the readings, what is proposed, what is done, to the card; also without the server."""

import asyncio
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager, suppress

import pytest
from playwright.sync_api import expect

from tests.ui.tablet import Tablet
from tight_ledger.demo.load import specs
from tight_ledger.devices.simulated import SimulatedGauge


def read(tablet, figure, times=3):
    """A reading that is typed as often as it takes to be believed, each taken as it should be."""
    for _ in range(times):
        seq = tablet.page.get_by_test_id("seq").get_attribute("data-seq")
        tablet.sees("tap, space bar or foot switch; then the reading")
        tablet.space()
        tablet.page.get_by_label("reading, ").fill(str(figure))
        tablet.page.keyboard.press("Enter")
        expect(tablet.page.get_by_test_id("seq")).not_to_have_attribute("data-seq", seq)


@pytest.fixture
def hub(tam):
    """A winch's hub, seated and backed off, at its first reading."""
    run = tam.begin("Tarn & Oake Capstan 9", "Drum hub bearing", "tab washer")
    tam.go_on(run, until="play~1")
    return run


def test_a_hub_from_its_first_reading_to_its_card(tablet, hub):
    page = tablet.sign_in().open(f"/runs/{hub}").page
    tablet.tap("Go on")
    tablet.sees("reading 1 of 3")
    read(tablet, 0.02)
    expect(page.get_by_test_id("proposal")).to_contain_text("Loosen by 1 position")
    expect(page.get_by_role("figure", name="tries so far")).to_be_visible()
    assert tablet.violations() == []
    tablet.tap("another amount")
    tablet.tap("more", exact=True)
    tablet.tap("another amount: 2 positions looser")
    tablet.sees("reading 1 of 3")
    read(tablet, 0.09)
    expect(page.get_by_test_id("proposal")).to_contain_text("the play follows the nut: lock it here")
    tablet.tap("it stays so")
    tablet.press_until("Finish")
    tablet.space()
    tablet.tap("Good: end it")
    tablet.unfold("Recorded: ")
    tablet.sees("2 positions looser; proposed: Loosen by 1 position")
    tablet.sees("left so; proposed: 0.090 mm lies in the band")


def test_without_the_server_the_tablet_advises_itself(chromium, shop, hub, tam):
    tablet = Tablet(chromium, shop, local=True).sign_in()
    tablet.open(f"/runs/{hub}")
    expect(tablet.page.get_by_test_id("seq")).to_have_attribute("data-on-tablet", "true")
    tablet.tap("Go on")
    tablet.context.set_offline(True)
    read(tablet, 0.06)
    expect(tablet.page.get_by_test_id("proposal")).to_contain_text("Loosen by 1 position")
    tablet.space()
    tablet.sees("reading 1 of 3")
    tablet.context.set_offline(False)
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    line = [each for each in tam.get(f"/api/runs/{hub}/entries") if each["kind"] == "adjusted"][-1]
    assert "proposed: Loosen by 1 position" in line["words"]
    tablet.close()


def test_a_spacer_that_is_at_hand_on_a_phone(chromium, shop, tam):
    run = tam.begin("Fennick Causeway 12", "Pinion nut, solid spacer", "a spacer", axle="rear")
    tam.go_on(run, until="first")
    phone = Tablet(chromium, shop, width=390, height=844).sign_in().open(f"/runs/{run}")
    phone.page.get_by_label("thickness, mm").fill("12.000")
    phone.tap("this is fitted: 12.000 mm")
    phone.until(lambda: tam.now(run)["prompt"]["ask"] != "adjust")
    phone.sees("stage 1 of 1")
    tam.go_on(run, until="drag~1")
    for _ in range(2):
        tam.act_measured(run, tam.now(run), 1.2, "N·m")
    tam.go_on(run, until="move~2")
    phone.open(f"/runs/{run}")
    phone.tap("Go on")
    expect(phone.page.get_by_test_id("proposal")).to_contain_text("Fit PS-02 pinion spacer (11.982 mm)")
    wide, sight = phone.page.evaluate("[document.documentElement.scrollWidth, innerWidth]")
    assert wide <= sight
    assert phone.violations() == []
    phone.close()


def test_a_gauge_in_the_browser_is_pressed_as_shortly_as_can_be_and_stays_practice(tablet, hub, tam):
    page = tablet.sign_in().open(f"/runs/{hub}").page
    tablet.tap("Go on")
    page.get_by_label("read with").select_option("G-02 dial indicator")
    tablet.tap("on the line")
    tablet.press_down("Hold to see, let go to read")
    page.mouse.up()
    tablet.until(lambda: "trial" in {verdict["code"] for verdict in tam.now(hub)["verdicts"]})


JOINTS = {
    "Pinion nut, crush sleeve": {"axle": "rear"}, "Pinion nut, shims under the old sleeve": {"axle": "rear"}, "Bevel pinion": {"axle": "front"},
    "Differential carrier caps": {"axle": "front"}, "Connecting rod caps, by stretch": {"place": "cylinder 1"}, "Crankshaft thrust washers": {},
    "Spark plugs, taper seat": {"place": "cylinder 1"},
}  # fmt: skip
MOST_LOOKS = 400
TYPED = {"bearing depth": "2.55", "thickness": "0.15", "washer": "2.35"}


def lead_to_the_end(tablet, hand, run):
    """By the main key; what was read comes from the gauge on the line, what has no band is typed."""
    tablet.open(f"/runs/{run}")
    seq = tablet.page.get_by_test_id("seq")
    for _ in range(MOST_LOOKS):
        if (now := hand.now(run))["prompt"]["ask"] in ("finish", "stop"):
            return now
        prompt, advised = now["prompt"], now["prompt"]["advised"]
        if seq.get_attribute("data-seq") != str(now["seq"]):
            tablet.page.wait_for_timeout(30)  # the gauge has told something meanwhile
            continue
        expect(seq).to_have_attribute("aria-busy", "false")  # a key that is pressed while the last one is on its way does nothing
        if prompt["ask"] == "measure" and prompt["band"] is None:
            if prompt["confirm_method"]:
                tablet.sees("then the reading")
                tablet.space()
            tablet.page.get_by_label("reading, ").fill(TYPED.get(prompt["measure"], "0"))
            tablet.page.keyboard.press("Enter")
        elif prompt["ask"] == "adjust" and prompt["acts"][0]["asks_amount"]:
            tablet.page.get_by_label(f"{advised['setting']}, ").fill(TYPED[advised["setting"]])
            tablet.page.keyboard.press("Enter")
        elif prompt["ask"] != "measure":
            tablet.sees("tap, space bar or foot switch")
            tablet.space()
        expect(seq).not_to_have_attribute("data-seq", str(now["seq"]))
    raise AssertionError(f"it did not come to its end: {now['prompt']}")


@contextmanager
def on_the_line(gauge):
    """A gauge that answers until the block ends."""
    begun = Future()

    async def work():
        answering = asyncio.create_task(gauge.work())
        begun.set_result((asyncio.get_running_loop(), answering))
        with suppress(asyncio.CancelledError):
            await answering

    with ThreadPoolExecutor(1) as beside:
        working = beside.submit(asyncio.run, work())
        loop, answering = begun.result()
        try:
            yield
        finally:
            loop.call_soon_threadsafe(answering.cancel)
            working.result()


@pytest.mark.parametrize(("title", "position"), JOINTS.items())
def test_a_joint_of_the_demo_by_a_registered_gauge_to_its_card(tablet, tam, shop, title, position):
    """No reading is typed that a gauge can take; the screen is tapped for what hands do."""
    spec = next(each for each in specs() if each.title == title)
    named = spec.applies_to[0]
    run = tam.begin(f"{named.maker} {named.model}", title, spec.proof.answer, tuple(named.variant.items()), **position)
    code = tam.command(f"/api/runs/{run}/wrenches").json()["code"]
    url = shop.url.replace("http", "ws") + "/api/devices"
    gauge = SimulatedGauge(url, code, seed=11, in_real_time=False, waits_s=90, **shop.instrument())
    with on_the_line(gauge):
        now = lead_to_the_end(tablet.sign_in(), tam, run)
    assert (now["prompt"]["ask"], now["clean"], now["reasons"]) == ("finish", True, [])
    tablet.tap("Finish")
    tablet.tap("Good: end it")
    tablet.sees("Every entry's seal holds.")
    plots = tablet.page.get_by_role("figure", name="tries so far")
    expect(plots).to_have_count(len(tam.get(f"/api/runs/{run}/card")["adjustments"]))
    assert tam.http.get(f"/api/runs/{run}/card.pdf").content.startswith(b"%PDF")
