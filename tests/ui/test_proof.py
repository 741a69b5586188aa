"""A stranger checks a card by the page alone; a lead finds a record, holds it, and sees whether the ledger fits."""

import json

import pytest
from playwright.sync_api import expect

from tests.shop import ROOT
from tests.ui.tablet import Tablet

PAGE = ROOT / "web" / "dist" / "verify" / "index.html"
CARD = ROOT / "tests" / "vectors" / "proof" / "card.json"


@pytest.fixture
def stranger(chromium):
    """A browser without any network, with the page opened from a file."""
    context = chromium.new_context(offline=True, viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.goto(PAGE.as_uri())
    yield page
    context.close()


def checked(page, file, key=""):
    page.get_by_label("The shop's public key").fill(key)
    page.get_by_label("The card's file").set_input_files(file)
    return page.get_by_role("status")


def changed(tmp_path, change):
    document = json.loads(CARD.read_text(encoding="utf-8"))
    change(document)
    file = tmp_path / "card.json"
    file.write_text(json.dumps(document, ensure_ascii=False), encoding="utf-8")
    return file


def of_entry(number, old, new):
    def change(document):
        entry = document["entries"][number - 1]
        assert old in entry["stored"]
        entry["stored"] = entry["stored"].replace(old, new, 1)

    return change


def of_card(document):
    document["card"]["sheet"]["machine"]["fleet_number"] += "!"


def of_line(document):
    document["card"]["entries"][6]["words"] = "nothing happened"


def of_name(document):
    document["names"][0]["name"] = "Somebody Else"


def cut(document):
    del document["entries"][-1]


def of_checkpoint(document):
    document["proof"]["checkpoint"] = document["proof"]["checkpoint"].replace("epoch 1", "epoch 2")


CHANGES = [
    (of_entry(5, "confirmed", "confirmeD"), "entry 5: its text is not the one that was sealed"),
    (of_card, "something else than what was signed: card.sheet"),
    (of_line, "something else than what was signed: card.entries.7"),
    (of_name, "“Somebody Else” is not the name that was sealed"),
    (cut, "the checkpoint does not cover its entry"),
    (of_checkpoint, "The checkpoint is not signed by the card's key"),
]


def test_a_card_is_checked_from_a_file_without_a_network(stranger, tmp_path):
    answer = checked(stranger, CARD)
    expect(answer).to_contain_text("It holds")
    expect(answer).to_contain_text("Tam Reddick: the names that were sealed")
    expect(checked(stranger, CARD, json.loads(CARD.read_text())["proof"]["key"])).to_contain_text("It holds")
    expect(checked(stranger, CARD, "tight-ledger/x+00000000+AAAA")).to_contain_text("no public key")


@pytest.mark.parametrize(("change", "said"), CHANGES)
def test_a_card_with_one_thing_changed_is_refused_and_says_where(stranger, tmp_path, change, said):
    answer = checked(stranger, changed(tmp_path, change))
    expect(answer).to_contain_text("It does not hold")
    expect(answer).to_contain_text(said)


def test_the_command_says_the_same(shop, tmp_path):
    assert shop.run("verify", str(CARD)).returncode == 0
    refused = shop.run("verify", str(changed(tmp_path, of_line)))
    assert (refused.returncode, "card.entries.7" in refused.stdout) == (1, True)


def test_a_record_is_found_in_three_steps_held_and_lifted(chromium, shop, ines):
    machine = ines.machine()
    run = ines.start(machine)
    ines.go_on(run)
    ines.finish(run)
    fleet = ines.get(f"/api/machines/{machine}")["machine"]["fleet_number"]
    tablet = Tablet(chromium, shop).sign_in("Ines Okoro").open("/")
    tablet.page.get_by_role("link", name="Find a record").click()
    tablet.page.get_by_label("Machine", exact=True).select_option(label=fleet)
    tablet.sees("1 run fits.")
    tablet.tap("Hold what is looked for")
    tablet.page.get_by_label("Why it is kept").fill(why := f"claim {fleet}")
    tablet.tap("Hold", exact=True)
    held = tablet.page.get_by_role("region", name="holds").locator("div").filter(has_text=why)
    held.get_by_role("button", name="Lift it").click()
    tablet.page.get_by_label("Why it is not needed any more").fill("settled")
    tablet.tap("Lift the hold")
    expect(held).to_have_count(0)
    with tablet.page.expect_response("**/api/checkpoints") as answered:  # the key alone does not say when it is made
        tablet.tap("Make a checkpoint now")
    assert answered.value.ok
    assert tablet.violations() == []
    tablet.page.get_by_role("link", name=fleet).click()
    tablet.sees("Required, and got")
    tablet.sees("It covers every entry.")
    tablet.close()
