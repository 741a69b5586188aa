"""Which wrench of the crib can do a joint, for all of it or for some of it."""

from uuid import UUID

import pytest

from tests.core.play import LONG, wheel_spec
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.parsing import parse_torque
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.joints.layouts import Kind
from tight_ledger.core.planning.needs import needs
from tight_ledger.core.planning.ranking import Bench, assign, judge, rank, share_out
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.tool_care.care import Care
from tight_ledger.core.tools.adapters import Crowfoot, Extension, Multiplier
from tight_ledger.core.tools.wrenches import Wrench

NO_CHECK = Policy(final_check=False)
BENCH = Bench(policy=NO_CHECK)
ONCE = [{"id": "a", "kind": "torque", "share": 1}]


def wrench(lowest, highest, graduation, body=None, unit="N·m", name="a wrench", **more):
    given = dict(id=UUID(int=len(name) + int(highest)), drive="1/2 in", name=name, body_graduation=body)
    return Wrench(unit=unit, lowest=lowest, highest=highest, graduation=graduation, **given | more)


TENS = wrench(20, 110, 1, 10)


def asked(torque, steps=ONCE, **more):
    return needs(wheel_spec(torque=torque, steps=steps, **more), "tighten", NO_CHECK)


def test_a_head_at_13_2_with_a_wrench_that_starts_at_15():
    """13.2 lbf·ft is 158.4 lbf·in: change to the small wrench (common practice, no source)."""
    small = wrench(30, 200, 1, 10, "lbf·in", "small")
    first, second = rank(asked("13.2 lbf·ft"), [wrench(15, 75, 0.5, 5, "lbf·ft", "three-eighths"), small], BENCH)
    assert (first.wrench.name, first.refused) == ("small", "")
    (stage,) = first.stages
    assert (stage.exact.figure, stage.setting.figure, stage.off) == ("158.4", "158", "0.3% under")
    assert stage.scale.words == "150 line, then thimble on to 8. Lock it."
    assert "starts at 15 lbf·ft" in second.refused
    assert not second.may_override


def test_87_5_on_a_whole_number_scale():
    """Of two marks as near, the lower; and it says so."""
    (stage,) = judge(asked("86–89 N·m"), TENS, BENCH).stages
    assert (stage.setting.figure, stage.off) == ("87", "0.6% under")


def test_the_side_in_the_specs_own_unit_is_offered_too():
    two = wrench(40, 210, 1, 10, second=wrench(30, 155, 1, 5, "lbf·ft").sides()[0].model_copy(update={}))
    assert {choice.wrench.unit for choice in rank(asked("75–80 lbf·ft"), [two], BENCH)} == {"N·m", "lbf·ft"}


def test_below_a_fifth_of_its_highest_mark_only_a_lead_may():
    """ISO 6789-1: verified from 20 % of the maximum."""
    choice = judge(asked("30–34 N·m"), wrench(20, 210, 1), BENCH)
    assert "is verified from 42 N·m up" in choice.refused
    assert choice.may_override


def test_a_first_stage_below_it_speaks_against_but_does_not_forbid():
    stages = [{"id": "a", "kind": "torque", "share": 0.3}, {"id": "b", "kind": "torque", "share": 1}]
    choice = judge(asked("118–132 N·m", stages), wrench(30, 210, 1), BENCH)
    assert choice.refused == ""
    assert "a first stage at 37 N·m lies below" in choice.against[0]


@pytest.mark.parametrize(
    ("change", "said"),
    [({"highest": 600}, "near the end"), ({"construction": "dial"}, "does not click")],
)
def test_what_speaks_against(change, said):
    choice = judge(asked("565–605 N·m"), LONG.model_copy(update=change), BENCH)
    assert any(said in reason for reason in choice.against)
    assert choice.refused == ""


def test_a_band_narrower_than_the_wrench_itself_may_deviate_is_said():
    """ISO 6789-1: ±4 %."""
    assert judge(asked("565–605 N·m"), LONG, BENCH).against[0] == "may itself be off by ±4 %, more than this band of ±3.4 %"
    assert judge(asked("555–605 N·m"), LONG, BENCH).against == ()


def test_the_finest_marks_are_those_that_are_finest_in_newton_metres():
    """A step of 1 lbf·in is finer than one of 0.5 N·m, whatever share of its range it is."""
    inch, metric = wrench(30, 200, 1, unit="lbf·in"), wrench(5, 250, 0.5)
    assert [choice.wrench.unit for choice in rank(asked("8–9 N·m"), [metric, inch], BENCH) if not choice.refused][:1] == ["lbf·in"]


@pytest.mark.parametrize(
    ("standing", "refused"), [("quarantined", True), ("due", True), ("soon", False), ("no check on file", False), ("good", False)]
)
def test_how_it_stands_bars_it_or_speaks_against_it(standing, refused):
    care = {LONG.id: Care(standing=standing, words="Due about now.")}
    choice = judge(asked("565–605 N·m"), LONG, Bench(policy=NO_CHECK, care=care))
    assert (bool(choice.refused), choice.may_override) == (refused, refused)
    assert any("ue about now" in reason for reason in choice.against) == (standing in ("soon", "no check on file"))


def test_a_wrench_that_measures_one_way_is_none_for_a_left_hand_thread():
    one_way = LONG.model_copy(update={"tightens": "clockwise"})
    assert "clockwise only" in judge(asked("565–605 N·m"), one_way, Bench(policy=NO_CHECK, hand="left")).refused
    assert judge(asked("565–605 N·m"), one_way, BENCH).refused == ""


