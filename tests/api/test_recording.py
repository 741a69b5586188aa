"""What happened, once; what is odd, asked first; what is late, kept."""

from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import pytest

from tests.shop import W11


@pytest.fixture
def run(tam):
    started = tam.start()
    tam.act(started, now := tam.go_on(started, until="s1:1"), now["prompt"]["acts"][0])
    return started


def pull(hand, label="1", **more):
    return hand.entry("pulled", pull=f"s1:{label}", fastener=label, how="click", **more)


def count(hand, run):
    return len(hand.get(f"/api/runs/{run}/entries"))


def test_ten_times_at_once_is_one_entry(tam, run):
    before, entry = count(tam, run), pull(tam)
    with ThreadPoolExecutor(10) as pool:
        answers = list(pool.map(lambda _: tam.post(run, entry), range(10)))
    assert {a.status_code for a in answers} == {201}
    assert len({(a.json()["accepted"]["seq"], a.json()["accepted"]["seal"]) for a in answers}) == 1
    assert count(tam, run) == before + 1
    assert tam.now(run)["verdicts"] == []


def test_two_devices_both_are_kept_and_the_later_is_flagged(shop, tam, run):
    wren, seq = shop.hand("Wren Halloway"), tam.now(run)["seq"] + 1
    wren.clock = tam.clock
    first = tam.post(run, pull(tam, claimed_seq=seq)).json()
    second = wren.post(run, pull(wren, claimed_seq=seq)).json()
    assert [a["accepted"]["in_conflict"] for a in (first, second)] == [False, True]
    assert {v["code"] for v in second["now"]["verdicts"]} == {"conflict", "one_or_two"}
    other = wren.post(run, pull(wren, "6", claimed_seq=seq)).json()["now"]
    assert other["prompt"]["pull"] == "s1:3"  # the late one counts all the same


def test_one_pull_or_two_is_asked_until_somebody_says(shop, tam, run):
    wren, seq = shop.hand("Wren Halloway"), tam.now(run)["seq"] + 1
    wren.clock = tam.clock
    tam.post(run, pull(tam, claimed_seq=seq))
    now = wren.post(run, pull(wren, claimed_seq=seq)).json()["now"]
    (asked,) = now["one_or_two"]
    assert asked["words"] == "nut 1, stage 1 of 3: clicked at 175\u00a0N·m"
    tam.go_on(run)
    assert "recorded on two devices" in tam.finish(run).json()["fault"]
    assert tam.record(run, "clarified", about=asked["id"], option="one")["one_or_two"] == []
    assert tam.finish(run).status_code == 201


def test_a_fastener_that_has_had_its_pull_asks_first(tam, run):
    now = tam.post(run, pull(tam, claimed_seq=tam.now(run)["seq"] + 1)).json()["now"]
    once_more = pull(tam, claimed_seq=now["seq"] + 1)
    asked = tam.post(run, once_more)
    assert (asked.status_code, asked.json()["ask"], asked.json()["fault"]) == (409, "again", "Nut 1 has had this pull already.")
    affirmed = tam.post(run, once_more | {"affirmed": ["again"]}).json()["now"]
    assert [verdict["code"] for verdict in affirmed["verdicts"]] == ["twice"]


def test_a_reading_beyond_the_wrench_asks_first(tam, run):
    typed = tam.entry("pulled", pull="s1:1", fastener="1", how="typed", reading={"figure": 800, "unit": "N·m"}, tools=[str(W11)])
    asked = tam.post(run, typed).json()
    assert "lies beyond the scale of W-11 one-inch, which ends at 760 N·m" in asked["fault"]
    assert asked["choices"] == ["N·m", "lbf·ft", "lbf·in", "kgf·m"]


def test_who_did_it_and_who_recorded_it(shop, tam, run):
    wren = shop.hand("Wren Halloway")
    tam.post(run, pull(tam) | {"by": wren.id})
    line = tam.get(f"/api/runs/{run}/entries")[-1]
    assert (line["by"], line["recorded_by"], line["device"]) == ("Wren Halloway", "Tam Reddick", "bench 1")
    assert tam.post(run, pull(tam) | {"by": str(uuid4())}).json()["field"] == "by"


def test_faster_than_a_pull_asks_first(tam, run):
    tam.post(run, pull(tam, "1"))
    hasty, before = pull(tam, "6", after_s=0.4), count(tam, run)
    asked = tam.post(run, hasty)
    assert (asked.status_code, asked.json()["ask"]) == (409, "pace")
    assert count(tam, run) == before
    affirmed = tam.post(run, hasty | {"affirmed": ["pace"]}).json()["now"]
    assert [v["code"] for v in affirmed["verdicts"]] == ["implausible"]


