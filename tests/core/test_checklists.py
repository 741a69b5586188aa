"""What is confirmed before the first pull: from the spec, the tools, the machine."""

from uuid import UUID

import pytest

from tests.core.play import LONG, SHORT, Run, wheel_spec
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.machines.positions import Positions
from tight_ledger.core.planning.checklist import Load, checklist, held_words, is_lifted
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.specs.steps import Do
from tight_ledger.core.tools.adapters import Multiplier
from tight_ledger.core.tools.inventory import Support
from tight_ledger.demo.load import specs

NO_CHECK = Policy(final_check=False)
STAND = Support(kind="support", id=UUID(int=8), name="S-02", what="stand", rated_kg=8_000)
JACK = STAND.model_copy(update={"name": "J-01", "what": "jack", "rated_kg": 4_000})
REAR = Load(axle="rear", axle_kg=9_800)
GEAR = Multiplier(kind="multiplier", name="M-01", drive="1 in", to="1 in", ratio=5)


def wheel(steps=SHORT, **more):
    given = dict(condition="clean and dry", system="wheels and hubs", positions=Positions(axles=("rear",)), orientation=("valve down",))
    spec = wheel_spec(steps=steps, **given | more)
    new = spec.layout.kinds["stud"].model_copy(update={"single_use": True})
    return spec.model_copy(update={"layout": spec.layout.model_copy(update={"kinds": {"stud": new}})})


IN_HAND = Tooling(wrench=LONG)


def plan(spec, tooling=IN_HAND, policy=NO_CHECK, load=REAR, supports=(STAND,)):
    return compile_plan(
        spec, "tighten", (tooling,), policy, lambda passes: checklist(spec, "tighten", (tooling,), passes, policy, load, supports)
    )


def said(plan):
    return {pass_.id: pass_.say for pass_ in plan.passes if pass_.id.startswith("+")}


def test_every_item_has_its_words_and_comes_before_the_first_pull():
    steps = [{"id": "hand", "kind": "do", "say": "started by hand"}, {"id": "s", "kind": "torque", "share": 1, "hold": "the hub"}]
    compiled = plan(wheel(steps), Tooling(wrench=LONG, adapters=(GEAR,)))
    assert said(compiled) == {
        "+threads": "Threads and seats: clean and dry.",
        "+new": "New parts fitted: 10 × stud.",
        "+places": "valve down.",
        "+hold": "Counter-hold ready for the hub; clear of housings, pipes and hands.",
        "+held": "Rear axle 9,800 kg ÷ 2 = 4,900 kg on this corner: S-02 bears 8,000 kg, 3,100 to spare. Wheels chocked.",
        "+arm": "The arm of M-01 stands against something solid; hands and hoses are clear of it.",
        "+tools": "long is whole and read in N·m.",
    }
    run = Run(compiled).go_on(until="s:1")
    assert [entry.pull for entry in run.entries if entry.kind == "confirmed"] == [*said(compiled), "hand"]


def test_a_specs_own_words_come_in_the_place_of_an_item():
    own = [Do(id="held", kind="do", say="The mast hangs in chains."), *wheel().procedures["tighten"]]
    assert "+held" not in said(plan(wheel(own)))


def test_another_wrench_changes_the_words_and_no_id():
    dial = LONG.model_copy(update={"construction": "dial", "name": "watched"})
    first, other = plan(wheel()), plan(wheel(), Tooling(wrench=dial))
    assert [p.id for p in first.passes] == [p.id for p in other.passes]
    assert said(other)["+tools"] == "watched stands on 0."


def test_a_shop_may_leave_it_out_but_a_weak_stand_stays_refused():
    without = Policy(final_check=False, checklist=False)
    assert said(plan(wheel(), policy=without)) == {}
    with pytest.raises(Invalid, match="S-02 bears 8,000 kg: heavy axle 17,000 kg ÷ 2 = 8,500 kg on this corner"):
        plan(wheel(), policy=without, load=Load(axle="heavy", axle_kg=17_000))


@pytest.mark.parametrize(
    ("load", "supports", "words"),
    [
        (Load(axle="rear"), (), "Held by a stand that bears this corner; never by the jack alone. Wheels chocked. Nobody has said"),
        (Load(axle="rear"), (STAND,), "Held by S-02, rated 8,000 kg; never"),
        (Load(axle="rear", axle_kg=7_000), (JACK,), "500 to spare; a stand rated 3,500 kg or more holds it, never the jack alone"),
    ],
)
def test_what_holds_the_machine(load, supports, words):
    assert words in held_words(load, supports)


def test_a_re_torque_stands_on_its_wheels():
    spec = wheel()
    assert (is_lifted(spec, "tighten"), is_lifted(spec, "retorque")) == (True, False)
    assert not is_lifted(wheel(system="engine"), "tighten")


def test_bolts_that_may_be_used_again_are_measured_first_and_a_long_one_is_a_stop():
    spec = wheel()
    kind = spec.layout.kinds["stud"].model_copy(update={"single_use": False, "longest_mm": 52.4})
    spec = spec.model_copy(update={"layout": spec.layout.model_copy(update={"kinds": {"stud": kind}})})
    tooling = (Tooling(wrench=LONG),)
    compiled = compile_plan(
        spec, "tighten", tooling, NO_CHECK, lambda p: checklist(spec, "tighten", tooling, p, NO_CHECK, REAR, (STAND,), used=2)
    )
    run = Run(compiled).go_on(until="+length:3")
    assert run.now.say == "used here 2 times before, by this record"
    assert (run.now.band.high, run.now.measure) == ("52.4", "length, free")
    for label in spec.layout.select(None)[2:]:
        run.add(
            "measured",
            pull=f"+length:{label}",
            fastener=label,
            reading={"figure": 52.9 if label == "7" else 52.1, "unit": "mm", "where": "gauge"},
        )
    assert run.now.ask == "stop"
    run.add("replaced", fastener="7", text="too long")
    assert run.next == "+length:7"
    run.go_on()
    assert run.state.clean


@pytest.mark.parametrize(
    ("way", "asked"), [("as the document says", False), ("a spacer or shims in its place", False), ("a new crush sleeve", True)]
)
def test_a_pinion_that_is_set_in_another_way_than_the_shops_is_confirmed(way, asked):
    spec = next(each for each in specs() if each.title == "Pinion nut, solid spacer")
    policy = Policy(pinion=way)
    compiled = compile_plan(spec, "tighten", (IN_HAND,), policy, lambda p: checklist(spec, "tighten", (IN_HAND,), p, policy, REAR, ()))
    assert ("+school" in said(compiled)) == asked
    if asked:
        assert "by a new crush sleeve; this document by a spacer or shims in its place" in said(compiled)["+school"]
