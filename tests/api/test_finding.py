"""Finding and entering specs."""

from uuid import UUID, uuid4

import pytest

from tests.shop import BUS_SPEC
from tight_ledger.demo.load import demo_id, specs


def hits(hand, asked, **query):
    return [(h["title"], h["maker_model"]) for h in hand.get("/api/find", asked=asked, **query)["hits"]]


@pytest.mark.parametrize("asked", ["sb-04 rear", "rear sb-04", "SB04 rear nut", "rear causew sb-04 whe", "sb-04 raer lug"])
def test_any_order_part_words(tam, asked):
    found = tam.get("/api/find", asked=asked)["hits"]
    assert "Rear wheel nuts" in [h["title"] for h in found]
    assert {h["machine"]["fleet_number"] for h in found} == {"SB-04"}
    assert found[0]["why"]


def test_maker_joint_and_count(tam):
    own = {spec.title for spec in specs()}  # other tests put wheels of Fennick on file too
    found = [hit for hit in hits(tam, "fennick wheel 10") if "Causeway" in hit[1] and hit[0] in own]
    assert found == [("Front wheel nuts", "Fennick Causeway 12"), ("Rear wheel nuts", "Fennick Causeway 12")]


def test_a_machine_picked_first_narrows_to_its_model(tam):
    tug = str(demo_id("machine", "TG-02"))
    assert {maker_model.partition(",")[0] for _, maker_model in hits(tam, "", machine=tug)} == {"Marrowby Pintle 40"}
    assert hits(tam, "wheel", machine=tug) == [("Wheel nuts", "Marrowby Pintle 40"), ("Keyed security nut", "Marrowby Pintle 40")]
    assert hits(tam, "fennick", machine=tug) == []
    generator = tam.get("/api/find", asked="wheel", machine=str(demo_id("machine", "HG-1")))
    assert (generator["hits"], generator["machine"]["fleet_number"]) == ([], "HG-1")


def test_the_sheet(tam):
    file = tam.get(f"/api/specs/{BUS_SPEC}")
    assert file["status"] == "current"
    assert [stage["words"] for stage in file["sheet"]["figures"][0]["stages"]["stages"] if stage["main"]] == ["565–605 N·m"]
    assert {m["fleet_number"] for m in file["machines"]} >= {"SB-04", "SB-05"}


def test_two_that_could_apply_ask_the_one_question(tam):
    van = tam.machine("Aldermoor Lapwing")
    found = tam.get("/api/find", asked="wheel", machine=van)
    assert [h["title"] for h in found["hits"]] == ["Wheel nuts, alloy wheel", "Wheel nuts, steel wheel"]
    assert found["question"]["attribute"] == "wheel"
    assert found["question"]["answers"][0]["tell"] == "cast spokes, bare metal, a magnet falls off"
    steel = str(demo_id("spec", "Aldermoor Lapwing Wheel nuts, steel wheel"))
    wrench, position = str(demo_id("wrench", "W-02 half-inch")), {"axle": "front", "side": "left"}
    body = tam.start_body(van, spec=steel, wrench=wrench, proof="5 studs, cone seat", position=position)
    assert "Nobody has said which wheel" in tam.http.post("/api/runs", json=body).json()["fault"]
    assert tam.command(f"/api/machines/{van}/variant", {"attribute": "wheel", "value": "alloy"}).status_code == 200
    found = tam.get("/api/find", asked="wheel", machine=van)
    assert ([h["title"] for h in found["hits"]], found["question"]) == (["Wheel nuts, alloy wheel"], None)
    assert "is not for" in tam.http.post("/api/runs", json=body).json()["fault"]


def titles(hand, asked, **query):
    return [title for title, _ in hits(hand, asked, **query)]


