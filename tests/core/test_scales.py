"""A wrench's own scale: set by line and thimble, read back by what one sees."""

import math
from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import LONG, wheel_spec
from tight_ledger.core.base import Invalid
from tight_ledger.core.plans import Policy
from tight_ledger.core.quantities import Band, to_nm
from tight_ledger.core.tools.adapters import Crowfoot, Extension, chain
from tight_ledger.core.tools.crib import judge, rank
from tight_ledger.core.tools.scales import read, scale
from tight_ledger.core.tools.wrenches import Wrench, set_wrench


def wrench(lowest, highest, graduation, body=None, unit="N·m", **more):
    name = more.pop("name", "a wrench")
    return Wrench(
        id=UUID(int=5),
        name=name,
        drive="1/2 in",
        unit=unit,
        lowest=lowest,
        highest=highest,
        graduation=graduation,
        body_graduation=body,
        **more,
    )


TENS = wrench(20, 110, 1, 10)
QUARTER = wrench(10, 80, 0.5, 5, "lbf·ft")


@pytest.mark.parametrize(
    ("tool", "figure", "line", "thimble", "words"),
    [
        (TENS, 62, 60, 2, "60 line, then thimble on to 2. Lock it."),
        (wrench(10, 110, 1, 5), 27, 25, 2, "25 line, then thimble on to 2. Lock it."),
        (TENS, 60, 60, 0, "60 line, thimble on 0. Lock it."),
        (QUARTER, 13.5, 10, 3.5, "10 line, then thimble on to 3.5. Lock it."),
        (wrench(100, 500, 5), 185, 180, 5, "180 line. Lock it."),
    ],
)
def test_the_line_and_the_thimble(tool, figure, line, thimble, words):
    """62 is the 60 line with the thimble on 2; 27 is the 25 line and 2 marks (common practice, no source)."""
    found = scale(tool, figure)
    assert (found.line, found.thimble) == (line, thimble)
    if tool.body_graduation:
        assert found.words == words
        assert read(tool, line, thimble).figure == pytest.approx(figure)


@given(st.sampled_from([TENS, QUARTER, wrench(90, 600, 5, 30, "lbf·ft"), wrench(5, 25, 0.5, 2.5)]), st.data())
def test_set_then_read_back_gives_the_setting(tool, data):
    steps = round((tool.highest - tool.lowest) / tool.graduation)
    figure = tool.lowest + data.draw(st.integers(0, steps)) * tool.graduation
    found = scale(tool, figure)
    assert read(tool, found.line, found.thimble).figure == pytest.approx(figure)
    assert 0 <= found.share <= 1
    assert found.line in found.lines


@given(st.floats(25, 95), st.floats(0.03, 0.2), st.floats(0, 80), st.floats(0, 180), st.floats(0, 400))
def test_through_any_chain_what_is_read_back_is_inside_the_band(target, spread, crowfoot_mm, angle_deg, extension_mm):
    """Setting, then reading it back off the scale, then back through the chain."""
    parts = [Extension(kind="extension", drive="1/2 in", length_mm=extension_mm, across_mm=12)] if extension_mm else []
    parts += [Crowfoot(kind="crowfoot", drive="1/2 in", length_mm=crowfoot_mm, angle_deg=angle_deg)] if crowfoot_mm else []
    factor = chain("1/2 in", 310, tuple(parts)).factor
    band = Band(quantity="torque", low=target * (1 - spread), high=target * (1 + spread))
    try:
        setting = set_wrench(TENS, band, aim_nm=target, factor=factor)
    except Invalid:
        return
    found = scale(TENS, setting.figure)
    at_fastener = to_nm(read(TENS, found.line, found.thimble).figure, TENS.unit) / factor
    assert band.low * (1 - 1e-9) <= at_fastener <= band.high * (1 + 1e-9)


@pytest.mark.parametrize(
    ("line", "thimble", "why"),
    [(65, 0, "no line 65"), (60, 12, "no mark 12"), (110, 5, "beyond the highest mark"), (math.nan, 0, "no line")],
)
def test_what_nobody_can_see_on_this_wrench(line, thimble, why):
    with pytest.raises(Invalid, match=why):
        read(TENS, line, thimble)


@pytest.mark.parametrize(("figure", "why"), [(15, "off this scale"), (62.5, "no mark at 62.5")])
def test_what_it_cannot_be_set_to(figure, why):
    with pytest.raises(Invalid, match=why):
        scale(TENS, figure)


@pytest.mark.parametrize(
    ("construction", "said"),
    [("beam", "pointer shows 60"), ("dial", "needle shows 60"), ("electronic", "Key in 60"), ("slipper", "60 line")],
)
def test_every_construction_has_its_words(construction, said):
    assert said in scale(wrench(20, 110, 10, construction=construction), 60).words


class TestTheCrib:
    """Which wrench can do a joint."""

    def test_a_head_at_13_2_with_a_wrench_that_starts_at_15(self):
        """13.2 lbf·ft is 158.4 lbf·in: change to the small wrench (common practice, no source)."""
        spec = wheel_spec(torque="13.2 lbf·ft", steps=[{"id": "a", "kind": "torque", "share": 1}])
        small = wrench(30, 200, 1, 10, "lbf·in", name="small")
        first, second = rank(spec, "tighten", [wrench(15, 75, 0.5, 5, "lbf·ft", name="three-eighths"), small], Policy(final_check=False))
        assert (first.wrench.name, first.refused) == ("small", "")
        assert first.scales[0].words == "150 line, then thimble on to 8. Lock it."
        assert "starts at 15 lbf·ft" in second.refused

    def test_87_5_on_a_whole_number_scale(self):
        spec = wheel_spec(torque="86–89 N·m", steps=[{"id": "a", "kind": "torque", "share": 1}])
        assert judge(spec, "tighten", TENS, Policy(final_check=False)).settings[0].figure == "88"

    def test_below_a_fifth_of_its_highest_mark_nobody_knows_what_it_clicks_at(self):
        """ISO 6789-1: verified from 20 % of the maximum."""
        spec = wheel_spec(torque="30–34 N·m", steps=[{"id": "a", "kind": "torque", "share": 1}])
        refused = judge(spec, "tighten", wrench(20, 210, 1), Policy(final_check=False)).refused
        assert "is verified from 42 N·m up" in refused

    def test_a_first_stage_below_it_speaks_against_but_does_not_forbid(self):
        stages = [{"id": "a", "kind": "torque", "share": 0.3}, {"id": "b", "kind": "torque", "share": 1}]
        choice = judge(wheel_spec(torque="118–132 N·m", steps=stages), "tighten", wrench(30, 210, 1), Policy(final_check=False))
        assert choice.refused == ""
        assert "a first stage at 38 N·m lies below" in choice.against[0]

    def test_what_speaks_for_and_against(self):
        spec = wheel_spec()
        near_its_end = judge(spec, "tighten", LONG.model_copy(update={"highest": 600}), Policy(final_check=False))
        watched = judge(spec, "tighten", LONG.model_copy(update={"construction": "dial"}), Policy(final_check=False))
        assert any("near the end" in reason for reason in near_its_end.against)
        assert any("does not click" in reason for reason in watched.against)
        assert "one wrench for every stage" in judge(spec, "tighten", LONG, Policy(final_check=False)).for_it
