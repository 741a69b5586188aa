"""The stages of a kind of fastener: exactly the passes that the plan makes for it, everywhere that shows them."""

import re
from datetime import UTC, datetime
from io import BytesIO
from pathlib import Path

import pytest
from hypothesis import given
from pypdf import PdfReader

from tests.core.play import Run, plan_of
from tests.core.test_any_procedure import procedures
from tests.examples import examples
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.units import to_nm
from tight_ledger.core.library.revisions import compare
from tight_ledger.core.library.sheet import main_procedure, sheet, stages_of
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.runs.descriptions import entry_words
from tight_ledger.core.search.index import entries
from tight_ledger.core.tools.wrenches import ANY_WRENCH
from tight_ledger.demo import load
from tight_ledger.formats.booklet import booklet_pdf
from tight_ledger.formats.tables import read_csv
from tight_ledger.store.shop import Shop

DEMO = [candidate.spec for candidate in read_csv(Path(load.__file__).parent / "specs.csv") if candidate.spec]
NAMED = {f"{spec.applies_to[0].model} {spec.title}": spec for spec in DEMO}
TOUCHING = ("torque", "angle", "turns", "loosen", "align", "check", "measure")


def assert_shows_what_is_planned(spec, passes):
    """Every fastener is in one row, and that row has every pass that touches it, in the plan's sequence, and no other."""
    done = stages_of(spec, main_procedure(spec), Policy())
    assert done.refused == ""
    assert sorted(label for row in done.kinds for label in row.labels) == sorted(fastener.label for fastener in spec.layout.fasteners)
    for row in done.kinds:
        for label in row.labels:
            planned = [pass_ for pass_ in passes if pass_.kind in TOUCHING and any(pull.fastener == label for pull in pass_.pulls)]
            steps = list(dict.fromkeys(passed.step for passed in planned))
            assert [stage.step for stage in row.stages] == steps
            for stage in row.stages:
                of_step = [passed for passed in planned if passed.step == stage.step]
                assert set(stage.passes) >= {passed.id for passed in of_step}
                assert len(of_step) == 1 or f"{len(of_step)} times" in stage.words
                for pull in (pull for passed in of_step for pull in passed.pulls if pull.fastener == label and stage.units):
                    low, high = (float(limit) for limit in (stage.units[0].low, stage.units[0].high))
                    assert low <= high
                    assert stage.figure in (pull.band.written, stage.units[0].limits)


def close(text):
    """Without blanks, which a printed line breaks at."""
    return re.sub(r"\s", "", text)


@pytest.fixture(scope="module")
def booklet():
    """The demo's booklet, as printed."""
    pdf = booklet_pdf(DEMO, Shop(name="Saltmarsh Quay", time_zone="UTC", policy=Policy()), datetime(2026, 3, 2, tzinfo=UTC))
    return close("".join(page.extract_text() for page in PdfReader(BytesIO(pdf)).pages))


@pytest.mark.parametrize("spec", DEMO, ids=lambda spec: f"{spec.applies_to[0].model} {spec.title}")
def test_every_place_of_the_demo_shows_the_compiled_plan(spec, booklet):
    """The sheet, the results, the comparison, the booklet, and the entries of a card."""
    policy = Policy()
    plan = compile_plan(spec, main_procedure(spec), (Tooling(wrench=ANY_WRENCH),), policy)
    assert_shows_what_is_planned(spec, plan.passes)
    rows = [[stage.words for stage in figure.stages.stages] for figure in sheet(spec, policy).figures]
    for entry in entries(spec):  # what the results show
        assert [[stage.words for stage in head.stages] for head in entry.figures if head.named] == [row for row in rows if row]
    compared = {line.where: line.new for line in compare(spec, spec, policy)}
    assert all(words in compared["figure"] for row in rows for words in row)
    printed = booklet[booklet.index(close(f"{spec.applies_to[0].model} · {spec.title}")) :]
    assert all(close(", then ".join(row)) in printed for row in rows)
    for pull in (pull for pass_ in plan.passes for pull in pass_.pulls if pull.setting is not None and pass_.kind == "torque"):
        clicked = Run(plan).add("pulled", pull=pull.id, fastener=pull.fastener, how="click")
        figure = float(re.search(r"clicked at ([0-9.]+)", entry_words(plan, clicked))[1])
        assert pull.band.judge(to_nm(figure, pull.setting.unit)) == "ok"


@examples(60)
@given(procedures())
def test_any_spec_shows_the_compiled_plan(spec):
    try:
        plan = plan_of(spec, policy=Policy())
    except Invalid:
        return
    assert_shows_what_is_planned(spec, plan.passes)


@pytest.mark.parametrize(
    ("name", "said"),
    [
        (
            "Lapwing Cylinder head",
            {
                "long": "28–32 N·m → 48–52 N·m → 58–62 N·m → 88–92° → 88–92°",
                "short": "23–27 N·m → 38–42 N·m → 48–52 N·m → 88–92° → 58–62°",
            },
        ),
        ("Lapwing Main bearing caps", {"cap bolt": "53–57 N·m → loosen → 28–32 N·m → 88–92°"}),
        (
            "Causeway 12 Rear wheel nuts",
            {"stud": "30\u00a0%: 158–193\u00a0N·m → 60\u00a0%: 316–386\u00a0N·m → 565–605 N·m → check, at most 3 times"},
        ),
        (
            "Standfast 300 Connecting rod caps, by stretch",
            {
                "rod bolt": "length, loose → if needed: to the setting that its reading asks for, at most 6 times"
                " → if needed: bolt stretch 0.14–0.19 mm, at most 6 times",
            },
        ),
    ],
)
def test_stage_after_stage_as_it_is_written(name, said):
    """A second 90° is a second 90°."""
    done = stages_of(NAMED[name], "tighten", Policy())
    assert {row.named: " → ".join(stage.words for stage in row.stages) for row in done.kinds} == said


def test_what_is_measured_on_the_joint_is_shown_too():
    stages = sheet(NAMED["Capstan 9 Drum hub bearing"], Policy()).measured
    assert [stage.words for stage in stages] == ["give under a pull", "end play 0.04–0.11 mm, at most 8 times"]


def test_a_spec_typed_in_another_unit_is_shown_in_it_first():
    (row,) = sheet(NAMED["Standfast 300 Coolant drain plug"], Policy()).figures
    assert row.stages.stages[0].words == "26–34 lbf·ft"
    assert [shown.unit for shown in row.units] == ["lbf·ft", "N·m", "lbf·in", "kgf·m"]


def test_a_spec_that_cannot_be_followed_says_why_and_shows_no_figure():
    broken = NAMED["Lapwing Cylinder head"].model_copy(
        update={"layout": NAMED["Lapwing Cylinder head"].layout.model_copy(update={"orders": {"main": ("1",)}})}
    )
    said = sheet(broken, Policy())
    assert "leaves out fastener" in said.refused
    assert said.figures == ()
