"""A figure means what stands in the document: limits, two units, a bolt's length, serial numbers, classes, revisions."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import wheel_spec
from tests.core.test_revisions import notes
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.parsing import parse_measured, parse_torque
from tight_ledger.core.joints.shapes import bolt_circle
from tight_ledger.core.joints.threads import parse_thread, read_class
from tight_ledger.core.library.revisions import changes
from tight_ledger.core.library.sanity import doubts
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.specs.applicability import Applies, fit
from tight_ledger.core.specs.spec import WHEEL_RETORQUE, WHEEL_TIGHTEN


class TestLimits:
    @pytest.mark.parametrize(
        "text", ["max 87 N·m", "87 Nm max.", "≤ 87 N·m", "up to 87 Nm", "no more than 87 N·m", "at least 60 Nm", "min. 60 Nm"]
    )
    def test_a_limit_alone_is_no_figure_to_pull_to(self, text):
        with pytest.raises(Invalid, match=r"says the (most|least), not what to pull to"):
            parse_torque(text)

    def test_a_figure_to_aim_at_keeps_the_limit_behind_it(self):
        band = parse_torque("82 N·m, max 87 N·m")
        assert (band.aim(), band.high, band.written) == (82, 87, "82 N·m, max 87 N·m")
        assert parse_torque("82 N·m (min 80 N·m)").low == 80
        with pytest.raises(Invalid, match="beyond its limit"):
            parse_torque("90 N·m, max 87 N·m")

    @pytest.mark.parametrize("text", ["at most 0.06 mm", "≤ 0.06 mm", "0.06 mm max.", "up to 0.06 mm"])
    def test_of_what_is_measured_an_upper_limit_is_what_it_says(self, text):
        assert (parse_measured(text).low, parse_measured(text).high) == (0, 0.06)


class TestTwoUnits:
    @pytest.mark.parametrize("text", ["60 ± 10 % lbf·ft (81 ± 4 N·m)", "81 ± 4 N·m (60 ± 10 % lbf·ft)", "60 ± 6 lbf·ft (81 ± 5 % N·m)"])
    def test_limits_that_contradict_are_refused(self, text):
        with pytest.raises(Invalid, match="contradicts itself"):
            parse_torque(text)

    @pytest.mark.parametrize("text", ["81 ± 8 N·m (60 ± 10 % lbf·ft)", "60 ± 10 % lbf·ft (81 ± 8 N·m)"])
    def test_limits_that_agree_are_read(self, text):
        band = parse_torque(text)
        assert (band.low, band.high) == (pytest.approx(73, abs=0.6), pytest.approx(89, abs=0.6))

    def test_the_tolerance_counts_in_whichever_unit_it_stands(self):
        band = parse_torque("60 lbf·ft (81 N·m ± 8 %)")
        assert (band.low / band.aim(), band.high / band.aim()) == (pytest.approx(0.92), pytest.approx(1.08))

    @given(st.integers(20, 900), st.integers(2, 20))
    def test_any_figure_agrees_with_itself_in_the_other_unit(self, figure_nm, percent):
        other = f"{figure_nm / 1.3558179483:.1f} ± {percent} % lbf·ft"
        band = parse_torque(f"{figure_nm} ± {percent} % N·m ({other})")
        assert band.aim() == figure_nm


@pytest.mark.parametrize(
    ("text", "named", "pitch_mm", "length_mm"),
    [
        ("M10x1.25x60", "M10×1.25", 1.25, 60), ("M10x60", "M10", 1.5, 60), ("M6 × 1 × 16", "M6", 1, 16), ("M12x1.25", "M12×1.25", 1.25, None),
        ("M14×1,5×95", "M14×1.5", 1.5, 95), ("M10x1.25-6g", "M10×1.25", 1.25, None), ("M16-2", "M16", 2, None),
    ],
)  # fmt: skip
def test_a_bolt_with_its_length(text, named, pitch_mm, length_mm):
    thread = parse_thread(text)
    assert (thread.designation, thread.pitch_mm, thread.length_mm) == (named, pitch_mm, length_mm)


def machine(serial):
    return Machine.model_construct(maker="Fennick", model="Causeway 12", year=None, serial=serial, variant={})


@given(st.integers(0, 99_999), st.integers(0, 99_999), st.integers(0, 99_999), st.sampled_from(["", "AB", "k-"]))
def test_serial_numbers_lie_between_as_numbers(first, serial, last, letters):
    applies = Applies(maker="Fennick", model="Causeway 12", serial_from=f"{letters}{first}", serial_to=f"{letters}{last}")
    assert (fit([applies], machine(f"{letters}{serial}")) == "yes") == (first <= serial <= last)
    assert fit([applies], machine(f"ZZ{serial}")) == "no"


class TestClasses:
    @pytest.mark.parametrize(
        ("text", "name"),
        [("8.8 ", "8.8"), ("class 10.9", "10.9"), ("Grade 8", "grade 8"), ("A4-80", "A-80"), ("10,9", "10.9"), ("B7", None)],
    )
    def test_a_class_in_other_words(self, text, name):
        assert read_class(text) == name

    @pytest.mark.parametrize("written", ["8.8 ", "class 8.8", "Grade 8", "A2-70", "B7", "best"])
    def test_no_way_to_write_a_class_silences_a_doubt(self, written):
        layout = bolt_circle(count=4, diameter_mm=60, kind="stud", thread="M6", noun="nut", property_class=written)
        said = doubts(wheel_spec(torque="250 N·m", layout=layout))
        assert any("far over what M6" in line for line in said)
        assert any(f"“{written}” is no class" in line for line in said) == (read_class(written) is None)


class TestRevisions:
    SPECS = {
        1: wheel_spec(torque="400–420 N·m"),
        2: wheel_spec(torque="500–520 N·m", revision=2, change="wording"),
        3: wheel_spec(torque="500–520 N·m", revision=3, change="wording", title="Rear wheel nuts, all models"),
    }

    def test_a_figure_that_changed_is_found_whatever_its_author_says(self):
        assert changes(notes([("entered", 1), ("checked", 1), ("entered", 2), ("checked", 2)]), self.SPECS) == {2: "figure"}

    def test_it_is_held_against_the_one_that_people_worked_to(self):
        """Revision 2 was never checked: who worked to 1 hears of 3."""
        told = [("entered", 1), ("checked", 1), ("entered", 2), ("entered", 3), ("checked", 3)]
        assert changes(notes(told), self.SPECS) == {3: "figure"}

    def test_words_alone_are_wording_and_the_author_may_raise_it(self):
        again = self.SPECS | {2: wheel_spec(torque="400–420 N·m", revision=2, change="safety", cautions=["Hot."])}
        told = notes([("entered", 1), ("checked", 1), ("entered", 2), ("checked", 2)])
        assert changes(told, again) == {2: "safety"}
        same = again | {2: again[2].model_copy(update={"change": "wording"})}
        assert changes(told, same) == {2: "wording"}

    @given(st.sampled_from(["condition", "seat", "order", "step", "follow-up", "hand", "count"]))
    def test_whatever_changes_the_work_is_a_figure(self, what):
        changed = {
            "condition": {"condition": "oiled"}, "seat": {"seat": "cone"}, "hand": {"thread_hand": "left"},
            "order": {"layout": self.SPECS[1].layout.model_copy(update={"orders": {"main": tuple(map(str, range(1, 11)))}})},
            "step": {"procedures": {"tighten": WHEEL_TIGHTEN[1:], "retorque": WHEEL_RETORQUE}}, "count": {"count": 8},
            "follow-up": {"followups": [{"id": "f", "procedure": "retorque", "km": 60}]},
        }[what]  # fmt: skip
        new = wheel_spec(**{"torque": "400–420 N·m", "revision": 2, "change": "wording"} | changed)
        told = notes([("entered", 1), ("checked", 1), ("entered", 2), ("checked", 2)])
        assert changes(told, {1: self.SPECS[1], 2: new}) == {2: "figure"}
