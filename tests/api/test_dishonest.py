"""What a tablet says about itself is not believed: which plan, whose hand, what was before. Whatever arrives, lists go on."""

import json
from uuid import UUID, uuid4

import httpx
import pytest
from sqlalchemy import text

from tests.api.test_without_server import arrives, codes, decide, on_tablet
from tests.shop import PINS, W11

UNPLAYABLE = {
    "a pass twice": lambda passes: [*passes, passes[-1]],
    "a pull twice": lambda passes: [*passes[:-1], passes[-1] | {"pulls": passes[-1]["pulls"] * 2}],
    "no such kind of step": lambda passes: [*passes[:-1], passes[-1] | {"kind": "weld"}],
    "a condition on a pass that is not there": lambda passes: [*passes[:-1], passes[-1] | {"when": [{"passes": [["s9"]], "one_of": ["ok"]}]}],
    "a condition on what comes later": lambda passes: [passes[0] | {"when": [{"passes": [["s1"]], "one_of": ["ok"]}]}, *passes[1:]],
    "nothing to divide by": lambda passes: [_pulls_with(each, factor=0) for each in passes],
    "no passes": lambda passes: [],
}  # fmt: skip
LISTS = ("/api/dashboard", "/api/week", "/api/runs/along", "/api/machines", "/api/notices", "/api/week.csv")


def _pulls_with(passed: dict, **changes) -> dict:
    return passed | {"pulls": [pull | changes for pull in passed["pulls"]]}


def with_passes(body: dict, change) -> dict:
    plan = body["started"]["plan"]
    return body | {"started": body["started"] | {"plan": plan | {"passes": change(plan["passes"])}}}


def lists_of(hand, machine: str) -> dict[str, int]:
    paths = (*LISTS, f"/api/machines/{machine}", f"/api/machines/{machine}/job")
    return {path: hand.http.get(path).status_code for path in paths}


def test_a_plan_that_cannot_be_played_is_replaced_by_the_servers_own_and_a_lead_decides(tam, ines):
    machine, runs = tam.machine(), []
    for change in UNPLAYABLE.values():
        begun = on_tablet(tam, machine := tam.machine())
        answer = tam.http.post("/api/runs/begun", json=with_passes(json.loads(begun.model_dump_json()), change))
        assert answer.status_code == 201, answer.text
        runs.append(answer.json()["id"])
    for run in runs:
        [flag] = [line for line in tam.now(run)["verdicts"] if line["code"] == "differs"]
        assert "cannot be played" in flag["words"]
    assert set(lists_of(tam, machine).values()) == {200}
    tam.go_on(run)
    assert tam.finish(run).status_code == 422
    assert decide(ines, run).status_code == 201
    assert tam.finish(run).json()["now"]["standing"] == "good"


def test_where_the_server_can_make_no_plan_either_it_says_so_and_keeps_nothing_half(tam, ines):
    machine = tam.machine()
    begun = on_tablet(tam, machine)
    twice = with_passes(json.loads(begun.model_dump_json()), UNPLAYABLE["a pass twice"])
    assert tam.command(f"/api/tools/{W11}/aside", {"mishap": "dropped"}).is_success
    answer = tam.http.post("/api/runs/begun", json=twice)
    assert ines.command(f"/api/tools/{W11}/clear", {"text": "looked at"}).is_success
    assert (answer.status_code, answer.json()["field"]) == (422, "started.plan")
    assert "stands there twice" in answer.json()["fault"]
    assert tam.get(f"/api/machines/{machine}")["history"] == []


