"""A tablet without the server: it opens, finds, prepares and starts; what it did is seen, counted and delivered."""

import json
import re

import pytest
from playwright.sync_api import expect

from tests.shop import PINS, ROOT, Shop
from tests.ui.tablet import Tablet
from tight_ledger.core.base.source import source_digest


@pytest.fixture(scope="module")
def shop(tmp_path_factory):
    """A shop for these tests alone, so that their machines are the ones that a tablet takes along."""
    with Shop(tmp_path_factory.mktemp("yard")) as own:
        yield own


@pytest.fixture
def along(chromium, shop, tam):
    """A tablet that took everything along, and a machine in the bay."""
    machines, free = [tam.machine(), tam.machine()], tam.machine()
    assert tam.finish(tam.start(free), "abandoned", "another day").status_code == 201  # worked on lately, and nothing open on it
    open_runs = [tam.start(machine, position={"axle": "rear", "side": "right"}) for machine in machines]  # they are in the bay
    tablet = Tablet(chromium, shop, local=True)
    tablet.sign_in("Tam Reddick")
    tablet.open("/outbox")
    expect(tablet.page.get_by_text("the crib with them")).to_be_visible()
    (tablet.machine, tablet.other), tablet.open_run, tablet.free = machines, open_runs[0], free
    yield tablet
    tablet.close()


def away(tablet):
    tablet.context.set_offline(True)
    tablet.sees("The server is away.")


def back(tablet):
    tablet.context.set_offline(False)
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)


def start_here(tablet, *sides):
    """From the machine to a run's first task, or to a job of several, by the screens that one uses with a server."""
    page = tablet.open(f"/machines/{tablet.machine}").page
    page.get_by_role("link", name=re.compile("joint of")).click()
    page.get_by_role("link", name="Rear wheel nuts").first.click()
    page.get_by_role("link", name="Prepare").first.click()
    for side in sides:
        tablet.tap(f"rear {side}")
    expect(tablet.button("W-05")).to_be_disabled()
    stand = tablet.button("S-02 stand, large")
    if stand.get_attribute("aria-pressed") != "true":  # what stood under the machine a moment ago still does
        stand.click()
    page.get_by_label("Load of the rear axle, kg").fill("9800")
    tablet.sees("S-02 stand, large bears 8,000 kg, 3,100 to spare.")
    tablet.tap("W-11")
    tablet.tap("10 studs, M22", exact=True)
    tablet.tap("Start", exact=True)
    tablet.sees("Before the first pull" if len(sides) == 1 else "is not finished")


def test_a_run_is_started_and_worked_to_its_last_pull_and_a_second_begun_then_both_arrive(along, tam):
    along.machine = along.free
    away(along)
    start_here(along, "left")
    along.page.reload()  # and the battery: it goes on where it was
    expect(along.page.get_by_test_id("seq")).to_have_attribute("data-on-tablet", "true")
    along.press_until("Finish")
    first = along.page.url.rsplit("/", 1)[1]
    along.tap("End", exact=True)
    along.sees("A run ends on the server, once everything is there.")
    along.open("/outbox").sees("Rear wheel nuts")
    assert along.violations() == []
    waiting = along.page.get_by_role("region", name="not sent yet").get_by_role("listitem")
    told = waiting.all_inner_texts()
    assert sum("stage 3 of 3: clicked at" in line for line in told) == 10
    assert re.search(r"rear left: started, Rear wheel nuts", told[0])
    along.open(f"/machines/{tam.machine()}").sees("The server does not answer.")  # of which this tablet knows nothing
    along.machine = along.other
    start_here(along, "left")
    second = along.page.url.rsplit("/", 1)[1]
    along.at_held_run(along.open_run)  # which this tablet had never opened
    along.sees("Before the first pull")
    along.context.set_offline(False)
    expect(along.page.get_by_text("Not sent yet")).to_have_count(0)
    assert tam.now(first)["verdicts"] == []
    entries = tam.get(f"/api/runs/{first}/entries")
    assert len(entries) == len(told)
    assert [line["kind"] for line in tam.get(f"/api/runs/{second}/entries")] == ["started"]
    assert tam.finish(first).json()["now"]["standing"] == "good"
    along.open("/outbox").sees("Everything has reached the server.")
    along.sees(f"kept here until a backup holds it: {len(told) + 1}")


