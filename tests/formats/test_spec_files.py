"""Specs out and in again: the same bytes, all or nothing, and every refusal by row, column and fault."""

import csv
import io
import json
import zipfile
from uuid import uuid4

import httpx
import openpyxl
import pytest

from tests.core.play import wheel_spec
from tests.shop import Shop
from tests.waiting import until
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.spec_table.files import SpecDocument, from_json, judge, schema
from tight_ledger.core.spec_table.rows import COLUMNS, write_spec
from tight_ledger.formats import tables
from tight_ledger.formats.tables import LONGEST_CELL, read_file

HEAD = "title,maker,model,joint,layout,kinds,proof_options,proof_answer,finals,document,step,kind,figure"
WHEEL = 'Nuts,A,B,wheel,"circle 5, 100 mm",stud = M14x1.5,5,5,110 Nm,book,s1,torque,100 %'


def document(*specs):
    return {"format": "tight-ledger specs", "version": 1, "specs": [s if isinstance(s, dict) else s.model_dump(mode="json") for s in specs]}


def fresh(**change):
    """A spec of a model that no other test looks for."""
    own = [{"maker": "Filed", "model": uuid4().hex[:6]}]
    return wheel_spec(id=uuid4(), applies_to=own, **change)


def settled(http, told):
    """An import once nothing more happens by itself."""
    address = f"/api/spec-files/imports/{told['id']}"
    return until(lambda: http.get(address).json(), lambda now: now["state"] not in ("judging", "writing"))


def send(http, content):
    raw = content if isinstance(content, bytes) else json.dumps(content).encode()
    answer = http.put(f"/api/spec-files/imports/{uuid4()}", content=raw, params={"name": "a file"})
    assert answer.status_code == 202, answer.text
    return settled(http, answer.json())


def bring(http, told, **query):
    answer = http.post(f"/api/spec-files/imports/{told['id']}/bring-in", params=query)
    return settled(http, answer.json()) if answer.status_code == 202 else answer.json()


def read(tmp_path, content, name="file"):
    path = tmp_path / name
    path.write_bytes(content if isinstance(content, bytes) else content.encode())
    return list(read_file(path))


def only_fault(tmp_path, content):
    (candidate,) = read(tmp_path, content)
    (row,) = candidate.refused
    return row.number, row.field, row.fault


def workbook(tmp_path, *rows, name="book.xlsx"):
    book = openpyxl.Workbook()
    for row in rows:
        book.active.append(row)
    book.save(tmp_path / name)
    return (tmp_path / name).read_bytes()


@pytest.fixture(scope="module")
def other(tmp_path_factory):
    with Shop(tmp_path_factory.mktemp("other") / "data", "--empty") as empty, httpx.Client(base_url=empty.url, timeout=60) as http:
        first = {
            "code": empty.setup_code(),
            "shop": "Other",
            "time_zone": "Europe/Oslo",
            "name": "Ada",
            "pin": "5083",
            "tablet": str(uuid4()),
            "tablet_name": "desk",
        }
        person = http.post("/api/shop", json={"id": str(uuid4())} | first).json()["id"]
        http.post("/api/sessions", json={"person": person, "pin": "5083"})
        yield http


def test_out_in_three_forms_and_into_another_shop_gives_the_same_bytes(tam, other):
    exported = {form: tam.http.get(f"/api/spec-files/export.{form}").content for form in ("json", "csv", "xlsx")}
    told = send(other, exported["csv"])
    assert (told["state"], told["rehearsal"]["refused"]) == ("judged", 0), told["trouble"] or told["rehearsal"]["rows"]
    assert bring(other, told, affirmed=True)["state"] == "done"
    assert other.get("/api/spec-files/export.json").content == exported["json"]
    for form in ("json", "xlsx"):
        again = send(other, exported[form])["rehearsal"]
        assert (again["new"], again["same"]) == (0, again["specs"]), form
    assert {
        spec["status"] for spec in (other.get(f"/api/specs/{i['spec']}").json() for i in other.get("/api/dashboard").json()["to_check"][:9])
    } == {"draft"}


def test_one_bad_spec_and_nothing_comes_in(tam):
    good, bad = fresh(title=f"Good {uuid4().hex}"), fresh().model_dump(mode="json") | {"seat": 7}
    told = send(tam.http, document(good, bad))
    assert [(r["number"], r["verdict"], r["field"]) for r in told["rehearsal"]["rows"]] == [(1, "new", ""), (2, "refused", "seat")]
    assert "not ready" in bring(tam.http, told)["fault"]
    assert tam.http.get(f"/api/specs/{good.id}").status_code == 404
    assert bring(tam.http, send(tam.http, document(good)))["state"] == "done"
    assert tam.get(f"/api/specs/{good.id}")["status"] == "draft"
    assert [hit["spec"] for hit in tam.get("/api/find", asked=good.title)["hits"]] == [str(good.id)]


def test_unlikely_figures_are_asked_about_once_for_all(tam):
    told = send(tam.http, document(fresh(torque="6–7 N·m")))
    assert told["rehearsal"]["asks"] == 1
    assert "1 figures are unlikely" in bring(tam.http, told)["fault"]
    assert bring(tam.http, told, affirmed=True)["state"] == "done"


