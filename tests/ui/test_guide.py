"""The guide, followed to the letter: what it says to touch is there, and what it says to read is shown."""

import re

from playwright.sync_api import expect

from tests.shop import ROOT

GUIDE = ROOT / "docs" / "guide"


def steps_of(page: str) -> list[str]:
    """The numbered steps of a page, each as one line."""
    text = re.sub(r"\n   +", " ", (GUIDE / f"{page}.md").read_text())
    return re.findall(r"^\d+\. (.+)$", text, re.MULTILINE)


def key_of(page, name):
    """The key or link of this name; else the first whose name holds it."""
    loose = page.get_by_role("button", name=name).or_(page.get_by_role("link", name=name)).first
    expect(loose).to_be_visible()
    exact = page.get_by_role("button", name=name, exact=True).or_(page.get_by_role("link", name=name, exact=True))
    return exact.first if exact.count() else loose


def follow(tablet, step):
    """Do what the first sentence of a step says."""
    page = tablet.page
    if typed := re.match(r"Type `(.+?)` into \*\*(.+?)\*\*", step):
        page.get_by_label(typed[2]).fill(typed[1])
    elif touched := re.match(r"Touch \*\*(.+?)\*\*", step):
        tablet.later()
        key_of(page, touched[1]).click()
    elif read := re.match(r"Read \*\*(.+?)\*\*", step):
        tablet.sees(read[1])
    elif until := re.match(r"Press the space bar until \*\*(.+?)\*\*", step):
        tablet.press_until(until[1])
    else:
        raise AssertionError(f"nobody can follow this: {step}")


def test_the_first_wheel_is_done_as_the_guide_says(tablet):
    tablet.sign_in()
    steps = steps_of("first-wheel")
    assert len(steps) == 14
    for step in steps:
        follow(tablet, step)
    tablet.sees("Job card")


def test_every_page_is_behind_a_question_mark_and_shows_its_own_pictures(tablet):
    tablet.sign_in().page.get_by_role("link", name="how this is done").click()
    tablet.sees("The first wheel, in five minutes")
    assert tablet.violations() == []
    for file in sorted(GUIDE.glob("*.md")):
        title = file.read_text().splitlines()[0].removeprefix("# ")
        tablet.page.get_by_role("navigation", name="guide").get_by_role("link", name=title).click()
        expect(tablet.page.get_by_role("heading", level=1, name=title)).to_be_visible()
        shown = tablet.page.locator("article img")
        expect(shown).to_have_count(len(re.findall(r"!\[", file.read_text())))
        for picture in re.findall(r"!\[.*\]\((.+)\)", file.read_text()):
            assert (GUIDE / picture).resolve().is_file(), picture