def test_who_picks_a_name_without_a_server_is_not_proven_until_they_type_their_pin(along, tam):
    away(along)
    start_here(along, "left")
    run = along.page.url.rsplit("/", 1)[1]
    along.tap("somebody else records")
    along.tap("Wren Halloway")
    along.tap("Work as Wren Halloway, not proven")
    expect(along.page.get_by_text("Who are you?")).to_have_count(0)  # it is kept by then
    along.open(f"/runs/{run}")
    expect(along.page.get_by_test_id("seq")).to_have_attribute("data-on-tablet", "true")
    along.press_until("stage 1 of 3 · W-11")
    assert PINS["Wren Halloway"] not in along.page.evaluate(EVERYTHING_KEPT)
    along.context.set_offline(False)
    along.tap("The server is back: your PIN, Wren Halloway")
    along.sees("Who are you?")
    along.sees("Not sent yet")
    along.at_the_door("Wren Halloway", PINS["Wren Halloway"])
    along.sees("stage 1 of 3 · W-11")
    expect(along.page.get_by_text("Not sent yet")).to_have_count(0)
    along.open(f"/runs/{run}")
    along.sees("Recorded as Wren Halloway without a PIN.")
    expect(along.page.get_by_text("Recorded as Tam Reddick without a PIN.")).to_have_count(0)  # begun by Tam, delivered by Wren
    along.tap("I am Wren Halloway")
    along.page.keyboard.type(PINS["Wren Halloway"])
    along.tap("It was me")
    expect(along.page.get_by_text("Recorded as Wren Halloway without a PIN.")).to_have_count(0)
    assert tam.now(run)["unproven"] == []
    by = {line["by"] for line in tam.get(f"/api/runs/{run}/entries") if line["kind"] == "confirmed"}
    assert by == {"Wren Halloway"}


def test_a_tablet_with_an_older_core_fetches_the_new_one_and_goes_on(chromium, shop, tam):
    run = tam.begun()
    tablet = Tablet(chromium, shop, local=True)
    older = json.loads((ROOT / "web" / "dist" / "core" / "core.json").read_text()) | {"core": "older"}
    tablet.context.route("**/core/core.json", lambda route: route.fulfill(json=older), times=1)
    tablet.sign_in("Tam Reddick").open("/outbox")
    expect(tablet.page.get_by_text(f"Judged by core {source_digest()[:8]}.")).to_be_visible()
    tablet.at_held_run(run).space()
    tablet.expect_nut("6")
    tablet.close()


EVERYTHING_KEPT = """
async () => {
  const database = await new Promise((done) => { const open = indexedDB.open("tight"); open.onsuccess = () => done(open.result); });
  const read = (name) => new Promise((done) => {
    const all = database.transaction(name).objectStore(name).getAll();
    all.onsuccess = () => done(all.result);
  });
  const kept = await Promise.all([...database.objectStoreNames].map(read));
  return JSON.stringify(kept) + JSON.stringify({ ...localStorage });
}
"""


def test_a_place_that_was_taken_meanwhile_is_contested_and_a_lead_decides_at_the_run(along, shop, tam):
    away(along)
    start_here(along, "left")
    run = along.page.url.rsplit("/", 1)[1]
    other = tam.start(along.machine)
    along.context.set_offline(False)
    expect(along.page.get_by_text("Not sent yet")).to_have_count(0)
    along.sees("another run was open at rear left meanwhile")
    expect(along.button("Decide it, as lead")).to_have_count(0)
    along.tap("somebody else records")
    along.sees("Who are you?")
    along.at_the_door("Ines Okoro", PINS["Ines Okoro"])
    along.page.get_by_label("what is decided, and why").fill("this one is the right one")
    along.tap("Decide it, as lead")
    expect(along.page.get_by_text("another run was open at rear left meanwhile")).to_have_count(0)
    along.open(f"/runs/{other}").sees("a second run was begun at rear left")
    on_machine = tam.get(f"/api/machines/{along.machine}")["attention"]
    assert {place["run"] for place in on_machine} >= {run, other}


def test_a_job_goes_on_and_its_machine_is_lowered_once_without_the_server(along, tam):
    away(along)
    start_here(along, "left", "right")  # one is open at the right wheel: none is begun
    along.sees("Not sent yet: 0")
    start_here(along, "left")
    along.press_until("then stage 2 of 3")
    along.tap("Next: rear right")  # that was begun by the server, and taken along
    expect(along.page.get_by_role("heading", level=1)).to_contain_text("rear right")
    expect(along.page.get_by_test_id("seq")).to_have_attribute("data-on-tablet", "true")
    along.press_until("then stage 2 of 3")
    along.tap("Lower until the tyre just carries.")
    along.sees("stage 2 of 3 · W-11")
    back(along)
    runs = [line["run"] for line in tam.get(f"/api/machines/{along.machine}/job")["runs"]]
    assert [tam.now(run)["prompt"]["stage"] for run in runs] == ["stage 2 of 3"] * 2
    assert [tam.get(f"/api/runs/{run}/entries")[-1]["kind"] for run in runs] == ["confirmed"] * 2
