"""Every joint of the demo's library, led through by its prompts alone: no joint has code of its own."""

import random

import pytest

from tests.core.play import Run
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.library.sanity import ANY_WRENCH
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.runs.descriptions import entry_words, fasteners_now, pass_lines
from tight_ledger.core.runs.run import replay
from tight_ledger.demo.load import specs

EVERY = [(spec, procedure) for spec in specs() for procedure in spec.procedures]
NAMED = [f"{spec.applies_to[0].model} {spec.title} {procedure}" for spec, procedure in EVERY]


def plan_of(spec, procedure):
    return compile_plan(spec, procedure, (Tooling(wrench=ANY_WRENCH),), Policy())


@pytest.mark.parametrize(("spec", "procedure"), EVERY, ids=NAMED)
def test_it_is_led_to_its_end_and_is_good(spec, procedure):
    plan = plan_of(spec, procedure)
    run = Run(plan, Policy()).go_on()
    assert run.now.ask == "finish"
    assert (run.state.complete, run.state.clean, run.codes) == (True, True, [])
    assert all(entry_words(plan, entry) for entry in run.entries)
    assert len(fasteners_now(plan, run.state)) == len({p.fastener for pass_ in plan.passes for p in pass_.pulls} - {None})
    assert pass_lines(plan, run.state)


@pytest.mark.parametrize(("spec", "procedure"), EVERY, ids=NAMED)
def test_any_prefix_is_taken_up_again_and_any_delivery_gives_the_same(spec, procedure):
    """A run half done goes on; entries that come twice or in another sequence change nothing."""
    plan, dice = plan_of(spec, procedure), random.Random(spec.title)
    whole = Run(plan, Policy()).go_on()
    cut = dice.randint(0, len(whole.entries))
    half = Run(plan, Policy())
    half.entries = whole.entries[:cut]
    assert half.go_on().state.outcome == whole.state.outcome
    assert [entry.pull for entry in half.entries] == [entry.pull for entry in whole.entries]
    mixed = [*whole.entries, *dice.sample(whole.entries, len(whole.entries) // 2)]
    dice.shuffle(mixed)
    assert replay(plan, mixed, Policy()) == whole.state
