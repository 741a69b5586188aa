"""Meters, positions, people, seals, finding, the sheet: a rule each."""

import hashlib
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.core.play import Run, plan_of, wheel_spec
from tests.core.test_every_way import joint
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.parsing import parse_torque
from tight_ledger.core.base.people import check_new_pin, pin_wait_s
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.joints.shapes import bolt_circle
from tight_ledger.core.library.sheet import sheet
from tight_ledger.core.machines.machine import maker_and_model
from tight_ledger.core.machines.meters import Meter, meter_warning
from tight_ledger.core.machines.positions import Position, Positions
from tight_ledger.core.records.seals import FIRST, broken_at, seal
from tight_ledger.core.runs.card_table import card_table
from tight_ledger.core.runs.descriptions import entry_words, fasteners_now
from tight_ledger.core.runs.prompt import prompt
from tight_ledger.core.search.matching import score, tokens, with_synonyms
from tight_ledger.core.specs.spec import MinimalSpec
from tight_ledger.core.tools.wrenches import Setting


def km(figure, basis="reading"):
    return Meter(kind="km", figure=figure, basis=basis)


@pytest.mark.parametrize(
    ("before", "now", "odd"),
    [
        (None, km(5), ""),
        (km(100), km(180), ""),
        (km(100), km(90), "below the last reading of 100"),
        (km(100), km(90, "correction"), ""),
        (km(100), km(3, "new_meter"), ""),
        (km(100), km(1_000_000), "far above"),
    ],
)
def test_an_odd_meter_reading_is_asked_about(before, now, odd):
    said = meter_warning(before, now)
    assert odd in said
    assert bool(odd) == bool(said)


def test_positions_hold_what_applies_and_nothing_else():
    twin = Positions(axles=("rear",), sides=("left", "right"), places=("inner", "outer"))
    assert twin.holds(Position(axle="rear", side="left", place="outer"))
    for wrong in (Position(axle="front", side="left", place="outer"), Position(axle="rear", side="left"), Position()):
        assert not twin.holds(wrong)
    assert Positions().holds(Position())
    assert not Positions().holds(Position(side="left"))
    assert Position(axle="rear", side="left", place="outer").words == "rear left, outer"


@pytest.mark.parametrize("pin", ["123", "123456789", "12a4", "1111", "", "١٢٣٤"])
def test_bad_pins_are_refused(pin):
    with pytest.raises(Invalid):
        check_new_pin(pin)


def test_guessing_fifty_times_takes_hours():
    assert [pin_wait_s(n) for n in (0, 4, 5, 6)] == [0, 0, 30, 60]
    assert sum(pin_wait_s(n) for n in range(50)) > 10 * 3600


@given(st.lists(st.binary(max_size=60), min_size=1, max_size=8), st.data())
def test_any_changed_byte_breaks_the_chain_where_it_is(bodies, data):
    rows, before = [], FIRST
    for seq, body in enumerate(bodies, start=1):
        before = hashlib.sha256(before + body).digest()
        assert seal(rows[-1][2] if rows else FIRST, body) == before
        rows.append((seq, body, before))
    assert broken_at(rows) is None
    at = data.draw(st.integers(0, len(rows) - 1))
    seq, body, kept = rows[at]
    assert broken_at([*rows[:at], (seq, body + b"x", kept), *rows[at + 1 :]]) == seq
    if at < len(rows) - 1:
        assert broken_at([*rows[:at], *rows[at + 1 :]]) == seq


def test_tokens_and_scores():
    words = tokens("SB-04 Fennick Causeway 12 Rear wheel nuts M22×1.5 10")
    assert tokens("sb-04 rear") == ["sb", "04", "rear"]
    assert score(["rear", "sb", "04"], words) == (9, ("rear", "sb", "04"))
    assert score(["fen", "whe", "10"], words) == (7, ("fennick", "wheel", "10"))
    assert score(["m22x1.5"], words) == (3, ("m22x1.5",))
    assert score(["1"], words) is None  # a number matches whole
    assert score(["fennick", "drum"], words) is None


@pytest.mark.parametrize(
    ("asked", "found"),
    [
        ("lug", True), ("tire", True), ("fenick", True), ("fennikc", True), ("whel", True), ("causway", True), ("fennnick", True),
        ("fnick", False), ("rare", False), ("11", False), ("m22x1.6", False), ("wh", True),
    ],
)  # fmt: skip
def test_synonyms_and_one_slip_a_word(asked, found):
    words = with_synonyms(tokens("Fennick Causeway 12 rear wheel nuts tyre M22×1.5 10"))
    assert (score(tokens(asked), words) is not None) == found


def test_a_whole_word_counts_more_than_its_beginning_and_that_more_than_a_slip():
    assert [score([asked], ["wheel"])[0] for asked in ("wheel", "whee", "wheal")] == [3, 2, 1]


