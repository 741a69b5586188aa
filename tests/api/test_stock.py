"""The list of shims and spacers: put on it, measured, used; in and out as a table."""

import csv
from io import BytesIO, StringIO
from uuid import uuid4

import pytest
from openpyxl import load_workbook
from pypdf import PdfReader

HEAD = "name,what,bore_mm,rim_mm,nominal_mm,measured_mm,at_hand"


def sent(hand, text, file_id=None):
    return hand.http.put(f"/api/stock/{file_id or uuid4()}", content=text.encode() if isinstance(text, str) else text)


def named(hand, name):
    return next(now for now in hand.get("/api/stock") if now["piece"]["name"] == name)


@pytest.fixture
def name():
    return f"shim {uuid4().hex[:6]}"


def test_a_piece_is_added_measured_used_and_comes_back(tam, name):
    piece = {"kind": "piece", "name": name, "what": "shim", "bore_mm": 38, "rim_mm": 48, "nominal_mm": 0.5}
    said = {"id": str(uuid4()), "tool": piece | {"id": str(uuid4())}}
    made = tam.http.post("/api/tools", json=said).json()["id"]
    tam.command(f"/api/tools/{made}/piece", {"act": "sized", "measured_mm": 0.503})
    tam.command(f"/api/tools/{made}/piece", {"act": "used_up"})
    assert (named(tam, name)["measured_mm"], named(tam, name)["at_hand"]) == (0.503, False)
    assert tam.get(f"/api/tools/{made}")["words"].endswith("0.5 mm, measured 0.503 mm")
    tam.command(f"/api/tools/{made}/piece", {"act": "returned"})
    assert named(tam, name)["at_hand"]
    labels = PdfReader(BytesIO(tam.http.get("/api/labels.pdf?of=stock").content))
    assert name in " ".join(page.extract_text() for page in labels.pages)


@pytest.mark.parametrize("figure", [0.02, 5.03, None])
def test_a_thickness_read_in_another_unit_is_refused_and_nothing_is_written(tam, name, figure):
    sent(tam, f"{HEAD}\n{name},shim,38,48,0.5,,yes\n")
    piece = named(tam, name)["piece"]["id"]
    said = tam.http.post(f"/api/tools/{piece}/piece", json={"id": str(uuid4()), "act": "sized", "measured_mm": figure})
    assert (said.status_code, said.json()["field"]) == (422, "measured_mm")
    assert named(tam, name)["measured_mm"] is None


def test_a_table_comes_in_line_by_line_and_goes_out_as_it_came(tam, name):
    file_id = str(uuid4())
    text = f"{HEAD}\n{name} a,shim,38,48,0.5,0.503,yes\n{name} b,spacer,38,48,12,,no\n{name} c,shim,38,48,0.5,5.03,yes\n{name} d,brick,1,2,3,,yes\n"
    lines = sent(tam, text, file_id).json()
    assert [line["ok"] for line in lines] == [True, True, False, False]
    assert [line["said"] for line in lines[:2]] == ["new", "new, not at hand"]
    assert [line["said"] for line in sent(tam, text, file_id).json()[:2]] == ["as it was", "as it was"]
    out = [row for row in csv.reader(StringIO(tam.http.get("/api/stock.csv").text)) if row[0].startswith(name)]
    assert sorted(out) == [line.split(",") for line in text.splitlines()[1:3]]
    book = tam.http.get("/api/stock.xlsx").content
    sheet = load_workbook(BytesIO(book)).active
    assert [[cell or "" for cell in row] for row in sheet.iter_rows(values_only=True) if str(row[0]).startswith(name)] == out
    mended = text.replace("0.503", "0.501").splitlines()[:2]
    assert sent(tam, "\n".join(mended)).json()[0]["said"] == "measured"
    assert all(line["said"] == "measured" or not line["name"].startswith(f"{name} a") for line in sent(tam, book).json())


def test_a_table_without_its_columns_says_which(tam):
    said = sent(tam, "name,what\nx,shim\n")
    assert said.status_code == 422
    assert "bore_mm, nominal_mm, rim_mm" in said.json()["fault"]
