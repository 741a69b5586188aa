"""What happens elsewhere reaches the work; what is due, from its tag; the week; a label in front of the camera."""

from io import BytesIO
from uuid import uuid4

import pytest
import segno
from PIL import Image
from playwright.sync_api import expect

from tests.shop import BUS_SPEC, demo_id
from tests.ui.conftest import CHROMIUM, QUIET
from tests.ui.tablet import Tablet
from tight_ledger.demo.load import specs


@pytest.fixture
def ines(shop):
    return shop.hand("Ines Okoro")


def own_spec(hand, **changes):
    written = next(spec for spec in specs() if str(spec.id) == str(BUS_SPEC)).model_dump(mode="json")
    own = written | {"id": str(uuid4()), "title": f"Hoist wheel {uuid4().hex[:6]}"} | changes
    assert hand.http.post("/api/specs", json=own).status_code == 201
    return own["id"], own["title"]


def good(hand, machine, spec, **changes):
    run = hand.start(machine, spec=spec, **changes)
    hand.go_on(run)
    assert hand.finish(run).status_code == 201
    return run


def test_a_spec_withdrawn_at_noon_stands_in_the_run_in_the_bay_and_on_the_machines(tablet, chromium, shop, tam, ines):
    spec, title = own_spec(ines)
    done = tam.machine()
    good(tam, done, spec)
    run = tam.start(spec=spec)
    tam.go_on(run, until="s2:1")
    tablet.sign_in().open(f"/runs/{run}")
    expect(tablet.page.get_by_role("region", name="now")).to_be_visible()
    reason = {"reason": "the figure is from the wrong column"}
    assert ines.command(f"/api/specs/{spec}/revisions/1/withdraw", reason).status_code == 204
    told = tablet.page.get_by_role("alert", name="flagged")
    expect(told).to_contain_text(f"spec withdrawn: {title}")
    expect(told).to_contain_text("wrong column")
    tam.go_on(run)
    tablet.page.reload()
    tablet.tap("End", exact=True)
    tablet.sees("Not good:")
    assert tablet.button("Good: end it").count() == 0
    assert tablet.violations() == []

    lead = Tablet(chromium, shop, known="desk").sign_in("Ines Okoro")
    lead.page.get_by_role("region", name="notices").get_by_role("link", name=title).click()
    mine = lead.page.get_by_role("region", name=f"spec withdrawn: {title}")
    expect(mine).to_contain_text("2 of 2 places left")
    mine.get_by_role("listitem").filter(has_not_text="under way").get_by_role("button", name="Looked at").click()
    lead.page.get_by_label("what was found there").fill("checked at 605, none turned")
    lead.tap("Write it down")
    expect(mine).to_contain_text("1 of 2 places left")
    expect(mine).to_contain_text("checked at 605, none turned")
    assert lead.violations() == []
    lead.open(f"/machines/{done}")
    lead.sees("Done here")
    expect(lead.page.get_by_text(f"spec withdrawn: {title}")).to_have_count(0)  # worked off here
    lead.close()


def test_a_re_torque_from_its_tag_and_a_nut_that_turned(tablet, tam, ines):
    series = [
        {"id": f"km{km}", "procedure": "retorque", "km": km, "days": 14, "again_if": ["moved"]} for km in (20, 50, 100)
    ] + [{"id": "trip", "procedure": "retorque", "event": "before each trip", "every": True, "then": True}]  # fmt: skip
    spec, _ = own_spec(ines, followups=series)
    machine = tam.machine()
    run = good(tam, machine, spec, meters=[{"kind": "km", "figure": 1000}])
    tam.command(f"/api/machines/{machine}/meters", {"kind": "km", "figure": 1025})
    tablet.sign_in().open(f"/go/followup/{run}/km20")
    expect(tablet.button("W-11 one-inch").first).to_have_attribute("aria-pressed", "true")  # what it was tightened with
    tablet.sees("Your answer starts it.")
    tablet.counts()
    tablet.tap("10 studs, M22", exact=True)
    tablet.sees("Before the first pull")
    tablet.press_until("nut 1 did not turn")
    assert tablet.counted()["presses"] == 3  # what one sees, the wrench whole, the wrench set
    again = tablet.page.url.rsplit("/", 1)[1]
    turned = iter([True])
    tam.go_on(again, moved=lambda pull: pull.endswith(":7") and next(turned, False))
    assert tam.finish(again).status_code == 201
    tablet.open(f"/machines/{machine}")
    expect(tablet.page.get_by_role("region", name="follow-ups")).to_contain_text("it turned at the last check")
    expect(tablet.page.get_by_role("region", name="follow-ups")).not_to_contain_text("trip")


def test_the_week_leads_to_the_thing(tablet, tam, ines):
    spec, title = own_spec(ines)
    run = good(tam, tam.machine(), spec)
    tablet.sign_in().page.get_by_role("link", name="Week").click()
    expect(tablet.page.get_by_role("figure", name="How the work ended")).to_be_visible()
    assert tablet.violations() == []
    tablet.page.get_by_role("region", name="done").get_by_role("link", name=title).click()
    expect(tablet.page).to_have_url(f"/runs/{run}/card")
    tablet.open("/week?day=2001-01-01").sees("Done: 0")


@pytest.fixture
def camera(chromium, tmp_path, shop):
    """A browser whose camera sees the label of a wrench."""
    address = f"{shop.url}/crib/{demo_id('wrench', 'W-11 one-inch')}"
    drawn = BytesIO()
    segno.make(address, error="m").save(drawn, kind="png", scale=6, border=6)
    picture = Image.new("RGB", (640, 480), "white")
    code = Image.open(drawn).convert("RGB")
    picture.paste(code.resize((380, 380)), (130, 50))
    frame = BytesIO()
    picture.save(frame, "JPEG", quality=95)
    (tmp_path / "label.mjpeg").write_bytes(frame.getvalue() * 2)
    seen = [
        "--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream", f"--use-file-for-fake-video-capture={tmp_path / 'label.mjpeg'}",
    ]  # fmt: skip
    browser = chromium.browser_type.launch(executable_path=CHROMIUM, args=[*QUIET, *seen])
    yield browser
    browser.close()


def test_a_label_in_front_of_the_camera_opens_the_thing(camera, shop):
    tablet = Tablet(camera, shop).sign_in()
    tablet.context.grant_permissions(["camera"])
    tablet.tap("Scan a label")
    expect(tablet.page.get_by_role("heading", name="W-11 one-inch")).to_be_visible()
    tablet.close()


def test_a_hand_scanner_types_it(tablet, shop):
    tablet.sign_in().page.keyboard.type(f"http://anything:1/machines/{demo_id('machine', 'SB-04')}?place=rear/left/")
    expect(tablet.page.get_by_role("heading", name="SB-04")).to_be_visible()
