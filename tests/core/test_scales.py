"""A wrench's own scale: set by line and thimble, read back by what one sees."""

import math
from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.units import to_nm
from tight_ledger.core.tools.adapters import Crowfoot, Extension, Multiplier
from tight_ledger.core.tools.chains import chain
from tight_ledger.core.tools.scales import Seen, proof, read, read_back_figure, require_read_back, scale
from tight_ledger.core.tools.wrenches import ScaleSide, Wrench, set_wrench


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


def test_lines_and_thimble_that_do_not_go_together_are_refused_and_no_mark_is_made_up():
    odd = wrench(20, 100, 2, 5)
    for asked in (proof, lambda tool: require_read_back(tool, Seen(line=20))):
        with pytest.raises(Invalid, match="do not go together"):
            asked(odd)
    drawn = scale(odd, 24)
    assert (drawn.line, drawn.thimble, drawn.words) == (None, None, "Set it to 24 N·m by its own marks. Lock it.")


@pytest.mark.parametrize(("lowest", "highest", "fits"), [(20, 150, False), (15, 110, True), (15, 81, False), (2, 110, False)])
def test_two_sides_of_a_wrench_show_the_same_torque(lowest, highest, fits):
    tool = wrench(20, 150, 1, 10, second=ScaleSide(unit="lbf·ft", lowest=lowest, highest=highest, graduation=1, body_graduation=5))
    if fits:
        proof(tool)
    else:
        with pytest.raises(Invalid, match=r"not (20|150)"):
            proof(tool)


@pytest.mark.parametrize(
    ("tool", "figure", "line", "thimble", "words"),
    [
        (TENS, 62, 60, 2, "60 line, then thimble on to 2. Lock it."),
        (wrench(10, 110, 1, 5), 27, 25, 2, "25 line, then thimble on to 2. Lock it."),
        (TENS, 60, 60, 0, "60 line, thimble on 0. Lock it."),
        (QUARTER, 13.5, 10, 3.5, "10 line, then thimble on to 3.5. Lock it."),
        (wrench(100, 500, 5, 5), 185, 185, None, "185 line. Lock it."),
        (wrench(100, 500, 5), 185, None, None, "Set it to 185 N·m by its own marks. Lock it."),
    ],
)
def test_the_line_and_the_thimble(tool, figure, line, thimble, words):
    """62 is the 60 line with the thimble on 2; 27 is the 25 line and 2 marks (common practice, no source)."""
    found = scale(tool, figure)
    assert (found.line, found.thimble, found.words) == (line, thimble, words)
    if tool.body_graduation:
        assert read(tool, line, thimble or 0).figure == pytest.approx(figure)


@given(st.floats(1, 100), st.floats(1.5, 10), st.floats(0.05, 5), st.data())
def test_where_how_a_scale_is_drawn_is_not_on_file_no_line_is_named(lowest, times, graduation, data):
    steps = int(lowest * (times - 1) / graduation)
    if steps < 2:
        return
    tool = wrench(
        lowest, lowest + steps * graduation, graduation, face=data.draw(st.sampled_from(["upper edge", "lower edge", "staggered"]))
    )
    found = scale(tool, tool.lowest + data.draw(st.integers(0, steps)) * graduation)
    assert (found.lines, found.marks, found.line) == ((), (), None)
    assert " line" not in found.words
    with pytest.raises(Invalid, match="is not on file"):
        read(tool, tool.lowest)


def test_a_wrench_that_is_added_is_read_back():
    """Body 10 and thimble 1 as against body 5 and thimble 1: at 69 one shows the 60 line, the other the 65."""
    fives = wrench(20, 110, 1, 5)
    assert (read_back_figure(TENS), read_back_figure(fives)) == (69, 69)
    require_read_back(TENS, Seen(line=60, thimble=9))
    require_read_back(fives, Seen(line=65, thimble=4))
    for tool, seen, why in (
        (TENS, Seen(line=65, thimble=4), "no line 65"), (TENS, Seen(line=60, thimble=4), "reads 64, not 69"), (TENS, None, "read .* back"),
    ):  # fmt: skip
        with pytest.raises(Invalid, match=why):
            require_read_back(tool, seen)
    require_read_back(wrench(20, 110, 1, face="window"), None)
    require_read_back(wrench(20, 110, 1), None)  # it says that it does not know
    asked = proof(fives)
    assert (asked.needed, asked.figure, asked.scale.line) == (True, 69, 110)
    assert [pair.words for pair in asked.pairs][:3] == [
        "a line every 1, no thimble", "a line every 5, thimble 0 to 4", "a line every 10, thimble 0 to 9",
    ]  # fmt: skip
    assert proof(wrench(20, 110, 1, face="window")).pairs == ()


