"""The adjusters: what they propose stays within the spec, the stock and the thread, and ends in the band."""

from uuid import UUID

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from pydantic import ValidationError

from tight_ledger.bench import adjust as bench
from tight_ledger.core.adjust import carrier, hub, packs, sleeve, spacer, stretch, thrust
from tight_ledger.core.adjust.agreement import believed, conformity
from tight_ledger.core.adjust.proposals import Around, Try
from tight_ledger.core.adjust.registry import advise
from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.specs.steps import AdjustStep
from tight_ledger.core.tools.dials import Needle, fineness, from_needle, to_needle
from tight_ledger.core.tools.pieces import Piece, PieceNow

PLAY = Band(quantity="length", low=0.025, high=0.127)
DRAG = Band(quantity="drag", low=1.6, high=2.4)


def hub_figures(positions, pitch_mm=2.0):
    return hub.HubFigures(by="hub", band=PLAY, graduation=0.01, pitch_mm=pitch_mm, positions=positions)


def tries(*pairs):
    return tuple(Try(at=at, reading=reading) for at, reading in pairs)


def piece(number, nominal, measured=None, at_hand=True):
    made = Piece(kind="piece", id=UUID(int=number), name=f"P-{number:02}", what="spacer", bore_mm=45, rim_mm=58, nominal_mm=nominal)
    return PieceNow(piece=made, measured_mm=measured, at_hand=at_hand)


# whether a reading is believed ----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("readings", "counts"),
    [([0.05], None), ([0.05, 0.06], 0.055), ([0.05, 0.09], None), ([0.05, 0.09, 0.05], 0.05), ([0.05, 0.30, 0.09], 0.09)],
)
def test_two_that_agree_or_the_middle_one_of_three(readings, counts):
    assert believed(readings, 0.01) == counts


@given(st.lists(st.floats(0, 1), min_size=2, max_size=3), st.floats(0.001, 0.05))
def test_a_mean_of_readings_that_disagree_is_never_used(readings, graduation):
    counts = believed(readings, graduation)
    assert counts is None or min(abs(counts - each) for each in readings) <= graduation / 2 + 1e-9


@pytest.mark.parametrize(
    ("readings", "counts"), [([0.05, 0.05], None), ([0.05, 0.055, 0.06], 0.055), ([0.05, 0.07, 0.06], None), ([0.05, 0.07, 0.06] * 2, None)]
)
def test_three_pulls_lie_within_a_graduation_or_are_taken_again(readings, counts):
    assert believed(readings, 0.01, "three together") == counts


# the hub --------------------------------------------------------------------------------------------------------------


@given(st.floats(-0.5, 0.6), st.integers(18, 96), st.floats(0.5, 3.0))
def test_with_an_exact_dial_and_thread_a_hub_ends_in_the_band_where_a_position_does(play, positions, pitch_mm):
    figures = hub_figures(positions, pitch_mm)
    travel, at, read = figures.travel_mm, 0, []
    assume(any(PLAY.low + 0.011 < play + travel * n < PLAY.high - 0.001 and play + travel * n > 0.015 for n in range(-400, 401)))
    assume(travel < 0.5 * figures.width)
    for _ in range(60):
        read.append((at, max(0.0, play + travel * at)))
        said = hub.advise(figures, tries(*read))
        if said.do != "move":
            break
        assert said.by == said.to - at
        if read[-1][1] < PLAY.low:
            assert said.by > 0  # never tighter when it is tight
        if said.by < 0:
            assert read[-1][1] + said.by * travel >= PLAY.low - 1e-9  # tightened only while all of the thread's travel stays in the band
        at = said.to
    assert said.do == "accept"
    assert PLAY.low - 1e-9 <= read[-1][1] <= PLAY.high + 1e-9
    assert play + travel * at > 0


def test_a_reading_of_nothing_is_loosened_by_more_each_time():
    figures = hub_figures(60)
    steps = [hub.advise(figures, tries(*((n, 0.0) for n in range(count)))).by for count in (1, 2, 3)]
    assert steps == sorted(steps)
    assert steps[0] < steps[2]


