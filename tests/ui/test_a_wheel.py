"""The bus's wheel from the door to the job card, and the ways in which a day goes wrong."""

import re
from uuid import uuid4

import pytest
from playwright.sync_api import expect

from tests.ui.tablet import Tablet

ORDER = ["1", "6", "3", "8", "5", "10", "7", "2", "9", "4"]


@pytest.fixture
def fleet_number(tam):
    number = f"UI-{uuid4().hex[:5]}"
    body = {"id": str(uuid4()), "fleet_number": number, "maker_model": "Fennick Causeway 12", "meters": ["km"]}
    tam.http.post("/api/machines", json=body)
    return number


@pytest.fixture
def run(tam):
    """A run with its wrench set, at its first pull."""
    started = tam.start()
    tam.act(started, now := tam.go_on(started, until="s1:1"), now["prompt"]["acts"][0])
    return started


def test_from_the_door_to_the_job_card_by_keyboard_and_foot_switch(tablet, fleet_number):
    page = tablet.sign_in_by_keyboard().page
    page.emulate_media(reduced_motion="no-preference")  # with every animation
    page.keyboard.type(f"{fleet_number} rear wheel")
    expect(page.get_by_role("link", name=f"{fleet_number} · Rear wheel nuts")).to_be_visible()
    page.keyboard.press("Enter")
    tablet.sees("565–605 N·m")
    tablet.sees("431 lbf·ft")
    tablet.sees("retorque after 80 km, at the latest after 14 days")
    page.get_by_role("link", name=f"Prepare {fleet_number}").click()
    expect(tablet.button("Where on the machine?")).to_be_disabled()
    tablet.tap("rear left")
    expect(tablet.button("W-05")).to_be_disabled()
    tablet.sees("ends at 500 N·m; this joint needs 585 N·m")
    page.get_by_label("Meter, km").fill("1200")
    tablet.tap("S-02 stand, large")
    page.get_by_label("Load of the rear axle, kg").fill("9800")
    tablet.sees("Rear axle 9,800 kg ÷ 2 = 4,900 kg on this corner: S-02 stand, large bears 8,000 kg, 3,100 to spare.")
    tablet.tap("W-11")
    tablet.tap("10 studs, M22", exact=True)
    tablet.tap("Start", exact=True)
    tablet.sees("Before the first pull")
    for task in (
        "Threads and seats: clean and dry",
        "3,100 to spare",
        "is whole and read in N·m",
        "matched to the holes",
        "started by hand",
        "Number 1 is marked",
    ):
        tablet.tap(task)
    for stage, figure in (("stage 1 of 3", "175"), ("stage 2 of 3", "350"), ("stage 3 of 3", "585")):
        expect(tablet.button(f"set to {figure} N·m, locked")).to_be_visible()
        tablet.space()
        for label in ORDER:
            tablet.expect_nut(label, stage)
            expect(page.get_by_test_id("figure")).to_have_text(figure)
            tablet.space()
        if stage == "stage 1 of 3":
            expect(page.get_by_role("region", name="now")).to_contain_text("then stage 2 of 3")  # the task itself, not its announcement
            tablet.space()
    for label in ORDER:
        tablet.expect_nut(label, "check 1 of at most 3")
        tablet.tap(f"nut {label} turned" if label == "8" else f"nut {label} did not turn")
    for label in ORDER:
        tablet.expect_nut(label, "check 2 of at most 3")
        tablet.space()
    tablet.ends_good()
    expect(page).to_have_url(re.compile("/card$"))
    tablet.tap("Sign as Tam Reddick")
    tablet.sees("Signed: Tam Reddick")
    tablet.sees("Every entry's seal holds.")
    tablet.unfold("Recorded: ")
    tablet.sees("nut 8, check 1 of at most 3: turned at 585 N·m")
    tablet.sees("set to 350 N·m")