@pytest.mark.parametrize(
    ("asked", "title"),
    [
        ("10 stud", "Rear wheel nuts"),
        ("m12x1.5 lapwing cap", "Main bearing caps"),
        ("oil pan", "Sump"),
        ("lug nut drover", "Wheel nuts"),
        ("main bearing", "Main bearing caps"),
        ("caliper carrier", "Brake carrier"),
        ("recalled", "Front wheel nuts"),  # in a caution
        ("bulletin", "Oil filter cap"),  # in its source
        ("capstan 9 beering", "Drum hub bearing"),
    ],
)
def test_what_mechanics_call_it(tam, asked, title):
    assert title in titles(tam, asked)


@pytest.mark.parametrize("asked", ["SQ18 BUS", "sq18bus wheel", "FC12-0417", "fn9cw12r1jb000417"])
def test_a_machine_by_plate_serial_or_vin(tam, asked):
    found = tam.get("/api/find", asked=asked)
    assert {h["machine"]["fleet_number"] for h in found["hits"]} == {"SB-04"}


def test_a_vin_says_its_year_and_a_wrong_check_digit_only_warns(tam):
    """49 CFR 565; 1M8GDM9AXKP042788 is the textbook's valid one."""
    assert tam.get("/api/find", asked="1M8GDM9AXKP042788")["vin"]["check_digit_holds"] is True
    wrong = tam.get("/api/find", asked="1M8GDM9A1KP042788")["vin"]
    assert (wrong["check_digit_holds"], 1989 in wrong["years"]) == (False, True)
    assert "look at the plate" in wrong["warning"]


def test_facets_narrow_and_count(tam):
    facets = tam.get("/api/facets", asked="aldermoor")
    systems = {system["value"]: system["count"] for system in facets["systems"]}
    assert facets["all"] is True
    assert ("Aldermoor", "Lapwing") in {(model["maker"], model["value"]) for model in facets["models"]}
    assert sum(systems.values()) == facets["counted"]
    narrowed = tam.get("/api/facets", asked="aldermoor", system="brakes")
    assert narrowed["counted"] == systems["brakes"] == len(titles(tam, "aldermoor", system="brakes"))
    assert titles(tam, "", maker="Tarn & Oake", model="Capstan 9", system="brakes") == ["Brake band anchor"]


def test_years_narrow_and_what_states_none_comes_after(tam):
    model = uuid4().hex[:6]
    for title, years in (("Dated", (2016, 2020)), ("Later", (2021, 2024)), ("Undated", (None, None))):
        applies = [{"maker": "Fennick", "model": model, "year_from": years[0], "year_to": years[1]}]
        spec = tam.get(f"/api/specs/{BUS_SPEC}")["spec"] | {"id": str(uuid4()), "title": title, "applies_to": applies}
        assert tam.http.post("/api/specs", json=spec).status_code == 201
    assert titles(tam, f"{model} 2019") == ["Dated", "Undated"]
    assert titles(tam, model, year=2022) == ["Later", "Undated"]
    assert {year["value"] for year in tam.get("/api/facets", asked=model)["years"]} >= {"2016", "2020"}


def test_a_model_with_everything_on_file_for_it(tam):
    model = tam.get("/api/models", maker="aldermoor", model="lapwing")
    assert (model["maker"], model["model"]) == ("Aldermoor", "Lapwing")
    said = {variant["attribute"]: variant["values"] for variant in model["variants"]}
    assert "press-in" in said["bearing"]
    assert "no" in said["driven"]
    assert {"SV-11", "SV-12"} <= {machine["fleet_number"] for machine in model["machines"]}