def test_a_stored_plan_that_cannot_be_folded_and_a_spec_that_cannot_be_read_take_no_list_down(tam, owner):
    """As a hand in the database leaves them: each stands in its lists as what cannot be read; all others are as before."""
    machine, spec = tam.machine(), on_tablet(tam, tam.machine()).start.spec
    run, other = tam.start(machine), tam.start()
    key = {"s": run.replace("-", "")}
    [[body]] = owner.execute(text("SELECT body FROM ledger WHERE stream = :s AND seq = 1"), key)
    broken = json.loads(body)
    broken["started"]["plan"]["passes"][-1]["kind"] = "weld"
    owner.execute(text("UPDATE ledger SET body = :b WHERE stream = :s AND seq = 1"), key | {"b": json.dumps(broken)})
    [[content]] = owner.execute(text("SELECT content FROM spec_revisions WHERE spec_id = :s AND revision = 1"), {"s": spec.hex})
    tam.http.post(f"/api/runs/{run}/entries", json=tam.entry("noted", text="x"))
    owner.execute(text("UPDATE spec_revisions SET content = '{}' WHERE spec_id = :s AND revision = 1"), {"s": spec.hex})
    try:
        assert set(lists_of(tam, machine).values()) == {200}
        assert other in {place["run"] for place in tam.places()}
        assert tam.along()["pack"]["specs"]
    finally:
        owner.execute(text("UPDATE spec_revisions SET content = :c WHERE spec_id = :s AND revision = 1"), {"s": spec.hex, "c": content})
        owner.execute(text("UPDATE ledger SET body = :b WHERE stream = :s AND seq = 1"), key | {"b": body})


def test_saying_that_it_comes_back_switches_no_judgement_off(tam):
    begun = on_tablet(tam, tam.machine())
    easier = begun.started.policy.model_copy(update={"final_check": False, "fastest_pull_s": 0.1, "fastest_mean_s": 0.1})
    forged = begun.model_copy(update={"started": begun.started.model_copy(update={"policy": easier})})
    run = arrives(tam, forged, again=True)
    assert codes(tam, run) == {"differs": True}  # and nothing was brought back: this server was never restored
    assert "another policy" in tam.now(run)["verdicts"][0]["words"]


class TestSecondPerson:
    """The shop has a second person check this joint."""

    @pytest.fixture
    def run(self, tam, ines):
        for joints in ("wheel", ""):
            said = ines.command("/api/shop/choices", {"field": "second_person", "value": joints}, method="PUT")
            assert said.is_success, said.text
            if joints:
                yield tam.start()

    @pytest.fixture
    def checked(self, tam, run):
        tam.go_on(run, until="+second")
        return run

    def test_in_anothers_name_it_is_not_proven_until_they_type_their_pin(self, shop, tam, checked):
        wren = shop.person("Wren Halloway")
        tam.record(checked, "confirmed", pull="+second", by=wren)
        assert codes(tam, checked) == {"not_proven": True}
        assert tam.finish(checked).status_code == 422
        body = {"person": wren, "pin": PINS["Wren Halloway"], "seq": tam.now(checked)["seq"], "at_device": tam.clock.isoformat()}
        assert tam.command(f"/api/runs/{checked}/vouch", body).status_code == 201
        assert tam.finish(checked).json()["now"]["standing"] == "good"

    def test_their_own_session_proves_it(self, shop, tam, checked):
        shop.hand("Wren Halloway").record(checked, "confirmed", pull="+second")
        assert tam.finish(checked).json()["now"]["standing"] == "good"

    def test_who_pulled_under_anothers_name_is_not_the_second_person(self, shop, tam, run):
        wren = shop.person("Wren Halloway")
        while (now := tam.now(run))["prompt"]["pull"] != "+second":
            tam.act(run, now, now["prompt"]["acts"][0], by=wren)
        tam.record(run, "confirmed", pull="+second")
        assert codes(tam, run) == {"not_proven": True, "same_person": True}

    def test_a_start_in_anothers_name_is_not_proven_either(self, shop, tam):
        begun = on_tablet(tam, tam.machine()).model_copy(update={"by": UUID(shop.person("Wren Halloway"))})
        assert codes(tam, arrives(tam, begun))["not_proven"]


