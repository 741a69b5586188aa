"""What is due: on paper, as a calendar, from a meter file; what must not move stays so until a lead lifts it."""

import socket
from datetime import datetime
from io import BytesIO
from uuid import uuid4
from zoneinfo import ZoneInfo

import httpx
import pytest
from icalendar import Calendar
from pypdf import PdfReader
from sqlalchemy import create_engine, text

from tests.waiting import until
from tight_ledger.store.server import SERVING


def tightened(hand, **changes):
    machine = hand.machine()
    run = hand.start(machine, meters=[{"kind": "km", "figure": 1000}], **changes)
    hand.go_on(run)
    assert hand.finish(run).status_code == 201
    return machine, run


def text_of(answer):
    assert (answer.status_code, answer.headers["content-type"]) == (200, "application/pdf")
    return " ".join(page.extract_text() for page in PdfReader(BytesIO(answer.content)).pages)


def fleet_number(hand, machine):
    return hand.get(f"/api/machines/{machine}")["machine"]["fleet_number"]


@pytest.mark.dated
def test_a_meter_that_is_put_right_or_exchanged_drives_nothing_and_what_is_due_carries_over(tam):
    machine, run = tightened(tam)
    path = f"/api/machines/{machine}/meters"
    assert tam.command(path, {"kind": "km", "figure": 9}).json()["ask"] == "meter"
    for figure, basis in ((1_900, "reading"), (1_040, "correction"), (5, "new_meter"), (45, "reading")):
        assert tam.command(path, {"kind": "km", "figure": figure, "basis": basis}).status_code == 204
    [due] = [each["due"] for each in tam.get("/api/followups") if each["root"] == run]
    assert (due["status"], "80 km run" in due["words"]) == ("due", True)


@pytest.mark.dated
def test_meters_from_a_file_make_it_due_and_a_wrong_line_stands_for_itself(tam):
    machine, run = tightened(tam)
    number = fleet_number(tam, machine)
    sent = f"machine,meter,figure\n{number},km,1085\nnobody,km,5\n{number},hours,5\n{number},km,12\n{number},km,many\n"
    file = uuid4()
    answers = [tam.http.put(f"/api/meters/{file}", content=sent.encode()).json() for _ in range(2)]
    assert [(line["row"], line["ok"]) for line in answers[0]] == [(2, True), (3, False), (4, False), (5, False), (6, False)]
    assert answers[1][0]["said"] == "1085 km is written down already"
    due = next(each for each in tam.get("/api/followups", status="due") if each["root"] == run)
    assert (due["fasteners"], due["minutes"], due["wrenches"]) == (10, 7, ["W-11 one-inch"])
    assert tam.http.put(f"/api/meters/{file}", content=b"fleet;km\n").status_code == 422
    assert tam.http.put(f"/api/meters/{file}", content=b"\xff\xfe\x00").status_code == 422


def test_meters_whose_client_leaves_are_given_up_at_once(shop, tam, owner):
    """The ledger is locked, so that they cannot be written before the client has left."""
    machine, known = tam.machine(), str(uuid4())
    sent = f"machine,meter,figure\n{fleet_number(tam, machine)},km,1085\n"
    head = f"PUT /api/meters/{uuid4()} HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Request-Id: {known}\r\nContent-Type: application/octet-stream\r\n"
    head += f"Cookie: {'; '.join(f'{name}={value}' for name, value in tam.http.cookies.items())}\r\nContent-Length: {len(sent)}\r\n\r\n"
    waiting = text("SELECT COUNT(*) FROM information_schema.processlist WHERE state LIKE 'Waiting%' AND info LIKE '%ledger%'")
    serving = create_engine(shop.database().url(SERVING), isolation_level="AUTOCOMMIT")  # an account sees its own statements
    owner.execute(text("LOCK TABLES ledger WRITE"))
    try:
        with socket.create_connection(("127.0.0.1", shop.port)) as leaves, serving.connect() as looks:
            leaves.sendall((head + sent).encode())
            until(lambda: looks.execute(waiting).scalar())
        told = until(lambda: [line for line in shop.log() if line.get("request") == known and "status" in line])
    finally:
        owner.execute(text("UNLOCK TABLES"))
        serving.dispose()
    assert [line["status"] for line in told] == [400]
    assert tam.get(f"/api/machines/{machine}")["meters"] == []