def test_two_revisions_in_one_file_follow_each_other(tam):
    first = fresh()
    second = first.model_copy(update={"revision": 2, "change": "wording", "seat": "flat"})
    told = send(tam.http, document(first, second))
    assert [row["verdict"] for row in told["rehearsal"]["rows"]] == ["new", "revision"]
    assert bring(tam.http, told)["state"] == "done"
    assert [r["revision"] for r in tam.get(f"/api/specs/{first.id}/history")["revisions"]] == [2, 1]


def test_somebody_else_was_faster_and_nothing_is_half_written(tam):
    shared, mine = fresh(), fresh()
    told, theirs = send(tam.http, document(mine, shared)), send(tam.http, document(shared))
    assert bring(tam.http, theirs)["state"] == "done"
    changed = send(tam.http, document(mine, shared.model_copy(update={"seat": "flat"})))
    assert changed["rehearsal"]["refused"] == 1
    assert bring(tam.http, told)["state"] == "done"  # what is there already is left as it is


def test_a_contradiction_that_came_after_the_rehearsal_leaves_all_of_it_outside(tam):
    shared, mine = fresh(), fresh()
    told = send(tam.http, document(mine, shared))
    theirs = send(tam.http, document(shared.model_copy(update={"seat": "flat"})))
    assert bring(tam.http, theirs)["state"] == "done"
    late = bring(tam.http, told)
    assert (late["state"], late["trouble"]["fault"]) == ("failed", "One of these specs is on file already.")
    assert tam.http.get(f"/api/specs/{mine.id}").status_code == 404
    assert tam.get("/api/find", asked=mine.applies_to[0].model)["hits"] == []


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        (b"[]", "does not say"),
        (b'{"format": "tight-ledger specs", "version": 2, "specs": []}', "does not say"),
        (b'{"format": "tight-ledger specs", "version": 1, "specs": []}', "holds no specs"),
        (b'{"format": "tight-ledger specs", "version": 1, "specs": [NaN]}', "not JSON"),
        (b'{"format": "tight-ledger specs", "versi', "not JSON"),
        (b"[" * 100_000, "nested too deeply"),
        (b"PK not really", "no XLSX"),
        (b"colour,maker\nred,A\n", "no column “colour”"),
        (b"title,title,maker,model,kind\n", "there twice"),
        (b"title,maker,kind\n", "column model is missing"),
        (b"title,maker,model,kind,finals [furlong]\n", "not a torque unit"),
        (HEAD.encode(), "holds no specs"),
        (b"\n\n", "is empty"),
        (f'{HEAD}\n"{"x" * 10_000_000}"'.encode(), "more than 60,000 characters"),
    ],
)
def test_what_is_no_file_of_specs(tmp_path, raw, said):
    with pytest.raises(Invalid, match=said):
        read(tmp_path, raw)


def test_a_file_that_is_made_to_burst_is_refused_before_it_is_unpacked(tmp_path):
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/worksheets/sheet1.xml", b"0" * 500_000_000)
    with pytest.raises(Invalid, match="unpacks to far more"):
        read(tmp_path, bomb.getvalue())


@pytest.mark.parametrize(
    ("encoding", "delimiter"), [("utf-8", ","), ("utf-8-sig", ";"), ("utf-16", "\t"), ("cp1252", ";")], ids=["plain", "mark", "wide", "old"]
)
def test_encodings_and_delimiters(tmp_path, encoding, delimiter):
    text = io.StringIO()
    writer = csv.writer(text, delimiter=delimiter)
    wheel = WHEEL.replace("110 Nm", '"109,5–112,5 N·m"')
    writer.writerows(csv.reader(io.StringIO(f"{HEAD}\n{wheel}")))
    (candidate,) = read(tmp_path, text.getvalue().encode(encoding))
    assert candidate.refused == ()
    assert (candidate.spec.finals["stud"].low, candidate.spec.finals["stud"].written) == (109.5, "109,5–112,5 N·m")


@pytest.mark.parametrize(
    ("was", "becomes", "fault"),
    [
        ("stud = M14x1.5", "stud = 01.Feb", (2, "kinds", "“01.Feb” is not a thread.")),
        ("110 Nm", "1-Feb", (2, "finals", "“1-Feb”: a spreadsheet has made a date of this.")),
        (",5,5,", ",2/1/2026,5,", (2, "proof_options", "“2/1/2026”: a spreadsheet has made a date of this.")),
        ("book", "=HYPERLINK(1)", (2, "document", "This cell is a formula.")),
        ("book", "bo\x07ok", (2, "document", "The cell holds signs that cannot be printed.")),
        ("110 Nm", "110", (2, "finals", "The torque has no unit.")),
        ("110 Nm", '"1,100 Nm"', (2, "finals", "“1,100 Nm” can be read two ways.")),
        ("100 %", "100 %,over", (2, "column 14", "“over” stands under no heading.")),
    ],
)
def test_a_cell_that_cannot_be_used(tmp_path, was, becomes, fault):
    assert only_fault(tmp_path, f"{HEAD}\n{WHEEL.replace(was, becomes)}\n") == fault


