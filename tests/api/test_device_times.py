"""What a tablet says of its own time: how long it took, how long it waited, what day it is."""

from datetime import timedelta

import pytest

from tests.api.test_without_server import codes


def post(hand, run: str, entry: dict, *, waited_s: float = 0, **query):
    answer = hand.http.post(f"/api/runs/{run}/entries", json=entry, headers={"waited-ms": str(round(waited_s * 1_000))}, params=query)
    assert answer.status_code == 201, answer.text
    return answer.json()["now"]


@pytest.fixture
def run(tam):
    return tam.begun()


def test_a_wheel_posted_at_once_with_moments_six_seconds_apart_is_not_good(tam, run):
    now, at = tam.now(run), tam.clock
    while now["prompt"]["ask"] == "click":
        prompt, at = now["prompt"], at + timedelta(seconds=6)
        pulled = {"kind": "pulled", "pull": prompt["pull"], "fastener": prompt["fastener"], "how": "click", "claimed_seq": now["seq"] + 1}
        now = post(tam, run, tam.entry(after_s=0, **pulled) | {"at_device": at.isoformat()})
    assert codes(tam, run) == {"hurried": True}


def test_a_clock_in_the_year_2099_is_looked_at(tam, run):
    pulled = tam.entry("pulled", pull="s1:1", fastener="1", how="click") | {"at_device": "2099-06-01T12:00:00Z"}
    post(tam, run, pulled)
    [odd] = tam.now(run)["to_look_at"]
    assert odd["words"].replace("\u00a0", " ") == "nut 1: its tablet's clock is 72 years ahead"
    tam.record(run, "clarified", about=odd["about"], option="looked", text="its battery was dead")
    assert tam.now(run)["to_look_at"] == []


class TestKeptBack:
    """A tablet says that an entry waited on it for half an hour."""

    WAITED_S = 1_800

    def answers(self, tam, shop, *, for_s: int) -> None:
        for _ in range(0, for_s, 30):
            shop.clock.wind(seconds=30)
            tam.get("/api/dashboard")

    def delivered(self, tam, run: str, **fields) -> bool:
        post(tam, run, tam.entry("noted", text="done before", **fields), waited_s=self.WAITED_S)
        return bool(tam.now(run)["to_look_at"])

    def test_while_the_server_was_answering_it_somebody_says_why(self, tam, run, shop):
        self.answers(tam, shop, for_s=self.WAITED_S)
        assert self.delivered(tam, run)
        [line] = [each for each in tam.get(f"/api/runs/{run}/entries") if "done before" in each["words"]]
        assert line["done_at"] < line["at"]

    def test_after_silence_it_is_a_batch_and_nothing_is_asked(self, tam, run, shop):
        shop.clock.wind(seconds=self.WAITED_S)
        assert [self.delivered(tam, run) for _ in range(3)] == [False] * 3

    def test_behind_what_was_sent_all_the_time_it_is_not_asked_about_either(self, tam, run, shop):
        for _ in range(self.WAITED_S // 30):
            shop.clock.wind(seconds=30)
            post(tam, run, tam.entry("noted", text="on the way"), waited_s=self.WAITED_S)
        assert not self.delivered(tam, run)

    def test_what_a_question_held_up_is_explained_by_it(self, tam, run, shop):
        self.answers(tam, shop, for_s=self.WAITED_S)
        assert not self.delivered(tam, run, affirmed=["pace"])


def test_a_wait_is_a_time(tam, run):
    answers = [
        tam.http.post(f"/api/runs/{run}/entries", json=tam.entry("noted", text="x"), headers={"waited-ms": said})
        for said in ("-1", "1e400", "soon", str(10**15))
    ]
    assert [(answer.status_code, "waited" in answer.json()["field"]) for answer in answers] == [(422, True)] * 4