def test_what_is_no_longer_worked_to_comes_last_and_says_so(tam, ines):
    model = uuid4().hex[:6]
    old = tam.get(f"/api/specs/{BUS_SPEC}")["spec"] | {
        "id": str(uuid4()), "title": "Old name", "applies_to": [{"maker": "Fennick", "model": model}],
    }  # fmt: skip
    tam.http.post("/api/specs", json=old)
    ines.command(f"/api/specs/{old['id']}/revisions/1/check")
    tam.http.post("/api/specs", json=old | {"revision": 2, "change": "wording", "title": "New name"})
    assert [(h["title"], h["checked"], h["behind"]) for h in tam.get("/api/find", asked=model)["hits"]] == [("Old name", True, False)]
    ines.command(f"/api/specs/{old['id']}/revisions/2/check")
    assert [(h["title"], h["behind"]) for h in tam.get("/api/find", asked=f"old {model}")["hits"]] == [("Old name", True)]
    assert titles(tam, model) == ["New name"]


MINIMAL = {
    "title": "Wheel nuts", "maker": "Tarn", "model": "Oake 3", "torque": "430 lbf·ft", "thread": "M20×1.5", "count": 8, "document": "book",
}  # fmt: skip


def test_a_typed_spec_is_unchecked(tam):
    entered = tam.command("/api/specs/minimal", MINIMAL).json()["id"]
    file = tam.get(f"/api/specs/{entered}")
    assert (file["status"], file["entered_by"]) == ("draft", "Tam Reddick")


def test_a_whole_spec_from_json_comes_back_the_same(tam):
    spec = tam.get(f"/api/specs/{BUS_SPEC}")["spec"] | {"id": str(uuid4()), "title": "A copy"}
    entered = tam.http.post("/api/specs", json=spec)
    assert entered.status_code == 201, entered.text
    assert tam.get(f"/api/specs/{spec['id']}")["spec"] == spec
    assert tam.http.post("/api/specs", json=spec).status_code == 201  # sent again, it is the same once
    again = tam.http.post("/api/specs", json=spec | {"title": "Another"})
    assert "does not follow 1" in again.json()["fault"]


@pytest.mark.parametrize(
    ("change", "field", "said"),
    [
        ({"torque": "430"}, "torque", "no unit"),
        ({"torque": "NaN Nm"}, "torque", "not a torque that is pulled"),
        ({"torque": "-430 Nm"}, "torque", "not a torque that is pulled"),
        ({"torque": "1000000000 Nm"}, "torque", "not a torque that is pulled"),
        ({"torque": "605–565 Nm"}, "torque", "low figure lies above"),
        ({"count": 2}, "count", "out of range"),
        ({"count": "eight"}, "count", "cannot be read"),
        ({"document": ""}, "document", "empty or too short"),
        ({"colour": "red"}, "colour", "Nothing here goes by this name"),
    ],
)
def test_bad_input_names_field_fault_and_remedy_and_leaves_nothing(tam, change, field, said):
    title = f"Bad {uuid4().hex}"
    problem = tam.command("/api/specs/minimal", MINIMAL | {"title": title} | change)
    assert problem.status_code == 422
    assert problem.headers["content-type"] == "application/problem+json"
    body = problem.json()
    assert body["field"].split(".")[0] == field
    assert said in body["fault"]
    assert body["remedy"]
    assert hits(tam, title) == []


def test_a_figure_from_the_wrong_column_is_asked_about_before_it_is_saved(tam):
    title = f"Odd {uuid4().hex}"
    odd = MINIMAL | {"title": title, "torque": "430 lbf·ft", "thread": "M8", "property_class": "8.8"}
    asked = tam.command("/api/specs/minimal", odd)
    assert (asked.status_code, asked.json()["ask"]) == (409, "figure")
    assert "in lbf·in it would be usual" in asked.json()["fault"]
    assert hits(tam, title) == []
    assert tam.command("/api/specs/minimal", odd, affirmed="figure").status_code == 201
    assert len(hits(tam, title)) == 1