def test_a_held_key_is_one_pull_and_a_double_press_asks(tablet, run):
    page = tablet.sign_in().at_run(run).page
    tablet.expect_nut("1")
    page.keyboard.down("Space")
    for _ in range(5):
        page.keyboard.down("Space")  # what a keyboard sends while a key is held
    page.keyboard.up("Space")
    tablet.expect_nut("6")
    page.keyboard.press("Space")
    tablet.sees("faster than a pull can be made")
    expect(tablet.button("nut 6 clicked")).to_have_count(0)
    tablet.tap("No, ignore it")
    tablet.expect_nut("6")
    tablet.space()
    tablet.expect_nut("3")


def test_a_press_before_the_last_was_answered_is_for_no_other_nut(tablet, run, tam):
    """The key still names the nut that was pulled: nothing goes on file for one that did not stand there."""
    tablet.sign_in().at_run(run)
    sent = tablet.holds("**/entries?*")
    tablet.expect_nut("1")
    tablet.space()
    tablet.until(lambda: sent.routes)
    tablet.later()
    tablet.page.keyboard.press("Space")
    tablet.sees("A press was not taken")
    tablet.tap("Type a reading")
    typed = tablet.page.get_by_role("textbox", name="reading")
    typed.fill("290")
    tablet.tap("nut 1 read 290")
    expect(typed).to_have_value("290")  # what was typed is not lost with its press
    tablet.tap("Back")
    sent.let_go()
    tablet.expect_nut("6")
    assert [line["words"].split(",")[0] for line in tam.get(f"/api/runs/{run}/entries") if line["kind"] == "pulled"] == ["nut 1"]
    tablet.space()
    tablet.expect_nut("3")


def test_space_is_the_pull_unless_a_key_or_a_line_has_focus(tablet, run, tam):
    page = tablet.sign_in().at_run(run).page
    tablet.tap("Note, photo")
    tablet.tap("Note, photo")  # a tap leaves no focus behind
    tablet.space()
    tablet.expect_nut("6")
    before = tam.now(run)["seq"]
    tablet.button("sound on").focus()
    tablet.space()
    expect(tablet.button("sound off")).to_be_visible()
    page.get_by_role("button", name="Pause").focus()
    tablet.space()
    expect(tablet.button("the phone")).to_be_visible()
    tablet.space()
    expect(tablet.button("the phone")).to_be_hidden()
    assert tam.now(run)["seq"] == before
    tablet.tap("Type a reading")
    page.get_by_label("reading, N·m").focus()
    before = tam.now(run)["seq"]
    tablet.space()
    assert tam.now(run)["seq"] == before
    page.keyboard.type("175")
    page.keyboard.press("Enter")
    tablet.expect_nut("3")
    assert "read at 175\u00a0N·m" in tam.get(f"/api/runs/{run}/entries")[-1]["words"]


def test_a_reading_in_the_wrong_unit_asks_which(tablet, run, tam):
    page = tablet.sign_in().at_run(run).page
    tablet.tap("Type a reading")
    for digit in "129":
        tablet.tap(digit, exact=True)
    tablet.tap("nut 1 read 129 N·m")
    tablet.sees("129 N·m is far off; it would fit as lbf·ft taken for N·m.")
    before = tam.now(run)["seq"]
    tablet.tap("lbf·ft", exact=True)
    tablet.expect_nut("6")
    assert tam.now(run)["seq"] == before + 1
    assert "read at 129\u00a0lbf·ft" in tam.get(f"/api/runs/{run}/entries")[-1]["words"]
    expect(page.get_by_role("alert")).to_have_count(0)


def test_another_nut_a_press_taken_back_a_nut_loosened(tablet, run):
    page = tablet.sign_in().at_run(run).page
    tablet.expect_nut("1")
    tablet.button("nut 3: 0 of 3 stages").click()
    tablet.sees("out of order: the next in order is nut 1")
    tablet.space()
    tablet.expect_nut("1")
    tablet.tap("Take back")
    tablet.tap("another nut", exact=True)
    expect(tablet.button("nut 3: 0 of 3 stages")).to_be_visible()
    tablet.space()
    tablet.expect_nut("6")
    tablet.tap("nut 6 loosened")
    tablet.tap("to look at it")
    tablet.expect_nut("6")
    page.get_by_role("link", name="back to the machine").click()
    tablet.sees("do not move it")