@pytest.mark.parametrize("page", ["07-Dec", "2/1/2026"])
def test_a_page_that_a_spreadsheet_made_a_date_is_as_doubtful_as_a_torque(tmp_path, page):
    found = only_fault(tmp_path, f"page,{HEAD}\n{page},{WHEEL}\n")
    assert found == (2, "page", f"“{page}”: a spreadsheet has made a date of this.")


def test_mixed_units_in_one_column_and_a_unit_in_the_heading(tmp_path):
    head = HEAD.replace("finals", "finals [lbf·ft]")
    found = read(tmp_path, f"{head}\n{WHEEL.replace('110 Nm', '80')}\n{WHEEL.replace('Nuts', 'Other nuts')}\n")
    assert [round(candidate.spec.finals["stud"].target, 2) for candidate in found] == [108.47, 110]


def test_rows_of_one_spec_stand_together(tmp_path):
    rows = [f"spec,{HEAD}", f"a,{WHEEL}", f"b,{WHEEL}", f"a,{WHEEL.replace('s1', 's2')}"]
    *_, last = read(tmp_path, "\n".join(rows))
    assert (last.refused[0].number, last.refused[0].field, last.refused[0].fault) == (4, "spec", "“a” stood further up already.")


def test_a_workbook_cell_that_is_a_date_or_a_formula(tmp_path):
    import datetime

    head, wheel = next(csv.reader([HEAD])), next(csv.reader([WHEEL]))
    for column, value, said in (("kinds", datetime.date(2026, 2, 1), "made a date"), ("finals", "=1+1", "formula")):
        row = [value if name == column else cell for name, cell in zip(head, wheel, strict=True)]
        assert said in only_fault(tmp_path, workbook(tmp_path, head, row))[2]
    assert read(tmp_path, workbook(tmp_path, head, wheel))[0].refused == ()


def test_what_a_spreadsheet_would_take_for_a_formula_goes_out_harmless_and_comes_back(tmp_path):
    spec = fresh(title="=1+1", seat="@home", cautions=["-2 °C and below: warm it first"])
    raw = tables.csv_head() + tables.csv_rows([spec])
    assert all(not cell.startswith(("=", "+", "-", "@")) for line in csv.reader(io.StringIO(raw.decode("utf-8-sig"))) for cell in line)
    assert [candidate.spec for candidate in read(tmp_path, raw)] == [spec]


def test_too_large_and_empty_are_refused_before_they_are_read(tam):
    empty = tam.http.put(f"/api/spec-files/imports/{uuid4()}", content=b"")
    assert (empty.status_code, empty.json()["fault"]) == (422, "The file is empty.")
    with httpx.Client(base_url=tam.http.base_url, cookies=tam.http.cookies, timeout=60) as http:
        large = http.put(f"/api/spec-files/imports/{uuid4()}", content=(b" " * 1_000_000 for _ in range(201)))
    assert (large.status_code, large.json()["fault"]) == (413, "This is too large.")
    assert "no longer here" in tam.http.get(f"/api/spec-files/imports/{uuid4()}").json()["fault"]


@pytest.mark.parametrize(
    ("raw", "field"),
    [
        (7, "spec"),
        ({}, "id"),
        (fresh().model_dump(mode="json") | {"colour": "red"}, "colour"),
        (fresh().model_dump(mode="json") | {"title": "x" * 10_000_000}, "title"),
        (fresh().model_dump(mode="json") | {"procedures": {"tighten": [{"id": "a", "kind": "dance"}]}}, "procedures.tighten.0"),
        (fresh().model_dump(mode="json") | {"procedures": {"tighten": [{"id": "a", "kind": "torque", "of": "bolt"}]}}, "of"),
    ],
)
def test_a_spec_is_refused_by_field(raw, field):
    row = judge(from_json(3, raw), {}, affirmed=False)[0]
    assert (row.number, row.verdict, row.field) == (3, "refused", field)
    assert row.fault
    assert len(row.title) <= 120


def test_the_same_again_a_next_revision_and_a_contradiction():
    spec = wheel_spec()
    on_file = {1: spec.digest}
    dumped = spec.model_dump(mode="json")
    changes = ({}, {"revision": 2, "change": "wording", "seat": "flat"}, {"seat": "flat"})
    assert [judge(from_json(1, dumped | change), on_file, affirmed=False)[0].verdict for change in changes] == [
        "same",
        "revision",
        "refused",
    ]


def test_the_schema_and_the_columns_are_those_of_the_models(tam):
    assert tam.get("/api/spec-files/schema.json") == schema()
    assert schema()["properties"]["specs"]["items"]["$ref"] == "#/$defs/Spec"
    assert SpecDocument.model_validate(document(fresh())).version == 1
    assert tam.get("/api/spec-files/columns")["columns"] == COLUMNS
    assert {name for row in write_spec(fresh()) for name in row} <= set(COLUMNS)
    assert LONGEST_CELL < 1_000_000
