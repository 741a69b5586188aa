"""What comes due after a run: re-torque after a distance, hours, days or an event, counted from the finish; singly or as a series."""

from collections.abc import Collection, Sequence
from datetime import datetime, timedelta
from typing import Literal
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.base.rounding import nine_digits
from tight_ledger.core.machines.meters import Meter, MeterJump
from tight_ledger.core.specs.spec import Followup

KM_PER_MILE = 1.609344
SOON = 0.8
"""Coming up from this share of the way."""
OVERDUE = 1.25
"""From this share of the way on it is overdue, not only due. Common practice, no source."""
DueStatus = Literal["overdue", "due", "soon", "waiting"]
IN_ORDER: tuple[DueStatus, ...] = ("overdue", "due", "soon", "waiting")
BEGINS_AGAIN = "it turned at the last check, so the joint had settled or something moves: counted from there again"


class Finished(Model):
    """A run that ended well enough to go on: good or released."""

    run: UUID
    at: datetime
    meters: tuple[Meter, ...] = ()
    read_at: datetime | None = None
    """When its meters were read; None if it is not known."""
    followup: str | None = None
    outcomes: frozenset[str] = frozenset()


class Happened(Model):
    """Somebody said that the event of a follow-up has happened, or comes now: the engine was warm, a trip is next."""

    followup: str
    at: datetime


class Due(Model):
    """A follow-up that is open."""

    followup: str
    procedure: str
    parent: UUID
    status: DueStatus
    words: str
    by_date: datetime | None = None
    event: bool = False
    """Whether it waits for something that somebody has to say."""
    begins_again: str = ""
    """Why the series began again, and what that means; empty if it did not."""


def pending(
    followups: Sequence[Followup],
    parent: Finished,
    children: Sequence[Finished],
    now: datetime,
    meters: Sequence[Meter],
    happened: Collection[Happened] = (),
    jumps: Sequence[MeterJump] = (),
) -> tuple[Due, ...]:
    """The open follow-ups of a run.

    Args:
        parent: the run that they hang on.
        children: follow-up runs done since.
        meters: the machine's newest readings.
        happened: the events that somebody reported.
        jumps: by how much its meters were put right, or exchanged: that is no distance driven.
    """
    by_id = {followup.id: followup for followup in followups}
    since, done, again = dict.fromkeys(by_id, parent), set[str](), ""
    last = parent
    for child in sorted(children, key=lambda run: run.at):
        followup = by_id.get(child.followup or "")
        if followup is None:
            continue
        last = child
        if followup.again_if & child.outcomes:
            since, done, again = dict.fromkeys(by_id, child), set(), BEGINS_AGAIN
        elif followup.every:
            since[followup.id] = child
        else:
            done |= {followup.id, *_reached(followups, followup, since, child, happened, jumps)}
    found = []
    for place, followup in enumerate(followups):
        before = {each.id for each in followups[:place] if not each.every}
        if followup.id in done or (followup.then and not before <= done):
            continue
        counted = last if followup.then else since[followup.id]
        found.append(_due(followup, counted, now, meters, happened, jumps).model_copy(update={"begins_again": again}))
    return tuple(found)


def _reached(
    followups: Sequence[Followup],
    done: Followup,
    since: dict[str, Finished],
    child: Finished,
    happened: Collection[Happened],
    jumps: Sequence[MeterJump],
) -> set[str]:
    """The others of a series that a run has done with it: the same procedure, and due by then. After 55 km, 20 and 50 are done."""
    alike = (each for each in followups if each.procedure == done.procedure and not each.every and not each.then and each.id != done.id)
    before = [jump for jump in jumps if jump.at <= (child.read_at or child.at)]
    return {each.id for each in alike if _ways(each, since[each.id], child.at, child.meters, happened, before)[0] >= 1}


def _ways(
    followup: Followup,
    since: Finished,
    now: datetime,
    meters: Sequence[Meter],
    happened: Collection[Happened],
    jumps: Sequence[MeterJump],
) -> tuple[float, list[str]]:
    """The largest share of the way that is gone, and each way in words."""
    ways: list[tuple[float, str]] = []
    if followup.km is not None:
        run_km = _run_km(since, meters, jumps)
        said = f"after {followup.km:g} km"
        ways.append((run_km / followup.km, f"{said}: {run_km:g} km run") if run_km is not None else (0, said))
    if followup.hours is not None:
        ran = _difference(since, meters, "hours", jumps)
        said = f"after {followup.hours:g} h"
        ways.append((ran / followup.hours, f"{said}: {ran:g} h run") if ran is not None else (0, said))
    if followup.days is not None:
        ways.append(((now - since.at) / timedelta(days=followup.days), ""))
    if followup.event is not None:
        is_so = any(each.followup == followup.id and each.at >= since.at for each in happened)  # at the same moment: it is due
        ways.append((1.0 if is_so else 0.0, followup.event))
    return max((share for share, _ in ways), default=0.0), [words for _, words in ways if words]


def _due(
    followup: Followup,
    since: Finished,
    now: datetime,
    meters: Sequence[Meter],
    happened: Collection[Happened],
    jumps: Sequence[MeterJump],
) -> Due:
    share, words = _ways(followup, since, now, meters, happened, jumps)
    status: DueStatus = "overdue" if share >= OVERDUE else "due" if share >= 1 else "soon" if share >= SOON else "waiting"
    return Due(
        followup=followup.id, procedure=followup.procedure, parent=since.run, status=status, words=", ".join(words),
        by_date=since.at + timedelta(days=followup.days) if followup.days is not None else None, event=followup.event is not None,
    )  # fmt: skip


def _difference(since: Finished, now: Sequence[Meter], kind: str, jumps: Sequence[MeterJump]) -> float | None:
    """How far a machine has run by one of its meters, without what was put right or exchanged at it since; None without both
    readings, or after a lower one of which nobody has said why."""
    first = next((m for m in since.meters if m.kind == kind), None)
    last = next((m for m in now if m.kind == kind), None)
    if first is None or last is None:
        return None
    since_at = since.read_at or since.at
    ran = last.figure - first.figure - sum(jump.by for jump in jumps if jump.kind == kind and jump.concerns(since_at))
    return nine_digits(ran) if ran >= 0 else None


def _run_km(since: Finished, now: Sequence[Meter], jumps: Sequence[MeterJump]) -> float | None:
    km = _difference(since, now, "km", jumps)
    miles = _difference(since, now, "miles", jumps)
    return km if km is not None else None if miles is None else miles * KM_PER_MILE
