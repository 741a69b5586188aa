"""Two server processes over one database: what is done at one is known at the other. And the way of a press through the logs."""

import asyncio
import json
from uuid import uuid4

import pytest
from websockets.sync.client import connect

from tests.api.test_line import closed_with, code_for, url
from tests.shop import PINS
from tests.waiting import until
from tight_ledger.demo.load import demo_id
from tight_ledger.devices.simulated import SimulatedWrench


@pytest.fixture(scope="module")
def other(shop, tmp_path_factory):
    running = shop.beside(tmp_path_factory.mktemp("beside"))
    yield running
    running.stop()


@pytest.fixture
def wren(other):
    return other.hand("Wren Halloway")


def watching(hand, run):
    cookie = {"Cookie": f"tight_session={hand.http.cookies['tight_session']}"}
    return connect(url(hand, f"/api/watch?run={run}"), additional_headers=cookie)


def test_a_press_on_one_is_heard_on_the_other_and_followed_by_its_id(shop, other, tam, wren):
    run = tam.start()
    with watching(wren, run) as screen:
        pressed = tam.entry("confirmed", pull=tam.now(run)["prompt"]["pull"], claimed_seq=tam.now(run)["seq"] + 1)
        answer = tam.http.post(f"/api/runs/{run}/entries", json=pressed, headers={"X-Request-Id": pressed["id"]})
        assert (answer.status_code, answer.headers["x-request-id"]) == (201, pressed["id"])
        seq = answer.json()["now"]["seq"]
        while json.loads(screen.recv(timeout=30)) != {"type": "changed", "run": run, "seq": seq}:
            pass
    assert wren.now(run)["seq"] == seq

    way = [line for line in shop.log() if line.get("request") == pressed["id"]]
    assert [line["event"] for line in way] == ["recorded", "request"]
    assert (way[0]["entry"], way[0]["run"], way[0]["seq"]) == (pressed["id"], run, seq)
    assert (way[1]["route"], way[1]["status"], way[1]["person"]) == ("/api/runs/{run_id}/entries", 201, tam.id)
    (told,) = [line for line in other.log() if line["event"] == "told" and line["run"] == run and line["seq"] == seq]
    assert told["screens"] == 1


def test_a_wrench_pairs_on_one_and_pulls_on_the_other(tam, wren, shop):
    run = tam.begin("Aldermoor Lapwing", "Cylinder head", "10", [("engine", "AL4")])
    while tam.now(run)["prompt"]["ask"] == "confirm":
        tam.record(run, "confirmed", pull=tam.now(run)["prompt"]["pull"])
    wrench = SimulatedWrench(url(wren), code_for(tam, run), in_real_time=False, **shop.instrument())
    asyncio.run(wrench.work())
    assert tam.now(run)["prompt"]["ask"] == "finish"


def test_a_file_is_sent_to_one_and_brought_in_by_the_other(shop, tam, wren):
    ines = shop.hand("Ines Okoro")
    spec = tam.get(f"/api/specs/{demo_id('spec', 'Fennick Causeway 12 Rear wheel nuts')}")["spec"] | {
        "id": str(uuid4()),
        "title": "Sent to one",
    }
    number = uuid4()
    sent = tam.http.put(f"/api/spec-files/imports/{number}", content=json.dumps(spec), params={"name": "one.json"})
    assert sent.status_code == 202
    judged = until(lambda: wren.get(f"/api/spec-files/imports/{number}"), lambda said: said["state"] == "judged")
    assert judged["rehearsal"]["new"] == 1
    assert wren.http.post(f"/api/spec-files/imports/{number}/bring-in", params={"affirmed": True}).status_code == 202
    until(lambda: tam.get(f"/api/spec-files/imports/{number}"), lambda said: said["state"] == "done")
    assert ines.get(f"/api/specs/{spec['id']}")["spec"]["title"] == "Sent to one"


def test_who_signs_out_on_one_is_refused_on_the_other(shop, other):
    here = shop.hand("Wren Halloway", "hoist 5")
    elsewhere = other.hand("Tam Reddick")
    elsewhere.http.cookies.clear()
    elsewhere.http.cookies.set("tight_session", here.http.cookies["tight_session"])
    assert elsewhere.http.get("/api/me").status_code == 200
    here.http.delete("/api/sessions")
    until(lambda: elsewhere.http.get("/api/me").status_code, lambda status: status == 401)


def test_a_right_that_ends_on_one_ends_every_socket_on_the_other(shop, other):
    name = shop.employ("mechanic")
    here, elsewhere = shop.hand(name, "hoist 5"), other.hand("Tam Reddick")
    elsewhere.http.cookies.clear()
    elsewhere.http.cookies.set("tight_session", here.http.cookies["tight_session"])
    run = here.begin("Aldermoor Lapwing", "Cylinder head", "10", [("engine", "AL4")])
    known = {key: str(value) for key, value in shop.instrument().items()}
    hello = {"type": "hello", "v": 1, "code": code_for(elsewhere, run)} | known
    with watching(elsewhere, run) as screen, connect(url(elsewhere)) as wrench:
        wrench.send(json.dumps(hello))
        assert json.loads(wrench.recv())["type"] == "paired"
        here.http.delete("/api/sessions")
        assert [closed_with(socket) for socket in (screen, wrench)] == [4401, 4401]


def test_it_lives_it_is_ready_and_what_it_does_not_have_is_a_problem_too(other):
    hand = other.hand()
    assert hand.get("/api/health") == hand.get("/api/ready")
    nowhere = hand.http.get("/api/nowhere")
    assert (nowhere.status_code, nowhere.headers["content-type"]) == (404, "application/problem+json")
    assert nowhere.json()["request"] == nowhere.headers["x-request-id"]


def test_no_log_names_a_person_or_a_pin(shop, tam):
    told = shop.log_file.read_text()
    assert tam.id in told
    assert not any(name in told for name in PINS)
    assert not {str(value) for line in shop.log() for value in line.values()} & set(PINS.values())
