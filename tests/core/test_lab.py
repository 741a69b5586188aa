"""The lab: what must hold whatever its knobs say, and how bolts of a joint act on one another."""

import json
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import wheel_spec
from tests.examples import examples
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.joints.threads import parse_thread, strength
from tight_ledger.core.lab.bolts import CLAMPED, METRIC_CLASSES, SEATS, LabBolt
from tight_ledger.core.lab.registry import PAGES, lab_page
from tight_ledger.core.mechanics.friction import lubricants
from tight_ledger.core.runs.on_tablet import TabletCore
from tight_ledger.core.trials.interaction import Interaction, PullSequence, Tightening, reach_and_give, scatter_of
from tight_ledger.core.trials.joint import GASKETS, SHAPES, asked_of, joint_page, shape_layout
from tight_ledger.core.trials.registry import MANY, any_page

ALL = (*PAGES, *MANY)
FRICTIONS = st.floats(0.04, 0.35)
BOLTS = st.builds(
    lambda name, known, grip, clamped, seat, lubricant: LabBolt(parse_thread(name), strength(known, 12), grip, clamped, seat, lubricant),
    st.sampled_from(["M8", "M10", "M12", "M16", "M22×1.5"]), st.sampled_from(METRIC_CLASSES), st.floats(10, 200),
    st.sampled_from(tuple(CLAMPED)), st.sampled_from(SEATS), st.sampled_from(lubricants()),
)  # fmt: skip


@given(BOLTS, st.floats(1_000, 100_000), FRICTIONS)
@examples(100)
def test_the_parts_of_a_torque_are_all_of_it_and_no_energy_is_lost(bolt, clamp_n, friction):
    """In one turn the part that stretches does the work of the load over one pitch; the rest is heat."""
    parts = bolt.parts(clamp_n, friction)
    assert parts.stretch_nm * 2 * math.pi == pytest.approx(clamp_n * bolt.thread.pitch_mm / 1_000)
    assert bolt.clamp_n(sum(parts), friction) == pytest.approx(clamp_n)


@given(BOLTS, st.floats(5, 500), FRICTIONS, FRICTIONS)
@examples(100)
def test_more_friction_never_means_more_clamp(bolt, torque_nm, one_way, other):
    slippery, rough = sorted((one_way, other))
    assert bolt.clamp_n(torque_nm, rough) <= bolt.clamp_n(torque_nm, slippery)
    assert bolt.bears(rough).yield_n <= bolt.bears(slippery).yield_n < bolt.bears(slippery).most_n


@given(BOLTS, FRICTIONS, st.floats(0, 1), st.floats(0, 1))
@examples(100)
def test_a_bolt_that_is_turned_on_only_gets_longer_and_load_and_set_belong_together(bolt, friction, first, then):
    turning = bolt.turning(friction)
    less, more = (share * turning.ductile_mm for share in sorted((first, then)))
    assert turning.turned_deg(less) <= turning.turned_deg(more) <= turning.breaks_at_deg
    way_mm = turning.turned_deg(less) * bolt.thread.pitch_mm / 360
    assert turning.set_after_mm(way_mm, 0.0) == pytest.approx(less, abs=turning.ductile_mm * 1e-6)
    assert turning.set_after_mm(way_mm, less) >= less
    load = turning.after_set_n(less / 2)
    assert turning.set_at_mm(load) == pytest.approx(less / 2, abs=turning.ductile_mm * 1e-6)


@given(st.sampled_from(ALL), st.data())
@examples(80)
def test_a_page_says_what_its_knobs_say_or_what_is_wrong(name, data):
    """Any knob may be turned anywhere; what a page says of its knobs brings the same page back."""
    page = any_page(name, {})
    said = {
        knob.name: data.draw(
            st.sampled_from(knob.options)
            if knob.options
            else st.integers(0, 4).map(lambda n, k=knob: f"{k.low + n * (k.high - k.low) / 4:g}")
        )
        for knob in page.knobs
        if data.draw(st.booleans())
    }
    refused = ""
    try:
        page = any_page(name, said)
    except Invalid as refusal:
        refused = refusal.field
    if refused:
        assert refused in {"torque", "clamp", "angle", "class", "missed", "order", "other", "loose", "angle_deg"}
        return
    assert any_page(name, {knob.name: knob.value for knob in page.knobs}) == page
    for plot in page.plots:
        figures = [
            *(each for line in plot.lines for each in (*line.x, *line.y)),
            *(each for row in plot.rows for each in (row.low, row.high)),
        ]
        assert all(math.isfinite(each) for each in figures), plot.name
    assert sum(part.share for part in page.shares) == pytest.approx(1 if page.shares else 0)


@pytest.mark.parametrize(
    ("name", "said"), [("bolt", {"torque": "nan"}), ("bolt", {"thread": "M13"}), ("wrench", {"lever": "1e9"}), ("wheel", {"studs": "x"})]
)
def test_what_is_out_of_range_is_named(name, said):
    with pytest.raises(Invalid) as refused:
        lab_page(name, said)
    assert refused.value.field in said


