"""Specs out and in again: the same bytes, all or nothing, and every refusal by number, field and fault."""

import json
from uuid import uuid4

import httpx
import pytest

from tests.core.play import wheel_spec
from tests.shop import Shop
from tight_ledger.core.base import Invalid
from tight_ledger.core.spec_files import SpecDocument, judge, read_document, schema


def document(*specs):
    return {"format": "tight-ledger specs", "version": 1, "specs": [s if isinstance(s, dict) else s.model_dump(mode="json") for s in specs]}


def fresh(**change):
    """A spec of a model that no other test looks for."""
    own = [{"maker": "Filed", "model": uuid4().hex[:6]}]
    return wheel_spec(id=uuid4(), applies_to=own, **change).model_dump(mode="json")


def post(hand, what, content, **query):
    raw = content if isinstance(content, bytes) else json.dumps(content).encode()
    return hand.http.post(f"/api/library/{what}", content=raw, params=query, headers={"content-type": "application/json"})


@pytest.fixture
def other(tmp_path):
    empty = Shop(tmp_path / "data", "--empty").start()
    yield empty
    empty.stop()


def test_out_and_into_another_shop_gives_the_same_bytes(tam, other):
    exported = tam.http.get("/api/library/export.json").content
    with httpx.Client(base_url=other.url, timeout=60) as http:
        person = http.post("/api/shop", json={"shop": "Other", "name": "Ada", "pin": "1234"}).json()["id"]
        http.post("/api/sessions", json={"person": person, "pin": "1234", "device": str(uuid4()), "device_name": "x"})
        told = http.post("/api/library/import", params={"affirmed": "figure"}, content=exported)
        assert told.status_code == 201, told.text
        assert http.get("/api/library/export.json").content == exported
        again = http.post("/api/library/import", content=exported).json()
        assert (again["added"], again["same"]) == (0, len(told.json()["rows"]))
        assert {s["status"] for s in [http.get(f"/api/specs/{i['spec']}").json() for i in http.get("/api/bay").json()["to_check"]]} == {
            "draft"
        }


def test_one_bad_spec_and_nothing_comes_in(tam):
    good, bad = fresh(title=f"Good {uuid4().hex}"), fresh() | {"finals": {"stud": {"quantity": "torque", "low": 9, "high": 5}}}
    told = post(tam, "rehearsal", document(good, bad)).json()
    assert [(r["number"], r["verdict"]) for r in told["rows"]] == [(1, "new"), (2, "refused")]
    assert told["rows"][1]["field"] == "finals.stud"
    assert "swap them" in told["rows"][1]["fault"]
    refused = post(tam, "import", document(good, bad))
    assert (refused.status_code, refused.json()["field"]) == (422, "specs.2.finals.stud")
    assert tam.http.get(f"/api/specs/{good['id']}").status_code == 404
    assert post(tam, "import", document(good)).status_code == 201
    assert tam.get(f"/api/specs/{good['id']}")["status"] == "draft"


def test_unlikely_figures_are_asked_about_once_for_all(tam):
    odd = fresh(torque="6–7 N·m")
    assert post(tam, "rehearsal", document(odd)).json()["asks"] == 1
    asked = post(tam, "import", document(odd))
    assert (asked.status_code, asked.json()["ask"]) == (409, "figure")
    assert post(tam, "import", document(odd), affirmed="figure").status_code == 201


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        (b"", "not JSON"),
        (b"\xff\xfe{}", "not UTF-8"),
        (b"[]", "does not say"),
        (b'{"format": "tight-ledger specs", "version": 2, "specs": []}', "does not say"),
        (b'{"format": "tight-ledger specs", "version": 1, "specs": []}', "holds no specs"),
        (b'{"format": "tight-ledger specs", "version": 1, "specs": [NaN]}', "no figure"),
        (b"[" * 100_000, "not JSON"),
    ],
)
def test_what_is_no_file_of_specs(raw, said):
    with pytest.raises(Invalid, match=said):
        read_document(raw)


def test_a_byte_order_mark_is_no_fault():
    assert len(read_document(b"\xef\xbb\xbf" + json.dumps(document(fresh())).encode())) == 1


def test_one_spec_by_itself_is_a_file_too():
    one = fresh()
    assert read_document(json.dumps(one).encode()) == [one]


def test_too_large_is_refused_before_it_is_read(tam):
    assert "too large" in post(tam, "rehearsal", b" " * 50_000_001).json()["fault"]


@pytest.mark.parametrize(
    ("raw", "field"),
    [
        (7, "spec"),
        ({}, "id"),
        (fresh() | {"colour": "red"}, "colour"),
        (fresh() | {"title": "x" * 10_000_000}, "title"),
        (fresh() | {"procedures": {"tighten": [{"id": "a", "kind": "dance"}]}}, "procedures.tighten.0"),
        (fresh() | {"procedures": {"tighten": [{"id": "a", "kind": "torque", "of": "bolt"}]}}, "of"),
    ],
)
def test_a_spec_is_refused_by_field(raw, field):
    row, spec = judge(3, raw, {}, affirmed=False)
    assert (row.number, row.verdict, row.field, spec) == (3, "refused", field, None)
    assert row.fault
    assert len(row.title) <= 120


def test_the_same_again_a_next_revision_and_a_contradiction():
    spec = wheel_spec()
    on_file = {1: spec.digest}
    dumped = spec.model_dump(mode="json")
    verdicts = [
        judge(1, dumped, on_file, affirmed=False)[0].verdict,
        judge(1, dumped | {"revision": 2, "change": "wording", "seat": "flat"}, on_file, affirmed=False)[0].verdict,
        judge(1, dumped | {"seat": "flat"}, on_file, affirmed=False)[0].verdict,
    ]
    assert verdicts == ["same", "revision", "refused"]


def test_the_schema_is_that_of_the_models(tam):
    assert tam.get("/api/library/schema.json") == schema()
    assert schema()["properties"]["specs"]["items"]["$ref"] == "#/$defs/Spec"
    assert SpecDocument.model_validate(document(fresh())).version == 1
