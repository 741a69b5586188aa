"""Any request to any address, by anybody: the answer is one that the API's description names, and never a server error.

The addresses name what is on file, so that most requests get past “not on file”.
"""

from collections import Counter, defaultdict
from uuid import uuid4

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings

from tests.api.test_commands import WRITES_NOTHING, Case
from tests.shop import BUS_SPEC, W11, Shop
from tight_ledger.core.lab.registry import PAGES
from tight_ledger.core.practice.registry import DRILLS

EXAMPLES = 3
MOST_THAT_SEE_404 = 4
"""Number of operations that may see mostly “not on file”."""
NOT_CALLED = {"sign_out"}
"""It would end the session that the others are sent with."""
AT_THE_DOOR = {"set_up_shop", "introduce_tablet", "sign_in", "change_pin", "end_session"}
"""What everybody may do for themselves."""


@pytest.fixture(scope="module")
def own(tmp_path_factory):
    shop = Shop(tmp_path_factory.mktemp("own") / "data").start()
    yield shop
    shop.stop()


@pytest.fixture(scope="module")
def on_file(own):
    """By the name of a parameter in an address, something that is on file."""
    tam, ines = own.hand(), own.hand("Ines Okoro")
    machine = tam.machine()
    run = tam.start(machine)
    red = tam.start()
    assert tam.finish(red, "do not move", "a stud is cracked").status_code == 201
    photo = str(uuid4())
    assert tam.http.put(f"/api/attachments/{photo}", content=b"%PDF-1.4").status_code == 204
    due = tam.get("/api/followups")[0]
    feed, key = tam.command("/api/feeds").json()["address"].split("/")[-3:-1]
    return {
        "run_id": red, "machine_id": machine, "job_id": tam.get(f"/api/runs/{run}/sheet")["job"], "instrument_id": str(own.instrument()["instrument"]),
        "person_id": own.person(own.employ("mechanic")), "tablet_id": str(uuid4()), "notice_id": tam.get("/api/notices")[0]["id"],
        "spec_id": str(BUS_SPEC), "revision": 1, "tool_id": str(W11), "wrench_id": str(W11), "attachment_id": photo, "feed_id": feed, "key": key,
        "root": due["root"], "name": due["due"]["followup"], "hold_id": Case(tam, ines).lift_hold()[2].split("/")[3],
        "page": next(iter(PAGES)), "drill": next(iter(DRILLS)), "form": "csv",
    }  # fmt: skip


@pytest.mark.parametrize("roles", [(), ("mechanic", "lead", "keeper"), ("auditor",)], ids=lambda roles: "".join(roles) or "nobody")
def test_every_answer_is_described_and_an_auditor_changes_nothing(own, on_file, roles):
    cookies = dict(own.hand(own.employ(*roles)).http.cookies) if roles else {}
    changes = not {"mechanic", "lead", "keeper"}.isdisjoint(roles)
    wrong, seen = [], defaultdict(Counter)
    for found in schemathesis.openapi.from_url(f"{own.url}/api/openapi.json", timeout=60).get_all_operations():
        operation = found.ok()
        name = operation.definition.raw["operationId"]
        if name not in NOT_CALLED:
            may = changes or operation.method == "get" or name in AT_THE_DOOR | WRITES_NOTHING
            try_out(operation, cookies, wrong, may=may, on_file=on_file, seen=seen[name])
    assert wrong == []
    if changes:
        shallow = [name for name, statuses in seen.items() if statuses.most_common(1)[0][0] == 404]
        assert len(shallow) <= MOST_THAT_SEE_404, shallow


def try_out(operation, cookies, wrong, may, on_file, seen):
    described = operation.definition.raw

    @seed(13)
    @settings(max_examples=EXAMPLES, deadline=None, database=None, suppress_health_check=list(HealthCheck), phases=[Phase.generate])
    @given(case=operation.as_strategy())
    def send(case):
        case.path_parameters = {name: on_file.get(name, value) for name, value in (case.path_parameters or {}).items()}
        answer = case.call(cookies=cookies, timeout=60)
        seen[answer.status_code] += 1
        known = str(answer.status_code) in described["responses"]
        told = answer.status_code < 400 or answer.headers["content-type"] == ["application/problem+json"]
        if answer.status_code >= 500 or not known or not told or (answer.status_code < 400 and not may):
            wrong.append((described["operationId"], answer.status_code, str(case.body)[:300], answer.text[:200]))

    send()
