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
    good = [line["run"] for line in tam.get("/api/week")["done"] if line["standing"] == "good"]
    assert all(tam.now(run)["unproven"] == [] for run in good[-3:])
