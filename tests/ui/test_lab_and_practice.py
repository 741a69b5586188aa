"""The lab and the drills in the browser: every page answers, every drill comes to its verdict, and no entry is made."""

import re

import pytest
from playwright.sync_api import expect

from tests.shop import BUS_SPEC
from tests.ui.tablet import Tablet

MOST_STEPS = 60


@pytest.fixture
def tablet(chromium, shop):
    made = Tablet(chromium, shop).sign_in("Tam Reddick")
    yield made
    made.close()


def test_each_page_of_the_lab_answers_to_its_knobs_and_a_link_brings_it_back(tablet):
    page = tablet.page
    tablet.open("/lab/bolt")
    for title, knob in (
        ("One bolt", "torque, more"), ("Scatter", "torque that is meant, more"), ("Reuse", "turned from snug each time, more"),
        ("The joint", "the part is thick, less"), ("The wheel off", "of them loose, more"), ("The wrench", "crowfoot turned, more"),
    ):  # fmt: skip
        page.get_by_role("link", name=title).press("Enter")
        expect(tablet.button(knob)).to_be_visible()
        answer = page.get_by_role("article").get_by_role("status")
        expect(answer).not_to_be_empty()
        before, figures = answer.inner_text(), page.get_by_role("article").inner_text()
        key = tablet.button(knob)
        key.focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("article")).not_to_have_text(figures, use_inner_text=True)
        assert before
    expect(page).to_have_url(re.compile("turned="))
    then, link = answer.inner_text(), page.url
    tablet.open("/lab/bolt").open(link)
    expect(answer).to_have_text(then)
    assert tablet.violations() == []


def test_a_spec_is_opened_in_the_lab_and_played_pull_by_pull_and_its_figures_taken_away(tablet):
    page = tablet.open(f"/specs/{BUS_SPEC}").page
    page.get_by_role("link", name="Open it in the lab").click()
    tablet.sees("Rear wheel nuts: tighten")
    for _ in range(2):
        page.get_by_role("slider", name="pulls done").press("Home")
        tablet.tap("one pull on")
    expect(page.get_by_role("img", name=re.compile(r"^1: [1-9]\d?%, 2: 0%")).first).to_be_visible()
    page.get_by_label("a nut is missed").select_option("4")
    expect(page.get_by_role("img", name=re.compile("4: 0%")).first).to_be_visible()
    with page.expect_download() as csv:
        page.get_by_role("button", name="CSV").first.click()
    with page.expect_download() as svg:
        page.get_by_role("button", name="SVG").first.click()
    assert (csv.value.suggested_filename, svg.value.suggested_filename) == ("loads.csv", "loads.svg")
    assert "stroke" in svg.value.path().read_text()


ANSWERED = """shown => document.querySelector('main').innerHTML !== shown && !document.querySelector('main [aria-busy=true]')"""


def answer(page, *, again: bool) -> None:
    """What a hand on the keyboard does with whatever is asked; `again`: the same was asked before."""
    held, line, search = (
        page.get_by_role("button", name=re.compile("^Hold to")), page.get_by_role("textbox"), page.get_by_role("searchbox"),
    )  # fmt: skip
    nuts = page.get_by_role("button", name=re.compile("no mark"))
    if held.count() and not (again and tablet_turns(page)):
        held.focus()
        page.keyboard.down("Space")
        page.clock.run_for(16_000)
        page.keyboard.up("Space")
    elif line.count():
        line.fill("62")
        page.keyboard.press("Enter")
    elif search.count():
        search.press_sequentially("wheel")
        page.get_by_role("listitem").get_by_role("button").first.press("Enter")
    elif nuts.count():
        said = re.search(r"; (\w+)(?: or \w+)? is next", page.get_by_role("status").first.inner_text())
        nut = page.get_by_role("button", name=re.compile(rf"\b{said[1]}: no mark")) if said else nuts.first
        nut.focus()
        page.keyboard.press("Enter")
    else:
        page.get_by_role("main").get_by_role("button").last.press("Enter")


def tablet_turns(page) -> bool:
    return page.get_by_role("button", name="That is it").count() > 0


@pytest.mark.parametrize("drill", ["scale", "order", "angle", "measure", "wrong", "pull", "snap", "units", "wrench", "find"])
def test_a_drill_comes_to_its_verdict_by_keyboard_alone(tablet, tam, drill):
    page, entries = tablet.page, tablet.shop.entries_of(tam.id)
    page.clock.install()
    tablet.open(f"/practice/{drill}?seed=3")
    verdict, asked = page.get_by_role("region", name="verdict"), page.get_by_role("heading", level=2)
    before = ""
    for _ in range(MOST_STEPS):
        expect(asked).to_be_visible()
        if verdict.count():
            break
        question, shown = asked.inner_text(), page.get_by_role("main").inner_html()
        answer(page, again=question == before)
        before = question
        page.wait_for_function(ANSWERED, arg=shown)
    expect(verdict).to_contain_text(re.compile("Passed|Missed"))
    assert tablet.violations() == []
    assert tablet.shop.entries_of(tam.id) == entries
