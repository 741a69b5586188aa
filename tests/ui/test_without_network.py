"""The tablet judges a run itself: without the network every press counts once, on the right nut, and arrives."""

from base64 import b64decode
from datetime import timedelta
from uuid import uuid4

import pytest
from playwright.sync_api import expect

from tests.ui.tablet import Tablet

PIXEL = b64decode("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==")
ORDER = ("1", "6", "3", "8", "5", "10")


@pytest.fixture
def held(chromium, shop):
    """Opens tablets that hold a run. `lost` is a file of the core that does not arrive at the first try."""
    opened = []

    def open_at(run, name="Tam Reddick", known="hoist 1", lost=None):
        tablet = Tablet(chromium, shop, known=known, local=True)
        opened.append(tablet)
        if lost:
            tablet.context.route(lost, lambda route: route.abort(), times=1)
        return tablet.sign_in(name).at_held_run(run)

    yield open_at
    for tablet in opened:
        tablet.close()


def pull(tablet, labels):
    """Each nut as it comes, by the foot switch."""
    for label in labels:
        tablet.expect_nut(label)
        tablet.space()


def pulls(hand, run):
    return [line for line in hand.get(f"/api/runs/{run}/entries") if line["kind"] == "pulled"]


def test_off_in_mid_pass_every_press_counts_once_on_the_right_nut_and_arrives(held, tam):
    run = tam.begun()
    tablet = held(run, lost="**/core/*/pyodide-lock.json")
    tablet.context.set_offline(True)
    pull(tablet, ORDER[:2])
    tablet.clock += timedelta(minutes=5)
    pull(tablet, ORDER[2:5])
    tablet.expect_nut(ORDER[5])
    tablet.sees("The server is away. Not sent yet: 5")
    assert pulls(tam, run) == []
    tablet.tap("End", exact=True)
    tablet.sees("A run ends on the server, once everything is there.")
    tablet.tap("Back")
    tablet.open("/").sees("The server is away. Not sent yet: 5")
    tablet.context.set_offline(False)
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    arrived = pulls(tam, run)
    assert [line["words"].split(",")[0] for line in arrived] == [f"nut {label}" for label in ORDER[:5]]
    assert not any(line["in_conflict"] for line in arrived)
    tablet.open(f"/runs/{run}").expect_nut(ORDER[5])


def test_a_clock_that_is_put_right_while_a_press_waits_makes_it_no_older(held, tam, shop):
    run = tam.begun()
    tablet = held(run)
    tablet.context.clock.set_system_time(tablet.clock)  # from here on its clock goes, and somebody sets it
    tablet.context.set_offline(True)
    tablet.expect_nut(ORDER[0])
    tablet.page.keyboard.press("Space")
    tablet.sees("Not sent yet: 1")
    tablet.context.clock.set_system_time(tablet.clock + timedelta(days=400))
    tablet.context.set_offline(False)
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    [entry] = [each for each in tam.get(f"/api/runs/{run}/stream")["entries"] if each["kind"] == "pulled"]
    assert entry["waited_ms"] < timedelta(days=1).total_seconds() * 1_000


def test_what_is_unlikely_is_asked_by_the_tablet_itself(held, tam):
    run = tam.begun()
    tablet = held(run)
    tablet.context.set_offline(True)
    tablet.space()
    tablet.expect_nut("6")
    tablet.page.keyboard.press("Space")  # at once
    tablet.sees("faster than a pull can be made")
    tablet.tap("No")
    tablet.expect_nut("6")
    tablet.space()
    tablet.expect_nut("3")
    tablet.context.set_offline(False)
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    assert len(pulls(tam, run)) == 2


def test_two_tablets_off_at_once_on_one_run_lose_nothing_and_are_asked_about_the_same_nut(held, tam):
    run = tam.begun()
    first, second = held(run), held(run, "Wren Halloway", "hoist 2")
    for tablet in (first, second):
        tablet.context.set_offline(True)
    for tablet in (first, second):
        tablet.space()
        tablet.expect_nut("6")
    for tablet in (first, second):
        tablet.context.set_offline(False)
        expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    arrived = pulls(tam, run)
    assert [(line["words"].split(",")[0], line["in_conflict"]) for line in arrived] == [("nut 1", False), ("nut 1", True)]
    assert {line["by"] for line in arrived} == {"Tam Reddick", "Wren Halloway"}
    assert tam.now(run)["one_or_two"][0]["id"] == arrived[1]["id"]


