"""People come, change their PIN, have it reset, and leave; who is signed in where is seen and ended."""

from uuid import uuid4

import httpx
import pytest

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.people import check_new_pin


@pytest.fixture
def guest(shop, ines):
    """Somebody put on the list, and how they sign in."""
    body = {"id": str(uuid4()), "name": f"Guest {uuid4().hex[:6]}", "roles": ["mechanic"], "pin": "4711"}
    assert ines.http.post("/api/people", json=body).status_code == 201
    clients = []

    def sign_in(pin, tablet="hoist 2"):
        client = httpx.Client(base_url=shop.url, timeout=30, cookies={"tight_tablet": shop.tablet(tablet)})
        clients.append(client)
        client.answer = client.post("/api/sessions", json={"person": body["id"], "pin": pin})
        return client

    yield body, sign_in
    for client in clients:
        client.close()


def test_a_pin_is_changed_by_its_owner_once(guest):
    _, sign_in = guest
    mine, body = sign_in("4711"), {"id": str(uuid4()), "old": "4711", "new": "90351"}
    for wrong, field in (({"old": "4712"}, "old"), ({"new": "4711"}, "new"), ({"new": "1234"}, "new")):
        refused = mine.post("/api/me/pin", json=body | {"id": str(uuid4())} | wrong)
        assert (refused.status_code in (403, 422), refused.json()["field"]) == (True, field)
    assert [mine.post("/api/me/pin", json=body).status_code for _ in range(2)] == [204, 204]
    assert [sign_in(pin).answer.status_code for pin in ("4711", "90351")] == [403, 201]


def test_a_pin_that_was_reset_is_changed_before_anything_else_and_lifts_the_lock(guest, ines, tam):
    body, sign_in = guest
    before = sign_in("4711")
    for _ in range(6):
        sign_in("0001")
    assert sign_in("4711").answer.status_code == 429
    assert tam.command(f"/api/people/{body['id']}/pin", {"pin": "8305"}).status_code == 403
    assert ines.command(f"/api/people/{body['id']}/pin", {"pin": "8305"}).status_code == 204
    assert before.get("/api/me").status_code == 401
    after = sign_in("8305")
    assert (after.answer.status_code, after.answer.json()["must_change"]) == (201, True)
    assert after.get("/api/dashboard").status_code == 403
    assert after.post("/api/me/pin", json={"id": str(uuid4()), "old": "8305", "new": "5083"}).status_code == 204
    assert (after.get("/api/dashboard").status_code, after.get("/api/me").json()["must_change"]) == (200, False)


def test_who_leaves_is_signed_out_and_their_history_stays(guest, ines, tam):
    body, sign_in = guest
    mine = sign_in("4711")
    run = tam.start()
    tam.record(run, "noted", text="seen", by=body["id"])
    assert ines.command(f"/api/people/{body['id']}/leave").status_code == 204
    assert mine.get("/api/me").status_code == 401
    assert body["name"] not in {person["name"] for person in tam.get("/api/sign-in")["people"]}
    assert sign_in("4711").answer.status_code == 404
    assert [line["by"] for line in tam.get(f"/api/runs/{run}/entries") if line["kind"] == "noted"] == [body["name"]]
    later = tam.record(run, "noted", text="later", by=body["id"])
    assert {line["code"] for line in later["verdicts"]} == {"not_proven", "notice", "right_ended"}
    assert ines.command(f"/api/people/{ines.id}/leave").json()["fault"] == "Ines Okoro is the last keeper."


def test_sessions_are_seen_by_their_owner_and_by_leads_and_ended(guest, ines, tam):
    body, sign_in = guest
    mine = sign_in("4711")
    [shown] = mine.get("/api/sessions").json()
    assert (shown["name"], shown["device"]) == (body["name"], "hoist 2")
    assert body["name"] not in {session["name"] for session in tam.get("/api/sessions")}
    assert tam.http.delete(f"/api/sessions/{shown['id']}").status_code == 403
    assert body["name"] in {session["name"] for session in ines.get("/api/sessions")}
    assert [ines.http.delete(f"/api/sessions/{shown['id']}").status_code for _ in range(2)] == [204, 204]
    assert mine.get("/api/me").status_code == 401


def test_roles_are_changed_by_a_keeper_and_the_last_one_stays(guest, ines, tam):
    body, sign_in = guest
    mine, roles = sign_in("4711"), f"/api/people/{body['id']}/roles"
    assert tam.command(roles, {"roles": ["lead"]}).status_code == 403
    assert ines.command(roles, {"roles": ["auditor"]}).status_code == 204
    assert mine.get("/api/me").json()["rights"] == []
    assert mine.post("/api/machines", json={"id": str(uuid4()), "fleet_number": "Z-1", "maker_model": "Fennick X"}).status_code == 403
    assert ines.command(roles, {"roles": ["keeper", "lead"]}).status_code == 204
    assert {"people", "decide"} <= set(mine.get("/api/me").json()["rights"])
    assert ines.command(roles, {"roles": ["mechanic"]}).status_code == 204
    refused = ines.command(f"/api/people/{ines.id}/roles", {"roles": ["lead"]})
    assert (refused.status_code, refused.json()["fault"]) == (422, "Ines Okoro is the last keeper.")


def test_the_server_itself_resets_a_pin_and_makes_a_keeper(shop, guest):
    body, sign_in = guest
    done = shop.run("person", body["name"], "--keeper")
    pin = done.stdout.split(" signs in with ")[1].split(",")[0]
    after = sign_in(pin)
    assert (after.answer.status_code, after.answer.json()["must_change"]) == (201, True)
    assert after.answer.json()["person"]["roles"] == ["mechanic", "keeper"]
    assert sign_in("4711").answer.status_code == 403
    assert "Nobody here is called" in shop.run("person", "Nobody").stderr


@pytest.mark.parametrize("pin", ["1111", "1212", "123123", "1234", "98765", "8901", "1987", "2024", "2580", "12", "abcd", "123456789"])
def test_a_pin_that_is_guessed_first_is_refused(pin):
    with pytest.raises(Invalid):
        check_new_pin(pin)


@pytest.mark.parametrize("pin", ["1357", "2468", "8642", "4711", "90351", "2187"])
def test_other_pins_are_taken(pin):
    check_new_pin(pin)