def test_the_sheet_says_figure_stages_and_hand():
    spec = wheel_spec(
        hand_by_side={"left": "left"}, followups=[{"id": "f", "procedure": "retorque", "km": 80, "days": 14, "again_if": ["moved"]}]
    )
    said = sheet(spec, Policy())
    assert [stage.words for stage in said.figures[0].stages.stages if stage.main] == ["565–605 N·m"]
    assert [(u.figure, u.low, u.high) for u in said.figures[0].units[:2]] == [("585", "565", "605"), ("431", "417", "446")]
    assert said.hand == "right-hand thread, left side left-hand"
    assert said.followups == ("retorque after 80 km, at the latest after 14 days; starts again if any moved",)
    words = [line.words for line in said.procedures[0].lines]
    assert words[2] == "all to 30\u00a0% (wheel off the ground)"
    assert words[-2:] == ["again if any turns, at most 3 times:", "check all at the figure: does any turn?"]


def test_the_prompt_says_where_how_far_which_way_and_what_next():
    plan = plan_of(wheel_spec())
    run = Run(plan).go_on(until="s2:3")
    now = prompt(plan, run.state, "left")
    assert (now.fastener, now.stage, now.figure.figure, now.figure.low, now.figure.high) == ("3", "stage 2 of 3", "350", "316", "386")
    assert now.turn == "anticlockwise, left-hand thread"
    assert now.upcoming == ("8", "5", "10", "7")
    last = prompt(plan, Run(plan).go_on(until="check~1:4").state, "right")
    assert (last.ask, last.upcoming, last.then) == ("turned", (), "check 2 of at most 3, if any turned")


def test_a_nut_in_words_for_those_who_cannot_see_it():
    plan = plan_of(wheel_spec(4))
    run = Run(plan).go_on(until="s2:3")
    run.click("s2:1")
    first, _, three, _ = fasteners_now(plan, run.state)
    assert first.words == "nut 1: 2 of 3 stages, pulled twice"
    assert first.flagged
    assert three.words == "nut 3: 1 of 3 stages, next"


def test_the_minimal_form_makes_a_whole_spec():
    typed = MinimalSpec(title="Wheel nuts", maker="A", model="B", torque="430 lbf ft", thread="M20", count=8, document="page")
    spec = typed.to_spec(uuid4())
    assert len(plan_of(spec).passes) == 10
    assert spec.proof.answer == "8"
    with pytest.raises(Invalid, match="no unit"):
        typed.model_copy(update={"torque": "430"}).to_spec(uuid4())
    with pytest.raises(Invalid, match="between 3 and 60"):
        typed.model_copy(update={"count": 2}).to_spec(uuid4())


def test_layouts():
    layout = bolt_circle(count=4, diameter_mm=200, kind="stud", thread="M14")
    assert [(f.x_mm, f.y_mm) for f in layout.fasteners] == [(0, 100), (100, 0), (0, -100), (-100, 0)]
    for change, why in (
        ({"fasteners": [*layout.fasteners, layout.fasteners[0]]}, "no label twice"),
        ({"orders": {"main": ["1", "9"]}}, "name fasteners that are not there: 9"),
        ({"orders": {}}, "an order named main"),
        ({"units": ["cap"]}, "units that are not groups"),
        ({"kinds": {}}, "not described: stud"),
    ):
        with pytest.raises(ValidationError, match=why):
            type(layout).model_validate(layout.model_dump() | change)
    for diameter in (0, -3, float("nan")):
        with pytest.raises(Invalid, match="diameter_mm"):
            bolt_circle(count=4, diameter_mm=diameter, kind="stud", thread="M14")


@pytest.mark.parametrize(
    ("said", "maker", "model"),
    [
        ("Tarn & Oake Capstan 9", "Tarn & Oake", "Capstan 9"),
        ("tarn & oake  capstan 9", "Tarn & Oake", "capstan 9"),
        ("Tarn Capstan", "Tarn", "Capstan"),
        ("Fennick Causeway 12", "Fennick", "Causeway 12"),
        ("Tarn & Oake", "Tarn", "& Oake"),
    ],
)
def test_a_maker_of_several_words_is_known_by_its_name(said, maker, model):
    assert maker_and_model(said, {"Tarn & Oake", "Tarn", "Marrowby"}) == (maker, model)


@pytest.mark.parametrize("figure", [240.0, 355.0, 365.0])
def test_a_click_is_told_by_what_the_wrench_was_set_to(figure):
    """Whatever was planned: what is shown is what it was judged by."""
    run = Run(plan_of(joint({"id": "t", "kind": "torque", "at": parse_torque("340–360 N·m").model_dump()})))
    run.add("set", setting=Setting(figure=figure, unit="N·m", torque_nm=figure), tools=(run.tool_of("t:1"),))
    pressed = run.click("t:1", setting=None)
    assert pressed.setting is None
    assert entry_words(run.plan, pressed, clicked_at=run.state.clicked_at[pressed.id]).endswith(f"clicked at {figure:g}\u00a0N·m")
    [cell] = [row.cells[0] for row in card_table(run.plan, run.state, run.entries).rows if row.label == "1"]
    assert f"{figure:g}" in cell.got