def test_off_and_opened_again_it_goes_on_where_it_was(held, tam):
    run = tam.begun()
    tablet = held(run)
    tablet.space()
    tablet.expect_nut("6")
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    tablet.context.set_offline(True)
    tablet.space()
    tablet.expect_nut("3")
    tablet.page.reload()
    tablet.at_held_run(run)
    tablet.expect_nut("3")
    tablet.space()
    tablet.expect_nut("8")
    tablet.sees("The server is away. Not sent yet: 3")  # two pulls, and what was answered on coming back
    tablet.context.set_offline(False)
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    assert [line["words"].split(",")[0] for line in pulls(tam, run)] == ["nut 1", "nut 6", "nut 3"]


@pytest.mark.parametrize(
    "reading_back",
    [lambda route: route.abort(), lambda route: route.fulfill(status=404, json={"fault": "Nothing is here.", "remedy": "Look again."})],
    ids=["lost", "refused"],
)
def test_an_entry_that_arrived_is_not_lost_and_not_refused_whatever_its_reading_back_says(held, tam, reading_back):
    run = tam.begun()
    tablet = held(run)
    tablet.context.route("**/stream?*", reading_back)
    tablet.space()
    tablet.expect_nut("6")
    tablet.until(lambda: len(pulls(tam, run)) == 1)
    tablet.context.set_offline(True)
    tablet.page.reload()
    tablet.at_held_run(run)
    tablet.expect_nut("6")
    tablet.open("/outbox").sees("Not sent yet: ")
    expect(tablet.page.get_by_text("Refused by the server")).to_have_count(0)
    tablet.context.unroute("**/stream?*")
    tablet.context.set_offline(False)
    tablet.open(f"/runs/{run}").expect_nut("6")
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    assert len(pulls(tam, run)) == 1


def test_what_was_kept_survives_the_screen_and_goes_out_by_itself(held, tam):
    run = tam.begun()
    tablet = held(run)
    tablet.context.set_offline(True)
    pull(tablet, ORDER[:3])
    tablet.expect_nut(ORDER[3])
    tablet.page.close()  # the tablet dies with three entries on it
    tablet.context.set_offline(False)
    tablet.page = tablet.context.new_page()
    tablet.open("/")  # not even at the run
    expect(tablet.page.get_by_role("searchbox")).to_be_visible()
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    tablet.open(f"/runs/{run}")
    tablet.expect_nut(ORDER[3])
    assert [line["words"].split(",")[0] for line in pulls(tam, run)] == [f"nut {label}" for label in ORDER[:3]]


def test_the_wrench_of_the_page_pulls_without_the_server_and_it_is_practice(held, tam):
    run = tam.begun()
    tablet = held(run)
    tablet.context.set_offline(True)
    tablet.tap("Wrench on the line")
    key = tablet.button("Hold to pull")
    key.dispatch_event("pointerdown")
    expect(tablet.page.get_by_role("region", name="live")).to_be_visible()
    tablet.button("Let go to stop").dispatch_event("pointerup")
    tablet.sees("Not sent yet: 1")
    tablet.context.set_offline(False)
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    assert ", by a simulated wrench" in pulls(tam, run)[0]["words"]
    assert {line["code"] for line in tam.now(run)["verdicts"]} >= {"trial"}


def test_on_paper_it_is_printed_as_it_stands_and_entered_afterwards(held, tam):
    run = tam.begun()
    tablet = held(run)
    pull(tablet, ORDER[:2])
    tablet.context.set_offline(True)
    tablet.tap("On paper")
    tablet.page.get_by_role("link", name="Print it as it stands").click()
    sheet = tablet.page.get_by_role("article")
    expect(sheet.get_by_role("listitem").filter(has_text="nut 1 ").first).to_contain_text("done")
    expect(sheet.get_by_role("listitem").filter(has_text="nut 3 ").first).not_to_contain_text("done")
    expect(sheet).to_contain_text("175")
    assert tablet.violations() == []
    tablet.tap("Print it")
    tablet.page.reload()
    expect(sheet).to_be_visible()
    tablet.at_held_run(run)
    tablet.tap("On paper")
    tablet.page.get_by_label("done on paper by").select_option("Wren Halloway")
    done_at = f"{tam.shops_clock.now() + timedelta(hours=1):%Y-%m-%dT%H:%M}"
    tablet.page.get_by_label("when it was done").fill(done_at)
    tablet.tap("Enter it now")
    tablet.sees("From paper:")
    for label in ORDER[2:4]:
        tablet.expect_nut(label)
        tablet.sees("tap, space bar or foot switch")
        tablet.page.keyboard.press("Space")  # one after the other, as fast as one reads ticks
    tablet.tap("That was all of the paper")
    tablet.context.set_offline(False)
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    *_, third, fourth = pulls(tam, run)
    for line in (third, fourth):
        assert (line["by"], "from paper" in line["words"]) == ("Wren Halloway", True)
        assert line["done_at"].startswith(done_at[:11])
    assert {"from_paper", "no_sheet"} & {line["code"] for line in tam.now(run)["verdicts"]} == {"from_paper"}
    tablet.open(f"/runs/{run}/card").sees("from paper")