def test_end_it_red_and_see_it_red_everywhere(tablet, run, tam):
    page = tablet.sign_in().at_run(run).page
    tablet.space()
    tablet.expect_nut("6")
    tablet.tap("End", exact=True)
    tablet.tap("Abandon")
    tablet.sees("A reason is missing.")
    expect(tablet.button("Release it")).to_have_count(0)
    tablet.tap("Do not move")
    tablet.sees("Do not move")
    fleet = tam.get(f"/api/runs/{run}/sheet")["machine"]["fleet_number"]
    tablet.open("/")
    red = page.get_by_role("link", name=f"do not move {fleet}")
    expect(red).to_be_visible()
    page.context.clear_cookies(name="tight_session")
    tablet.sign_in("Ines Okoro")
    red.click()
    page.get_by_label("reason for the release").fill("nuts replaced")
    tablet.tap("Lift it, as lead")
    tablet.sees("Released by the lead")
    tablet.open("/")
    tablet.sees("In the bay")
    expect(red).to_have_count(0)


def test_another_tablet_goes_on_at_the_same_pull_and_asks(chromium, shop, tablet, run, tam):
    tablet.sign_in().at_run(run)
    tablet.space()
    tablet.expect_nut("6")
    tablet.space()
    tablet.expect_nut("3")
    other = Tablet(chromium, shop, width=800, height=1280)
    other.sign_in("Wren Halloway").open(f"/runs/{run}")
    other.sees("Tam Reddick left it at")
    other.sees("Nut 3, stage 1 of 3: was it pulled while nobody recorded?")
    other.tap("Yes, it clicked")
    other.expect_nut("8")
    tablet.expect_nut("8")  # the first tablet sees it too
    lines = tam.get(f"/api/runs/{run}/entries")
    assert [(line["by"], line["words"]) for line in lines[-2:]] == [
        ("Tam Reddick", "nut 6, stage 1 of 3: clicked at 175\u00a0N·m"),
        ("Wren Halloway", "nut 3, stage 1 of 3: clicked at 175\u00a0N·m (recorded on coming back)"),
    ]
    other.close()


def test_a_session_that_ran_out_loses_no_pull(tablet, run, tam):
    page = tablet.sign_in().at_run(run).page
    tablet.expect_nut("1")
    page.context.clear_cookies(name="tight_session")
    tablet.space()
    tablet.sees("Who are you?")
    tablet.at_the_door("Wren Halloway", "8642")
    tablet.expect_nut("6")
    line = next(line for line in tam.get(f"/api/runs/{run}/entries") if line["kind"] == "pulled")
    assert (line["by"], line["recorded_by"]) == ("Tam Reddick", "Wren Halloway")


def test_power_cuts_between_pulls_lose_and_double_nothing(chromium, own):
    tam = own.hand()
    run = tam.begun()
    own.leave()
    tablet = Tablet(chromium, own)
    tablet.sign_in().at_run(run)
    tablet.space()
    tablet.expect_nut("6")
    own.kill_server()
    tablet.space()
    tablet.sees("Your last entry is kept on this tablet")
    own.start()  # the page stays open: what it kept goes out by itself
    tablet.expect_nut("3")
    own.kill_database()
    tablet.space()  # kept on the tablet, or recorded already if the database was back before it
    own.kill_server()
    own.start()
    tablet.expect_nut("8")
    own.kill_server()
    tablet.space()
    tablet.sees("Your last entry is kept on this tablet")
    tablet.page.close()  # the tablet dies with an entry on it
    own.start()
    tablet.page = tablet.context.new_page()
    tablet.open(f"/runs/{run}")
    tablet.sees("You are back.")
    tablet.tap("Not pulled")
    tablet.expect_nut("5")
    words = [line["words"] for line in own.hand().get(f"/api/runs/{run}/entries") if line["kind"] == "pulled"]
    assert words == [f"nut {label}, stage 1 of 3: clicked at 175\u00a0N·m" for label in ("1", "6", "3", "8")]
    tablet.close()
