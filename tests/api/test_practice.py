"""Practice and the lab through the API: one's own, once, and never in the ledger."""

from uuid import uuid4

import pytest

from tests.shop import BUS_SPEC


def units(hand, *, well):
    """The drill of units to its end; `well`: with the key that is not told to be wrong."""
    answers, seed = [], 4
    while True:
        now = hand.http.post("/api/practice/units", json={"seed": seed, "answers": answers}).json()
        if now["done"]:
            return {"seed": seed, "answers": answers}, now
        for key in now["question"]["keys"]:
            more = [*answers, {"key": key["key"]}]
            then = hand.http.post("/api/practice/units", json={"seed": seed, "answers": more}).json()
            if (len(then["missed"]) == len(now["missed"])) == well:
                answers = more
                break


def test_what_is_practised_is_ones_own_and_kept_once_and_no_entry(shop):
    guest = shop.hand(shop.employ("mechanic"))
    before = shop.entries_of(guest.id)
    done, told = units(guest, well=False)
    assert (told["passed"], len(told["missed"])) == (False, 5)
    unfinished = guest.http.post("/api/practice/units/results", json={"id": str(uuid4()), "seed": 4, "answers": done["answers"][:2]})
    assert (unfinished.status_code, unfinished.json()["field"]) == (422, "answers")
    command = {"id": str(uuid4())} | done
    for _ in range(2):
        assert guest.http.post("/api/practice/units/results", json=command).json() == told
    assert (
        guest.http.post("/api/practice/units/results", json=command | {"answers": units(guest, well=True)[0]["answers"]}).status_code == 409
    )
    page = guest.get("/api/practice")
    [line] = [each for each in page["drills"] if each["name"] == "units"]
    assert (line["done"], line["passed_on"], line["due"]["seed"], page["due_now"]) == (1, None, 4, [])
    assert shop.entries_of(guest.id) == before


def test_a_lead_sees_what_was_passed_and_not_what_was_missed(tam, ines):
    done, told = units(ines, well=True)
    assert told["passed"]
    assert ines.http.post("/api/practice/units/results", json={"id": str(uuid4())} | done).is_success
    assert tam.http.get("/api/practice/people").status_code == 403
    seen = ines.get("/api/practice/people")
    assert {key for person in seen for key in person} == {"person", "name", "passed"}
    assert set(next(each for each in seen if each["person"] == ines.id)["passed"]) == {"units"}
    held = ines.http.get(f"/api/people/{ines.id}/data.json").json()
    assert [each["drill"] for each in held["practised"]] == ["units"]


@pytest.mark.parametrize("page", ["bolt", "scatter", "reuse", "joint", "wheel", "wrench"])
def test_every_page_of_the_lab_answers(tam, page):
    told = tam.http.post(f"/api/lab/{page}", json={}).json()
    assert told["name"] == page
    assert told["answer"]
    assert tam.http.post(f"/api/lab/{page}", json={"values": {told["knobs"][0]["name"]: "nothing"}}).status_code == 422


def test_a_spec_of_the_library_is_played_in_the_lab(tam):
    told = tam.http.post("/api/lab/joint", json={"spec": str(BUS_SPEC)}).json()
    assert len(told["drawn"][0]["points"]) == 10
    assert tam.http.post("/api/lab/joint", json={"spec": str(uuid4())}).status_code == 404


def test_what_somebody_practised_goes_with_their_name(shop, ines):
    guest = shop.hand(shop.employ("mechanic"))
    done, _ = units(guest, well=True)
    assert guest.http.post("/api/practice/units/results", json={"id": str(uuid4())} | done).is_success
    held = f"/api/people/{guest.id}/data.json"
    assert len(ines.get(held)["practised"]) == 1
    assert ines.command(f"/api/people/{guest.id}/leave").status_code == 204
    assert ines.command(f"/api/people/{guest.id}/erase").status_code == 204
    assert ines.get(held)["practised"] == []
