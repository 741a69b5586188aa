"""A day in the shop: a tractor with six wheels, two people, two tablets; what happens elsewhere reaches the work."""

from playwright.sync_api import expect

from tests.shop import demo_id
from tests.ui.tablet import Tablet

TRACTOR = "Stourholm Curlew 4"
REAR, FRONT = (demo_id("spec", f"{TRACTOR} {end} wheel nuts") for end in ("Rear", "Front"))


def prepare(tablet, machine, spec, proof, places):
    """All wheels of an axle at once: one tap for the places, one for the proof, one for the wrench."""
    tablet.open(f"/specs/{spec}/prepare?machine={machine}&procedure=tighten")
    tablet.tap(f"All {places}")
    tablet.tap(proof, exact=True)
    tablet.tap("W-05")
    tablet.tap("Start", exact=True)
    expect(tablet.page.get_by_role("region", name="job")).to_be_visible()


def runs_of(hand, machine):
    return {line["position"]: line["run"] for line in hand.get(f"/api/machines/{machine}/job")["runs"]}


def go_to_work(tablet, machine):
    """From the machine to where this tablet is of most use, held by the tablet itself."""
    tablet.open(f"/machines/{machine}")
    tablet.page.get_by_role("link", name="next for this tablet").click()
    expect(tablet.page.get_by_test_id("seq")).to_have_attribute("data-on-tablet", "true")


PRESS = """(wanted) => {
  const run = document.querySelector('[data-testid=seq]');
  if (run?.getAttribute('aria-busy') !== 'false') return null;
  if ([...document.querySelectorAll('button')].some((key) => key.innerText.includes(wanted))) return 'there';
  const key = document.querySelector('footer button.btn-primary');
  if (!key || key.disabled || key.innerText.includes('Next:')) return null;
  key.click();
  return run.dataset.seq;
}"""
"""Presses the main key in the moment in which it is seen to record something; null while it does not."""


def press_until(tablet, button):
    """The main key, as long as it records something; a key that leads on is not pressed."""
    for _ in range(200):
        tablet.later()
        pressed = tablet.page.wait_for_function(PRESS, arg=button).json_value()
        if pressed == "there":
            return
        expect(tablet.page.get_by_test_id("seq")).not_to_have_attribute("data-seq", pressed)
    raise AssertionError(f"{button} did not come")


def test_six_wheels_by_two_people_lowered_once_and_handed_over_at_the_end_of_the_shift(chromium, shop, tam):
    wren = shop.hand("Wren Halloway")
    machine = tam.machine(TRACTOR, meters=())
    form = {"body": "tractor", "axles": [{"name": "front"}, {"name": "rear", "duals": True}], "engine": "front"}
    assert tam.command(f"/api/machines/{machine}/form", {"form": form}).status_code == 200
    first = Tablet(chromium, shop, local=True).sign_in("Tam Reddick")
    prepare(first, machine, FRONT, "6 studs, no letter", 2)
    prepare(first, machine, REAR, "6 studs, L on the left side", 4)
    runs = runs_of(tam, machine)
    assert len(runs) == 6

    go_to_work(first, machine)
    second = Tablet(chromium, shop, known="hoist 2", local=True).sign_in("Wren Halloway")
    go_to_work(second, machine)
    expect(first.page.get_by_role("heading", level=1)).to_contain_text("front left")
    expect(second.page.get_by_role("heading", level=1)).to_contain_text("rear left, inner")  # they do not meet

    press_until(first, "Next: front right")
    first.space()
    expect(first.page.get_by_role("heading", level=1)).to_contain_text("front right")
    second.open(f"/machines/{machine}")
    line = second.page.get_by_role("region", name="job").get_by_role("link", name="front left")
    expect(line).to_contain_text("waits for front right")  # as the other tablet did it, from its own entries
    first.space()
    first.open(f"/machines/{machine}")
    expect(second.page.get_by_text("Tam Reddick is here")).to_be_visible()

    for position, run in runs.items():
        if position != "front left":
            (tam if "front" in position else wren).go_on(run, until="lower")
    lower = second.page.get_by_role("button", name="Lower until the tyre just carries.")
    lower.click()
    second.until(lambda: all(tam.now(run)["prompt"]["stage"] == "stage 2 of 3" for run in runs.values()))
    assert all(tam.get(f"/api/runs/{run}/entries")[-1]["kind"] == "confirmed" for run in runs.values())

    tam.go_on(runs["front left"])
    second.tap("Stop here, hand over")
    second.tap("end of shift")
    second.until(lambda: tam.now(runs["rear left, inner"])["paused"])
    first.page.reload()
    left = first.page.get_by_role("region", name="job").get_by_role("link", name="rear left, inner")
    expect(left).to_contain_text("Left by Wren Halloway")
    expect(left).to_contain_text("end of shift")
    assert first.violations() == []

    for position, run in runs.items():
        if position != "front left":
            tam.go_on(run)
    first.page.reload()
    first.tap("Good: end and sign")
    first.until(lambda: all(tam.now(run)["outcome"] == "good" for run in runs.values()))
    expect(first.page.get_by_role("button", name="front left: done")).to_be_visible()
    first.close()
    second.close()