def test_in_the_band_but_not_seen_to_follow_goes_one_looser():
    said = hub.advise(hub_figures(60), tries((0, 0.05)))
    assert (said.do, said.by) == ("move", 1)
    assert hub.advise(hub_figures(60), tries((0, 0.05), (1, 0.055))).do == "move"  # it gave, and did not follow
    assert hub.advise(hub_figures(60), tries((0, 0.05), (1, 0.08))).do == "accept"


def test_a_play_that_changed_by_more_than_the_nut_can_move_it_is_read_again():
    said = hub.advise(hub_figures(36), tries((0, 0.02), (1, 0.20)))
    assert (said.do, said.by, "read again" in said.say) == ("move", 0, True)
    assert hub.advise(hub_figures(36), tries((0, 0.02), (1, 0.20), (1, 0.06))).do == "accept"
    assert hub.advise(hub_figures(36), tries((0, 0.10), (1, 0.04))).by == 0  # looser, and less


def test_no_lock_position_in_the_band_says_so():
    said = hub.advise(hub_figures(6), tries((0, 0.0), (1, 0.31)))
    assert (said.do, said.say) == ("stop", "No lock position falls in the band.")


# spacers, shims, washers ----------------------------------------------------------------------------------------------

SPACER = spacer.SpacerFigures(by="spacer", band=DRAG, graduation=0.1, bore_mm=45, rim_mm=58)


@given(
    st.floats(11.9, 12.1),
    st.floats(10, 60),
    st.lists(st.floats(11.7, 12.3).map(lambda mm: round(mm, 2)), min_size=3, max_size=20, unique=True),
)
def test_a_spacer_is_always_one_that_is_at_hand_and_the_band_is_reached_where_one_reaches_it(tight_mm, per_mm, sizes):
    stock = [piece(n + 1, size, size, at_hand=n % 4 != 3) for n, size in enumerate(sizes)]
    here = {each.piece.id: each.thickness_mm for each in stock if each.at_hand}
    drag = {mm: max(0.0, 2.0 + per_mm * (tight_mm - mm)) for mm in (12.0, *here.values())}
    read = [(12.0, drag[12.0])]
    for _ in range(30):
        said = spacer.advise(SPACER, tries(*read), stock)
        if said.do != "move":
            break
        (fitted,) = said.pieces
        assert said.to == pytest.approx(here[fitted])
        read.append((here[fitted], drag[here[fitted]]))
    assert said.do in ("accept", "stop")
    if any(2.0 - 0.3 < reading < 2.0 + 0.3 and reading > 0 for mm, reading in drag.items() if mm != 12.0) and all(r > 0 for _, r in read):
        assert said.do == "accept"


def test_packs_go_by_what_was_measured_with_the_fewest_pieces():
    stock = [piece(1, 0.50, 0.53), piece(2, 0.50), piece(3, 0.30), piece(4, 0.20), piece(5, 0.60, 0.60, at_hand=False)]
    assert packs.choose_pack(0.50, stock).pieces == (stock[1],)
    assert packs.choose_pack(0.53, stock).pieces == (stock[0],)
    assert packs.choose_pack(0.80, stock).sum_mm == pytest.approx(0.80)
    assert packs.choose_pack(0.60, stock, most=1).sum_mm == pytest.approx(0.53)
    assert packs.choose_pack(1.0, []) is None
    long = [piece(n, round(0.10 + 0.013 * n, 3)) for n in range(1, 60)]
    for each in long:  # however long the list, a piece that is right is found
        assert packs.choose_pack(each.thickness_mm, long).pieces == (each,)


def test_a_thinner_spacer_that_reads_less_stops():
    assert spacer.advise(SPACER, tries((12.0, 3.0), (11.9, 2.6)), [piece(1, 11.8)]).do == "stop"


