"""Threads as typed, the estimate, and what makes a figure doubtful."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.parsing import parse_torque
from tight_ledger.core.joints.threads import classes, parse_thread
from tight_ledger.core.mechanics.estimates import conditions, doubt, estimate, tightening_torque_nm


@pytest.mark.parametrize(
    ("typed", "designation"),
    [
        ("M12x1.5", "M12×1.5"), ("m12 X 1,5", "M12×1.5"), ("M12*1.75", "M12"), ("M12", "M12"), ("M10-6g", "M10"), ("M22×1.5 LH", "M22×1.5"),
        ("1/2-20 UNF", "1/2-20 UNF"), ("½-20", "1/2-20 UNF"), ("1/2 unf", "1/2-20 UNF"), ('3/4"-16', "3/4-16 UNF"), ("7/8-11", "7/8-11"),
        ("1/2-13 UNC-2A", "1/2-13 UNC"),
    ],
)  # fmt: skip
def test_threads_as_typed(typed, designation):
    thread = parse_thread(typed)
    assert thread.designation == designation
    assert parse_thread(thread.designation) == thread


@pytest.mark.parametrize(
    "typed", ["", "M", "M13", "M12x9", "12", "1/2", "1/0-20", "1/2 UNEF", "stud", "M1e9", "Mnan", "#7-32", "152-32", "tight", "M10x7"]
)
def test_what_is_no_thread(typed):
    with pytest.raises(Invalid) as refused:
        parse_thread(typed)
    assert refused.value.field == "thread"


@pytest.mark.parametrize("written", ["1/2-14 NPT", "G1/4", "1/4 BSP", "R1/2", "3/8-18 NPTF"])
def test_pipe_threads_are_named_as_not_covered(written):
    with pytest.raises(Invalid, match="is a pipe thread"):
        parse_thread(written)


def test_an_estimate_shows_how_it_was_made():
    made = estimate("M12", "8.8", "zinc")
    by_hand = 0.20 * 0.75 * 580 * 84.3 * 12 / 1_000
    assert made.torque_nm == pytest.approx(by_hand, rel=1e-3)
    assert float(made.shown[0].low) < made.torque_nm < float(made.shown[0].high)
    assert made.words.startswith("about 88.0 N·m: 75 % of proof load")


@given(st.sampled_from(classes()), st.sampled_from(conditions()), st.sampled_from(["M8", "M12", "M16", "1/2-13", "3/8 UNF"]))
def test_what_the_estimate_says_is_never_doubted(name, condition, thread):
    made = estimate(thread, name, condition)
    assert doubt(parse_torque(f"{made.torque_nm:.2f} Nm"), parse_thread(thread), name) == ""


@pytest.mark.parametrize(
    ("figure", "thread", "name", "said"),
    [
        ("110 lbf·ft", "M8", "8.8", "far over what M8 8.8 can bear"),  # meant lbf·in
        ("9 lbf·in", "M12", "8.8", "under a tenth"),  # meant lbf·ft
        ("565–605 N·m", "M22×1.5", "", ""),
        ("5900 N·m", "M22×1.5", "", "far over"),
        ("158 in-lb", "3/8-16", "", ""),
        ("13 Nm", "M14×1.25", "", ""),  # a spark plug
    ],
)
def test_a_figure_from_the_wrong_column_is_asked_about(figure, thread, name, said):
    assert said in doubt(parse_torque(figure), parse_thread(thread), name)
    assert bool(said) == bool(doubt(parse_torque(figure), parse_thread(thread), name))


def test_unknown_classes_and_conditions():
    for arguments, field in (
        (("M12", "7.7", "zinc"), "property_class"),
        (("M12", "8.8", "wet"), "condition"),
        (("M20", "9.8", "zinc"), "property_class"),
    ):
        with pytest.raises(Invalid) as refused:
            estimate(*arguments)
        assert refused.value.field == field
    with pytest.raises(Invalid):
        tightening_torque_nm(clamp_n=float("nan"), diameter_mm=12, nut_factor=0.2)