@pytest.mark.parametrize("name", PAGES)
def test_a_tablet_works_out_the_same_page(name):
    told = json.loads(TabletCore().answer(json.dumps({"do": "lab", "page": name, "values": {}})))
    assert told["page"] == json.loads(lab_page(name, {}).model_dump_json())


def test_a_dry_figure_on_paste_is_past_yield():
    assert "past its yield" not in lab_page("bolt", {"lubricant": "dry, as delivered", "torque": "80"}).answer
    assert lab_page("bolt", {"lubricant": "molybdenum paste", "torque": "80"}).tone == "bad"


@pytest.mark.parametrize(("passes", "printed"), [(1, "0.222"), (2, "0.0080"), (3, "0.0003")])
def test_a_ring_of_eight_in_the_simplest_model(passes, printed):
    """Each pull takes a tenth from its neighbours (derived, anybody can redo it)."""
    taken = np.eye(8)
    for bolt in range(8):
        taken[bolt, (bolt + 1) % 8] = taken[bolt, bolt - 1] = -0.1
    pulls = [Tightening(bolt, turn, to_n=100) for turn in range(passes) for bolt in (0, 4, 2, 6, 1, 5, 3, 7)]
    history = PullSequence.of(pulls, 8, lambda _tight, pulled: (taken[:, pulled], 1.0)).play(np.ones(len(pulls)))
    assert f"{scatter_of(history[-1]):.{len(printed) - 2}f}" == printed
    assert history[-1][0] == pytest.approx({1: 80, 2: 99.2}.get(passes, history[-1][0]))


LAYOUTS = st.lists(st.tuples(st.integers(-10, 10), st.integers(-10, 10)), min_size=2, max_size=14, unique=True).map(
    lambda points: np.array(points, dtype=float) * 30
)
STIFF = st.sampled_from((10.0, 80.0, 800.0, 20_000.0))


def interaction(points, gasket, thick_mm=20.0):
    return Interaction(points, 3e-6, *reach_and_give(modulus_mpa=70_000, thick_mm=thick_mm, gasket_n_per_mm3=gasket))


@given(LAYOUTS, STIFF)
@examples(60)
def test_the_matrix_is_positive_and_a_pull_takes_but_never_makes_load_of_nothing(points, gasket):
    acts = interaction(points, gasket)
    assert np.linalg.eigvalsh(acts.matrix).min() > 0
    column, per_mm = acts.taken(range(len(points)), 0)
    assert column[0] == pytest.approx(1)
    assert per_mm > 0
    assert per_mm <= 1 / acts.bolt_mm_per_n


@given(LAYOUTS)
@examples(40)
def test_as_the_gasket_stiffens_each_bolt_is_by_itself(points):
    others = [np.abs(interaction(points, 10.0**power).taken(range(len(points)), 0)[0][1:]).max() for power in (1, 3, 5, 9)]
    assert others[-1] < 1e-6
    assert others[-1] <= others[0] + 1e-12


@given(st.sampled_from(SHAPES), STIFF, st.data())
@examples(40)
def test_a_mirrored_layout_ends_the_same(shape, gasket, data):
    layout = shape_layout(shape)
    points = np.array([(each.x_mm, each.y_mm) for each in layout.fasteners])
    order = data.draw(st.permutations(range(len(points))))
    pulls = [Tightening(bolt, turn, to_n=40_000 * (turn + 1) / 2) for turn in range(2) for bolt in order]
    ends = []
    for seen in (points, points * (-1, 1)):
        acts = interaction(seen, gasket)
        history = PullSequence.of(pulls, len(points), acts.taken).play(np.ones(len(pulls)), 0.1)
        ends.append([*history[-1], *(acts.lean(row) for row in history)])
    assert ends[0] == pytest.approx(ends[1], rel=1e-9, abs=1e-9)


@pytest.mark.parametrize("gasket", GASKETS)
def test_crossing_leans_less_than_going_round_and_does_not_lessen_the_scatter(gasket):
    page = joint_page({"shape": "flange, 12", "gasket": gasket, "stages": "100"})
    crossing, round_ = page.drawn
    assert max(crossing.leans) < max(round_.leans)
    assert scatter_of(np.array(crossing.loads[-1])) >= scatter_of(np.array(round_.loads[-1])) - 0.02


def test_a_spec_is_played_with_its_own_order_and_stages_and_a_missed_nut_is_left_loose():
    asked = asked_of(wheel_spec(), "", Policy())
    page = joint_page({"missed": "4"}, asked)
    assert page.drawn[0].pulls[:3] == ("1", "6", "3")
    assert [stage.partition(": ")[2] for stage in dict.fromkeys(page.drawn[0].stages)][:3] == ["30%", "60%", "100%"]
    loads = dict(zip((each.label for each in page.drawn[0].points), page.drawn[0].loads[-1], strict=True))
    assert (loads["4"], page.tone) == (0, "bad")
