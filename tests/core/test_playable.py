"""A plan that is taken in can be played to its end, whatever was done to it on the way."""

import json
from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.core.play import LONG, START, Run
from tests.core.test_every_joint import EVERY, NAMED, plan_of
from tests.examples import examples
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.records.entries import Entry, Started
from tight_ledger.core.records.plans import Plan, Tooling
from tight_ledger.core.runs.playable import unplayable

PLANS = [plan_of(spec, procedure) for spec, procedure in EVERY]
OTHER = (None, 0, -1, 1e9, "", "x", [], {}, True)


def first(plan: Plan) -> Entry:
    started = Started(
        plan=plan, spec_revision=1, tooling=(Tooling(wrench=LONG),), policy=Policy(), machine=UUID(int=1), position=Position(), proof="seen",
        engine="1",
    )  # fmt: skip
    common = {name: UUID(int=2) for name in ("id", "by", "run", "recorded_by", "device")}
    return Entry(kind="started", seq=1, at_device=START, at_server=START, started=started, **common)


def places(value, holder=None, key=None):
    """Every place in a JSON value: what holds it, and under which name or number."""
    if holder is not None:
        yield holder, key
    for name, inner in value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ():
        yield from places(inner, value, name)


def damage(data, dice):
    """One thing is dropped, doubled, put where another of its kind is, or becomes something else."""
    every = list(places(data))
    holder, key = dice.choice(every)
    value, act = holder[key], dice.choice(["drop", "double", "swap", "other"])
    if act == "drop":
        del holder[key]
    elif act == "double" and isinstance(holder, list):
        holder.append(value)
    elif act == "swap":
        other, at = dice.choice([place for place in every if isinstance(place[0][place[1]], type(value))])
        holder[key], other[at] = other[at], value
    else:
        holder[key] = dice.choice(OTHER)


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
