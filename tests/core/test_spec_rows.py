"""A spec as rows of a table and back: the same content; and what is wrong, cell by cell."""

from pathlib import Path

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tests.core.play import SHORT, wheel_spec
from tests.examples import examples
from tight_ledger.core.base.cells import read_pairs, read_texts, write_pairs, write_texts
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.parsing import parse_figure, parse_measured, parse_torque
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.spec_table.layout_cells import read_layout, write_layout
from tight_ledger.core.spec_table.rows import COLUMNS, TableRow, read_spec, write_spec
from tight_ledger.core.specs.spec import Spec
from tight_ledger.demo import load
from tight_ledger.formats.tables import read_csv

DEMO = [candidate.spec for candidate in read_csv(Path(load.__file__).parent / "specs.csv")]


def table(rows):
    return [TableRow(number=number, cells=cells) for number, cells in enumerate(rows, start=2)]


def again(spec: Spec) -> Spec | None:
    return read_spec(table(write_spec(spec)))[0]


def faults(**cells):
    """What is wrong with a wheel's rows in which some cells of the first row say something else."""
    rows = write_spec(wheel_spec(steps=SHORT))
    rows[0] |= cells
    return [(row.row, row.column, row.fault) for row in read_spec(table(rows))[1]]


@pytest.mark.parametrize("spec", DEMO, ids=lambda spec: spec.title)
def test_every_joint_of_the_demo_comes_back_the_same(spec):
    assert again(spec) == spec
    assert {name for row in write_spec(spec) for name in row} <= set(COLUMNS)


def test_the_demo_has_a_step_of_nearly_every_kind():
    used = {row["kind"] for spec in DEMO for row in write_spec(spec)}
    assert used >= KINDS.keys() - {"each"}


TEXT = st.text(st.characters(codec="utf-8", exclude_categories=("Cs", "Cc")), max_size=40).map(str.strip)


@examples(60)
@example(title="0", cautions=[], tell={}, low=1.0, more=0.0, share=1.609375, say="", order=[str(n) for n in range(1, 11)])
@given(
    title=TEXT.filter(bool), cautions=st.lists(TEXT, max_size=3), tell=st.dictionaries(TEXT.filter(bool), TEXT, max_size=2),
    low=st.floats(0.5, 900), more=st.floats(0, 300), share=st.floats(0.01, 2), say=TEXT, order=st.permutations([str(n) for n in range(1, 11)]),
)  # fmt: skip
def test_any_content_comes_back_the_same(title, cautions, tell, low, more, share, say, order):
    spec = wheel_spec(
        title=title[:120], cautions=cautions, steps=[{"id": "a", "kind": "torque", "share": share, "say": say}],
        finals={"stud": {"quantity": "torque", "low": low, "high": low + more, "written": title[:30]}},
        applies_to=[{"maker": "A", "model": "B", "variant": {"x": "y"}, "tell": tell}, {"maker": "C", "model": "D", "year_from": 2011}],
    )  # fmt: skip
    layout = spec.layout.model_copy(update={"orders": {"main": tuple(order), "half": (tuple(order[:2]), order[2])}})
    spec = spec.model_copy(update={"layout": layout})
    assert again(spec) == spec


@given(st.lists(TEXT, max_size=4), st.dictionaries(TEXT, TEXT, max_size=3))
def test_lists_and_pairs_come_back_the_same(items, pairs):
    assert read_texts(write_texts(items), "x") == items
    assert read_pairs(write_pairs(pairs), "x") == pairs


FIGURE = st.decimals(1, 900, places=1)


@given(FIGURE, FIGURE, st.sampled_from(["N·m", "lbf·ft", "lbf·in", "kgf·m"]), st.sampled_from(["–", "-", " to ", " — "]), st.booleans())
def test_what_a_band_says_it_was_typed_as_gives_it_again(limit, other, unit, dash, comma):
    low, high = sorted((limit, other))
    text = f"{low}{dash}{high} {unit}"
    band = parse_torque(text.replace(".", ",") if comma else text)
    assert parse_torque(band.written) == band == parse_torque(text).model_copy(update={"written": band.written})
    torque, (angle,) = parse_figure(f"{text} + 90°")
    assert (torque.low, torque.high, angle.target) == (band.low, band.high, 90)