def test_a_spec_typed_with_an_angle_is_led_through(tam):
    angled = MINIMAL | {"torque": "85-95 ft lb + 90°", "thread": "½-20 UNF", "model": "Oake 4"}
    spec = tam.command("/api/specs/minimal", angled).json()["id"]
    file = tam.get(f"/api/specs/{spec}")
    assert file["spec"]["layout"]["kinds"]["stud"]["thread"] == "1/2-20 UNF"
    body = tam.start_body(tam.machine("Tarn Oake 4"), spec=spec, proof="8", wrench=str(demo_id("wrench", "W-02 half-inch")))
    assert tam.http.post("/api/runs", json=body).status_code == 201
    now = tam.go_on(body["id"], until="turn1:1")
    assert (now["prompt"]["ask"], now["prompt"]["degrees_left"]) == ("angle", 90)


def test_an_estimate_is_no_spec(tam):
    made = tam.get("/api/estimate", thread="M12", property_class="8.8", condition="zinc")
    assert made["shown"][0]["figure"] == "88.0"
    choices = tam.get("/api/estimate/choices")
    assert {"8.8", "grade 5"} <= set(choices["property_classes"])
    refused = tam.http.get("/api/estimate", params={"thread": "M12", "property_class": "8.8", "condition": "wet"})
    assert refused.json()["field"] == "condition"


@pytest.mark.parametrize(
    ("path", "said"),
    [(f"/api/specs/{UUID(int=7)}", "No spec"), (f"/api/machines/{UUID(int=7)}", "No machine"), ("/api/specs/7", "cannot be read")],
)
def test_unknown_things(tam, path, said):
    assert said in tam.http.get(path).json()["fault"]


def test_a_machine_takes_two_fields(tam):
    fleet = f"N-{uuid4().hex[:5]}"
    body = {"id": str(uuid4()), "fleet_number": fleet, "maker_model": "Fennick Causeway 12"}
    assert tam.http.post("/api/machines", json=body).status_code == 201
    assert tam.get("/api/find", asked=f"{fleet} rear")["hits"][0]["machine"]["fleet_number"] == fleet
    again = tam.http.post("/api/machines", json=body | {"id": str(uuid4())})
    assert "on file already" in again.json()["fault"]
    assert "names no model" in tam.http.post("/api/machines", json=body | {"maker_model": "Fennick"}).json()["fault"]


def test_the_same_vin_for_a_second_machine_asks(tam):
    vin = "1M8GDM9AXKP042788"
    bodies = [{"id": str(uuid4()), "fleet_number": f"V-{uuid4().hex[:5]}", "maker_model": "Fennick Causeway 12", "vin": vin} for _ in "12"]
    assert tam.http.post("/api/machines", json=bodies[0]).status_code == 201
    asked = tam.http.post("/api/machines", json=bodies[1])
    assert (asked.status_code, asked.json()["ask"], asked.json()["field"]) == (409, "vin", "vin")
    assert tam.http.post("/api/machines", json=bodies[1] | {"affirmed": ["vin"]}).status_code == 201


@pytest.mark.parametrize("asked", ["%", "🔧", "—"])
def test_a_question_without_a_word_or_a_figure_finds_nothing_and_says_so(tam, asked):
    found = tam.get("/api/find", asked=asked)
    assert (found["hits"], found["machines"], found["unreadable"]) == ([], [], True)
    assert tam.get("/api/facets", asked=asked)["counted"] == 0
    assert not tam.get("/api/find", asked="")["unreadable"]


def test_wrenches_say_why_not(tam):
    choices = tam.http.post(f"/api/specs/{BUS_SPEC}/tooling", json={}).json()["choices"]
    able = {c["wrench"]["name"]: [s["setting"]["figure"] for s in c["stages"]][:3] for c in choices if not c["refused"]}
    assert able["W-11 one-inch"] == ["175", "350", "585"]
    assert able["W-07 long three-quarter"] == ["130", "260", "430"]
    refused = {c["wrench"]["name"]: c["refused"] for c in choices if c["refused"]}
    assert "ends at 500 N·m; this joint needs 585 N·m" in refused["W-05 three-quarter"]
    assert "starts at 200 N·m; this joint needs 176 N·m" in refused["W-12 long one-inch"]