@pytest.mark.dated
def test_the_list_the_tag_and_the_calendar_say_the_same(tam):
    machine, run = tightened(tam)
    number = fleet_number(tam, machine)
    printed = text_of(tam.http.get("/api/followups.pdf"))
    assert number in printed
    assert "W-11 one-inch · 10 fasteners, 1 person, about 7 min" in printed.replace("\n", " ")
    tag = text_of(tam.http.get(f"/api/followups/{run}/short/tag.pdf"))
    assert "RE-TORQUE" in tag
    assert f"{number} rear left" in tag
    feed = Calendar.from_ical(tam.http.get("/api/followups.ics").content)
    event = next(each for each in feed.walk("VEVENT") if str(each["url"]).endswith(f"/go/followup/{run}/short"))
    by = next(each for each in tam.get("/api/followups") if each["root"] == run)["due"]["by_date"]
    assert event["dtstart"].dt == datetime.fromisoformat(by).astimezone(ZoneInfo("Europe/London")).date()  # the shop's day
    assert tam.http.get(f"/api/followups/{uuid4()}/short").status_code == 404


@pytest.mark.dated
def test_a_calendar_program_follows_by_an_address_with_a_key_of_its_own(shop, tam):
    guest = shop.hand(shop.employ("mechanic"))
    address = guest.command("/api/feeds").json()["address"]
    path = address.removeprefix(shop.url)
    with httpx.Client(base_url=shop.url) as program:
        assert Calendar.from_ical(program.get(path).content)["version"] == "2.0"
        assert program.get(path.replace("/re-torques", "x/re-torques")).status_code == 404
        assert program.get("/api/followups").status_code == 401  # the key opens nothing else
        assert guest.http.post("/api/feeds/end").status_code == 204
        assert program.get(path).status_code == 404


ENDS = {
    "another PIN": lambda guest, key: (f"/api/people/{guest.id}/pin", {"pin": "8305"}),
    "no right to it": lambda guest, key: (f"/api/people/{guest.id}/roles", {"roles": ["auditor"]}),
    "has left": lambda guest, key: (f"/api/people/{guest.id}/leave", {}),
}  # fmt: skip


@pytest.mark.parametrize("end", ENDS)
def test_an_address_for_a_calendar_ends_with_the_right_that_it_came_from(shop, ines, end):
    guest = shop.hand(shop.employ("mechanic"))
    path = guest.command("/api/feeds").json()["address"].removeprefix(shop.url)
    assert httpx.get(shop.url + path).status_code == 200
    to, body = ENDS[end](guest, path)
    assert ines.command(to, body).is_success
    assert httpx.get(shop.url + path).status_code == 404


def test_addresses_for_calendars_stand_among_the_sessions_and_a_keeper_ends_them(shop, tam, ines):
    guest = shop.hand(shop.employ("mechanic"))
    path = guest.command("/api/feeds").json()["address"].removeprefix(shop.url)
    named = [session["id"] for session in ines.get("/api/sessions") if session["person"] == guest.id and session["until"] is None]
    assert named == [session["id"] for session in guest.get("/api/sessions") if session["until"] is None]
    assert tam.http.delete(f"/api/sessions/{named[0]}").status_code == 403
    assert ines.http.delete(f"/api/sessions/{named[0]}").status_code == 204
    assert httpx.get(shop.url + path).status_code == 404


def test_do_not_move_prints_a_tag_and_only_a_leads_entry_lifts_it(tam, ines):
    machine = tam.machine()
    red = tam.start(machine)
    tam.go_on(red, moved=lambda pull: pull.endswith((":7", ":9")))
    assert tam.finish(red, "do not move").status_code == 201
    tag = text_of(tam.http.get(f"/api/runs/{red}/tag.pdf"))
    assert "DO NOT MOVE" in tag
    assert "nuts 7, 9" in tag
    assert "Only a lead lifts this" in tag

    again = tam.start(machine)
    tam.go_on(again)
    assert tam.finish(again).status_code == 201

    def standing():
        now = tam.get(f"/api/machines/{machine}")
        spots = {spot["key"]: spot["state"] for spot in now["map"]["spots"]}
        return [(place["run"], place["tightened_again"]) for place in now["attention"]], spots["rear/left/"]

    assert standing() == ([(red, True)], "do not move")
    assert tam.finish(red, "released", "tightened again").status_code == 403
    assert ines.finish(red, "released", "tightened again, none turned").status_code == 201
    assert standing() == ([], "done")
    assert tam.http.get(f"/api/runs/{again}/tag.pdf").status_code == 422