@pytest.mark.parametrize(
    ("text", "low", "high", "quantity"),
    [
        ("0.04–0.11 mm", 0.04, 0.11, "length"),
        ("1–5 thou", 0.0254, 0.127, "length"),
        ("at most 0,05 mm", 0, 0.05, "length"),
        ("1.9–3.9 N·m", 1.9, 3.9, "drag"),
        ("½–1½ lbf·in", 0.0564924, 0.1694772, "drag"),
    ],
)
def test_what_is_measured_has_a_band(text, low, high, quantity):
    band = parse_measured(text)
    assert (band.low, band.high, band.quantity) == (pytest.approx(low, rel=1e-5), pytest.approx(high, rel=1e-5), quantity)


@pytest.mark.parametrize("text", ["0.05 mm", "0.11–0.04 mm", "0.04–0.11", "tight", ""])
def test_what_is_no_band(text):
    with pytest.raises(Invalid):
        parse_measured(text)


@pytest.mark.parametrize("text", ["one", "circle 10, 335 mm", "line 9, 400 mm", "grid 2 × 5, 360 × 90 mm", "rectangle 6 × 5, 340 × 220 mm"])
def test_a_layout_is_drawn_from_a_few_figures(text):
    assert write_layout(read_layout(text)[2]) == text


@pytest.mark.parametrize("text", ["circle 2, 100 mm", "circle 10", "grid 9 × 9, 10 × 10 mm", "points 1,x", "ring 4", "line 3, 99999 mm"])
def test_what_is_no_layout(text):
    with pytest.raises(Invalid):
        read_layout(text)


@pytest.mark.parametrize(
    ("cells", "column", "said"),
    [
        ({"layout": "circle ten"}, "layout", "is no layout"),
        ({"kinds": "stud = M22x1.5, hardened"}, "kinds", "“hardened” is not understood"),
        ({"kinds": ""}, "kinds", "No kind of fastener"),
        ({"finals": "565–605"}, "finals", "has no unit"),
        ({"figure": "30 percent"}, "figure", "is not a torque unit"),
        ({"more": "{when}"}, "more", "is not JSON"),
        ({"year_from": "2o19"}, "year_from", "is no whole number"),
        ({"year_from": "2021", "year_to": "2019"}, "maker", "first year lies after the last"),
        ({"orders": "main = 1 2 3 99"}, "orders", "not there: 99"),
        ({"system": "wings"}, "system", "Input should be"),
        ({"kind": "dance"}, "kind", "no step of kind “dance”"),
        ({"inside": "loop"}, "inside", "no block “loop” above"),
        ({"proof_answer": "12"}, "proof_ask", "none of the options"),
        ({"title": ""}, "title", "Field required"),
        ({"grade": "hearsay"}, "grade", "Input should be"),
        ({"variant": "press-in"}, "variant", "says nothing"),
    ],
)
def test_a_bad_cell_is_named(cells, column, said):
    found = faults(**cells)
    assert [(row, name) for row, name, _ in found][:1] == [(2, column)]
    assert said in found[0][2]


def test_a_later_row_of_a_spec_says_the_same_or_nothing():
    rows = write_spec(wheel_spec(steps=SHORT))
    rows[1]["title"] = "Another"
    assert [(row.row, row.column) for row in read_spec(table(rows))[1]] == [(3, "title")]


def test_a_heading_may_hold_the_unit():
    rows = write_spec(wheel_spec(steps=[{"id": "a", "kind": "torque", "share": 1}]))
    rows[0]["finals"] = "430"
    spec, _ = read_spec([TableRow(number=2, cells=rows[0], units={"finals": "lbf·ft"})])
    assert spec.finals["stud"].target == pytest.approx(583.0017)
    assert spec.finals["stud"].written == "430 lbf·ft"
