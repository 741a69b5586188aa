"""Bodies made from honest ones, with something dropped, doubled, swapped, or of another person, run or time: to every command."""

import json
import random
from datetime import timedelta
from uuid import uuid4

import pytest

from tests.api.test_commands import COVERED, Case
from tests.api.test_dishonest import LISTS
from tests.api.test_without_server import on_tablet
from tests.damage import damage, lie
from tests.shop import BUS_SPEC, W11
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.upcasting import read_entry
from tight_ledger.core.runs.run import replay

VARIANTS = 4
DECIDES_ABOUT_OTHERS = {"leave", "erase_person", "set_roles", "reset_pin", "lose_tablet", "move_shop", "choose"}
"""Another id in these is somebody else who really leaves: they are damaged, and no id is put in the place of another."""


def take_in_run(tam, ines):
    return tam, "POST", "/api/runs/begun", json.loads(on_tablet(tam, tam.machine()).model_dump_json())


def honest(name, tam, ines):
    return take_in_run(tam, ines) if name == "take_in_run" else getattr(Case(tam, ines), name)()


@pytest.mark.parametrize("name", [*COVERED, "take_in_run"])
def test_whatever_is_sent_is_answered_and_others_see_what_they_saw(shop, tam, ines, name):
    dice, wren = random.Random(name), shop.hand("Wren Halloway")
    auditor = shop.hand(shop.employ("auditor"), "office")
    known = [tam.id, ines.id, wren.id, str(BUS_SPEC), str(W11), tam.start(), tam.machine(), str(uuid4())]
    times = [shop.clock.now() + timedelta(days=days) for days in (-400, -1, 1, 26_000)]
    for _ in range(VARIANTS):
        who, method, path, body = honest(name, tam, ines)
        body = json.loads(json.dumps({"id": str(uuid4())} | body))
        for _ in range(dice.randint(1, 2)):
            if dice.random() < 0.5 and name not in DECIDES_ABOUT_OTHERS:
                lie(body, dice, known, times)
            else:
                damage(body, dice)
        for hand in (auditor, wren, who):
            answer = hand.http.request(method, path, json=body)
            assert answer.status_code < 500, (body, answer.text)
            assert hand is not auditor or answer.status_code in (401, 403, 404, 409, 422), (body, answer.text)
    assert {path: tam.http.get(path).status_code for path in LISTS if "along" not in path} == dict.fromkeys(LISTS[:2] + LISTS[3:], 200)


@pytest.fixture
def second_person(ines):
    """Somebody else checks a wheel."""
    yield ines.command("/api/shop/choices", {"field": "second_person", "value": "wheel"}, method="PUT")
    assert ines.command("/api/shop/choices", {"field": "second_person", "value": ""}, method="PUT").is_success


def in_their_own_sessions(entries: list[Entry]) -> list[Entry]:
    """The same acts by whoever's session they came in, except under the name of somebody who typed their PIN for it."""
    vouched = {entry.by for entry in entries if entry.kind == "vouched"}
    return [each if each.by in vouched else each.model_copy(update={"by": each.recorded_by, "unproven": None}) for each in entries]


def dishonest(hand, now: dict, dice: random.Random, ids: list[str], times: list) -> dict:
    """What the screen asks for, told of another person, time or run, or damaged."""
    act = dice.choice(now["prompt"]["acts"])
    said = {name: act[name] for name in ("how", "moved", "option", "setting") if act[name] is not None}
    said |= {"pull": now["prompt"]["pull"], "fastener": now["prompt"]["fastener"], "claimed_seq": now["seq"] + 1}
    body = hand.entry(act["kind"], **(said if not act["unplanned"] else {"text": "to look at it"}))
    if dice.random() < 0.7:
        lie(body, dice, ids, times)
    else:
        damage(body, dice)
    return body


@pytest.mark.usefixtures("second_person")
def test_no_run_ends_good_that_the_same_acts_in_each_ones_own_session_would_not(shop, tam):
    dice, wren, ended = random.Random(7), shop.hand("Wren Halloway"), []
    ids, times = [tam.id, wren.id], [shop.clock.now() + timedelta(seconds=seconds) for seconds in (-40_000_000, -4_000, 9, 50_000)]
    for _ in range(8):
        run, lies = tam.start(), dice.choice([0.0, 0.02, 0.1])
        for _ in range(150):
            now = tam.now(run)
            if now["prompt"]["ask"] in ("finish", "stop") or now["prompt"]["pull"] == "+second":
                break
            hand = dice.choice([tam, wren])
            if dice.random() < lies:
                body = dishonest(hand, now, dice, ids, times)
                assert hand.post(run, body).status_code < 500, body
            else:
                hand.act(run, now, now["prompt"]["acts"][0])
        checks = dice.choice([tam, shop.hand("Ines Okoro")])
        checks.record(run, "confirmed", pull="+second", by=dice.choice([checks.id, shop.person("Ines Okoro")]))
        ended.append(tam.finish(run).status_code)
        if ended[-1] == 201:
            entries = [read_entry(json.dumps(body)) for body in tam.get(f"/api/runs/{run}/stream")["entries"]]
            state = replay(entries[0].started.plan, in_their_own_sessions(entries))
            assert (state.complete, state.clean) == (True, True)
    assert set(ended) == {201, 422}
