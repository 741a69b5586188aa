"""How runs end, what stays red, what comes due, and the card."""

import hashlib
import json
from io import BytesIO
from uuid import uuid4

import pypdf
import pytest


def attention(hand, machine):
    on_machine = hand.get(f"/api/machines/{machine}")["attention"]
    at_home = [p for p in hand.places() if p["machine"] == machine]
    assert on_machine == at_home
    return [p["standing"] for p in on_machine]


def turning(pull):
    return pull.endswith(":4")


@pytest.fixture
def machine(tam):
    return tam.machine()


def test_good_signed_and_quiet(tam, machine):
    run = tam.start(machine)
    assert attention(tam, machine) == [None]
    tam.go_on(run)
    assert tam.finish(run).json()["now"]["standing"] == "good"
    body = {"id": str(uuid4()), "seq": tam.now(run)["seq"], "at_device": tam.clock.isoformat()}
    assert tam.http.post(f"/api/runs/{run}/sign", json=body).status_code == 201
    again = tam.http.post(f"/api/runs/{run}/sign", json=body | {"id": str(uuid4()), "seq": body["seq"] + 1})
    assert "has signed already" in again.json()["fault"]
    assert attention(tam, machine) == []


def test_red_until_a_lead_lifts_it(tam, ines, machine):
    run = tam.start(machine)
    tam.go_on(run, moved=turning)
    refused = tam.finish(run, "good")
    assert "4: turned in every check" in refused.json()["fault"]
    assert tam.finish(run, "do not move").json()["now"]["reasons"] == ["nut 4: turned in every check"]
    assert attention(tam, machine) == ["do not move"]
    untouched = tam.start(machine)
    tam.finish(untouched, "abandoned", "wrong spec")
    assert attention(tam, machine) == ["do not move"]  # an empty run hides nothing
    assert "no good run" in tam.http.post("/api/runs", json=tam.start_body(machine, procedure="retorque")).json()["fault"]
    again = tam.start(machine)
    tam.go_on(again)
    tam.finish(again)
    assert attention(tam, machine) == ["do not move"]  # tightened again, and the tag still hangs
    ines.finish(run, "released", "tightened again, none turned")
    assert attention(tam, machine) == []


def test_only_a_lead_releases_and_with_a_reason(tam, ines, machine):
    run = tam.start(machine)
    tam.go_on(run, moved=turning)
    tam.finish(run, "do not move")
    assert tam.finish(run, "released", "looks fine").status_code == 403
    assert ines.finish(run, "released", "").json()["fault"] == "A reason is missing."
    released = ines.finish(run, "released", "new stud ordered, may go to the wash")
    assert released.json()["now"]["standing"] == "released"
    assert attention(tam, machine) == []


def test_abandoned_half_way_stays_flagged(tam, machine):
    run = tam.start(machine)
    tam.go_on(run, until="s1:3")
    ended = tam.finish(run, "abandoned", "interrupted").json()["now"]
    assert ended["reasons"][-2:] == ["nuts 1, 6: already pulled", "interrupted"]
    assert attention(tam, machine) == ["abandoned"]


def test_a_pull_after_the_end_makes_it_red(tam, machine):
    run = tam.start(machine)
    tam.go_on(run)
    tam.finish(run)
    tam.record(run, "pulled", pull="s3:1", fastener="1", how="click")
    assert attention(tam, machine) == ["do not move"]


def test_the_retorque_comes_due_and_is_a_run_of_its_own(tam, machine):
    def due():
        return [(f["due"]["status"], f["due"]["words"]) for f in tam.get(f"/api/machines/{machine}")["followups"]]

    run = tam.start(machine, meters=[{"kind": "km", "figure": 1000}])
    tam.go_on(run)
    tam.finish(run)
    assert due() == [("waiting", "after 80 km: 0 km run")]
    tam.command(f"/api/machines/{machine}/meters", {"kind": "km", "figure": 1081})
    assert due() == [("due", "after 80 km: 81 km run")]
    [line] = [line for line in tam.get("/api/dashboard")["bay"] if line["machine"] == machine]
    assert (line["state"], line["wanted"], len(line["followups"])) == ("due", "rear left: after 80 km: 81 km run", 1)
    first = tam.start(machine, procedure="retorque", meters=[{"kind": "km", "figure": 1081}])
    tam.go_on(first, moved=lambda pull: pull == "check~1:3")
    tam.finish(first)
    assert due() == [("waiting", "after 80 km: 0 km run")]  # one moved: it starts again
    second = tam.start(machine, procedure="retorque", meters=[{"kind": "km", "figure": 1170}])
    assert tam.get(f"/api/runs/{second}/sheet")["procedure"] == "retorque"
    tam.go_on(second)
    tam.finish(second)
    assert due() == []


def test_the_card_in_three_forms(tam, machine):
    run = tam.start(machine, meters=[{"kind": "km", "figure": 1000}])
    tam.go_on(run, moved=turning)
    tam.finish(run, "do not move")
    card = tam.get(f"/api/runs/{run}/card")
    assert [row["name"] for row in card["table"]["rows"] if row["wrong"]] == ["nut 4"]
    assert (card["now"]["standing"], card["seals_hold"], card["shop"]) == ("do not move", True, "Saltmarsh Quay ground fleet")
    pdf = pypdf.PdfReader(BytesIO(tam.http.get(f"/api/runs/{run}/card.pdf").content))
    text = "\n".join(page.extract_text() for page in pdf.pages)
    for words in ("DO NOT MOVE", "4: turned in every check", "rear left", "10 studs, M22", "585 N·m", card["last_seal"][:20]):
        assert words in text
    fonts = [font.get_object()["/BaseFont"] for font in pdf.pages[0]["/Resources"]["/Font"].values()]
    assert any("B612" in font for font in fonts)
    document = tam.get(f"/api/runs/{run}/card.json")
    before = bytes(32)
    for entry in document["entries"]:
        before = hashlib.sha256(before + entry["stored"].encode()).digest()
        assert before.hex() == entry["seal"]
    kinds = [json.loads(entry["stored"])["kind"] for entry in document["entries"]]
    assert (kinds[0], kinds[-1]) == ("started", "finished")
    assert json.loads(document["entries"][0]["stored"])["started"]["plan"]["passes"]