@given(st.sampled_from([TENS, QUARTER, wrench(90, 600, 5, 30, "lbf·ft"), wrench(5, 25, 0.5, 2.5)]), st.data())
def test_set_then_read_back_gives_the_setting(tool, data):
    steps = round((tool.highest - tool.lowest) / tool.graduation)
    figure = tool.lowest + data.draw(st.integers(0, steps)) * tool.graduation
    found = scale(tool, figure)
    assert read(tool, found.line, found.thimble).figure == pytest.approx(figure)
    assert 0 <= found.share <= 1
    assert found.line in found.lines


@given(st.floats(25, 95), st.floats(0.03, 0.2), st.floats(0, 80), st.floats(0, 180), st.floats(0, 400), st.floats(0, 30), st.floats(1, 9))
def test_through_any_chain_what_is_read_back_is_inside_the_band(target, spread, crowfoot_mm, angle_deg, extension_mm, tilt_deg, ratio):
    """Setting, then reading it back off the scale, then back through the chain: crowfoot or gear, extension, tilt."""
    parts = [Extension(kind="extension", drive="1/2 in", length_mm=extension_mm, across_mm=12)] if extension_mm else []
    parts += [Crowfoot(kind="crowfoot", drive="1/2 in", length_mm=crowfoot_mm, angle_deg=angle_deg)] if crowfoot_mm else []
    if ratio > 1 and not crowfoot_mm:
        parts += [Multiplier(kind="multiplier", drive="1/2 in", to="1 in", ratio=ratio)]
        target *= ratio
    factor = chain("1/2 in", 310, tuple(parts), tilt_deg).factor
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
    [("beam", "pointer shows 60"), ("dial", "needle shows 60"), ("electronic", "Key in 60"), ("slipper", "60 N·m by its own marks")],
)
def test_every_construction_has_its_words(construction, said):
    assert said in scale(wrench(20, 110, 10, construction=construction), 60).words


@pytest.mark.parametrize(
    ("face", "said"),
    [
        ("lower edge", "60 line, the edge on its lower rim, then thimble on to 2. Lock it."),
        ("staggered", "60 line, its number on the left, then thimble on to 2. Lock it."),
        ("window", "Turn until the window shows 62. Lock it."),
    ],
)
def test_every_face_is_read_its_own_way(face, said):
    assert scale(wrench(20, 110, 1, 10, face=face), 62).words == said


def test_a_wrench_with_two_sides_is_read_by_either():
    two = wrench(40, 210, 1, 10, second=ScaleSide(unit="lbf·ft", lowest=30, highest=155, graduation=1, body_graduation=5))
    other = two.read_in("lbf·ft")
    assert (other.lowest, other.highest, other.second.unit) == (30, 155, "N·m")
    assert scale(other, 87).words == "85 line, then thimble on to 2. Lock it."
    assert other.read_in("N·m") == two
    with pytest.raises(Invalid, match="no scale in kgf·m"):
        two.read_in("kgf·m")


def test_both_sides_of_a_wrench_are_read_back():
    """The second has its own lines: every 5 from 30, where somebody might describe lines every 10."""
    two = wrench(40, 210, 1, 10, second=ScaleSide(unit="lbf·ft", lowest=30, highest=155, graduation=1, body_graduation=5))
    asked = proof(two)
    assert (asked.figure, asked.second.figure, asked.second.scale.unit) == (129, 94, "lbf·ft")
    main = Seen(line=120, thimble=9)
    require_read_back(two, main, Seen(line=90, thimble=4))
    for second, why in ((None, "Nobody has read"), (Seen(line=85, thimble=4), "reads 89, not 94 lbf·ft")):
        with pytest.raises(Invalid, match=why) as refused:
            require_read_back(two, main, second)
        assert refused.value.field == "seen_second"


def test_keying_in_step_by_step():
    keys = scale(wrench(10, 200, 0.1, construction="electronic with angle"), 89.2).steps
    assert keys[2:4] == ("Press the unit key until it shows N·m.", "Key in 89.2.")
    assert "zero" in keys[0]
