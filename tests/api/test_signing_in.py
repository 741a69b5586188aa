"""The door: names, PINs, roles."""

from datetime import UTC, datetime, timedelta
from uuid import uuid4

import httpx
import pytest

from tight_ledger.core.base.errors import Busy, NotAllowed
from tight_ledger.core.base.people import Person
from tight_ledger.services.context import Context
from tight_ledger.services.people import SignIn, hash_pin, sign_in
from tight_ledger.store import people as people_store
from tight_ledger.store.database import Database
from tight_ledger.store.server import SERVING


@pytest.fixture
def stranger(shop):
    with httpx.Client(base_url=shop.url) as client:
        yield client


def someone(ines) -> str:
    body = {"name": f"Guest {uuid4().hex[:6]}", "role": "mechanic", "pin": "4711"}
    return ines.command("/api/people", body).json()["id"]


def guess(client, person, pin):
    return client.post("/api/sessions", json={"person": person, "pin": pin, "device": str(uuid4()), "device_name": "x"})


def test_fifty_guesses_get_five_answers(ines, stranger):
    person = someone(ines)
    answers = [guess(stranger, person, f"{n:04d}") for n in range(50)]
    assert [a.status_code for a in answers] == [403] * 5 + [429] * 45
    assert answers[0].json()["fault"] == "This is not the PIN."
    assert answers[5].json()["fault"].startswith("Too many wrong PINs")
    assert guess(stranger, person, "4711").status_code == 429  # the right one too, while it is locked


async def test_the_wait_goes_by_the_clock(server):
    at = [datetime(2026, 3, 2, 8, 0, tzinfo=UTC)]
    context = Context(Database(server.url(SERVING)), now=lambda: at[0])
    person, pin_hash = Person(id=uuid4(), name=f"Guest {uuid4().hex[:6]}", role="mechanic"), await hash_pin("4711")
    await context.database.run(lambda c: people_store.add(c, person, pin_hash), transaction=True)

    async def tried(pin):
        return await sign_in(context, SignIn(person=person.id, pin=pin, device=uuid4(), device_name="x"))

    for _ in range(5):
        with pytest.raises(NotAllowed):
            await tried("0000")
    for seconds, left in ((0, 30), (20, 10), (9.5, 1)):
        at[0] += timedelta(seconds=seconds)
        with pytest.raises(Busy, match="Too many wrong PINs") as refused:
            await tried("4711")
        assert refused.value.remedy.startswith(f"Wait {left} seconds")
    at[0] += timedelta(seconds=1)
    assert (await tried("4711"))[1].person == person
    await context.database.close()


def test_guessing_side_by_side_gains_nothing(ines, shop):
    from concurrent.futures import ThreadPoolExecutor

    person = someone(ines)
    with httpx.Client(base_url=shop.url, timeout=60) as client, ThreadPoolExecutor(16) as pool:
        answers = list(pool.map(lambda n: guess(client, person, f"{n:04d}").status_code, range(40)))
    assert answers.count(403) <= 5


def test_a_right_pin_forgets_the_failures(ines, stranger):
    person = someone(ines)
    for _ in range(2):
        assert [guess(stranger, person, pin).status_code for pin in ("1", "2", "3", "4", "4711")] == [403] * 4 + [201]


@pytest.mark.parametrize("path", ["/api/dashboard", "/api/me", "/api/find?asked=x", f"/api/runs/{uuid4()}/now"])
def test_nothing_without_a_name(stranger, path):
    answer = stranger.get(path)
    assert answer.status_code == 401
    assert answer.json()["remedy"] == "Pick your name and type your PIN."
    stranger.cookies["tight_session"] = "guess"
    assert stranger.get(path).status_code == 401


def test_signing_out_ends_it_at_once(shop):
    wren = shop.hand("Wren Halloway")
    assert wren.get("/api/me")["person"]["name"] == "Wren Halloway"
    wren.http.delete("/api/sessions")
    assert wren.http.get("/api/me").status_code == 401


def test_only_a_lead_puts_people_on_the_list(tam, ines):
    body = {"name": "Nobody", "role": "lead", "pin": "4711"}
    assert tam.command("/api/people", body).json()["fault"] == "Only a lead may put people on the list."
    for change, fault in (
        ({"pin": "1111"}, "first that are guessed"),
        ({"pin": "12"}, "not a PIN"),
        ({"name": "Ines Okoro"}, "on the list already"),
    ):
        answer = ines.command("/api/people", body | change)
        assert answer.status_code == 422
        assert fault in answer.json()["fault"]


def test_a_shop_is_set_up_once_by_who_has_the_code(stranger, shop):
    body = {"id": str(uuid4()), "shop": "Mine", "name": "Me", "pin": "9182"}
    assert stranger.post("/api/shop", json=body | {"code": "00000000"}).status_code == 403
    answer = stranger.post("/api/shop", json=body | {"code": shop.setup_code()})
    assert (answer.status_code, answer.json()["fault"]) == (422, "The shop is set up already.")
    assert "Me" not in [p["name"] for p in stranger.get("/api/sign-in").json()["people"]]
