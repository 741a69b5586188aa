"""What is recorded stays what it was: ids, streams, sealed specs, order by number; and what cannot be kept is refused."""

import hashlib
import json
from pathlib import Path
from uuid import uuid4

import pytest
from sqlalchemy import text

from tests.api.test_commands import COVERED, MINIMAL, TOOL, Case
from tests.damage import from_a_later_version
from tests.shop import BUS_SPEC, Shop

LEFT = {"axle": "rear", "side": "left"}
ANOTHER = {
    "form_machine": {"form": {"body": "van"}}, "event_happened": {"followup": "warm"}, "review_place": {"text": "not looked at"},
    "describe_machine": {"value": "alloy"}, "read_meter": {"figure": 200}, "set_tool_aside": {"mishap": "overloaded"},
    "clear_tool": {"text": "not looked at"}, "check_tool": {"by": "Hillside"}, "review_run": {"text": "left as it is"},
    "choose": {"value": "6"}, "move_shop": {"time_zone": "Europe/Oslo"}, "withdraw_spec": {"reason": "wrong joint"}, "start_run": {"at_device": "2026-01-01T10:00:00Z"},
    "record_entry": {"text": "not seen"}, "retool_run": {"text": "it broke"}, "finish_run": {"text": "wrong wheel"},
    "add_machine": {"fleet_number": "another"}, "add_tool": {"tool": TOOL | {"name": "another"}}, "add_person": {"name": "Another Guest"},
    "say_of_piece": {"measured_mm": 0.102}, "enter_minimal_spec": {"title": "Drain plug"}, "register_instrument": {"name": "another"}, "set_roles": {"roles": ["keeper"]},
    "hold": {"text": "a fire"}, "lift_hold": {"text": "not so"},
}  # fmt: skip
SAYS_NOTHING = {
    "reset_pin",
    "leave",
    "erase_person",
    "unlock",
    "lose_tablet",
    "retire_instrument",
    "put_tool_away",
    "check_spec",
    "sign_run",
    "vouch",
    "pair_wrench",
}
"""Commands of which two with one id cannot differ."""


def test_every_command_that_says_something_is_tried_with_something_else():
    assert set(COVERED) == set(ANOTHER) | SAYS_NOTHING


@pytest.mark.parametrize("name", ANOTHER)
def test_the_same_id_with_something_else_is_refused(tam, ines, name):
    who, method, path, body = getattr(Case(tam, ines), name)()
    body = {"id": str(uuid4())} | body
    assert who.http.request(method, path, json=body).is_success
    answer = who.http.request(method, path, json=body | ANOTHER[name])
    assert answer.status_code == (422 if name == "enter_minimal_spec" else 409), answer.text


@pytest.mark.parametrize("name", [name for name in COVERED if name not in ("add_person", "pair_wrench")])
def test_an_id_that_is_used_elsewhere_is_refused_and_nothing_is_done(tam, ines, owner, name):
    other = tam.start()
    used = tam.entry("noted", text="seen")
    tam.post(other, used)
    who, method, path, body = getattr(Case(tam, ines), name)()
    if name.startswith(("add_", "enter_", "start_", "register_")):  # its id becomes that of a stream
        used["id"] = other
    before = owner.execute(text("SELECT COUNT(*) FROM ledger")).scalar()
    answer = who.http.request(method, path, json={**body, "id": used["id"]})
    assert answer.status_code == 409, answer.text
    assert owner.execute(text("SELECT COUNT(*) FROM ledger")).scalar() == before


