"""The door: names, PINs, roles."""

import asyncio
import itertools
from datetime import UTC, datetime, timedelta
from uuid import uuid4

import httpx
import pytest

from tight_ledger.core.base.errors import Busy, NotAllowed
from tight_ledger.core.base.people import Person
from tight_ledger.services.context import Context
from tight_ledger.services.people import SignIn, hash_pin, sign_in
from tight_ledger.services.tablets import keep
from tight_ledger.store import people as people_store
from tight_ledger.store.database import Database
from tight_ledger.store.server import SERVING


@pytest.fixture
def stranger(shop):
    """Somebody at a tablet of the shop."""
    with httpx.Client(base_url=shop.url, timeout=30, cookies={"tight_tablet": shop.tablet("hoist 3")}) as client:
        yield client


@pytest.fixture
def outsider(shop):
    """Somebody on the network, with a tablet that nobody introduced."""
    with httpx.Client(base_url=shop.url, timeout=30) as client:
        yield client


def someone(ines, *roles) -> str:
    body = {"name": f"Guest {uuid4().hex[:6]}", "roles": roles or ["mechanic"], "pin": "4711"}
    return ines.command("/api/people", body).json()["id"]


def guess(client, person, pin):
    return client.post("/api/sessions", json={"person": person, "pin": pin})


def introduce(client, person, pin, **changes):
    return client.post("/api/tablets", json={"id": str(uuid4()), "name": "gate", "person": person, "pin": pin} | changes)


def test_fifty_guesses_get_five_answers(ines, stranger):
    person = someone(ines)
    answers = [guess(stranger, person, f"{n:04d}") for n in range(50)]
    assert [a.status_code for a in answers] == [403] * 5 + [429] * 45
    assert answers[0].json()["fault"] == "This is not the PIN."
    assert answers[5].json()["fault"].startswith("Too many wrong PINs")
    assert guess(stranger, person, "4711").status_code == 429  # the right one too, while it is locked


class Door:
    """Somebody's sign-in on a tablet, by a clock that the test moves."""

    def __init__(self, server):
        self.at, self.tablet = datetime(2026, 3, 2, 8, 0, tzinfo=UTC), uuid4()
        self.context = Context(Database(server.url(SERVING)), now=lambda: self.at)

    async def __aenter__(self):
        self.person = Person(id=uuid4(), name=f"Guest {uuid4().hex[:6]}", roles=("mechanic",))
        pin_hash = await hash_pin("4711")
        await self.context.database.run(lambda c: people_store.add(c, self.person, pin_hash), transaction=True)
        await self.context.database.run(lambda c: keep(c, self.context, self.tablet, "hoist 4", self.person), transaction=True)
        return self

    async def __aexit__(self, *_):
        await self.context.database.close()

    async def tried(self, pin):
        return await sign_in(self.context, SignIn(person=self.person.id, pin=pin), self.tablet)


async def test_the_wait_goes_by_the_clock(server):
    async with Door(server) as door:
        for _ in range(5):
            with pytest.raises(NotAllowed):
                await door.tried("0000")
        for seconds, left in ((0, 30), (20, 10), (9.5, 1)):
            door.at += timedelta(seconds=seconds)
            with pytest.raises(Busy, match="Too many wrong PINs") as refused:
                await door.tried("4711")
            assert refused.value.remedy.startswith(f"Wait {left} seconds")
        door.at += timedelta(seconds=1)
        assert (await door.tried("4711"))[1].person == door.person


@pytest.mark.parametrize("behind_s", [0, 0.2], ids=["one clock", "each clock a little behind the one before"])
async def test_guessing_side_by_side_gains_nothing(server, behind_s):
    async with Door(server) as door:
        asked = itertools.count()
        door.context.now = lambda: door.at - timedelta(seconds=behind_s * next(asked))
        answers = await asyncio.gather(*(door.tried(f"{n:04d}") for n in range(40)), return_exceptions=True)
    assert [type(answer) for answer in answers].count(NotAllowed) == 5
    assert [type(answer) for answer in answers].count(Busy) == 35


