"""Several runs of one machine: started, recorded and ended with one command each."""

from uuid import uuid4

from tests.shop import demo_id

SIDES = ({"axle": "rear", "side": "left"}, {"axle": "rear", "side": "right"})


def starts(hand, machine, **changes):
    return {"starts": [hand.start_body(machine, position=position, **changes) for position in SIDES]}


def up_to_the_lowering(hand, machine):
    body = starts(hand, machine)
    runs = hand.http.post("/api/jobs/runs", json=body).json()
    for run in runs:
        hand.go_on(run, until="lower")
    return runs


def test_both_or_none_and_the_meter_once(tam):
    machine = tam.machine()
    bad = starts(tam, machine, meters=[{"kind": "km", "figure": 1200}])
    bad["starts"][1]["proof"] = "8 studs"
    assert tam.http.post("/api/jobs/runs", json=bad).status_code == 422
    assert tam.get(f"/api/machines/{machine}/job")["runs"] == []
    good = starts(tam, machine, meters=[{"kind": "km", "figure": 1200}])
    assert [tam.http.post("/api/jobs/runs", json=good).status_code for _ in range(2)] == [201, 201]  # sent twice
    assert [each["position"] for each in tam.get(f"/api/machines/{machine}/job")["runs"]] == ["rear left", "rear right"]
    read = [note for note in tam.get(f"/api/machines/{machine}")["meters"] if note["kind"] == "km"]
    assert [note["figure"] for note in read] == [1200]


def test_what_is_done_to_the_machine_is_one_command_with_an_entry_in_each_run(tam):
    machine = tam.machine()
    runs = up_to_the_lowering(tam, machine)
    task = tam.get(f"/api/machines/{machine}/job")["task"]
    assert [each["run"] for each in task["runs"]] == runs
    reports = [
        {"run": each["run"], "report": tam.entry("confirmed", pull=each["pull"], claimed_seq=each["seq"] + 1)} for each in task["runs"]
    ]
    for _ in range(2):  # sent twice, recorded once
        assert tam.http.post("/api/jobs/entries", json={"reports": reports}).status_code == 201
    assert [tam.now(run)["prompt"]["stage"] for run in runs] == ["stage 2 of 3"] * 2
    assert tam.get(f"/api/machines/{machine}/job")["task"] is None


def test_what_is_good_ends_and_is_signed_together(tam):
    machine = tam.machine()
    runs = up_to_the_lowering(tam, machine)
    for run in runs:
        tam.go_on(run)
    lines = tam.get(f"/api/machines/{machine}/job")["runs"]
    assert all(line["finished"] and line["clean"] for line in lines)
    ends = [{"run": line["run"], "seq": line["seq"], "id": str(uuid4()), "signature": str(uuid4())} for line in lines]
    body = {"ends": ends, "at_device": tam.clock.isoformat()}
    assert [tam.http.post("/api/jobs/ends", json=body).status_code for _ in range(2)] == [204, 204]
    assert [(tam.now(run)["outcome"], len(tam.now(run)["signed_by"])) for run in runs] == [("good", 1)] * 2
    assert tam.get(f"/api/machines/{machine}/job")["runs"] == []


def test_the_page_of_a_machine_shows_its_places(tam):
    found = tam.get(f"/api/machines/{demo_id('machine', 'RS-02')}")["map"]
    spots = {spot["key"]: spot["state"] for spot in found["spots"]}
    assert (spots["front/right/outer"], spots["front/right/inner"]) == ("do not move", "never recorded")
    assert found["drawing"]["spots"]


def test_what_waits_for_an_event_is_due_once_somebody_says_that_it_happened(tam, ines):
    spec = tam.get(f"/api/specs/{demo_id('spec', 'Fennick Causeway 12 Rear wheel nuts')}")["spec"]
    series = [{"id": "trip", "procedure": "retorque", "event": "before the next trip", "again_if": ["moved"]}]
    own = spec | {"id": str(uuid4()), "followups": series, "title": f"Hoist wheel {uuid4().hex[:6]}"}
    made = ines.http.post("/api/specs", json=own)
    assert made.status_code == 201, made.text
    machine = tam.machine()
    run = tam.start(machine, spec=own["id"])
    tam.go_on(run)
    tam.finish(run)
    happened = {"run": run, "followup": "trip"}

    def statuses():
        return [each["due"]["status"] for each in tam.get(f"/api/machines/{machine}")["followups"]]

    assert statuses() == ["waiting"]
    assert tam.command(f"/api/machines/{machine}/events", happened | {"followup": "other"}).status_code == 422
    assert tam.command(f"/api/machines/{machine}/events", happened).status_code == 204
    assert statuses() == ["due"]