def test_thrust_washers_from_the_sizes_at_hand():
    figures = thrust.ThrustFigures(by="thrust", band=Band(quantity="length", low=0.08, high=0.24), graduation=0.01, bore_mm=45, rim_mm=58)
    stock = [piece(n, 2.30 + 0.05 * n) for n in range(1, 4)]
    said = thrust.advise(figures, tries((2.30, 0.30)), stock)
    assert (said.do, said.to, said.expect) == ("move", pytest.approx(2.45), pytest.approx(0.15))
    assert thrust.advise(figures, tries((2.30, 0.90)), stock).do == "stop"
    thinner = thrust.advise(figures, tries((2.45, 0.02)), stock)
    assert (thinner.to, "thinner as the play is too small" in thinner.why) == (pytest.approx(2.35), True)


# the sleeve, the carrier, the bolt, the plug --------------------------------------------------------------------------


@given(st.lists(st.tuples(st.floats(2, 20), st.floats(0, 0.25)), min_size=1, max_size=12), st.floats(0.1, 0.8))
def test_no_step_of_a_sleeve_is_larger_than_the_last_or_may_go_over(steps, base):
    figures = sleeve.SleeveFigures(by="sleeve", band=DRAG, graduation=0.1)
    read = [(0.0, base)]
    for _, slope in steps:
        said = sleeve.advise(figures, tries(*read))
        if said.do != "move":
            break
        assert f"by {said.by:g}°" in said.say  # what is said is what is recorded
        before = read[-1][0] - read[-2][0] if len(read) > 1 else figures.largest_deg
        assert said.by <= max(before, figures.smallest_deg) + 1e-9
        if said.by > figures.smallest_deg:
            assert said.expect_high <= figures.middle + 1e-9
        read.append((said.to, read[-1][1] + slope * said.by))
    assert sleeve.advise(figures, tries((0, 2.5))).do == "replace"  # never backed off


def test_a_band_narrower_than_a_nut_can_be_turned_says_so_first():
    narrow = sleeve.SleeveFigures(by="sleeve", band=Band(quantity="drag", low=1.9, high=2.1), graduation=0.1)
    assert "narrower than a nut can be turned" in sleeve.advise(narrow, tries((0, 0.4))).why


@given(st.floats(0.03, 2), st.floats(0.8, 2))
def test_play_is_taken_up_in_shares_that_never_take_all_of_it(play, pitch):
    figures = sleeve.TakeUpFigures(by="take-up", band=Band(quantity="length", low=0, high=0.02), graduation=0.01, pitch_mm=pitch)
    at, left = 0.0, play
    for _ in range(40):
        said = sleeve.take_up(figures, tries((at, left)))
        if said.do == "accept":
            break
        left -= (said.to - at) / 360 * pitch
        at = said.to
        assert left > 0
    assert (said.do, figures.band.judge(left)) == ("accept", "ok")


def test_what_is_taken_from_one_side_learns_the_ratio():
    figures = carrier.CarrierFigures(by="carrier", band=Band(quantity="length", low=0.13, high=0.18), graduation=0.01, step_mm=0.01)
    first = carrier.advise(figures, tries((0, 0.30)))
    assert (first.by, "common practice" in first.why) == (pytest.approx(0.21), True)  # 0.145 / 0.7, to a hundredth
    second = carrier.advise(figures, tries((0, 0.30), (0.21, 0.20)))
    assert second.by == pytest.approx(0.09)  # it moved 0.48 for each millimetre
    assert carrier.advise(figures, tries((0, 0.05))).by < 0
    thin = figures.model_copy(update={"thinner_on": "the other side"})
    assert carrier.advise(thin, tries((0, 0.30))).why.endswith("Of two, the thinner one goes on the other side.")


