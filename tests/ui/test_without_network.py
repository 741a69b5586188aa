"""The tablet judges a run itself: without the network every press counts once, on the right nut, and arrives."""

import pytest
from playwright.sync_api import expect

from tests.ui.tablet import Tablet

ORDER = ("1", "6", "3", "8", "5", "10")


@pytest.fixture
def held(chromium, shop):
    """Opens tablets that hold a run."""
    opened = []

    def open_at(run, name="Tam Reddick", known="hoist 1"):
        tablet = Tablet(chromium, shop, known=known, local=True)
        opened.append(tablet)
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
    tablet = held(run)
    tablet.context.set_offline(True)
    pull(tablet, ORDER[:5])
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
