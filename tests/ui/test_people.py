"""A lead resets a PIN; its owner chooses another before anything else; who has left cannot be picked."""

from datetime import timedelta
from uuid import uuid4

from playwright.sync_api import expect

from tests.ui.tablet import FOLLOW, Tablet


def test_a_reset_pin_is_changed_at_the_door_and_who_has_left_is_gone(tablet, ines):
    name = f"Guest {uuid4().hex[:6]}"
    assert ines.command("/api/people", {"name": name, "roles": ["mechanic"], "pin": "4711"}).is_success
    page = tablet.sign_in("Ines Okoro").open("/people").page
    line = page.get_by_role("listitem").filter(has_text=name)
    line.get_by_role("button", name="PIN, roles, leaving").click()
    line.get_by_label(f"PIN for {name}'s next sign-in").fill("8305")
    line.get_by_role("button", name="Reset it").click()
    expect(line.get_by_label(f"PIN for {name}'s next sign-in")).to_have_count(0)
    page.context.clear_cookies(name="tight_session")
    page.goto("/crib")
    tablet.at_the_door(name, "8305")
    tablet.sees("Choose a PIN of your own")
    assert tablet.violations() == []
    page.get_by_label("PIN as it is").fill("8305")
    page.get_by_label("New PIN").fill("1234")
    tablet.tap("Change it")
    expect(page.get_by_label("New PIN")).to_have_attribute("aria-invalid", "true")
    page.get_by_label("New PIN").fill("5083")
    tablet.tap("Change it")
    tablet.sees("out of reach of the")
    page.context.clear_cookies(name="tight_session")
    page.goto("/people")
    tablet.at_the_door("Ines Okoro", "2468")
    line.get_by_role("button", name="PIN, roles, leaving").click()
    tablet.tap(f"{name} has left")
    tablet.tap("Yes", exact=True)
    expect(line).to_have_count(0)


def test_a_new_tablet_is_introduced_at_its_own_door(chromium, shop):
    tablet = Tablet(chromium, shop, known=None)
    tablet.open("/").sees("This tablet is new here.")
    expect(tablet.button("Tam Reddick")).to_have_count(0)
    tablet.tap("Ines Okoro")
    tablet.page.get_by_label("Name of this tablet").fill("washing bay")
    for digit in "2468":
        tablet.tap(digit, exact=True)
    tablet.tap("Introduce it")
    tablet.sees("Who are you?")
    tablet.at_the_door("Tam Reddick", "1357")
    expect(tablet.page.get_by_role("searchbox")).to_be_visible()
    tablet.open("/tablets").sees("washing bay")
    tablet.close()


def test_a_tablet_left_alone_goes_to_the_door_with_its_work_kept_but_never_in_mid_pass(tablet, tam):
    """The tablet looks every five seconds how long nobody has touched it."""

    def later(minutes):
        tablet.clock += timedelta(minutes=minutes)
        tablet.page.clock.set_fixed_time(tablet.clock)
        tablet.page.clock.run_for(6_000)

    run = tam.start()
    tam.go_on(run, until="s1:3")
    page = tablet.sign_in().open(f"/runs/{run}").page
    tablet.tap("Not pulled")
    later(20)
    tablet.expect_nut("")
    page.goto("/add/machine")
    page.get_by_label("Fleet number").fill("SB-99")
    page.keyboard.press("Tab")
    later(9)
    expect(page.get_by_label("Fleet number")).to_have_value("SB-99")
    later(2)
    tablet.sees("Who are you?")
    tablet.at_the_door("Tam Reddick", "1357")
    expect(page.get_by_label("Fleet number")).to_be_visible()


def test_a_page_that_was_open_at_the_door_signs_for_whoever_signed_in_on_another_page(tablet, tam):
    run, second = tam.begun(), tablet.context.new_page()
    second.goto("/")
    expect(second.get_by_text("Who are you?")).to_be_visible()
    tablet.sign_in_by_keyboard()
    second.evaluate("window.dispatchEvent(new Event('visibilitychange'))")  # somebody looks at it again
    expect(second.get_by_role("searchbox")).to_be_visible()
    second.evaluate(FOLLOW, f"/runs/{run}")
    tablet.page = second
    tablet.expect_nut("1")
    tablet.space()
    tablet.expect_nut("6")
    assert tam.now(run)["unproven"] == []
