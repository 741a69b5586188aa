"""The library on the screen: found by a few keys, narrowed, written, brought in from a file, carried away."""

import csv
import io
from pathlib import Path
from uuid import uuid4

import pytest
from playwright.sync_api import expect
from pypdf import PdfReader

from tests.core.play import wheel_spec
from tests.formats.test_spec_files import HEAD, WHEEL
from tests.shop import PINS
from tight_ledger.demo import load
from tight_ledger.demo.load import demo_id

QUESTIONS = [
    ("sb04 rear w", 0, "SB-04 · Rear wheel nuts", "565–605 N·m"),
    ("tg02 cy", 0, "TG-02 · Cylinder head", "33–37 N·m → 56–60 N·m → 101–109°"),
    ("rs02 dr", 0, "RS-02 · Drive wheel nuts", "610–670 N·m"),
    ("lapwing sump", 0, "Sump", "9–11 N·m"),
    ("press-in hub", 0, "Front hub nut", "210–230 N·m"),
    ("stretch", 0, "Connecting rod caps, by stretch", "4 × M12×1.5 · right-hand thread"),
    ("sb04 flyw", 0, "SB-04 · Flywheel", "175–190 N·m"),
    ("fl07 spark", 0, "FL-07 · Spark plugs, taper seat", "14–18 N·m"),
    ("m60x2", 0, "Drum hub bearing", "235–255 N·m → loosen → 58–66 N·m"),
    ("bus front wh", 0, "Front wheel nuts", "545–585 N·m"),
]


def test_ten_questions_from_the_page_to_the_figure_by_keys_alone(tablet):
    page = tablet.sign_in().page
    for typed, downs, heading, figure in QUESTIONS:
        tablet.open("/")
        expect(page.get_by_role("searchbox")).to_be_focused()
        page.keyboard.type(typed)
        expect(page.get_by_role("link", name=heading.split(" · ")[-1]).first).to_be_visible()
        for _ in range(downs):
            page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", level=1)).to_contain_text(heading.split(" · ")[-1])
        expect(page.get_by_text(figure, exact=True).first).to_be_visible()
        assert len(typed) + downs + 1 <= 13


def test_facets_narrow_and_widen_again(tablet):
    page = tablet.sign_in().page
    page.keyboard.type("aldermoor lapwing")
    tablet.sees("26 fit")
    page.get_by_role("button", name="brakes 3").click()
    tablet.sees("3 fit")
    expect(page.get_by_role("link", name="Sump")).to_have_count(0)
    page.get_by_role("button", name="brakes no longer").click()
    tablet.sees("26 fit")


def test_a_vin_that_is_not_in_the_fleet_still_says_something(tablet):
    page = tablet.sign_in().page
    page.keyboard.type("1M8GDM9A1KP042788")
    tablet.sees("model year 2019 or 1989")
    tablet.sees("The check digit does not hold")


def test_a_model_with_its_twins_and_its_booklet(tablet, tam):
    page = tablet.sign_in().open("/models?maker=Aldermoor&model=Lapwing").page
    tablet.sees("What separates one from another")
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Booklet to carry").click()
    text = "\n".join(sheet.extract_text() for sheet in PdfReader(waiting.value.path()).pages)
    assert "Throw away after" in text
    sump = text[text.index("Aldermoor Lapwing · Sump\n") :]
    assert "More crushes the gasket" in sump[:600]  # the note stands with its spec
    machine = tam.http.get("/api/spec-files/booklet.pdf", params={"machine": str(demo_id("machine", "SV-11"))})
    assert "Front hub nut" in PdfReader(io.BytesIO(machine.content)).pages[0].extract_text()
    none = tam.http.get("/api/spec-files/booklet.pdf", params={"maker": "Nobody"})
    assert (none.status_code, none.json()["fault"]) == (422, "No spec in force fits this choice.")


@pytest.fixture
def own_spec(tam):
    spec = wheel_spec(6, id=uuid4(), title=f"Own {uuid4().hex[:6]}", applies_to=[{"maker": "Stourholm", "model": uuid4().hex[:6]}])
    assert tam.http.post("/api/specs", json=spec.model_dump(mode="json")).status_code == 201
    return spec


def test_the_editor_keeps_every_column_of_every_step(tablet, tam):
    held = next(
        line["spec"] for line in csv.DictReader((Path(load.__file__).parent / "specs.csv").read_text().splitlines()) if line["hold"]
    )
    rows = tam.get(f"/api/specs/{held}/rows")["rows"]
    assert any(row.get("hold") for row in rows)
    page = tablet.sign_in().page
    with page.expect_request(lambda request: request.url.endswith("/preview")) as asked:
        tablet.open(f"/specs/{held}/edit")

    def said(table):
        return [{name: cell for name, cell in row.items() if cell and name != "spec"} for row in table]

    assert said(asked.value.post_data_json["rows"]) == said(rows)


