"""When a re-torque is due."""

from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest

from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.specs.followups import Finished, pending
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


@pytest.mark.parametrize(("km", "expected"), [(1010, "waiting"), (1064, "soon"), (1080, "due"), (5000, "due")])
def test_by_distance(km, expected):
    assert status(run(), km=km) == {"short": expected}


@pytest.mark.parametrize(("days", "expected"), [(3, "waiting"), (12, "soon"), (14, "due")])
def test_the_date_catches_a_meter_that_nobody_reads(days, expected):
    assert status(run(km=None), now=AT + days * DAY) == {"short": expected}


def test_miles_count_too():
    before = Finished(run=uuid4(), at=AT, meters=(Meter(kind="miles", figure=100),))
    assert status(before, km=149.8, kind="miles") == {"short": "due"}
    assert status(before, km=149.6, kind="miles") == {"short": "soon"}


def test_a_new_meter_measures_nothing():
    assert status(run(), km=2000, basis="new_meter") == {"short": "waiting"}
    assert status(run(), km=10) == {"short": "waiting"}


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