def test_a_run_that_cannot_be_read_is_shown_as_that_and_takes_no_list_down_and_a_lead_frees_its_place(tam, ines, owner):
    machine = tam.machine()
    run = tam.start(machine)
    with from_a_later_version(owner, run):
        assert tam.http.get(f"/api/runs/{run}/now").status_code == 422
        for places in (tam.places(), tam.get(f"/api/machines/{machine}")["attention"]):
            [shown] = [place for place in places if place["run"] == run]
            assert (shown["unreadable"], shown["position"]) == (True, "rear left")
        end = {"outcome": "do not move", "text": "nobody can read it; all nuts pulled anew", "seq": 2, "at_device": tam.clock.isoformat()}
        assert tam.http.post("/api/runs", json=tam.start_body(machine)).status_code == 409
        assert tam.command(f"/api/runs/{run}/finish", end).status_code == 403
        assert ines.command(f"/api/runs/{run}/finish", end | {"outcome": "good"}).status_code == 422
        assert ines.command(f"/api/runs/{run}/finish", end).status_code == 201
        tam.start(machine)


def test_a_spec_that_was_changed_in_the_database_is_not_worked_to(tam, owner):
    spec = tam.command("/api/specs/minimal", MINIMAL | {"model": uuid4().hex[:6]}).json()["id"]
    named = {"s": spec.replace("-", "")}
    [[content]] = owner.execute(text("SELECT content FROM spec_revisions WHERE spec_id = :s"), named)
    low = content.replace('"low":', '"low":0.8e0,"was":', 1) if '"was"' in content else content.replace('"M20"', '"M22"')
    assert low != content
    owner.execute(text("UPDATE spec_revisions SET content = :c WHERE spec_id = :s"), named | {"c": low})
    machine = tam.machine("Tarn & Oake")
    started = tam.http.post("/api/runs", json=tam.start_body(machine, spec=spec))
    for answer in (tam.http.get(f"/api/specs/{spec}"), started):
        assert (answer.status_code, answer.json()["type"]) == (422, "urn:tight-ledger:unreadable")


def test_what_a_card_shows_is_under_the_seal(tam, ines, owner):
    """Machine and spec are changed in the database, and somebody's name: the card shows what was sealed, or says that it is not."""
    guest = {"id": str(uuid4()), "name": f"Guest {uuid4().hex[:6]}", "roles": ["mechanic"], "pin": "4711"}
    assert ines.http.post("/api/people", json=guest).is_success
    machine = tam.machine()
    run = tam.start(machine)
    tam.record(run, "noted", text="seen", by=guest["id"])
    before = tam.get(f"/api/runs/{run}/card")
    owner.execute(
        text("UPDATE machines SET content = REPLACE(content, 'Causeway', 'Culvert') WHERE id = :m"), {"m": machine.replace("-", "")}
    )
    owner.execute(text("UPDATE people SET name = 'Somebody Else' WHERE id = :p"), {"p": guest["id"].replace("-", "")})
    after = tam.get(f"/api/runs/{run}/card")
    assert after["sheet"] == before["sheet"]
    assert before["sheet"]["sealed"] is True
    assert [card["entries"][-1]["by"] for card in (before, after)] == [guest["name"], "Somebody Else (not the name that was sealed)"]
    told = tam.get(f"/api/runs/{run}/card.json")
    [proof] = [name for name in told["names"] if name["person"] == tam.id]
    named = "SELECT body FROM ledger WHERE stream = :p AND kind = 'named'"
    [[body]] = owner.execute(text(named), {"p": tam.id.replace("-", "")})
    assert hashlib.sha256(bytes.fromhex(proof["salt"]) + proof["name"].encode()).hexdigest() == json.loads(body)["digest"]
    owner.execute(text("UPDATE people SET name = :n WHERE id = :p"), {"n": guest["name"], "p": guest["id"].replace("-", "")})


