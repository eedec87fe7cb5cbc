"""A watering schedule as an iCalendar file (RFC 5545), again and again at its interval."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from hydrarch.core.coverage.schedule import Schedule
from hydrarch.core.plan.document import Plan
from hydrarch.formats.calendar import calendar, entry, written

__all__ = ["schedule_calendar"]

_TIMES = 30


def schedule_calendar(plan: Plan, job_id: str, found: Schedule, now: float) -> str:
    """An event for each opening, from tomorrow on at its interval, in the time of the place where it is read."""
    day = (datetime.fromtimestamp(now, UTC) + timedelta(days=1)).replace(
        hour=0, minute=0, second=0, microsecond=0, tzinfo=None
    )
    whole = calendar("watering", plan.name)
    for n, o in enumerate(found.openings, 1):
        mine = entry(f"water-{n}-{o.zone}-{job_id}@hydrarch", now, f"Water {o.name}, station {o.station}", "")
        mine.add("dtstart", day + timedelta(seconds=round(o.begins)))
        mine.add("dtend", day + timedelta(seconds=round(o.begins + o.seconds)))
        mine.add("rrule", {"freq": "daily", "interval": found.need.days, "count": _TIMES})
        whole.add_component(mine)
    return written(whole)