def test_an_angle_wants_a_wrench_that_measures_it_or_a_gauge():
    steps = [*ONCE, {"id": "turn", "kind": "angle", "at": {"quantity": "angle", "low": 85, "high": 95}}]
    wants = asked("40–44 N·m", steps)
    assert [need.words for need in wants] == ["stage 1 of 1", "angle"]
    measures = wrench(10, 200, 0.1, name="clever", construction="electronic with angle", unit="N·m")
    first, second = rank(wants, [TENS, measures], BENCH)
    assert first.wrench.name == "clever"
    assert "measures the angle itself" in first.for_it
    assert any("by eye" in reason for reason in second.against)
    assert any("needs the gauge" in reason for reason in judge(wants, TENS, Bench(policy=NO_CHECK, angle_gauge=True)).against)


def test_what_is_on_the_end_counts_in_the_setting_the_limit_and_the_windup():
    lever = TENS.model_copy(update={"lever_mm": 400})
    foot = Crowfoot(kind="crowfoot", drive="1/2 in", length_mm=50)
    assert judge(asked("98–102 N·m"), lever, BENCH, (foot,)).stages[0].setting.figure == "89"
    assert "bears 80 N·m" in judge(asked("98–102 N·m"), lever, BENCH, (foot.model_copy(update={"limit_nm": 80}),)).refused
    long = Extension(kind="extension", drive="1/2 in", length_mm=250, across_mm=12)
    assert judge(asked("55–60 N·m"), lever, BENCH, (long,)).stages[0].windup_deg == pytest.approx(5.3, abs=0.05)
    rule = Bench(policy=Policy(final_check=False, extension_allowance_nm_per_m=4))
    allowed = judge(asked("58–62 N·m"), lever, rule, (long,))
    assert allowed.stages[0].setting.figure == "61"
    assert "own rule adds 1 N·m" in allowed.notes[-1]
    gear = Multiplier(kind="multiplier", drive="1/2 in", to="1 in", ratio=5, efficiency=1, limit_nm=600)
    through = judge(asked("280–320 N·m"), lever, BENCH, (gear,))
    assert (through.stages[0].setting.figure, through.reaction.reaction_nm) == ("60", pytest.approx(256))


def two_kinds():
    """Six studs at 90 N·m, two small ones at 9 to 11."""
    spec = wheel_spec(8, torque="86–94 N·m", steps=ONCE)
    fasteners = [
        fastener.model_copy(update={"kind": "small"}) if fastener.label in ("7", "8") else fastener for fastener in spec.layout.fasteners
    ]
    layout = spec.layout.model_copy(update={"fasteners": tuple(fasteners), "kinds": spec.layout.kinds | {"small": Kind(thread="M6")}})
    return spec.model_copy(update={"layout": layout, "finals": spec.finals | {"small": parse_torque("9–11 N·m")}})


def test_no_wrench_does_all_so_two_share_it():
    spec = two_kinds()
    wants = needs(spec, "tighten", NO_CHECK)
    assert [(need.words, need.labels[-1]) for need in wants] == [("stage 1 of 1, stud", "6"), ("stage 1 of 1, small", "8")]
    pocket = wrench(5, 25, 0.5, name="pocket")
    choices = rank(wants, [TENS, pocket], BENCH)
    assert all(choice.refused for choice in choices)
    shares, left = share_out(wants, choices, BENCH)
    assert {share.name: [(each.step, each.labels) for each in share.needs] for share in shares} == {
        "a wrench": [("a", ("1", "2", "3", "4", "5", "6"))], "pocket": [("a", ("7", "8"))]
    }  # fmt: skip
    assert left == ()
    assert share_out(wants, rank(wants, [TENS], BENCH), BENCH)[1] == ("stage 1 of 1, small",)


@pytest.mark.parametrize("standing", ["quarantined", "due"])
def test_a_wrench_that_may_not_be_used_has_no_share_either(standing):
    """The wrench that is set aside cannot do all of it anyway; it is not proposed for what it could do."""
    wants, pocket = needs(two_kinds(), "tighten", NO_CHECK), wrench(5, 25, 0.5, name="pocket")
    aside = Bench(policy=NO_CHECK, care={TENS.id: Care(standing=standing, words="Not to be used.")})
    shares, left = share_out(wants, rank(wants, [TENS, pocket], aside), aside)
    assert ([share.name for share in shares], left) == (["pocket"], ("stage 1 of 1, stud",))


def test_a_wrench_for_one_direction_has_no_share_of_a_left_hand_thread():
    wants, pocket = needs(two_kinds(), "tighten", NO_CHECK), wrench(5, 25, 0.5, name="pocket")
    left_hand = Bench(policy=NO_CHECK, hand="left")
    one_way = TENS.model_copy(update={"tightens": "clockwise"})
    assert [share.name for share in share_out(wants, rank(wants, [one_way, pocket], left_hand), left_hand)[0]] == ["pocket"]


def test_one_bolt_takes_the_crowfoot_that_the_others_do_not():
    """The first tooling that is meant for a fastener and step is used; none is left without."""
    spec = two_kinds()
    wants = needs(spec, "tighten", NO_CHECK)
    rows = [Tooling(wrench=TENS, of="small"), Tooling(wrench=TENS)]
    assert [[need.labels for need in row] for row in assign(spec.layout, wants, rows)] == [[("7", "8")], [("1", "2", "3", "4", "5", "6")]]
    with pytest.raises(Invalid, match="No wrench is chosen for 1"):
        assign(spec.layout, wants, rows[:1])
