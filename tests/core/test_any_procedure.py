"""What must hold for any layout, any procedure and any stream of entries."""

import random

from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import LONG, Run, plan_of, wheel_spec
from tests.examples import examples
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.parsing import parse_measured
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.runs import run as core_run
from tight_ledger.core.runs.run import replay
from tight_ledger.core.tools.wrenches import set_wrench

BAND = parse_measured("0.04–0.11 mm").model_dump()
LEAVES = (
    {"kind": "torque", "share": 1}, {"kind": "torque", "share": 0.5}, {"kind": "torque", "share": 1, "order": "any"}, {"kind": "check"},
    {"kind": "angle", "at": {"quantity": "angle", "low": 85, "high": 95}}, {"kind": "turns", "turns": 2}, {"kind": "loosen"},
    {"kind": "loosen", "amount": 1, "unit": "positions"}, {"kind": "align", "at_most_deg": 30}, {"kind": "rotate", "turns": 5, "what": "hub"},
    {"kind": "measure", "what": "play", "band": BAND}, {"kind": "measure", "what": "play", "per_fastener": True}, {"kind": "do"},
    {"kind": "do", "per_fastener": True}, {"kind": "torque", "share": 1, "reverse": True},
)  # fmt: skip


@st.composite
def procedures(draw):
    """A few leaves, some of them in a loop or for each fastener by itself."""
    steps = [leaf | {"id": f"s{n}"} for n, leaf in enumerate(draw(st.lists(st.sampled_from(LEAVES), min_size=1, max_size=6)))]
    at = draw(st.integers(0, len(steps)))
    inside, wrap = steps[at : at + 2], draw(st.sampled_from(["none", "repeat", "each", "until"]))
    if inside and wrap != "none":
        block = {"id": "block", "kind": "each", "steps": inside}
        if wrap in ("repeat", "until"):
            block = {"id": "block", "kind": "repeat", "times": 2, "steps": inside}
        if wrap == "until" and inside[0]["kind"] == "check":
            block["until"] = {"step": inside[0]["id"], "one_of": ["still"]}
        steps = [*steps[:at], block, *steps[at + 2 :]]
    return wheel_spec(draw(st.integers(3, 9)), steps=steps)


def some_entries(run, dice, many):
    """A person who mostly does what is asked, and now and then something else."""
    for _ in range(many):
        now = run.now
        if now.ask in ("finish", "stop"):
            break
        act, open_pulls = dice.random(), [pull.id for pull in run.state.pulls if pull.status == "open" and ":" in pull.id]
        if act < 0.7:
            run.do(now, moved=lambda _: dice.random() < 0.2)
        elif act < 0.8 and open_pulls:
            run.add("pulled", pull=(pull := dice.choice(open_pulls)), fastener=pull.rpartition(":")[2].partition("#")[0], how="click")
        elif act < 0.9 and run.state.undoable:
            run.add("undone", undoes=dice.choice(run.state.undoable), text="not that one")
        else:
            run.add("loosened", fastener=str(dice.randint(1, 3)), text="to look")


@examples(120)
@given(procedures(), st.randoms(use_true_random=False))
def test_whatever_happens_the_fold_holds(spec, dice):
    plan, policy = plan_of(spec), Policy(final_check=False)
    run = Run(plan, policy)
    some_entries(run, dice, 40)
    state = run.state
    mixed = [*run.entries, *(dice.sample(run.entries, len(run.entries) // 2))]
    dice.shuffle(mixed)
    assert replay(plan, mixed, policy) == state  # whatever the delivery
    held = core_run.Run(plan, policy)
    for place, entry in enumerate(run.entries, 1):  # one after the other, each state as if all had come at once
        held.add([entry])
        assert held.state() == replay(plan, run.entries[:place], policy)
    cut = dice.randint(0, len(run.entries))
    again = Run(plan, policy)
    again.entries = run.entries[:cut]
    assert again.go_on().now.ask in ("finish", "stop")  # any prefix goes on to an end
    if state.undoable:
        taken_back = run.undo(next(entry for entry in run.entries if entry.id == state.undoable[-1]))
        run.undo(taken_back)
        restored = run.state
        assert (restored.pulls, restored.next, restored.passes) == (state.pulls, state.next, state.passes)


@examples(80)
@given(procedures(), st.floats(0.8, 1.2))
def test_no_plan_asks_for_a_pull_outside_its_band(spec, factor):
    try:
        plan = plan_of(spec)
    except Invalid:
        return
    for pull in (pull for pass_ in plan.passes for pull in pass_.pulls if pull.setting is not None):
        assert pull.band.low * (1 - 1e-9) <= pull.at_fastener(pull.setting.torque_nm) <= pull.band.high * (1 + 1e-9)
        try:
            other = set_wrench(LONG, pull.band, aim_nm=pull.band.aim("middle"), factor=factor)
        except Invalid:
            continue
        assert pull.band.low * (1 - 1e-9) <= other.torque_nm / factor <= pull.band.high * (1 + 1e-9)


@examples(60)
@given(procedures())
def test_a_correction_folds_where_what_it_corrects_stood(spec):
    run, dice = Run(plan_of(spec), Policy(final_check=False)), random.Random(1)
    some_entries(run, dice, 12)
    pulled = [entry for entry in run.entries if entry.kind == "pulled" and entry.reading is not None and entry.id in run.state.live]
    if not pulled:
        return
    wrong = dice.choice(pulled)
    before = run.state
    run.add(
        "pulled", pull=wrong.pull, fastener=wrong.fastener, how=wrong.how, counts=wrong.counts, reading=wrong.reading, corrects=wrong.id
    )
    assert (run.state.pulls, run.state.next) == (before.pulls, before.next)