@pytest.mark.parametrize("ratio", [1.3558179, 12, 9.80665, 10, 1 / 1.3558179, 1 / 12, 1 / 9.80665, 0.1])
def test_a_slip_of_units_asks_first(tam, run, ratio):
    typed = tam.entry("pulled", pull="s1:1", fastener="1", how="typed", reading={"figure": round(175 * ratio, 2), "unit": "N·m"})
    before = count(tam, run)
    asked = tam.post(run, typed)
    assert (asked.status_code, asked.json()["ask"]) == (409, "unit")
    assert "Which unit" in asked.json()["remedy"]
    assert count(tam, run) == before
    assert tam.post(run, typed | {"affirmed": ["unit"]}).status_code == 201


def test_a_reading_in_the_unit_of_the_scale(tam, run):
    low = tam.record(run, "pulled", pull="s1:1", fastener="1", how="typed", reading={"figure": 150, "unit": "N·m"})
    assert (low["prompt"]["pull"], [v["words"] for v in low["verdicts"]]) == ("s1:1", ["nut 1: below the band"])
    good = tam.record(run, "pulled", pull="s1:1", fastener="1", how="typed", reading={"figure": 129, "unit": "lbf·ft"})
    assert good["prompt"]["pull"] == "s1:6"


@pytest.mark.parametrize(
    ("change", "field", "said"),
    [
        ({"reading": {"figure": -5, "unit": "N·m"}}, "reading", "too small"),
        ({"reading": {"figure": 1e9, "unit": "N·m"}}, "reading", "too large"),
        ({"reading": {"figure": 175}}, "reading", "missing"),
        ({"reading": {"figure": 175, "unit": "bananas"}}, "reading", "none of the choices"),
        ({"pull": "s9:1"}, "pull", "no pull “s9:1”"),
        ({"how": None}, "reading", "Nothing says what a torque"),
        ({"how": "typed"}, "reading", "Nothing says what a torque"),
        ({"rung": "7"}, "rung", "no rung “7”"),
        ({"kind": "set", "setting": {"figure": 175, "unit": "N·m", "torque_nm": 175}}, "setting", "which wrench"),
        ({"kind": "clarified", "option": "one"}, "about", "Nobody asks"),
        ({"pull": None}, "pull", "no pull"),
        ({"fastener": "11"}, "fastener", "no fastener 11"),
        ({"kind": "checked", "moved": True}, "kind", "does not answer s1:1"),
        ({"kind": "finished"}, "kind", "not reported here"),
        ({"kind": "deviated", "text": "x"}, "kind", "Only a lead"),
        ({"seal": "00"}, "seal", "Nothing here goes by this name"),
        ({"at_device": "yesterday"}, "at_device", "cannot be read"),
    ],
)
def test_bad_entries_name_field_and_fault_and_leave_nothing(tam, run, change, field, said):
    before = count(tam, run)
    problem = tam.post(run, pull(tam) | change)
    assert problem.status_code in (403, 422)
    assert problem.json()["field"].split(".")[0] == field
    assert said in problem.json()["fault"]
    assert problem.json()["remedy"]
    assert count(tam, run) == before


def test_not_a_number_is_refused(tam, run):
    import json

    body = json.dumps(pull(tam) | {"reading": {"figure": float("nan"), "unit": "N·m"}})
    answer = tam.http.post(f"/api/runs/{run}/entries", content=body, headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert answer.json()["field"].startswith("reading")


def test_taking_back_takes_a_reason_and_is_recorded(tam, run):
    tam.post(run, pull(tam))
    last = tam.now(run)["last_undoable"]
    without = tam.post(run, tam.entry("undone", undoes=last["id"]))
    assert without.json()["fault"] == "A reason is missing."
    now = tam.record(run, "undone", undoes=last["id"], text="pressed by mistake")
    assert now["prompt"]["pull"] == "s1:1"
    lines = tam.get(f"/api/runs/{run}/entries")
    assert [line["counts"] for line in lines[-2:]] == [False, True]
    assert "taken back (pressed by mistake)" in lines[-1]["words"]
    gone = tam.post(run, tam.entry("undone", undoes=last["id"], text="again"))
    assert "cannot be taken back" in gone.json()["fault"]


def test_a_decision_on_an_old_view_is_refused_a_pull_is_not(shop, tam, run):
    tam.post(run, pull(tam))
    seq, last = tam.now(run)["seq"], tam.now(run)["last_undoable"]["id"]
    wren = shop.hand("Wren Halloway")
    wren.post(run, pull(wren, "6"))
    stale = tam.post(run, tam.entry("undone", undoes=last, text="x", claimed_seq=seq + 1))
    assert (stale.status_code, stale.json()["type"]) == (409, "urn:tight-ledger:stale")
    assert tam.post(run, pull(tam, "3", claimed_seq=seq + 1)).status_code == 201


def test_a_server_that_knows_nothing_yet_answers_the_same(tam, run, shop):
    """What the process remembers is a copy: after a restart the same run is folded from the ledger."""
    tam.post(run, pull(tam))
    before = tam.now(run)
    shop.stop()
    shop.start()
    assert shop.hand().now(run) == before
