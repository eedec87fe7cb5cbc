"""A watering schedule as an iCalendar file (RFC 5545), again and again at its interval."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from hydrarch.core.coverage.schedule import Schedule
from hydrarch.core.plan.document import Plan
from hydrarch.formats.calendar import escaped, folded

__all__ = ["schedule_calendar"]

_TIMES = 30


def schedule_calendar(plan: Plan, job_id: str, found: Schedule, now: float) -> str:
    """An event for each opening, from tomorrow on at its interval, in the time of the place where it is read."""
    day = (datetime.fromtimestamp(now, UTC) + timedelta(days=1)).replace(
        hour=0, minute=0, second=0, microsecond=0, tzinfo=None
    )
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Hydrarch//watering//EN", f"X-WR-CALNAME:{escaped(plan.name)}"]
    for n, o in enumerate(found.openings, 1):
        begins, ends = day + timedelta(seconds=round(o.begins)), day + timedelta(seconds=round(o.begins + o.seconds))
        lines += [
            "BEGIN:VEVENT",
            f"UID:water-{n}-{escaped(o.zone)}-{job_id}@hydrarch",
            f"DTSTAMP:{datetime.fromtimestamp(now, UTC):%Y%m%dT%H%M%SZ}",
            f"DTSTART:{begins:%Y%m%dT%H%M%S}",
            f"DTEND:{ends:%Y%m%dT%H%M%S}",
            f"RRULE:FREQ=DAILY;INTERVAL={found.need.days};COUNT={_TIMES}",
            f"SUMMARY:{escaped(f'Water {o.name}, station {o.station}')}",
            "END:VEVENT",
        ]
    lines.append("END:VCALENDAR")
    return "\r\n".join(part for line in lines for part in folded(line)) + "\r\n"
