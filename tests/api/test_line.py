"""A wrench on the line: paired, told, telling; nothing twice and nothing lost."""

import asyncio
import json
import threading
from contextlib import suppress
from uuid import uuid4

import pytest
from websockets.exceptions import ConnectionClosed
from websockets.sync.client import connect

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.runs.wire import SentPull
from tight_ledger.devices.simulated import SimulatedWrench
from tight_ledger.services.context import Context
from tight_ledger.services.devices import wrenches
from tight_ledger.services.devices.wrenches import Claim
from tight_ledger.store.database import Database
from tight_ledger.store.server import SERVING


@pytest.fixture
def head(tam):
    """A head of ten, its tasks confirmed: from here on a wrench can do it."""
    run = tam.begin("Aldermoor Lapwing", "Cylinder head", "10", [("engine", "AL4")])
    while tam.now(run)["prompt"]["ask"] == "confirm":
        tam.record(run, "confirmed", pull=tam.now(run)["prompt"]["pull"])
    return run


def url(hand, path="/api/devices"):
    return str(hand.http.base_url).rstrip("/").replace("http", "ws") + path


def code_for(hand, run):
    answer = hand.command(f"/api/runs/{run}/wrenches")
    assert answer.status_code == 201, answer.text
    return answer.json()["code"]


def test_a_head_to_its_end_by_the_wrench_alone(tam, head, shop):
    """Acknowledgements that are not heard are sent again, and change nothing."""
    wrench = SimulatedWrench(url(tam), code_for(tam, head), in_real_time=False, seed=4, drop_acks=3, **shop.instrument())
    asyncio.run(wrench.work())
    assert wrench.unacknowledged == {}
    now = tam.now(head)
    assert (now["prompt"]["ask"], now["clean"]) == ("finish", True), now["reasons"]
    entries = [line for line in tam.get(f"/api/runs/{head}/entries") if line["kind"] == "pulled"]
    assert len(entries) == wrench.answers == 50
    assert any("ending at" in line["words"] and "by the wrench" in line["words"] for line in entries)
    told = tam.get(f"/api/runs/{head}/curves")
    assert len(told["curves"]) == 50
    assert all(len(curve["degrees"]) == len(curve["torques_nm"]) > 1 for curve in told["curves"])


def test_what_a_simulated_wrench_tells_is_practice(tam, head, shop):
    """The card says that it is practice, and the run cannot be ended as good."""
    made = shop.run("wrench", code_for(tam, head), "--address", shop.url, "--at-once", "--seed", "4")
    assert "50 pulls made" in made.stdout, made.stderr
    now = tam.now(head)
    assert (now["prompt"]["ask"], now["clean"]) == ("finish", False)
    assert [v["code"] for v in now["verdicts"] if v["keeps_from_good"]] == ["trial"]
    assert tam.finish(head).status_code == 422
    assert tam.finish(head, "do not move", "it was practice").status_code == 201
    told = [line["words"] for line in tam.get(f"/api/runs/{head}/card")["entries"] if line["kind"] == "pulled"]
    assert all(words.endswith("by a simulated wrench") for words in told)


def test_a_panel_is_told_when_a_press_is_heard_and_then_the_shortest_counts(tam, head):
    cookie = {"Cookie": f"tight_session={tam.http.cookies['tight_session']}"}
    with connect(url(tam, f"/api/runs/{head}/trial"), additional_headers=cookie) as panel:
        asked = json.loads(panel.recv(timeout=20))
        panel.send(json.dumps({"type": "hold", "manner": "fast"}))
        panel.send(json.dumps({"type": "let go", "manner": "fast"}))
        assert (asked["type"], json.loads(panel.recv(timeout=20))["type"]) == ("target", "ack")
    assert [line["kind"] for line in tam.get(f"/api/runs/{head}/entries")].count("pulled") == 1


def test_only_a_wrench_on_the_line_tells_by_wire(tam, head):
    pull = tam.now(head)["prompt"]["pull"]
    for fields in ({"how": "wire", "reading": {"figure": 30, "unit": "N·m"}}, {"how": "click", "curve": "a" * 64}):
        answer = tam.post(head, tam.entry("pulled", pull=pull, fastener=pull.split(":")[1], **fields))
        assert (answer.status_code, answer.json()["field"]) == (403, "how")