def test_who_guesses_on_the_network_makes_nobody_wait(shop, ines, stranger, outsider):
    mechanic, lead = someone(ines), someone(ines, "lead")
    answers = [guess(outsider, person, f"{n:04d}") for person in (mechanic, lead) for n in range(9)]
    assert {(a.status_code, a.json()["fault"]) for a in answers} == {(403, "This tablet is not known here.")}
    assert {introduce(outsider, mechanic, "4711").json()["field"] for _ in range(9)} == {"person"}  # before any PIN is looked at
    assert [introduce(outsider, lead, f"{n:04d}").status_code for n in range(9)] == [403] * 5 + [429] * 4
    assert [guess(stranger, person, "4711").status_code for person in (mechanic, lead)] == [201, 201]


def test_who_guesses_on_a_tablet_makes_nobody_wait_on_another_and_a_lead_lifts_it(shop, ines, tam, stranger):
    person, lead = someone(ines), shop.hand(shop.employ("lead"))
    assert [guess(stranger, person, "0001").status_code for _ in range(6)] == [403] * 5 + [429]
    with httpx.Client(base_url=shop.url, timeout=30, cookies={"tight_tablet": shop.tablet("hoist 2")}) as other:
        assert guess(other, person, "4711").status_code == 201
    assert tam.command(f"/api/people/{person}/unlock").status_code == 403
    assert lead.command(f"/api/people/{person}/unlock").status_code == 204
    assert guess(stranger, person, "4711").status_code == 201


def test_a_tablet_is_introduced_once_and_its_id_is_not_taken_over(shop, ines, outsider):
    tablet = str(uuid4())
    assert introduce(outsider, ines.id, "2468", id=tablet).status_code == 204
    assert guess(outsider, ines.id, "2468").status_code == 201
    with httpx.Client(base_url=shop.url, timeout=30) as other:
        assert introduce(other, ines.id, "2468", id=tablet).status_code == 409
        assert guess(other, ines.id, "2468").status_code == 403
    assert guess(outsider, ines.id, "2468").json()["device"] == tablet
    assert tablet in {each["id"] for each in ines.get("/api/tablets")}
    assert ines.command(f"/api/tablets/{tablet}/lost").status_code == 204
    assert outsider.get("/api/me").status_code == 401
    assert guess(outsider, ines.id, "2468").status_code == 403


def test_a_tablet_that_is_new_is_told_only_who_may_introduce_it(stranger, outsider):
    def names(client):
        door = client.get("/api/sign-in").json()
        return door["tablet"], {person["name"] for person in door["people"]}

    assert names(stranger)[0] == "hoist 3"
    assert "Tam Reddick" in names(stranger)[1]
    assert names(outsider)[0] is None
    assert "Ines Okoro" in names(outsider)[1]
    assert "Tam Reddick" not in names(outsider)[1]


def test_a_right_pin_forgets_the_failures(ines, stranger):
    person = someone(ines)
    for _ in range(2):
        assert [guess(stranger, person, pin).status_code for pin in ("1", "2", "3", "4", "4711")] == [403] * 4 + [201]


@pytest.mark.parametrize("path", ["/api/dashboard", "/api/me", "/api/find?asked=x", "/api/runs/00000000-0000-4000-8000-000000000007/now"])
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


def test_only_a_keeper_puts_people_on_the_list(tam, ines):
    body = {"name": "Nobody", "roles": ["lead"], "pin": "4711"}
    assert (
        tam.command("/api/people", body).json()["fault"]
        == "Only a keeper may put people on the list, change their roles, reset a PIN, end a session."
    )
    for change, fault in (
        ({"pin": "1111"}, "first that are guessed"),
        ({"pin": "12"}, "not a PIN"),
        ({"name": "Ines Okoro"}, "on the list already"),
    ):
        answer = ines.command("/api/people", body | change)
        assert answer.status_code == 422
        assert fault in answer.json()["fault"]


def test_a_shop_is_set_up_once_by_who_has_the_code(stranger, shop):
    body = {
        "id": str(uuid4()),
        "shop": "Mine",
        "time_zone": "Europe/Lisbon",
        "name": "Me",
        "pin": "9182",
        "tablet": str(uuid4()),
        "tablet_name": "desk",
    }
    assert stranger.post("/api/shop", json=body | {"code": "00000000"}).status_code == 403
    answer = stranger.post("/api/shop", json=body | {"code": shop.setup_code()})
    assert (answer.status_code, answer.json()["fault"]) == (422, "The shop is set up already.")
    assert "Me" not in [p["name"] for p in stranger.get("/api/sign-in").json()["people"]]
