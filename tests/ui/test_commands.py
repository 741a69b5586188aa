"""One way for every command of the screens: kept until there is a clear answer, refused at its line; and what broke says what to do."""

import re

import pytest
from playwright.sync_api import expect

from tests.damage import from_a_later_version


@pytest.fixture
def run(tam):
    return tam.begun()


def test_what_meets_a_mistake_a_full_disk_or_too_much_at_once_is_kept_and_a_press_sends_it(tablet, run, tam):
    tablet.sign_in().at_run(run)
    sent = tablet.holds("**/entries?*")
    for status in (500, 507, 429):
        tablet.space()
        tablet.until(lambda: sent.routes)
        sent.answer(status)
        tablet.sees("Your last entry is kept on this tablet")
    tablet.space()
    tablet.until(lambda: sent.routes)
    sent.let_go()  # the press, and perhaps a try that the tablet made by itself
    tablet.expect_nut("6")
    assert sum(line["kind"] == "pulled" for line in tam.get(f"/api/runs/{run}/entries")) == 1


def test_a_command_whose_screen_is_left_goes_out_by_itself(tablet, tam):
    number = f"LB-{tam.machine()[:4]}"
    page = tablet.sign_in().open("/add/machine").page
    page.route("**/api/machines", lambda route: route.abort() if route.request.method == "POST" else route.continue_())
    page.get_by_label("Fleet number").fill(number)
    page.get_by_label("Maker and model").fill("Fennick Causeway 12")
    tablet.tap("Add it")
    tablet.sees("it is sent again by itself")
    page.unroute("**/api/machines")
    with page.expect_response(lambda answer: answer.request.method == "POST" and answer.url.endswith("/api/machines")):
        page.goto("/crib")
    assert [machine["fleet_number"] for machine in tam.get("/api/machines")].count(number) == 1


def test_a_refusal_stands_at_its_line_and_what_was_typed_stays(tablet, tam):
    taken = next(machine["fleet_number"] for machine in tam.get("/api/machines"))
    page = tablet.sign_in().open("/add/machine").page
    line = page.get_by_label("Fleet number")
    line.fill(taken)
    page.get_by_label("Maker and model").fill("Fennick Causeway 12")
    tablet.tap("Add it")
    expect(line).to_be_focused()
    expect(line).to_have_attribute("aria-invalid", "true")
    told = page.locator(f"#{re.escape(line.get_attribute('aria-describedby')).replace(':', chr(92) + ':')}")
    expect(told).to_have_attribute("role", "alert")
    expect(page.get_by_label("Maker and model")).to_have_value("Fennick Causeway 12")
    assert tablet.violations() == []


def test_a_lead_frees_the_place_of_a_run_that_nobody_can_read(tablet, tam, owner):
    run = tam.start(machine := tam.machine())
    with from_a_later_version(owner, run):
        tablet.sign_in("Tam Reddick").page.goto(f"/runs/{run}")
        tablet.sees("The record of this run cannot be read")
        expect(tablet.button("End it as")).to_have_count(0)
        tablet.sign_in("Ines Okoro").page.goto(f"/runs/{run}")
        tablet.page.get_by_label("what was done about it").fill("all nuts pulled anew")
        assert tablet.violations() == []
        tablet.tap("End it as “do not move”")
        expect(tablet.page.get_by_role("searchbox")).to_be_visible()
        tam.start(machine)


def test_the_drawing_is_one_stop_and_the_arrows_move_in_it(tablet, run):
    page = tablet.sign_in().at_run(run).page
    stops = page.locator("svg [role=button][tabindex='0']")
    expect(stops).to_have_count(1)
    stops.focus()
    page.keyboard.press("ArrowDown")
    expect(stops).to_have_count(1)
    expect(stops).to_be_focused()
    expect(stops).not_to_have_attribute("aria-label", re.compile(r"^nut 1:"))
    page.keyboard.press("Enter")
    expect(page.get_by_role("region", name="now")).not_to_contain_text("nut 1,")


def test_an_unknown_address_and_a_screen_that_broke_say_what_to_do(tablet):
    page = tablet.sign_in().open("/nowhere").page
    tablet.sees("Nothing stands at")
    page.route("**/api/tools", lambda route: route.fulfill(json={"tools": None}))
    page.goto("/crib")
    tablet.sees("This screen broke")
    assert tablet.faults == [] or all("null" in fault for fault in tablet.faults)
    tablet.faults.clear()
    page.unroute("**/api/tools")
    tablet.tap("Try this screen again")
    tablet.sees("out of reach of the")