def test_a_next_revision_is_written_with_the_plan_beside_it(tablet, own_spec, tam):
    page = tablet.sign_in().open(f"/specs/{own_spec.id}").page
    page.get_by_role("link", name="New revision").click()
    tablet.sees("The plan, pull by pull")
    final = page.get_by_label("Final torque")
    final.fill("565–605")
    tablet.sees("The torque has no unit.")
    page.reload()  # a tablet that dies keeps what was typed
    expect(final).to_have_value("565–605")
    final.fill("500–540 N·m")
    expect(page.get_by_label("preview").get_by_text("500–540 N·m").first).to_be_visible()
    tablet.tap("Set the order by touching")
    for label in ("1", "2", "3", "4", "5", "6"):
        page.get_by_role("button", name=label, exact=True).click()
    expect(page.get_by_label("Orders")).to_have_value("main = 1 2 3 4 5 6")
    expect(page.get_by_label("plan").get_by_text("1 · 2 · 3 · 4 · 5 · 6").first).to_be_visible()
    page.get_by_label("This revision changes").select_option("figure")
    tablet.tap("Put it on file, unchecked")
    tablet.sees("leans")  # once round tips the wheel
    tablet.tap("It is as written: put it on file")
    tablet.sees("unchecked, entered by Tam Reddick")
    revised = tam.get(f"/api/specs/{own_spec.id}", revision=2)["spec"]
    assert revised["layout"]["orders"]["main"] == ["1", "2", "3", "4", "5", "6"]
    assert revised["finals"]["stud"]["written"] == "500–540 N·m"
    assert revised["change"] == "figure"
    page.context.clear_cookies(name="tight_session")
    page.goto("/")
    tablet.at_the_door("Ines Okoro", PINS["Ines Okoro"])
    expect(page.get_by_role("searchbox")).to_be_focused()
    tablet.open(f"/specs/{own_spec.id}?revision=2")
    tablet.tap("I have held it against its document")
    tablet.sees("checked by a second person: Ines Okoro")
    page.get_by_role("link", name="what changed").click()
    tablet.sees("500–540 N·m")
    expect(page.get_by_role("row", name="order changed")).to_contain_text("1 2 3 4 5 6")
    page.go_back()
    page.get_by_label("reason for withdrawing it").fill("the page was misread")
    tablet.tap("Withdraw revision 2")
    tablet.sees("withdrawn")
    tablet.sees("the page was misread")


def test_a_whole_spec_from_nothing(tablet):
    title = f"Plug {uuid4().hex[:6]}"
    page = tablet.sign_in().open("/add/spec/whole").page
    tablet.sees("Not a spec yet")
    typed = {
        "Title": title, "Joint": "drain plug", "Maker": "Marrowby", "Model": uuid4().hex[:6], "Layout": "one", "Kinds": "plug = M14x1.5",
        "Final torque": "28–34 N·m", "Ask": "Which washer?", "One may see": "copper | rubber", "Right is": "copper", "Document": "a page",
    }  # fmt: skip
    for label, text in typed.items():
        page.get_by_label(label, exact=True).fill(text)
    page.get_by_role("button", name="leave step 2 out").click()
    expect(page.get_by_label("plan")).to_be_visible()
    tablet.tap("Put it on file, unchecked")
    expect(page.get_by_role("heading", name=title)).to_be_visible()
    tablet.sees("the plug to the figure")


def test_a_table_is_rehearsed_cell_by_cell_then_comes_in(tablet, tmp_path):
    title, model = f"Sheet {uuid4().hex[:6]}", uuid4().hex[:6]
    page = tablet.sign_in().open("/add/file").page
    good = WHEEL.replace("Nuts,A,B", f"{title},Filed,{model}")

    def choose(*lines):
        file = tmp_path / f"{uuid4().hex}.csv"
        file.write_text("\n".join((HEAD, *lines)), encoding="utf-8")
        page.get_by_label("A CSV, XLSX or JSON file").set_input_files(file)

    choose(good, good.replace(title, "Bad").replace("110 Nm", "1-Feb"))
    tablet.sees("Would be: 1 as drafts, 0 there already, 0 unlikely, 1 refused.")
    tablet.sees("a spreadsheet has made a date of this")
    expect(tablet.button("put all on file")).to_have_count(0)
    choose(good)
    tablet.tap("Put all on file, as drafts")
    tablet.sees("On file now: 1 as drafts")
    tablet.open("/")
    expect(page.get_by_role("searchbox")).to_be_focused()
    page.keyboard.type(title)
    expect(page.get_by_role("link", name=title)).to_be_visible()


def test_a_procedure_with_a_loop_is_read_aloud_and_led_through(tablet):
    page = tablet.sign_in().page
    page.keyboard.type("drum hub bearing")
    expect(page.get_by_role("link", name="Drum hub bearing")).to_be_visible()
    page.keyboard.press("Enter")
    tablet.sees("again until move is accepted or stopped, at most 8 times:")
    tablet.sees("0.04–0.11 mm")
    expect(page.get_by_role("link", name="Prepare LW-1")).to_be_visible()


def test_a_machine_with_its_plate_and_what_was_found_out_about_it(tablet):
    number = f"V-{uuid4().hex[:5]}"
    page = tablet.sign_in().open("/add/machine").page
    for label, text in (
        ("Fleet number", number),
        ("Maker and model", "Aldermoor Lapwing"),
        ("Registration", f"{number} X"),
        ("VIN", "123"),
    ):
        page.get_by_role("textbox", name=label).fill(text)
    tablet.tap("Add it")
    tablet.sees("is no VIN: it has 3 characters")
    page.get_by_role("textbox", name="VIN").fill("1M8GDM9A1KP042788")
    tablet.tap("Add it")
    tablet.sees("One question first")
    tablet.open("/")
    page.get_by_role("searchbox").fill(f"{number}x".replace("-", ""))
    page.get_by_role("link", name=f"{number} Aldermoor Lapwing").click()
    tablet.sees("The check digit does not hold")
    variant = page.get_by_label("variant")
    variant.get_by_role("button", name="alloy").click()
    expect(variant.get_by_role("button", name="alloy")).to_have_attribute("aria-pressed", "true")
    variant.get_by_role("button", name="steel").click()  # a wrong answer is answered anew
    expect(variant.get_by_role("button", name="steel")).to_have_attribute("aria-pressed", "true")