def test_a_sheet_is_printed_as_often_as_asked_though_the_tablet_has_no_core(chromium, shop, tam):
    run, tablet = tam.begun(), Tablet(chromium, shop)
    tablet.context.route("**/core/**", lambda route: route.abort())
    tablet.sign_in().open(f"/runs/{run}/paper")
    for _ in range(2):
        before = tam.now(run)["seq"]
        tablet.tap("Print it")
        tablet.sees(f"As it stood after entry {before + 1}.")
    assert [line["kind"] for line in tam.get(f"/api/runs/{run}/entries")][-2:] == ["printed", "printed"]
    tablet.context.close()


def test_a_photo_goes_after_its_entry(held, tam, tmp_path):
    run = tam.begun()
    tablet = held(run)
    tablet.context.set_offline(True)
    photo = tmp_path / "seat.png"
    photo.write_bytes(PIXEL)
    tablet.tap("Note, photo")
    tablet.page.get_by_label("note").fill("the seat")
    tablet.page.get_by_label("photo").set_input_files(photo)
    tablet.tap("Keep it")
    tablet.sees("Not sent yet: 1")
    tablet.context.set_offline(False)
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    [kept] = tam.get(f"/api/runs/{run}/entries")[-1]["files"]
    tablet.until(lambda: tam.http.get(f"/api/attachments/{kept}").content.startswith(PIXEL[:8]))


def test_what_cannot_be_written_down_was_not_recorded_and_says_so(held, tam):
    run = tam.begun()
    tablet = held(run)
    tablet.page.evaluate("() => { IDBObjectStore.prototype.put = () => { throw new DOMException('full', 'QuotaExceededError'); }; }")
    tablet.space()
    tablet.sees("This tablet could not write it down: nothing was recorded.")
    tablet.expect_nut("1")
    assert pulls(tam, run) == []


def test_a_tablet_that_fills_up_says_so_before_it_is_full(held, tam):
    run = tam.begun()
    tablet = held(run)
    tablet.page.add_init_script("navigator.storage.estimate = async () => ({ usage: 95e6, quota: 100e6 })")
    tablet.page.reload()
    tablet.sees("This tablet is nearly full.")


def test_a_photo_that_is_none_is_refused_where_one_sees_it(held, tam, tmp_path):
    run = tam.begun()
    tablet = held(run)
    (tmp_path / "seat.png").write_text("no picture")
    tablet.tap("Note, photo")
    tablet.page.get_by_label("photo").set_input_files(tmp_path / "seat.png")
    tablet.tap("Keep it")
    expect(tablet.page.get_by_label("photo")).to_be_hidden()
    tablet.open("/outbox").sees("photo seat.png")
    tablet.sees("Refused by the server: 1")
    assert tam.get(f"/api/runs/{run}/entries")[-1]["kind"] == "noted"


def test_what_an_earlier_version_kept_is_sent(held, tam):
    run = tam.begun()
    tablet = held(run)
    kept = {"id": str(uuid4()), "method": "POST", "address": f"/api/runs/{run}/entries", "scope": "", "at": "2026-11-27T09:30:00Z"}
    body = {"id": kept["id"], "kind": "noted", "by": tam.id, "at_device": kept["at"], "text": "kept before"}
    tablet.page.evaluate("kept => localStorage.setItem(`tight.outbox/${kept.id}`, JSON.stringify(kept))", kept | {"body": body})
    tablet.page.reload()
    tablet.until(lambda: tam.get(f"/api/runs/{run}/entries")[-1]["words"] == "noted (kept before), no PIN")