def test_carrier_shims_are_those_at_hand_and_what_would_be_better_is_said():
    figures = carrier.CarrierFigures(
        by="carrier", band=Band(quantity="length", low=0.13, high=0.18), graduation=0.01, ratio=0.7, bore_mm=45, rim_mm=58
    )
    stock = [piece(1, 0.10, 0.101), piece(2, 0.15), piece(3, 0.20, 0.21, at_hand=False)]
    said = carrier.advise(figures, tries((0, 0.30)), stock)  # 0.145 / 0.7 is 0.207
    assert (said.by, len(said.pieces), said.better) == (pytest.approx(0.251), 2, "0.207 mm would be nearer, if it were at hand.")
    assert carrier.advise(figures, tries((0, 0.30), (0.251, 0.10)), stock).by < 0
    assert "No shim that goes there is at hand" in carrier.advise(figures, tries((0, 0.30)), stock[2:]).say
    with pytest.raises(ValidationError, match="give both, or neither"):
        carrier.CarrierFigures(by="carrier", band=figures.band, graduation=0.01, bore_mm=45)


@given(st.floats(0.2, 0.6), st.floats(0.55, 0.85), st.floats(-0.01, 0.01), st.floats(-0.01, 0.01))
def test_what_a_move_reads_lies_in_the_range_that_was_said_of_it(backlash, ratio, first, second):
    """A true line, read off by a graduation at the most: the third reading lies within what two tries leave open."""
    figures = carrier.CarrierFigures(by="carrier", band=Band(quantity="length", low=0.005, high=0.02), graduation=0.01, step_mm=0.01)
    read = tries((0, backlash + first), (0.1, backlash - 0.1 * ratio + second))
    said = advise(figures, read)
    assume(said.do == "move" and "Two tries" in said.why)
    assert said.expect_low - 1e-9 <= backlash - ratio * said.to <= said.expect_high + 1e-9


BOLT = stretch.StretchFigures(by="stretch", band=Band(quantity="length", low=0.14, high=0.19), graduation=0.005, most_nm=80)


@given(st.floats(28, 60), st.floats(0.0005, 0.01))
def test_a_bolt_is_never_set_beyond_the_specs_most_and_ends_in_the_band_where_it_can(first, mm_per_nm):
    assume(first * mm_per_nm < 0.14)
    read = [(first, first * mm_per_nm)]
    for _ in range(30):
        said = stretch.advise(BOLT, tries(*read))
        if said.do != "move":
            break
        assert read[-1][0] <= said.to <= BOLT.most_nm
        read.append((said.to, said.to * mm_per_nm))
    if read[0][1] > BOLT.graduation and 80 * mm_per_nm >= 0.14:
        assert said.do == "accept"
    else:
        assert said.do == "stop"


def test_no_setting_is_proposed_that_would_go_over_the_band():
    """It was begun below every setting of the joint; the lowest would already be too much."""
    assert stretch.advise(BOLT, tries((20, 20 * 0.0068))).do == "stop"


def test_a_bolt_over_the_band_is_replaced_and_the_odd_one_is_named():
    assert stretch.advise(BOLT, tries((50, 0.2))).do == "replace"
    others = Around(found=(60, 61, 59))
    assert "Odd: the others took about 60" in stretch.advise(BOLT, tries((78, 0.16)), others).why
    assert stretch.advise(BOLT, tries((62, 0.16)), others).why == ""


@pytest.mark.parametrize(("straight", "start"), [(False, 52), (True, 60)])
def test_the_rest_start_somewhat_below_what_was_found(straight, start):
    assert advise(BOLT, (), Around(found=(60, 61, 59), straight=straight)).to == start
    assert advise(BOLT, ()) is None  # of the first, the spec says nothing here


def test_a_step_that_is_cut_says_so():
    assert "No step is larger than 35% of the setting: the middle asks for about 66" in stretch.advise(BOLT, tries((40, 0.10))).why


def test_a_stretch_that_no_friction_explains_is_said():
    sized = BOLT.model_copy(update={"length_mm": 72, "area_mm2": 84, "thread_mm": 12})
    assert "look at the gauge" in stretch.advise(sized, tries((50, 0.02))).why
    assert "look at the gauge" not in stretch.advise(sized, tries((50, 0.12))).why


