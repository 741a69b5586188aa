"""When a tool is due, what a check finds, and what a drop puts in doubt."""

from datetime import UTC, date, datetime, timedelta
from uuid import UUID, uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_crib import TENS
from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.records.notes import Note
from tight_ledger.core.tool_care.care import Use, after_months, care
from tight_ledger.core.tool_care.suspect_periods import doubt, in_doubt
from tight_ledger.core.tools.calibrations import Calibration, Point, points_of
from tight_ledger.core.tools.wrenches import Wrench

NEW = datetime(2026, 1, 10, 9, tzinfo=UTC)
SMALL = Wrench(id=UUID(int=4), name="small", drive="1/4 in", unit="N·m", lowest=1, highest=6, graduation=0.1)


def check(*off_percent, left=()):
    """A check that finds a wrench of 20, 60, 100 so far off at each point, and leaves it so."""
    points = zip((20, 60, 100), off_percent, left or (None,) * 3, strict=True)
    return Calibration(
        points=[
            Point(share=share, shown=share, found=(share / (1 + off / 100),), left=() if after is None else (share / (1 + after / 100),))
            for share, off, after in points
        ],
        permissible_percent=4, by="a laboratory",
    )  # fmt: skip


def stream(*told):
    """Notes some days after one another: ("quarantined", 3, text) or ("calibrated", 40, a check)."""
    notes = [Note(id=uuid4(), stream=TENS.id, subject="tool", kind="added", seq=1, at_server=NEW)]
    for seq, (kind, days, what) in enumerate(told, 2):
        more = {"calibration": what} if kind == "calibrated" else {"text": what}
        notes.append(Note(id=uuid4(), stream=TENS.id, subject="tool", kind=kind, seq=seq, at_server=NEW + timedelta(days=days), **more))
    return notes


def test_a_check_is_good_within_what_is_permissible():
    assert TENS.model_copy(update={"accuracy_percent": 2}).permissible_percent == 2
    assert (check(4, -4, 0).good, check(4.1, 0, 0).good) == (True, False)
    mended = check(5, 5, 5, left=(0, 0.5, 1))
    assert (mended.good_as_found, mended.good) == (False, True)


def test_where_it_is_checked():
    assert points_of(TENS) == (22, 66, 110)
    assert points_of(Wrench(**TENS.model_dump() | {"lowest": 30, "highest": 200})) == (40, 120, 200)


@given(st.floats(-8, 8), st.floats(-8, 8), st.floats(1, 150))
def test_between_the_points_the_deviation_lies_between_theirs(low, high, figure):
    found = check(low, high, high).deviation_at(figure)
    assert min(low, high) - 1e-6 <= found <= max(low, high) + 1e-6


@pytest.mark.parametrize(("start", "months", "end"), [((2026, 1, 31), 1, (2026, 2, 28)), ((2026, 12, 5), 12, (2027, 12, 5))])
def test_so_many_months_on(start, months, end):
    assert after_months(date(*start), months) == date(*end)


@pytest.mark.parametrize(
    ("day", "use", "standing", "said"),
    [
        (60, Use(), "good", "Due about 12 Jan 2027, 12 months"),
        (60, Use(since_check=1_000, lately=1_000, lately_days=40), "good", "Due about 18 Aug 2026, by its pulls"),
        (60, Use(since_check=4_600, lately=460, lately_days=40), "soon", "by its pulls, at this rate"),
        (60, Use(since_check=5_000), "due", "5,000 pulls since its last check"),
        (345, Use(), "soon", "Due about 12 Jan 2027"),
        (370, Use(), "due", "Due since 12 Jan 2027"),
    ],
)
def test_due_by_months_or_by_pulls_whichever_comes_first(day, use, standing, said):
    found = care(stream(("calibrated", 2, check(0, 0, 0))), use, Policy(), (NEW + timedelta(days=day)).date())
    assert found.standing == standing
    assert said in found.words


@given(st.dates(date(2024, 1, 1), date(2027, 12, 31)))
def test_due_in_a_month_is_due_soon_on_whatever_day_it_was_checked(day):
    checked = datetime(day.year, day.month, day.day, 9, tzinfo=UTC)
    notes = [Note(id=uuid4(), stream=TENS.id, subject="tool", kind="calibrated", seq=1, at_server=checked, calibration=check(0, 0, 0))]
    assert care(notes, Use(), Policy(due_months=1), day).standing == "soon"
    assert care(notes, Use(), Policy(due_months=3), day).standing == "good"


@pytest.mark.parametrize(
    ("told", "standing"),
    [
        ((), "no check on file"),
        ((("calibrated", 1, check(5, 0, 0)),), "quarantined"),
        ((("calibrated", 1, check(0, 0, 0)), ("quarantined", 5, "dropped")), "quarantined"),
        ((("calibrated", 1, check(0, 0, 0)), ("quarantined", 5, "dropped"), ("cleared", 6, "fell on a mat")), "good"),
        ((("quarantined", 5, "dropped"), ("calibrated", 9, check(0, 0, 0))), "quarantined"),
        ((("quarantined", 5, "dropped"), ("calibrated", 9, check(0, 0, 0)), ("cleared", 10, "seen it")), "good"),
        ((("calibrated", 1, check(5, 0, 0)), ("calibrated", 2, check(0, 0, 0))), "quarantined"),
        ((("quarantined", 5, "dropped"), ("calibrated", 9, check(6, 0, 0))), "quarantined"),
    ],
)
def test_what_sets_it_aside_and_what_lifts_that(told, standing):
    assert care(stream(*told), Use(), Policy(), date(2026, 2, 1)).standing == standing


def test_a_drop_puts_everything_since_the_last_good_check_in_doubt():
    good, off = check(0, 0, 0), check(6, 6, 6, left=(0, 0, 0))
    window = in_doubt(stream(("calibrated", 10, good), ("quarantined", 30, "dropped")))
    assert (window.since, window.until, window.found) == (NEW + timedelta(days=10), None, None)
    told = (("calibrated", 10, good), ("quarantined", 30, "dropped"), ("calibrated", 35, good))
    assert in_doubt(stream(*told)) == window
    assert in_doubt(stream(*told, ("cleared", 36, "seen it"))) is None
    found = in_doubt(stream(("calibrated", 10, good), ("quarantined", 30, "dropped"), ("calibrated", 35, off)))
    assert (found.since, found.until, found.found) == (NEW + timedelta(days=10), NEW + timedelta(days=35), off)
    assert in_doubt(stream(("quarantined", 3, "dropped"))).since == NEW


def test_what_the_pulls_probably_gave():
    """A wrench that shows 6 % too much gave 100 / 1.06 (derived)."""
    found = doubt(check(6, 6, 6), 80, 100, Band(quantity="torque", low=95, high=105))
    assert found.probable_nm == pytest.approx(94.34, abs=0.01)
    assert (found.outcome, found.words) == ("low", "probably 94.3 N·m, below 95.0–105.0")
