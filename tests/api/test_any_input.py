"""Any request to any address, by anybody: the answer is one that the API's description names, and never a server error."""

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings

from tests.shop import Shop

EXAMPLES = 3
NOT_CALLED = {"sign_out"}
"""It would end the session that the others are sent with."""
AT_THE_DOOR = {"set_up_shop", "introduce_tablet", "sign_in", "change_pin", "end_session"}
"""What everybody may do for themselves."""


@pytest.fixture(scope="module")
def own(tmp_path_factory):
    shop = Shop(tmp_path_factory.mktemp("own") / "data").start()
    yield shop
    shop.stop()


@pytest.mark.parametrize("roles", [(), ("mechanic", "lead", "keeper"), ("auditor",)], ids=lambda roles: "".join(roles) or "nobody")
def test_every_answer_is_described_and_an_auditor_changes_nothing(own, roles):
    cookies = dict(own.hand(own.employ(*roles)).http.cookies) if roles else {}
    changes = not {"mechanic", "lead", "keeper"}.isdisjoint(roles)
    wrong = []
    for found in schemathesis.openapi.from_url(f"{own.url}/api/openapi.json", timeout=60).get_all_operations():
        operation = found.ok()
        name = operation.definition.raw["operationId"]
        if name not in NOT_CALLED:
            try_out(operation, cookies, wrong, may=changes or operation.method == "get" or name in AT_THE_DOOR)
    assert wrong == []


def try_out(operation, cookies, wrong, may):
    described = operation.definition.raw

    @seed(13)
    @settings(max_examples=EXAMPLES, deadline=None, database=None, suppress_health_check=list(HealthCheck), phases=[Phase.generate])
    @given(case=operation.as_strategy())
    def send(case):
        answer = case.call(cookies=cookies, timeout=60)
        known = str(answer.status_code) in described["responses"]
        told = answer.status_code < 400 or answer.headers["content-type"] == ["application/problem+json"]
        if answer.status_code >= 500 or not known or not told or (answer.status_code < 400 and not may):
            wrong.append((described["operationId"], answer.status_code, str(case.body)[:300], answer.text[:200]))

    send()