class TestTheSameIdAgain:
    """The same command again is the same answer; the same id with something else is refused."""

    def test_a_file_with_other_bytes(self, tam):
        known, pdf = uuid4(), b"%PDF-1.4 one"
        sent = [tam.http.put(f"/api/attachments/{known}", content=content).status_code for content in (pdf, pdf, pdf + b" more")]
        assert sent == [204, 204, 409]

    @pytest.mark.parametrize("change", [{"meters": [{"kind": "km", "figure": 9}]}, {"proof": "8 studs, M20"}, {"tooling": []}])
    def test_a_start_that_says_something_else(self, tam, change):
        body = tam.start_body(tam.machine())
        assert [tam.http.post("/api/runs", json=sent).status_code for sent in (body, body, body | change)] == [201, 201, 409]

    def test_a_tablet_that_heard_no_answer_is_introduced_again_until_somebody_signed_in_on_it(self, shop, ines):
        body = {"id": str(uuid4()), "name": "hoist 9", "person": ines.id, "pin": PINS["Ines Okoro"]}
        secrets = [httpx.post(f"{shop.url}/api/tablets", json=body).cookies["tight_tablet"] for _ in range(2)]
        signs_in = [
            httpx.post(
                f"{shop.url}/api/sessions", json={"person": ines.id, "pin": body["pin"]}, cookies={"tight_tablet": secret}
            ).status_code
            for secret in secrets
        ]
        assert signs_in == [403, 201]
        assert httpx.post(f"{shop.url}/api/tablets", json=body).status_code == 409

    def test_a_file_of_meters(self, tam):
        number = tam.get(f"/api/machines/{tam.machine()}")["machine"]["fleet_number"]
        path, lines = f"/api/meters/{uuid4()}", [f"{number},km,{figure}" for figure in range(100, 5_100)]
        sent = ["\n".join(["machine,meter,figure", *lines]), "\n".join(["machine,meter,figure", f"{number},km,101"])]
        answers = [tam.http.put(path, content=each.encode()) for each in (sent[0], sent[0], sent[1])]
        assert [answer.status_code for answer in answers] == [200, 200, 409]
        assert [{line["ok"] for line in answer.json()} for answer in answers[:2]] == [{True}, {True}]
        assert {line["said"] for line in answers[1].json()} == {f"{figure} km is written down already" for figure in range(100, 5_100)}


@pytest.mark.parametrize("text", ["machine,meter,figure\nA\r1,km,5\n", f"machine,meter,figure\n{'x' * 200_000},km,5\n", "machine\n", ""])
def test_a_file_that_is_no_table_of_meters_is_refused(tam, text):
    answer = tam.http.put(f"/api/meters/{uuid4()}", content=text.encode())
    assert answer.status_code in (200, 422)
    assert answer.status_code == 422 or not any(line["ok"] for line in answer.json())


def test_a_start_that_is_not_believed_says_nothing_of_the_machine(tam):
    machine = tam.machine()
    begun = on_tablet(tam, machine, axle_load_kg=1)
    easier = begun.started.policy.model_copy(update={"final_check": False})
    run = arrives(tam, begun.model_copy(update={"started": begun.started.model_copy(update={"policy": easier})}))
    assert codes(tam, run)["differs"]
    assert tam.get(f"/api/machines/{machine}")["machine"]["axle_loads_kg"] == {}


def test_a_start_that_follows_a_run_nobody_knows_is_refused(tam):
    begun = on_tablet(tam, tam.machine())
    orphan = begun.model_copy(update={"started": begun.started.model_copy(update={"parent": uuid4()})})
    answer = tam.http.post("/api/runs/begun", json=json.loads(orphan.model_dump_json()), params={"again": True})
    assert (answer.status_code, answer.json()["field"]) == (422, "started.parent")


def test_a_card_shows_the_entries_that_its_seals_are_about(tam, owner):
    run = tam.start()
    tam.go_on(run, until="s1:3")
    key, whole = {"s": run.replace("-", "")}, tam.get(f"/api/runs/{run}/card")
    owner.execute(text("DELETE FROM ledger WHERE stream = :s AND seq > 5"), key)
    cut = tam.get(f"/api/runs/{run}/card")
    assert [entry["id"] for entry in cut["entries"]] == [entry["id"] for entry in whole["entries"][:5]]
    owner.execute(text("DELETE FROM ledger WHERE stream = :s"), key)
    for path in ("card", "card.pdf", "card.json"):
        answer = tam.http.get(f"/api/runs/{run}/{path}")
        assert (answer.status_code, answer.json()["type"]) == (422, "urn:tight-ledger:unreadable")