def test_a_code_belongs_to_one_registered_wrench_and_ends_with_its_run_and_session(head, shop, ines):
    tam = shop.hand("Tam Reddick", "hoist 6")
    code, mine, other = code_for(tam, head), shop.instrument(), shop.instrument()

    def hello(code, known):
        with connect(url(tam)) as wrench:
            said = {name: str(value) for name, value in known.items()}
            wrench.send(json.dumps({"type": "hello", "v": 1, "code": code} | said))
            return json.loads(wrench.recv())["type"]

    assert hello(code, mine | {"key": "0" * 32}) == "refused"
    assert [hello(code, mine), hello(code, other), hello(code, {}), hello(code, mine)] == ["paired", "refused", "refused", "paired"]
    assert ines.command(f"/api/instruments/{mine['instrument']}/retire").status_code == 204
    assert hello(code, mine) == "refused"
    assert tam.command("/api/instruments", {"name": "mine", "key": "0" * 32}).status_code == 403
    again = code_for(tam, head)
    tam.http.delete("/api/sessions")
    assert hello(again, other) == "refused"
    assert tam.http.post("/api/sessions", json={"person": tam.id, "pin": "1357"}).status_code == 201
    assert hello(again, other) == "refused"  # another session, another code
    wren = shop.hand("Wren Halloway")
    last = code_for(wren, head)
    assert wren.finish(head, "abandoned", "a part is missing").status_code == 201
    assert hello(last, other) == "refused"


def closed_with(socket) -> int:
    """The code with which the server closes a socket, however much it still tells before."""
    with suppress(ConnectionClosed):
        while True:
            socket.recv()
    return socket.close_code


def sign_out(shop, hand, instrument):
    hand.http.delete("/api/sessions")


def leave(shop, hand, instrument):
    shop.hand("Ines Okoro").command(f"/api/people/{hand.id}/leave")


def may_only_look(shop, hand, instrument):
    shop.hand("Ines Okoro").command(f"/api/people/{hand.id}/roles", {"roles": ["auditor"]})


def retire(shop, hand, instrument):
    shop.hand("Ines Okoro").command(f"/api/instruments/{instrument}/retire")


@pytest.mark.parametrize("end", [sign_out, leave, may_only_look, retire])
def test_a_right_that_ended_is_ended_at_every_open_socket(shop, head, end):
    """The screen's socket goes on where only the wrench lost its right."""
    guest = shop.hand(shop.employ("mechanic"), f"hoist {uuid4().hex[:4]}")
    known = shop.instrument()
    hello = {"type": "hello", "v": 1, "code": code_for(guest, head)} | {name: str(value) for name, value in known.items()}
    cookie = {"Cookie": f"tight_session={guest.http.cookies['tight_session']}"}
    with connect(url(guest)) as wrench, connect(url(guest, f"/api/watch?run={head}"), additional_headers=cookie) as screen:
        wrench.send(json.dumps(hello))
        assert [json.loads(wrench.recv())["type"] for _ in range(2)] == ["paired", "target"]
        end(shop, guest, known["instrument"])
        assert closed_with(wrench) == 4401
        if end in (sign_out, leave):
            assert closed_with(screen) == 4401


@pytest.mark.parametrize("end", [sign_out, leave, may_only_look, retire])
async def test_a_pull_that_was_begun_before_its_right_ended_is_kept_and_flagged(shop, head, end):
    guest, known = shop.hand(shop.employ("mechanic"), f"hoist {uuid4().hex[:4]}"), shop.instrument()
    context = Context(Database(shop.database().url(SERVING)), now=shop.clock.now)
    pairing = await wrenches.paired(context, code_for(guest, head), Claim(known["instrument"], known["key"]))
    end(shop, guest, known["instrument"])
    pull = SentPull(uuid4(), shop.clock.now(), 30.0, 4.0, ())
    await wrenches.take(context, pairing, pull)
    await asyncio.gather(*asyncio.all_tasks() - {asyncio.current_task()})  # the writer gives its connection back
    await context.database.close()
    ines = shop.hand("Ines Okoro")
    entry = json.loads(ines.http.get(f"/api/runs/{head}/stream").content)["entries"][-1]
    assert (entry["id"], [flag["code"] for flag in entry["flags"]]) == (str(pull.id), ["right_ended"])
    assert (entry.get("unproven"), ines.now(head)["clean"]) == (True if end in (sign_out, leave) else None, False)


