"""Follow-ups as an iCalendar feed (RFC 5545): those that have a date, a day each, with an alarm that morning."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from tight_ledger.services.standing import OpenFollowup

ALARM_AFTER_MIDNIGHT = timedelta(hours=7)
"""When the alarm rings on the day. Common practice, no source."""


def followups_ics(shop: str, zone: str, followups: Sequence[OpenFollowup], now: datetime, base: str) -> bytes:
    """The feed.

    Args:
        zone: of the shop; a day is a day there.
        base: the address of this shop, for the link of each entry.
    """
    from icalendar import Alarm, Calendar, Event  # a tenth of what a process loads at its start; few ask for the feed

    calendar = Calendar()
    calendar.add("prodid", "-//Tight Ledger//follow-ups//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", f"{shop}: re-torques")
    for each in followups:
        if each.due.by_date is None:
            continue
        event, day = Event(), each.due.by_date.astimezone(ZoneInfo(zone)).date()
        event.add("uid", f"{each.root}-{each.due.followup}-{each.due.parent}@tight-ledger")
        event.add("dtstamp", now)
        event.add("dtstart", day)
        event.add("dtend", day + timedelta(days=1))
        event.add("summary", f"{each.fleet_number} {each.position}: {each.due.procedure}".replace("  ", " "))
        event.add("description", f"{each.title}. {each.due.words}; at the latest on this day. Needs {', '.join(each.wrenches)}.")
        event.add("url", f"{base}/go/followup/{each.root}/{each.due.followup}")
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", f"Re-torque {each.fleet_number} today")
        alarm.add("trigger", ALARM_AFTER_MIDNIGHT)
        event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
