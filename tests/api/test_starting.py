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
        ({"wrench": str(demo_id("gauge", "G-01 angle gauge"))}, "wrench", "is no torque wrench"),
        ({"on_its_end": [{"tool": str(demo_id("gauge", "G-01 angle gauge"))}]}, "on_its_end", "nothing that goes on a wrench's end"),
        ({"on_its_end": [{"tool": str(demo_id("universal", "A-07 universal joint, half-inch"))}]}, "adapters", "has a square of 1/2 in"),
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
    tam.command(f"/api/machines/{machine}/meters", {"kind": "km", "figure": 5000})
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
    assert stage == [f"nut {label}" for label in order.split()]


def test_a_crowfoot_changes_the_setting_and_is_kept_with_the_run(tam):
    """On a lever of 1150 a crowfoot of 100: × 0.92 (derived)."""
    run = tam.start(on_its_end=[{"length_mm": 100}])
    (in_hand,) = tam.get(f"/api/runs/{run}/sheet")["tools"]
    assert in_hand["on_its_end"] == "crowfoot 100 mm at 0°: setting × 0.9200"
    now = tam.go_on(run, until="s3:1")
    assert now["prompt"]["figure"]["figure"] == "540"  # 585 at the stud, 538.2 on the scale, its marks 5 apart
    square = tam.start(on_its_end=[{"length_mm": 100, "turned_deg": 90}])
    assert tam.go_on(square, until="s3:1")["prompt"]["figure"]["figure"] == "585"


