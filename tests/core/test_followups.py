"""When a re-torque is due."""

from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.examples import examples
from tight_ledger.core.machines.meters import Meter, jumps_of
from tight_ledger.core.specs.followups import BEGINS_AGAIN, Finished, Happened, pending
from tight_ledger.core.specs.spec import Followup

DAY = timedelta(days=1)
AT = datetime(2026, 3, 2, 9, tzinfo=UTC)
SHORT = Followup(id="short", procedure="retorque", km=80, days=14, again_if=frozenset({"moved"}))
LONG = Followup(id="long", procedure="retorque", km=800)


def run(at=AT, km=1000.0, **more):
    return Finished(run=uuid4(), at=at, meters=() if km is None else (Meter(kind="km", figure=km),), **more)


def status(parent, children=(), now=AT + DAY, km=None, kind="km", basis="reading", followups=(SHORT,)):
    meters = [] if km is None else [Meter(kind=kind, figure=km, basis=basis)]
    return {due.followup: due.status for due in pending(followups, parent, children, now, meters)}


@pytest.mark.parametrize(("km", "expected"), [(1010, "waiting"), (1064, "soon"), (1080, "due"), (1099, "due"), (1100, "overdue")])
def test_by_distance(km, expected):
    assert status(run(), km=km) == {"short": expected}


@pytest.mark.parametrize(("days", "expected"), [(3, "waiting"), (12, "soon"), (14, "due")])
def test_the_date_catches_a_meter_that_nobody_reads(days, expected):
    assert status(run(km=None), now=AT + days * DAY) == {"short": expected}


def test_miles_count_too():
    before = Finished(run=uuid4(), at=AT, meters=(Meter(kind="miles", figure=100),))
    assert status(before, km=149.8, kind="miles") == {"short": "due"}
    assert status(before, km=149.6, kind="miles") == {"short": "soon"}


def test_a_lower_reading_of_which_nobody_says_why_measures_nothing():
    assert status(run(), km=10) == {"short": "waiting"}


@given(st.lists(st.tuples(st.sampled_from(["reading", "correction", "new_meter"]), st.integers(0, 9_000)), min_size=1, max_size=8))
@examples(200)
def test_what_was_driven_is_counted_over_corrections_and_new_meters_and_nothing_else(acts):
    """A new meter goes on from what it shows when it is put in; a correction takes the place of the reading that was wrong."""
    at, readings = AT, [(AT, Meter(kind="km", figure=1_000))]
    before, last = None, (1_000.0, 0.0)  # figure and distance: before the last reading, and at it
    for basis, by in acts:
        at += DAY / 100
        if basis == "reading":
            before, last = last, (last[0] + by, last[1] + by)
        elif basis == "new_meter" or before is None:
            before, last = None, (float(by), last[1])
        else:
            last = (before[0] + by, before[1] + by)
        readings.append((at, Meter(kind="km", figure=last[0], basis=basis)))
    [due] = pending((SHORT,), run(read_at=AT), [], at, [readings[-1][1]], jumps=jumps_of(readings))
    assert due.words == f"after 80 km: {last[1]:g} km run"


def test_done_is_done_and_the_other_stays():
    child = run(at=AT + DAY, km=1090, followup="short", outcomes=frozenset({"still"}))
    assert status(run(), [child], km=1100, followups=(SHORT, LONG)) == {"long": "waiting"}


def test_a_nut_that_moved_starts_the_list_afresh():
    child = run(at=AT + 13 * DAY, km=1090, followup="short", outcomes=frozenset({"still", "moved"}))
    assert status(run(), [child], now=AT + 15 * DAY, km=1100, followups=(SHORT, LONG)) == {"short": "waiting", "long": "waiting"}
    assert status(run(), [child], now=AT + 27 * DAY, km=1100) == {"short": "due"}


def test_every_recurs_from_the_last_time():
    yearly = Followup(id="y", procedure="retorque", hours=500, every=True)
    parent = Finished(run=uuid4(), at=AT, meters=(Meter(kind="hours", figure=0),))
    child = Finished(run=uuid4(), at=AT + DAY, meters=(Meter(kind="hours", figure=510),), followup="y")
    assert status(parent, [child], km=900, kind="hours", followups=(yearly,)) == {"y": "waiting"}
    assert status(parent, [child], km=1010, kind="hours", followups=(yearly,)) == {"y": "due"}


SERIES = (
    *(Followup(id=f"km{km}", procedure="retorque", km=km, days=14, again_if=frozenset({"moved"})) for km in (20, 50, 100)),
    Followup(id="trip", procedure="retorque", event="before each trip", every=True, then=True),
)


def test_a_series_goes_on_from_what_one_run_has_done():
    first = run(at=AT + DAY, km=1055, followup="km20")  # at 55 km it is that of 50 km too
    assert status(run(), [first], km=1060, followups=SERIES) == {"km100": "waiting"}
    last = run(at=AT + 2 * DAY, km=1101, followup="km100")
    assert status(run(), [first, last], km=1101, followups=SERIES) == {"trip": "waiting"}


def test_a_nut_that_turns_begins_the_series_again_and_says_what_that_means():
    first, second = (
        run(at=AT + DAY, km=1055, followup="km20"),
        run(at=AT + 2 * DAY, km=1101, followup="km100", outcomes=frozenset({"moved"})),
    )
    due = pending(SERIES, run(), [first, second], AT + 2 * DAY, [Meter(kind="km", figure=1125)])
    assert [(each.followup, each.status, each.begins_again) for each in due] == [
        ("km20", "due", BEGINS_AGAIN), ("km50", "waiting", BEGINS_AGAIN), ("km100", "waiting", BEGINS_AGAIN),
    ]  # fmt: skip


def test_an_event_is_due_when_somebody_says_that_it_has_happened_and_each_time_again():
    done = [run(at=AT + DAY, km=1101, followup=f"km{km}") for km in (20, 50, 100)]

    def trips(*days, children=done):
        happened = [Happened(followup="trip", at=AT + day * DAY) for day in days]
        return [due.status for due in pending(SERIES, run(), children, AT + 9 * DAY, [], happened)]

    assert (trips(), trips(0.5), trips(2)) == (["waiting"], ["waiting"], ["due"])
    assert trips(2, children=[*done, run(at=AT + 3 * DAY, followup="trip")]) == ["waiting"]
