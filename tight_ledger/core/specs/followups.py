"""What comes due after a run: re-torque after a distance, hours or days, counted from the finish."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Literal
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.specs.spec import Followup

KM_PER_MILE = 1.609344
SOON = 0.8
"""Coming up from this share of the way."""


class Finished(Model):
    """A run that ended well enough to go on: good or released."""

    run: UUID
    at: datetime
    meters: tuple[Meter, ...] = ()
    followup: str | None = None
    outcomes: frozenset[str] = frozenset()


class Due(Model):
    """A follow-up that is open."""

    followup: str
    procedure: str
    parent: UUID
    status: Literal["due", "soon", "waiting"]
    words: str
    by_date: datetime | None = None


def pending(
    followups: Sequence[Followup], parent: Finished, children: Sequence[Finished], now: datetime, meters: Sequence[Meter]
) -> tuple[Due, ...]:
    """The open follow-ups of a run.

    Args:
        parent: the run that they hang on.
        children: follow-up runs done since, by time.
        meters: the machine's newest readings.
    """
    since = {followup.id: parent for followup in followups}
    done: set[str] = set()
    by_id = {followup.id: followup for followup in followups}
    for child in sorted(children, key=lambda run: run.at):
        followup = by_id.get(child.followup or "")
        if followup is None:
            continue
        if followup.again_if & child.outcomes:
            since, done = dict.fromkeys(by_id, child), set()
        elif followup.every:
            since[followup.id] = child
        else:
            done.add(followup.id)
    return tuple(_due(f, since[f.id], now, meters) for f in followups if f.id not in done)


def _due(followup: Followup, since: Finished, now: datetime, meters: Sequence[Meter]) -> Due:
    ways: list[tuple[float, str]] = []
    by_date = None
    if followup.km is not None:
        run_km = _run_km(since.meters, meters)
        said = f"after {followup.km:g} km"
        ways.append((run_km / followup.km, f"{said}: {run_km:g} km run") if run_km is not None else (0, said))
    if followup.hours is not None:
        ran = _difference(since.meters, meters, "hours")
        said = f"after {followup.hours:g} h"
        ways.append((ran / followup.hours, f"{said}: {ran:g} h run") if ran is not None else (0, said))
    if followup.days is not None:
        by_date = since.at + timedelta(days=followup.days)
        ways.append(((now - since.at) / timedelta(days=followup.days), ""))
    if followup.event is not None:
        ways.append((0, followup.event))
    share = max((share for share, _ in ways), default=0.0)
    status: Literal["due", "soon", "waiting"] = "due" if share >= 1 else "soon" if share >= SOON else "waiting"
    return Due(
        followup=followup.id,
        procedure=followup.procedure,
        parent=since.run,
        status=status,
        words=", ".join(words for _, words in ways if words),
        by_date=by_date,
    )


def _difference(before: Sequence[Meter], now: Sequence[Meter], kind: str) -> float | None:
    """How far a meter has moved on; None without both readings, or after a correction or a new meter."""
    first = next((m for m in before if m.kind == kind), None)
    last = next((m for m in now if m.kind == kind), None)
    if first is None or last is None or last.figure < first.figure or last.basis == "new_meter":
        return None
    return last.figure - first.figure


def _run_km(before: Sequence[Meter], now: Sequence[Meter]) -> float | None:
    km = _difference(before, now, "km")
    miles = _difference(before, now, "miles")
    return km if km is not None else None if miles is None else miles * KM_PER_MILE
