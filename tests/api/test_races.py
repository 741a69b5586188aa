"""Many requests at once: of two decisions the first is recorded, no entry is lost, and no request ends in a server error."""

from concurrent.futures import ThreadPoolExecutor
from functools import partial
from uuid import uuid4

from tests.api.test_commands import MINIMAL
from tight_ledger.demo.load import demo_id

THREADS, ROUNDS = 16, 8


def at_once(calls):
    with ThreadPoolExecutor(THREADS) as pool:
        return [answer.result() for answer in [pool.submit(call) for call in calls]]


def sixteen(who, path, **body):
    """Sixteen requests for the same decision, each with its own id."""
    return at_once([partial(who.command, path, body)] * THREADS)


def codes(answers):
    return sorted(answer.status_code for answer in answers)


def decisions(tam):
    now = tam.clock.isoformat()
    run = tam.start()
    tooling = [{"wrench": str(demo_id("wrench", "W-07 long three-quarter"))}]
    yield run, f"/api/runs/{run}/retool", {"tooling": tooling, "seq": 1, "at_device": now}
    yield run, f"/api/runs/{run}/finish", {"outcome": "abandoned", "text": "wrong machine", "seq": 2, "at_device": now}
    yield run, f"/api/runs/{run}/sign", {"seq": 3, "at_device": now}


def test_of_many_who_decide_at_once_one_counts(tam):
    for _ in range(ROUNDS):
        for run, path, body in decisions(tam):
            answers = sixteen(tam, path, **body)
            assert codes(answers)[0] == 201, answers[0].text
            assert set(codes(answers)[1:]) <= {409, 422}
            assert tam.now(run)["seq"] == body["seq"] + 1


def test_a_place_has_one_open_run(tam):
    for turn in range(ROUNDS):
        meters = ("km",) if turn % 2 else ()
        machine = tam.machine(meters=meters)
        read = {"meters": [{"kind": "km", "figure": 10}]} if meters else {}
        bodies = [tam.start_body(machine, **read) for _ in range(THREADS)]
        answers = at_once([partial(tam.http.post, "/api/runs", json=body) for body in bodies])
        assert codes(answers) == [201, *[409] * (THREADS - 1)]
        run = next(answer.json()["id"] for answer in answers if answer.status_code == 201)
        assert tam.finish(run, "abandoned", "wrong machine").status_code == 201
        assert tam.http.post("/api/runs", json=tam.start_body(machine)).status_code == 201


def test_what_is_said_of_a_machine_at_once_is_all_kept(tam):
    machine = tam.machine()
    for turn in range(ROUNDS):
        said = [("meters", {"kind": "km", "figure": turn * 100 + n, "affirmed": ["meter"]}) for n in range(8)]
        said += [("variant", {"attribute": f"a{n}", "value": str(turn)}) for n in range(8)]
        answers = at_once([partial(tam.command, f"/api/machines/{machine}/{path}", body) for path, body in said])
        assert set(codes(answers)) <= {200, 204}
        kept = next(each for each in tam.get("/api/machines") if each["id"] == machine)
        assert kept["variant"] == {f"a{n}": str(turn) for n in range(8)}


def test_a_withdrawal_is_never_lost(tam, ines):
    for _ in range(ROUNDS):
        spec = tam.command("/api/specs/minimal", MINIMAL | {"model": uuid4().hex[:6]}).json()["id"]
        path = f"/api/specs/{spec}/revisions/1"
        calls = [partial(ines.command, f"{path}/check"), partial(ines.command, f"{path}/withdraw", {"reason": "wrong page"})]
        answers = at_once(calls * (THREADS // 2))
        assert set(codes(answers)) <= {204, 422}
        assert tam.get(f"/api/specs/{spec}/history")["revisions"][0]["status"] == "withdrawn"


def test_one_press_sent_by_many_is_one_entry(tam):
    for _ in range(ROUNDS):
        run = tam.start()
        entry = tam.entry("noted", text="seen")
        answers = at_once([partial(tam.post, run, entry)] * THREADS)
        assert set(codes(answers)) == {201}
        assert {answer.json()["accepted"]["seq"] for answer in answers} == {2}
        assert tam.now(run)["seq"] == 2
