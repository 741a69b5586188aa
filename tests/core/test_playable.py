"""A plan that is taken in can be played to its end, whatever was done to it on the way."""

import json
from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.core.play import LONG, START, Run
from tests.core.test_every_joint import EVERY, NAMED, plan_of
from tests.damage import damage
from tests.examples import examples
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.records.entries import Entry, Started
from tight_ledger.core.records.plans import Plan, Tooling
from tight_ledger.core.runs.playable import unplayable

PLANS = [plan_of(spec, procedure) for spec, procedure in EVERY]


def first(plan: Plan) -> Entry:
    started = Started(
        plan=plan, spec_revision=1, tooling=(Tooling(wrench=LONG),), policy=Policy(), machine=UUID(int=1), position=Position(), proof="seen",
        engine="1",
    )  # fmt: skip
    common = {name: UUID(int=2) for name in ("id", "by", "run", "recorded_by", "device")}
    return Entry(kind="started", seq=1, at_device=START, at_server=START, started=started, **common)


@pytest.mark.parametrize("plan", PLANS, ids=NAMED)
def test_what_the_compiler_makes_is_playable(plan):
    assert unplayable(first(plan)) is None


@examples(150)
@given(st.sampled_from(PLANS), st.integers(1, 2), st.randoms(use_true_random=False))
def test_what_is_taken_in_is_played_without_a_fault(plan, times, dice):
    data = json.loads(plan.model_dump_json())
    for _ in range(times):
        damage(data, dice)
    try:
        damaged = Plan.model_validate_json(json.dumps(data))
    except ValidationError:
        return  # it is refused before anybody looks at it
    if unplayable(first(damaged)) is not None:
        return
    run = Run(damaged, Policy())
    for _ in range(25):
        if (now := run.now).ask in ("finish", "stop"):
            break
        run.do(now)