def offered(hand, spec=BUS_SPEC, **body):
    answer = hand.http.post(f"/api/specs/{spec}/tooling", json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_a_square_that_does_not_bear_it_is_no_choice(tam):
    refused = {choice["wrench"]["name"]: choice["refused"] for choice in offered(tam, on_its_end=[{"length_mm": 40}])["choices"]}
    assert refused["W-11 one-inch"] == ""
    folded = offered(tam, on_its_end=[{"length_mm": 500, "turned_deg": 180}])["choices"]
    assert all(choice["refused"] for choice in folded if choice["wrench"]["lever_mm"] is not None and choice["wrench"]["lever_mm"] < 500)


def test_a_multiplier_of_the_crib_brings_a_small_wrench_up_to_a_wheel(tam):
    """585 through 5 to 1 at 92 % is 127.2 at the wrench; the arm carries the rest (derived)."""
    gear = str(demo_id("multiplier", "M-01 multiplier, five to one"))
    choices = offered(tam, on_its_end=[{"tool": gear}])["choices"]
    half = next(choice for choice in choices if choice["wrench"]["name"] == "W-02 half-inch" and choice["wrench"]["unit"] == "N·m")
    assert [stage["setting"]["figure"] for stage in half["stages"]][-1] == "127"
    assert half["reaction"]["reaction_nm"] == pytest.approx(605 * (1 - 1 / 4.6))
    assert any("crushes a hand" in caution for caution in half["cautions"])
    run = tam.start(wrench=half["wrench"]["id"], on_its_end=[{"tool": gear}])
    assert tam.now(run)["prompt"]["say"].startswith("Threads and seats")
    tasks = [line["words"] for line in tam.now(run)["passes"]]
    assert any(words.startswith("The arm of M-01 multiplier") for words in tasks)


def test_what_the_crib_bars_a_lead_may_use_with_a_reason(tam, ines):
    spare = str(demo_id("wrench", "W-13 spare half-inch"))
    tug = {"spec": str(demo_id("spec", "Marrowby Pintle 40 Wheel nuts")), "proof": "4 studs, cone seat"}
    body = tam.start_body(tam.machine("Marrowby Pintle 40"), wrench=spare, position={"axle": "front", "side": "left"}, **tug)
    refused = tam.http.post("/api/runs", json=body).json()
    assert "Set aside: dropped" in refused["fault"]
    assert "A lead may" in refused["remedy"]
    body["tooling"][0]["override"] = "fell on the mat, clicked true against the dial"
    assert tam.http.post("/api/runs", json=body).status_code == 403
    assert ines.http.post("/api/runs", json=body).status_code == 201
    (in_hand,) = tam.get(f"/api/runs/{body['id']}/sheet")["tools"]
    assert in_hand["overridden"].startswith("fell on the mat, clicked true against the dial (against it: W-13")
    never = ines.start_body(ines.machine(), wrench=spare)
    never["tooling"][0]["override"] = "it will do"
    assert "ends at 200" in ines.http.post("/api/runs", json=never).json()["fault"]


def test_a_stand_that_does_not_bear_the_corner_is_refused(tam):
    """A bus's rear axle of 9,800 kg: 4,900 on the corner."""
    small, large = (str(demo_id("support", name)) for name in ("S-01 stand, small", "S-02 stand, large"))
    machine = tam.machine()
    body = tam.start_body(machine, supports=[small], axle_load_kg=9_800)
    assert "S-01 stand, small bears 3,000 kg: rear axle 9,800 kg ÷ 2 = 4,900 kg" in tam.http.post("/api/runs", json=body).json()["fault"]
    run = tam.start(machine, supports=[large], axle_load_kg=9_800)
    assert any("3,100 to spare" in line["words"] for line in tam.now(run)["passes"])
    assert tam.get(f"/api/machines/{machine}")["machine"]["axle_loads_kg"] == {"rear": 9_800}


def test_one_wrench_for_the_first_stage_another_for_the_rest(tam):
    """First match wins; each pull knows its own wrench, and the ledger counts them apart."""
    w05 = str(demo_id("wrench", "W-05 three-quarter"))
    body = tam.start_body(tam.machine())
    body["tooling"].insert(0, {"wrench": w05, "steps": ["s1"]})
    assert tam.http.post("/api/runs", json=body).status_code == 201
    run = body["id"]
    assert [tool["meant_for"] for tool in tam.get(f"/api/runs/{run}/sheet")["tools"]] == ["s1", ""]
    before = tam.get(f"/api/tools/{w05}")["uses"]
    assert tam.go_on(run, until="s1:1")["prompt"]["tooling"] == 0
    assert tam.go_on(run, until="s2:1")["prompt"]["tooling"] == 1
    assert tam.get(f"/api/tools/{w05}")["uses"] == before + 10


def test_another_wrench_in_the_middle_of_a_run(tam):
    """Other settings, the same pulls; what was done stays done, each entry read with the plan of its time."""
    run = tam.start(on_its_end=[{"length_mm": 100}])
    before = tam.go_on(run, until="s3:1")
    assert before["prompt"]["figure"]["figure"] == "540"
    taken = [{"wrench": str(demo_id("wrench", "W-07 long three-quarter"))}]
    body = {"id": str(uuid4()), "tooling": taken, "seq": before["seq"], "at_device": tam.clock.isoformat()}
    assert tam.http.post(f"/api/runs/{run}/retool", json=body | {"seq": before["seq"] - 1}).status_code == 409
    small = [{"wrench": str(demo_id("wrench", "W-05 three-quarter"))}]
    assert "ends at 500" in tam.http.post(f"/api/runs/{run}/retool", json=body | {"tooling": small}).json()["fault"]
    now = tam.http.post(f"/api/runs/{run}/retool", json=body).json()["now"]
    assert (now["prompt"]["pull"], now["prompt"]["figure"]["figure"], now["prompt"]["figure"]["unit"]) == ("s3:1", "430", "lbf·ft")
    assert [line["status"] for line in now["passes"]] == [line["status"] for line in before["passes"]]
    tam.go_on(run)
    assert tam.finish(run).status_code == 201
    card = tam.get(f"/api/runs/{run}/card")
    assert card["seals_hold"]
    assert any(line["words"] == "another wrench is taken" for line in card["entries"])
    assert card["sheet"]["tools"][0]["wrench"]["name"] == "W-07 long three-quarter"


def test_bolts_that_are_in_yield_are_asked_about_at_the_next_run_of_their_place(tam):
    first = tam.begin("Aldermoor Lapwing", "Cylinder head", "10", [("engine", "AL4")])
    tam.go_on(first)
    assert tam.finish(first).json()["now"]["standing"] == "good"
    sheet = tam.get(f"/api/runs/{first}/sheet")
    body = tam.start_body(sheet["machine"]["id"], spec=sheet["spec"], proof="10", position={})
    body |= {"tooling": tam.tooling(sheet["spec"], {})}
    [known] = [each for each in tam.along()["pack"]["machines"] if each["machine"]["id"] == sheet["machine"]["id"]]
    assert set(known["places"][0]["in_yield"].values()) == {1}
    asked = tam.http.post("/api/runs", json=body)
    assert (asked.status_code, asked.json()["ask"], asked.json()["choices"][0]) == (409, "bolts", "all new")
    assert tam.http.post("/api/runs", json=body | {"affirmed": ["all new"]}).status_code == 201
    assert tam.get(f"/api/runs/{body['id']}/entries")[0]["words"] == "started; what was in yield here: all new"