def test_what_came_later_counts_whatever_the_clock_says(tmp_path: Path):
    """The server's clock goes two hours back between two runs, and after wrong PINs."""
    shop = Shop(tmp_path / "data").start()
    try:
        tam = shop.hand()
        machine, wrong = tam.machine(), {"person": tam.id, "pin": "9999"}
        run = tam.start(machine)
        tam.go_on(run)
        assert tam.finish(run, "abandoned", "a part is missing").status_code == 201
        for _ in range(5):
            tam.http.post("/api/sessions", json=wrong)
        shop.clock.wind(hours=-2)
        worse = tam.start(machine)
        assert tam.finish(worse, "do not move", "a stud is cracked").status_code == 201
        [place] = [each for each in tam.places() if each["machine"] == machine]
        assert (place["run"], place["standing"]) == (worse, "do not move")
        for _ in range(8):
            refused = tam.http.post("/api/sessions", json=wrong)
        waits = [int(word) for word in refused.json()["remedy"].split() if word.isdigit()]
        assert waits
        assert max(waits) < 3_600
    finally:
        shop.stop()


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        ("GET", "/%00", None, 404),
        ("GET", f"/{'a' * 300}", None, 200),
        ("GET", f"/{'a' * 3_000}", None, 404),
        ("GET", "/api/runs/%00/now", None, 404),
        ("POST", "/api/specs/preview", {"rows": []}, 422),
        ("POST", "/api/specs/rows", {"id": str(uuid4()), "rows": []}, 422),
        ("POST", "/api/sessions", {"person": "x" * 3_000}, 413),
        ("POST", "/api/machines", {"id": str(uuid4()), "fleet_number": "A\x07", "maker_model": "Fennick Causeway"}, 422),
        ("POST", "/api/machines", {"id": str(uuid4()), "fleet_number": "A\ud800", "maker_model": "Fennick Causeway"}, 422),
        ("POST", "/api/machines", "[" * 100_000, 422),
        (
            "POST",
            "/api/shop",
            {"id": str(uuid4()), "code": "1", "shop": "A", "time_zone": "Saltmarsh/Quay", "name": "A", "pin": "4711"},
            422,
        ),
    ],
)
def test_what_cannot_be_kept_is_refused(tam, method, path, body, status):
    sent = body if isinstance(body, str) or body is None else json.dumps(body)
    answer = tam.http.request(method, path, content=sent, headers={"Content-Type": "application/json"})
    assert answer.status_code == status, answer.text
    assert answer.headers["x-content-type-options"] == "nosniff"


@pytest.mark.parametrize(
    "changed",
    [
        {"at_device": "2026-11-26T10:00:00"}, {"at_device": "0001-01-01T10:00:00Z"}, {"at_device": "9999-12-31T23:59:59Z"},
        {"claimed_seq": 2**60}, {"text": "a" * 3_000}, {"told": ["a" * 300]}, {"told": ["a"] * 100}, {"rung": "r" * 100},
        {"files": ["f"] * 30}, {"text": "seen\x00"},
    ],
)  # fmt: skip
def test_an_entry_is_bounded(tam, changed):
    run = tam.start()
    answer = tam.post(run, tam.entry("noted", text="seen") | changed)
    assert answer.status_code == 422, answer.text
    assert tam.now(run)["seq"] == 1


def test_a_machine_whose_number_no_header_can_carry_has_its_card(tam):
    body = {"id": str(uuid4()), "fleet_number": f"Ж-{uuid4().hex[:4]}", "maker_model": "Fennick Causeway 12", "meters": ["km"]}
    machine = tam.http.post("/api/machines", json=body).json()["id"]
    card = tam.http.get(f"/api/runs/{tam.start(machine)}/card.pdf")
    assert (card.status_code, card.content[:5]) == (200, b"%PDF-")
    assert ".pdf" in card.headers["content-disposition"]


def test_what_comes_from_another_site_changes_nothing(tam):
    body = {"id": str(uuid4()), "fleet_number": uuid4().hex[:8], "maker_model": "Fennick Causeway 12"}
    answer = tam.http.post("/api/machines", json=body, headers={"Origin": "http://elsewhere.example"})
    assert (answer.status_code, answer.json()["field"]) == (403, "origin")
    assert tam.http.post("/api/machines", json=body, headers={"Origin": str(tam.http.base_url).rstrip("/")}).status_code == 201
    assert tam.http.get("/api/machines").headers["cache-control"] == "no-store"
    assert str(BUS_SPEC) in tam.http.get(f"/api/specs/{BUS_SPEC}").text
