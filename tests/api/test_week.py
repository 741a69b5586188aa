"""The week and everything else that reads runs in short, against a fresh reading of the ledger."""

import csv
import re
from datetime import date, timedelta
from io import BytesIO, StringIO
from uuid import UUID, uuid4

import pytest
from pypdf import PdfReader
from sqlalchemy import create_engine, text

from tests.shop import BUS_SPEC
from tight_ledger.store.server import OWNER


@pytest.fixture
def stored(shop):
    """By run, the short form as it is stored; by place, how it stands; and what streams have told, with every notice."""
    engine = create_engine(shop.database().url(OWNER))

    def read():
        with engine.connect() as connection:
            rows = connection.execute(text("SELECT run_id, standing, ended_at, content FROM run_now")).all()
            others = [
                connection.execute(text(query)).all()
                for query in ("SELECT * FROM places_now", "SELECT * FROM told_now", "SELECT id, stream, at FROM notices_now")
            ]
        return {str(UUID(str(row.run_id))): tuple(row)[1:] for row in rows}, *({tuple(row) for row in each} for each in others)

    yield read
    engine.dispose()


@pytest.mark.dated
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
    read, places, told, notices = stored()
    assert [read[run][0] for run in (good, red, left)] == ["do not move", "released", "abandoned"]
    needs = {str(UUID(str(run))): (needs, root) for _, _, _, run, needs, root in places}
    assert [needs[run][0] for run in (good, red, left)] == [1, 0, 1]
    assert needs[red][1] is not None  # its re-torque is to come
    assert re.match(r"\d+ runs in short", shop.run("rebuild").stdout)
    assert stored() == (read, places, told, notices)
    assert told
    assert notices


@pytest.mark.dated
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
    done, *others = tam.http.get("/api/week.csv").text.split("\r\n\r\n")
    assert {row["run"] for row in csv.DictReader(StringIO(done))} == {each["run"] for each in week["done"]}
    tables = {name: list(csv.DictReader(StringIO(rows))) for name, _, rows in (each.partition("\r\n") for each in others)}
    followups = [each for line in week["bay"] for each in line["followups"]]
    assert {row["run"] for row in tables["open"]} == {place["run"] for line in week["bay"] for place in line["places"]}
    for name, statuses in (("missed", ["overdue"]), ("due", ["due", "soon"])):
        assert [row["after run"] for row in tables[name]] == [each["root"] for each in followups if each["due"]["status"] in statuses]
    assert {row["id"] for row in tables["in doubt"]} == {tool["id"] for tool in week["in_doubt"]}
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


@pytest.mark.dated
def test_dates_are_written_and_shifts_named_as_the_shop_sets_them(tam, ines, settings):
    settings(dates="de-DE", shifts="day 00:00", torque_unit="lbf·in")
    run = tam.start()
    tam.go_on(run)
    assert tam.finish(run).status_code == 201
    day = date.fromisoformat(tam.get("/api/week")["monday"])
    printed = PdfReader(BytesIO(tam.http.get("/api/week.pdf").content)).pages[0].extract_text()
    assert f"{day:%d.%m.%Y}" in printed
    assert next(row for row in csv.DictReader(StringIO(tam.http.get("/api/week.csv").text)) if row["run"] == run)["shift"] == "day"
    assert tam.get("/api/dashboard")["shift"] == "day"
    units = [each["unit"] for each in tam.get(f"/api/specs/{BUS_SPEC}")["sheet"]["figures"][0]["units"]]
    assert units[:2] == ["N·m", "lbf·in"]  # as the document says, then the shop's own
    settings(torque_unit="lbf·ft")
    assert next(form for form in tam.get("/api/tools/forms") if form["kind"] == "wrench")["usual"][0]["typed"]["unit"] == "lbf·ft"
    assert tam.get("/api/sign-in")["dates"] == "de-DE"


@pytest.fixture
def settings(ines):
    """Set what the shop sets; as it was afterwards."""

    def put(**said):
        for field, value in said.items():
            assert ines.http.put("/api/shop/choices", json={"id": str(uuid4()), "field": field, "value": value}).is_success

    yield put
    put(dates="en-GB", shifts="", torque_unit="N·m")