@given(st.sampled_from([0.005, 0.01, 0.02]), st.floats(0.025, 0.127), st.booleans())
def test_at_the_limit_it_goes_towards_the_middle_where_a_move_leads_there(uncertainty, reading, proven):
    """A finer lock: from a position that reads at the limit, the next one lies nearer to the middle."""
    at = tries((0, reading - 0.02), (1, reading))
    said = advise(hub_figures(90), at, uncertainty=uncertainty, proven=proven)
    near = conformity(reading, PLAY, uncertainty) == "at the limit"
    assert (said.do == "accept") != near
    assert said.optional == (near and said.do == "move" and not proven)


@pytest.mark.parametrize(
    ("advice", "said"),
    [
        ({"by": "hub", "positions": 24}, "advice, pitch_mm: Field required"),
        ({"by": "hub", "pitch_mm": -2, "positions": 24}, "advice, pitch_mm: Input should be greater than 0"),
        ({"by": "stretch", "most_nm": 5_000}, "more than 80 settings; give a larger step_nm"),
        ({"by": "stretch", "most_nm": 60, "start_nm": 70}, "the start, 70, lies above the most, 60"),
        ({"by": "guess"}, "does not match any of the expected tags"),
        ({"by": "sleeve", "colour": "red"}, "advice, colour: Extra inputs are not permitted"),
    ],
)
def test_advice_that_is_not_whole_says_which_figure(advice, said):
    with pytest.raises(ValidationError, match=said):
        AdjustStep(id="move", kind="adjust", reads="play", advice=advice)


# instruments ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("graduation", "unit", "rank"), [(0.01, "mm", "good"), (0.02, "mm", "coarse"), (0.05, "mm", "refused"), (0.5, "thou", "coarse")]
)
def test_a_gauge_is_ranked_against_the_band(graduation, unit, rank):
    found = fineness(graduation, 10, unit, PLAY)
    assert (found.rank, str(found.parts)[:3] in found.words) == (rank, True)


def test_a_gauge_that_ends_below_the_band_is_refused():
    assert "It ends at 0.1 mm" in fineness(0.001, 0.1, "mm", PLAY).words


@given(st.integers(-5_000, 5_000), st.sampled_from([(0.01, 100), (0.001, 200), (0.5, 50)]))
def test_the_dial_is_read_both_ways(marks, dial):
    graduation, divisions = dial
    figure = marks * graduation
    assert from_needle(to_needle(figure, graduation, divisions), graduation, divisions) == pytest.approx(figure)


def test_one_turn_and_thirteen():
    assert to_needle(1.13, 0.01, 100) == Needle(turns=1, marks=13.0, inward=False)
    with pytest.raises(Invalid, match="113 is not on this dial"):
        from_needle(Needle(0, 113, False), 0.01, 100)


# better than guessing -------------------------------------------------------------------------------------------------


def test_on_simulated_joints_it_does_what_a_careful_rule_of_fixed_steps_does_not():
    hubs, bolts = bench.hubs(1_500).told(), bench.bolts(600).told()
    assert (hubs["median_moves"], hubs.get("left in preload", 0), hubs.get("a graduation out of the band", 0)) == (1, 0, 0)
    assert hubs["nine_in_ten_within"] <= 2
    ours, fixed = bench.sleeves(300).told(), bench.sleeves(300, fixed_deg=6).told()
    assert ours["median_moves"] <= fixed["median_moves"]
    assert 10 * ours.get("truly over", 0) <= fixed["truly over"]
    assert bench.spacers(200).told()["nine_in_ten_within"] <= 3
    assert bench.carriers(200).told()["nine_in_ten_within"] <= 2
    assert (bolts["yielded"], bolts["accepted short"]) == (0, 0)


@pytest.mark.parametrize(
    ("reading", "placed"), [(0.02, "low"), (0.03, "at the limit"), (0.05, "ok"), (0.125, "at the limit"), (0.13, "high")]
)
def test_nearer_to_a_limit_than_the_uncertainty_is_at_the_limit(reading, placed):
    assert conformity(reading, PLAY, 0.01) == placed
