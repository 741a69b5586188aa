"""What must be right before a run may start."""

from uuid import uuid4

import pytest

from tests.shop import BUS_SPEC
from tight_ledger.demo.load import demo_id


@pytest.mark.parametrize(
    ("change", "field", "said"),
    [
        ({"machine": str(demo_id("machine", "TG-02"))}, "spec", "is not for TG-02"),
        ({"position": {"axle": "front", "side": "left"}}, "position", "not for front left"),
        ({"position": {"axle": "rear"}}, "position", "not for rear"),
        ({"proof": "10 studs, M20"}, "proof", "this spec is for “10 studs, M22”"),
        ({"wrench": str(demo_id("wrench", "W-05 three-quarter"))}, "wrench", "ends at 500 N·m"),
        ({"wrench": str(uuid4())}, "wrench", "No wrench"),
        ({"spec": str(uuid4())}, "spec", "No spec"),
        ({"revision": 9}, "spec", "No spec"),
        ({"procedure": "polish"}, "procedure", "no procedure “polish”"),
        ({"procedure": "retorque"}, "procedure", "no good run here"),
        ({"meters": [{"kind": "hours", "figure": 3}]}, "meters", "has no meter for hours"),
        ({"meters": [{"kind": "km", "figure": -3}]}, "meters", "too small"),
    ],
)
def test_refused_with_a_sentence_and_nothing_written(tam, change, field, said):
    machine = tam.machine()
    body = tam.start_body(machine, **change)
    problem = tam.http.post("/api/runs", json=body)
    assert problem.status_code in (404, 422)
    assert problem.json()["field"].split(".")[0] == field
    assert said in problem.json()["fault"]
    assert tam.http.get(f"/api/runs/{body['id']}/now").status_code == 404
    assert tam.get(f"/api/machines/{machine}")["history"] == []


def test_the_same_start_twice_is_one_run_and_a_place_holds_one(tam):
    machine = tam.machine()
    body = tam.start_body(machine)
    assert [tam.http.post("/api/runs", json=body).status_code for _ in range(2)] == [201, 201]
    second = tam.http.post("/api/runs", json=body | {"id": str(uuid4())})
    assert (second.status_code, second.json()["type"]) == (409, "urn:tight-ledger:stale")
    other_side = tam.start(machine, position={"axle": "rear", "side": "right"})
    history = tam.get(f"/api/machines/{machine}")["history"]
    assert [h["run"] for h in history] == [other_side, body["id"]]
    assert tam.get(f"/api/runs/{other_side}/sheet")["job"] == tam.get(f"/api/runs/{body['id']}/sheet")["job"]


def test_a_lower_meter_reading_asks_and_never_blocks(tam):
    machine = tam.machine()
    tam.http.post(f"/api/machines/{machine}/meters", json={"kind": "km", "figure": 5000})
    body = tam.start_body(machine, meters=[{"kind": "km", "figure": 4000}])
    asked = tam.http.post("/api/runs", json=body)
    assert (asked.status_code, asked.json()["ask"]) == (409, "meter")
    assert "below the last reading of 5000" in asked.json()["fault"]
    assert tam.http.post("/api/runs", json=body | {"affirmed": ["meter"]}).status_code == 201
    newer = tam.start_body(machine, position={"axle": "rear", "side": "right"}, meters=[{"kind": "km", "figure": 7, "basis": "new_meter"}])
    assert tam.http.post("/api/runs", json=newer).status_code == 201


def test_a_machine_without_a_meter_needs_none(tam):
    assert tam.start(tam.machine(meters=()))


def test_left_hand_threads_turn_the_other_way(tam):
    body = tam.start_body(
        str(demo_id("machine", "TT-07")), spec=str(demo_id("spec", "Stourholm Curlew 4 Rear wheel nuts")),
        wrench=str(demo_id("wrench", "W-05 three-quarter")), proof="6 studs, L on the left side",
    )  # fmt: skip
    for side, turn in (("left", "anticlockwise, left-hand thread"), ("right", "clockwise")):
        position = {"axle": "rear", "side": side, "place": "outer"}
        run = tam.http.post("/api/runs", json=body | {"id": str(uuid4()), "position": position}).json()["id"]
        assert tam.go_on(run, until="s1:4")["prompt"]["turn"] == turn
        tam.finish(run, "abandoned", "only trying")


@pytest.mark.parametrize(
    ("machine", "spec", "wrench", "proof", "position", "order"),
    [
        ("TG-02", "Marrowby Pintle 40 Wheel nuts", "W-02 half-inch", "4 studs, cone seat", {"axle": "front", "side": "left"}, "1 3 2 4"),
        ("SV-11", "Aldermoor Lapwing Wheel nuts, alloy wheel", "W-02 half-inch", "5 studs, cone seat", {"axle": "rear", "side": "left"}, "1 3 5 2 4"),
        ("WL-03", "Tarn & Oake Drover 8 Wheel nuts", "W-05 three-quarter", "8 studs, M20", {"axle": "front", "side": "left"}, "1 5 3 7 2 6 4 8"),
        ("RS-02", "Stourholm Heron 45 Drive wheel nuts", "W-11 one-inch", "20 studs, wedge ring", {"axle": "front", "side": "left", "place": "inner"},
         "1 11 6 16 3 13 8 18 5 15 10 20 2 12 7 17 4 14 9 19"),
    ],
)  # fmt: skip
def test_the_demos_star_orders(shop, machine, spec, wrench, proof, position, order):
    wren = shop.hand("Wren Halloway")
    ids = {"machine": str(demo_id("machine", machine)), "spec": str(demo_id("spec", spec)), "wrench": str(demo_id("wrench", wrench))}
    run = wren.start(proof=proof, position=position, **ids)
    wren.go_on(run)
    assert wren.finish(run).status_code == 201
    entries = wren.get(f"/api/runs/{run}/entries")
    stage = [e["words"].split(",")[0] for e in entries if "stage 1" in e["words"]]
    assert stage == order.split()


def test_a_crowfoot_changes_the_setting_and_is_kept_with_the_run(tam):
    """On a lever of 1150 a crowfoot of 100: × 0.92 (derived)."""
    run = tam.start(crowfoot_mm=100, angle_deg=0)
    sheet = tam.get(f"/api/runs/{run}/sheet")
    assert sheet["on_its_end"] == "crowfoot 100 mm at 0°: setting × 0.9200"
    now = tam.go_on(run, until="s3:1")
    assert now["prompt"]["figure"]["figure"] == "540"  # 585 at the stud, 538.2 on the scale, its marks 5 apart
    square = tam.start(crowfoot_mm=100, angle_deg=90)
    assert tam.go_on(square, until="s3:1")["prompt"]["figure"]["figure"] == "585"


def test_a_square_that_does_not_bear_it_is_no_choice(tam):
    choices = tam.get(f"/api/specs/{BUS_SPEC}/wrenches", crowfoot_mm=40, angle_deg=0)
    refused = {one["wrench"]["name"]: one["refused"] for one in choices}
    assert refused["W-11 one-inch"] == ""
    folded = tam.get(f"/api/specs/{BUS_SPEC}/wrenches", crowfoot_mm=500, angle_deg=180)
    assert all(one["refused"] for one in folded if one["wrench"]["lever_mm"] < 500)
