"""The week of a shop: what was done, by whom, how it ended; what stands open, is due, is in doubt, waits."""

from collections import Counter
from collections.abc import Sequence
from datetime import UTC, date, datetime, time, timedelta
from uuid import UUID
from zoneinfo import ZoneInfo

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.settings import Dates, shift_at
from tight_ledger.core.records.entries import Outcome
from tight_ledger.core.runs.bay import MOST_SERIOUS_FIRST
from tight_ledger.core.runs.summary import RunSummary
from tight_ledger.core.specs.followups import DueStatus
from tight_ledger.services.bay import MachineInBay, by_machine
from tight_ledger.services.context import Context
from tight_ledger.services.notices import NoticeNow, notices
from tight_ledger.services.people import names_shown
from tight_ledger.services.specs.revisions import ToCheck, to_check
from tight_ledger.services.standing import OpenFollowup, PlaceNow, attention, open_followups
from tight_ledger.services.tools.inventory import ToolLine, crib
from tight_ledger.store import machines as machine_store
from tight_ledger.store import runs as run_store
from tight_ledger.store import summaries
from tight_ledger.store.runs import RunRow
from tight_ledger.store.shop import Shop

YEARS = range(2000, 2101)
"""Years in which a device can record."""
DAYS = 7
AHEAD_DAYS = 14
"""How far the picture of what is due looks ahead."""


class DoneLine(Model):
    """A run that ended in the week."""

    run: UUID
    machine: UUID
    fleet_number: str
    position: str
    title: str
    procedure: str
    standing: Outcome | None
    people: tuple[str, ...]
    pulls: int
    at: datetime
    shift: str
    """In which it ended, by the shop's settings; empty where there are none."""
    reasons: tuple[str, ...]


class DayCount(Model):
    """A day with a number for each thing that is counted."""

    day: date
    counts: dict[str, int]


class Week(Model):
    """A week of a shop, from Monday on; a day is a day there."""

    shop: str
    time_zone: str
    dates: Dates
    monday: date
    done: tuple[DoneLine, ...]
    bay: tuple[MachineInBay, ...]
    """The machines that need somebody; follow-ups that are overdue, due or soon due."""
    in_doubt: tuple[ToolLine, ...]
    """Wrenches that are set aside or due for a check."""
    notices: tuple[NoticeNow, ...]
    to_check: tuple[ToCheck, ...]
    pulls: tuple[DayCount, ...]
    """By day of the week: pulls and checks."""
    outcomes: tuple[DayCount, ...]
    """By day of the week: how runs ended."""
    ahead: tuple[DayCount, ...]
    """By day from today on: re-torques that have that day as their last."""

    @property
    def open(self) -> list[PlaceNow]:
        """The places that need somebody, the most serious first."""
        places = [place for line in self.bay for place in line.places]
        return sorted(places, key=lambda place: MOST_SERIOUS_FIRST.index(place.state))

    def following(self, *statuses: DueStatus) -> list[OpenFollowup]:
        """The follow-ups of these statuses."""
        return [each for line in self.bay for each in line.followups if each.due.status in statuses]


def monday_of(day: date) -> date:
    """The Monday of a day's week."""
    return day - timedelta(days=day.weekday())


async def week(context: Context, monday: date | None = None) -> Week:
    """A week as it stands; by default the one that is now.

    Args:
        monday: any day of it.

    Raises:
        Invalid: a day in a year in which nothing can have been recorded.
    """
    shop = await context.shop()
    zone = ZoneInfo(shop.time_zone)
    today = context.now().astimezone(zone).date()
    if monday is not None and monday.year not in YEARS:
        raise Invalid("day", f"Nothing was recorded in the year {monday.year}.", f"It lies between {YEARS[0]} and {YEARS[-1]}.")
    first = monday_of(monday or today)
    since, until = (datetime.combine(day, time(), zone).astimezone(UTC) for day in (first, first + timedelta(days=DAYS)))
    said, tools = await notices(context, most_worked_off=0), (await crib(context)).tools

    async def work(connection: AsyncConnection) -> Week:
        names, ended = await names_shown(connection), await summaries.ended_between(connection, since, until)
        fleet = await machine_store.fleet_numbers(connection, {row.machine_id for row, _ in ended})
        followups = await open_followups(context, connection)
        pulls = await run_store.pulls_between(connection, since, until)
        waiting, _ = await to_check(connection)
        return Week(
            shop=shop.name, time_zone=shop.time_zone, dates=shop.dates, monday=first,
            done=tuple(_done(row, summary, names, fleet, shop) for row, summary in ended),
            bay=by_machine(await attention(context, connection, None), [each for each in followups if each.due.status != "waiting"]),
            in_doubt=tuple(tool for tool in tools if tool.care is not None and tool.care.standing in ("quarantined", "due")),
            notices=tuple(notice for notice in said if notice.left > 0), to_check=tuple(waiting),
            pulls=_by_day(first, DAYS, [(at.replace(tzinfo=UTC).astimezone(zone).date(), "pulls", many) for at, many in pulls]),
            outcomes=_by_day(first, DAYS, [(_day(summary, zone), summary.standing or "not finished", 1) for _, summary in ended]),
            ahead=_by_day(today, AHEAD_DAYS, _due_days(followups, zone, today)),
        )  # fmt: skip

    return await context.database.run(work)


def _done(row: RunRow, summary: RunSummary, names: dict[UUID, str], fleet: dict[UUID, str], shop: Shop) -> DoneLine:
    at = summary.ended_at or summary.started_at
    return DoneLine(
        run=row.id, machine=row.machine_id, fleet_number=fleet.get(row.machine_id, ""), position=summary.position, title=summary.title,
        procedure=row.procedure, standing=summary.standing, people=tuple(names.get(each, "somebody") for each in summary.people),
        pulls=summary.pulls, at=at, shift=shift_at(shop.settings, shop.time_zone, at), reasons=summary.reasons,
    )  # fmt: skip


def _day(summary: RunSummary, zone: ZoneInfo) -> date:
    return (summary.ended_at or summary.started_at).astimezone(zone).date()


def _due_days(followups: Sequence[OpenFollowup], zone: ZoneInfo, today: date) -> list[tuple[date, str, int]]:
    """What is due by a date; what is past its date counts for today."""
    days = (each.due.by_date.astimezone(zone).date() for each in followups if each.due.by_date is not None)
    return [(max(day, today), "re-torques", 1) for day in days]


def _by_day(first: date, days: int, counted: Sequence[tuple[date, str, int]]) -> tuple[DayCount, ...]:
    found: dict[date, Counter[str]] = {first + timedelta(days=day): Counter() for day in range(days)}
    for day, name, many in counted:
        if day in found:
            found[day][name] += many
    return tuple(DayCount(day=day, counts=dict(counts)) for day, counts in found.items())