def test_a_screen_that_looks_on_sees_it_live(tam, head):
    seen, ready, before = [], threading.Event(), tam.now(head)["seq"]

    def look():
        with connect(
            url(tam, f"/api/watch?run={head}"), additional_headers={"Cookie": f"tight_session={tam.http.cookies['tight_session']}"}
        ) as screen:
            ready.set()
            while not any(message["type"] == "changed" and message["seq"] > before for message in seen):
                seen.append(json.loads(screen.recv(timeout=20)))

    screen = threading.Thread(target=look)
    screen.start()
    assert ready.wait(10)
    with connect(url(tam)) as wrench:
        wrench.send(json.dumps({"type": "hello", "v": 1, "code": code_for(tam, head)}))
        assert json.loads(wrench.recv())["type"] == "paired"
        target = json.loads(wrench.recv())
        assert (target["kind"], target["fastener"]) == ("torque", tam.now(head)["prompt"]["fastener"])
        assert target["low_nm"] < target["torque_nm"] < target["high_nm"]
        wrench.send(json.dumps({"type": "live", "torque_nm": 12.5, "angle_deg": 7}))
        told = {"type": "pulled", "id": str(uuid4()), "at": "2026-11-26T10:00:00Z", "torque_nm": target["torque_nm"], "angle_deg": 31}
        for _ in range(2):
            wrench.send(json.dumps(told))
        while (said := json.loads(wrench.recv()))["type"] != "ack":
            pass
        assert said["id"] == told["id"]
    screen.join(20)
    assert next(message["torque"] for message in seen if message["type"] == "live") == 12.5
    assert sum(line["kind"] == "pulled" for line in tam.get(f"/api/runs/{head}/entries")) == 1


@pytest.mark.parametrize(
    ("said", "fault"),
    [
        ({"type": "hello", "v": 1, "code": "000000x"}, "No run waits for this code."),
        ({"type": "hello", "v": 2, "code": "123456"}, "The first message is hello, with the code and version 1."),
        ({"type": "live", "torque_nm": 1, "angle_deg": 1}, "The first message is hello"),
    ],
)
def test_who_does_not_say_hello_is_not_heard(tam, said, fault):
    with connect(url(tam)) as wrench:
        wrench.send(json.dumps(said))
        assert json.loads(wrench.recv())["fault"].startswith(fault)
    if "x" in str(said.get("code")):
        with pytest.raises(Invalid, match="No run waits"):
            asyncio.run(SimulatedWrench(url(tam), said["code"]).work())


def test_a_pull_that_nobody_asked_for_is_kept_as_a_note(tam, head):
    tam.go_on(head)
    with connect(url(tam)) as wrench:
        wrench.send(json.dumps({"type": "hello", "v": 1, "code": code_for(tam, head)}))
        wrench.send(json.dumps({"type": "pulled", "id": str(uuid4()), "at": "2026-11-26T10:00:00Z", "torque_nm": 50, "angle_deg": 3}))
        while json.loads(wrench.recv())["type"] != "ack":
            pass
    last = tam.get(f"/api/runs/{head}/entries")[-1]
    assert (last["kind"], "was not asked for: 50.0 N·m, 3°" in last["words"]) == ("noted", True)


def test_what_is_on_its_end_is_the_runs_affair(tam):
    """On a lever of 1150 a crowfoot of 100: × 0.92. The wrench is told its own figure, and what it tells counts at the stud (derived)."""
    run = tam.start(on_its_end=[{"length_mm": 100}])
    tam.go_on(run, until="s3:1")
    with connect(url(tam)) as wrench:
        wrench.send(json.dumps({"type": "hello", "v": 1, "code": code_for(tam, run)}))
        wrench.recv()
        target = json.loads(wrench.recv())
        assert (target["torque_nm"], target["low_nm"], target["high_nm"]) == (540, pytest.approx(519.8), pytest.approx(556.6))
        wrench.send(json.dumps({"type": "pulled", "id": str(uuid4()), "at": "2026-11-26T10:00:00Z", "torque_nm": 540, "angle_deg": 30}))
        while json.loads(wrench.recv())["type"] != "ack":
            pass
    now = tam.now(run)
    assert now["prompt"]["pull"] != "s3:1"
    assert [v for v in now["verdicts"] if v["code"] in ("low", "high", "implausible")] == []
