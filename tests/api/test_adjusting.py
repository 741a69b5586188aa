"""Measured adjustments through the API: what is proposed comes with the reading, and both are in the entry."""

import pytest

from tests.shop import Hand
from tight_ledger.demo.load import demo_id


def reading(hand: Hand, run: str, figure: float, unit: str = "mm") -> dict:
    """As many readings that agree as it takes."""
    now = hand.now(run)
    while now["prompt"]["ask"] == "measure":
        now = hand.act_measured(run, now, figure, unit)
    return now


@pytest.fixture
def hub(tam):
    return tam.begin("Tarn & Oake Capstan 9", "Drum hub bearing", "tab washer")


def test_a_hub_is_loosened_until_its_play_follows_the_nut(tam, hub):
    now = tam.go_on(hub, until="play~1")
    now = reading(tam, hub, 0.06)
    assert now["prompt"]["ask"] == "adjust"
    advised = now["prompt"]["advised"]
    assert (advised["proposal"]["do"], advised["proposal"]["by"]) == ("move", 1)
    now = tam.act(hub, now, now["prompt"]["acts"][0])
    now = reading(tam, hub, 0.10)
    assert now["prompt"]["advised"]["proposal"]["do"] == "accept"
    assert [(each["at"], each["reading"]) for each in now["prompt"]["advised"]["tries"]] == [(0, 0.06), (1, 0.10)]
    tam.act(hub, now, now["prompt"]["acts"][0])
    words = [line["words"] for line in tam.get(f"/api/runs/{hub}/entries") if line["kind"] == "adjusted"]
    assert words[0].endswith("1 position looser; proposed: Loosen by 1 position, turn the hub to and fro, and read again.")
    tam.go_on(hub)
    assert tam.finish(hub).status_code == 201
    assert tam.get(f"/api/runs/{hub}/card")["now"]["standing"] == "good"


def test_left_otherwise_than_advised_it_does_not_end_good(tam, hub):
    tam.go_on(hub, until="play~1")
    now = reading(tam, hub, 0.06)
    stays = next(act for act in now["prompt"]["acts"] if act["say"] == "it stays so")
    now = tam.act(hub, now, stays)
    tam.go_on(hub)
    assert [verdict["code"] for verdict in tam.now(hub)["verdicts"] if not verdict["answered"]] == ["against_advice"]
    assert tam.finish(hub).status_code == 422


def test_readings_that_disagree_are_not_averaged(tam, hub):
    tam.go_on(hub, until="play~1")
    for figure in (0.05, 0.11, 0.05, 0.05, 0.06, 0.05):
        now = tam.now(hub)
        assert now["prompt"]["ask"] == "measure"
        tam.act_measured(hub, now, figure, "mm")
    assert tam.now(hub)["prompt"]["advised"]["tries"] == [{"at": 0, "reading": 0.05}]


def test_a_reading_that_was_not_taken_as_it_says_is_refused(tam, hub):
    now = tam.go_on(hub, until="play~1")
    refused = tam.post(hub, tam.entry("measured", pull="play~1", how="typed", reading={"figure": 0.06, "unit": "mm", "where": "gauge"}))
    assert (refused.status_code, refused.json()["field"]) == (422, "method")
    assert "Push the hub in" in refused.json()["remedy"]
    assert tam.now(hub)["seq"] == now["seq"]


def test_the_gauge_is_ranked_read_by_its_needle_and_kept_from_use_when_it_is_due(tam, hub):
    now = tam.go_on(hub, until="play~1")
    offered = {gauge["name"]: gauge for gauge in now["prompt"]["gauges"]}
    assert set(offered) == {"G-02 dial indicator", "G-09 test indicator", "G-11 digital indicator"}  # no calliper reads a play
    dial = offered["G-02 dial indicator"]
    assert (dial["rank"], dial["needle"]) == ("coarse", "from mark 4 to mark 11")
    coarse = tam.entry("measured", pull="play~1", method="end play", tools=[str(demo_id("gauge", "G-05 calliper"))], how="typed")
    refused = tam.post(hub, coarse | {"reading": {"figure": 0.06, "unit": "mm", "where": "gauge"}})
    assert (refused.status_code, refused.json()["field"]) == (422, "tools")
    now = tam.act_measured(hub, now, 0, "mm", needle={"turns": 1, "marks": 6.0}, tools=[dial["id"]], affirmed=["unit"])
    assert now["prompt"]["readings"] == ["1.06 mm"]
    line = tam.get(f"/api/runs/{hub}/entries")[-1]
    assert "read 1.06\u00a0mm" in line["words"]
    assert any(each["name"] == "G-02 dial indicator" and each["care"]["pulls_since"] >= 1 for each in tam.get("/api/tools")["tools"])


def test_an_adjustment_that_is_sent_twice_is_one(tam, hub):
    """What is proposed is worked out by the server; the sender does not say it."""
    tam.go_on(hub, until="play~1")
    reading(tam, hub, 0.06)
    sent = tam.entry("adjusted", pull="move~1", adjusted={"by": 1})
    assert [tam.post(hub, sent).status_code for _ in range(2)] == [201, 201]
    assert sum(line["kind"] == "adjusted" for line in tam.get(f"/api/runs/{hub}/entries")) == 1


def test_a_spacer_comes_from_the_stock_by_what_was_measured(tam):
    run = tam.begin("Fennick Causeway 12", "Pinion nut, solid spacer", "a spacer", axle="rear")
    now = tam.go_on(run, until="first")
    assert now["prompt"]["acts"][0]["asks_amount"]
    refused = tam.post(run, tam.entry("adjusted", pull="first"))
    assert (refused.status_code, refused.json()["field"]) == (422, "adjusted")
    tam.record(run, "adjusted", pull="first", adjusted={"to": 12.0})
    tam.go_on(run, until="drag~1")
    now = reading(tam, run, 1.2, "N·m")
    tam.go_on(run, until="move~2")
    proposal = tam.now(run)["prompt"]["advised"]["proposal"]
    assert proposal["do"] == "move"
    assert "PS-02 pinion spacer (11.982 mm)" in proposal["say"]
    assert proposal["to"] == 11.982
    now = tam.now(run)
    tam.act(run, now, now["prompt"]["acts"][0])
    tam.go_on(run, until="drag~2")
    reading(tam, run, 1.8, "N·m")
    tam.go_on(run)
    assert tam.finish(run).status_code == 201
