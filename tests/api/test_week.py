"""The week and everything else that reads runs in short, against a fresh reading of the ledger."""

import csv
import re
from datetime import date, timedelta
from io import BytesIO, StringIO
from uuid import UUID

import pytest
from pypdf import PdfReader
from sqlalchemy import create_engine, text

from tight_ledger.store.server import OWNER


@pytest.fixture
def stored(shop):
    """By run, the short form as it is stored."""
    engine = create_engine(shop.database().url(OWNER))

    def read():
        with engine.connect() as connection:
            rows = connection.execute(text("SELECT run_id, standing, counts, ended_at, content FROM run_now")).all()
        return {str(UUID(str(row.run_id))): tuple(row)[1:] for row in rows}

    yield read
    engine.dispose()


def test_what_lists_are_read_from_is_what_the_ledger_says(shop, stored, tam, ines):
    good, red, left = tam.start(), tam.start(), tam.start()
    tam.go_on(good)
    assert tam.finish(good).status_code == 201
    tam.go_on(red, moved=lambda pull: pull.endswith(":9"))
    assert tam.finish(red, "do not move").status_code == 201
    assert ines.finish(red, "released", "looked at").status_code == 201
    tam.go_on(left, until="s2:1")
    assert tam.finish(left, "abandoned", "the jack is needed").status_code == 201
    tam.record(good, "loosened", fastener="3", text="to look at it")  # after its end
    tam.get("/api/dashboard")
    read = stored()
    assert [read[run][0] for run in (good, red, left)] == ["do not move", "released", "abandoned"]
    assert re.match(r"\d+ runs in short", shop.run("rebuild").stdout)
    assert stored() == read


def test_the_week_names_what_was_done_and_leads_to_it(tam):
    run = tam.start()
    tam.go_on(run)
    assert tam.finish(run).status_code == 201
    week = tam.get("/api/week")
    line = next(each for each in week["done"] if each["run"] == run)
    assert (line["standing"], line["people"], line["pulls"]) == ("good", ["Tam Reddick"], 40)
    assert date.fromisoformat(week["monday"]).weekday() == 0
    assert sum(day["counts"].get("good", 0) for day in week["outcomes"]) == sum(each["standing"] == "good" for each in week["done"])
    assert sum(day["counts"].get("pulls", 0) for day in week["pulls"]) >= 40
    rows = list(csv.DictReader(StringIO(tam.http.get("/api/week.csv").text)))
    assert {row["run"] for row in rows} == {each["run"] for each in week["done"]}
    printed = PdfReader(BytesIO(tam.http.get("/api/week.pdf").content))
    assert f"Done: {len(week['done'])}" in " ".join(page.extract_text() for page in printed.pages)
    before = date.fromisoformat(week["monday"]) - timedelta(days=21)
    assert all(each["run"] != run for each in tam.get("/api/week", day=str(before))["done"])


def test_labels_have_a_code_for_every_thing(tam):
    for kind, count in (("machines", len(tam.get("/api/machines"))), ("tools", len(tam.get("/api/tools")["tools"]))):
        answer = tam.http.get("/api/labels.pdf", params={"of": kind})
        assert answer.status_code == 200
        assert len(PdfReader(BytesIO(answer.content)).pages) >= count // 40
    for of in ("specs", "positions"):
        assert tam.http.get("/api/labels.pdf", params={"of": of, "machine": tam.machine()}).status_code == 200
        assert tam.http.get("/api/labels.pdf", params={"of": of}).status_code == 422
