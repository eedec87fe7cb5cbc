"""The clocks as an iCalendar file (RFC 5545): when joints may be handled, when sections may take water, when tins run
out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from icalendar import Alarm, Calendar, Event

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.commissioning.readiness import Readiness
from hydrarch.core.commissioning.sections import Section
from hydrarch.core.joining.assembled import Joint
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.reminders import Reminder

__all__ = ["Clock", "calendar", "calendar_text", "clocks", "entry", "reminders_text", "utc", "written"]


_FIRST = 1.6e9
"""s since 1970 from which versions of an entry are counted, by the minute: a later one takes the place of an earlier."""


@dataclass(frozen=True, slots=True)
class Clock:
    """One moment to wait for (s since 1970): a joint that may be handled, or a section that may take pressure."""

    id: str
    at: float
    title: str
    says: str


def clocks(parts: Sequence[Section], now: Readiness, joints: Sequence[Joint]) -> tuple[Clock, ...]:
    """Every clock that still runs, the next first: joints that set and cure, and sections that may then be filled and
    tested.
    """
    places: dict[str, str] = {j.id: f"{j.place}, towards {j.towards}" if j.towards else j.place for j in joints}
    found = [
        Clock(f"set-{j.joint}", j.set_at, f"Joint may be handled: {places[j.joint]}", j.joint)
        for j in now.joints.values()
        if j.state == "setting" and j.set_at is not None and j.set_at > now.now
    ]
    found += [
        Clock(f"cure-{j.joint}", j.cured_at, f"Joint has cured: {places[j.joint]}", j.joint)
        for j in now.joints.values()
        if j.state in ("setting", "curing") and j.cured_at is not None and j.cured_at > now.now
    ]
    for s in parts:
        fill, full = now.sections[s.id].fill, now.sections[s.id].pressurise
        if fill.from_time is not None and fill.from_time > now.now:
            found.append(Clock(f"fill-{s.id}", fill.from_time, f"{s.name} may be filled, slowly", fill.why))
        if full.from_time is not None and full.from_time > now.now:
            found.append(Clock(f"cured-{s.id}", full.from_time, f"{s.name} may take its full test", full.why))
    return tuple(sorted(found, key=lambda c: (c.at, c.id)))


def calendar_text(plan: Plan, job_id: str, waits: Sequence[Clock], stamp: float) -> str:
    """An iCalendar file with an event and an alarm for every clock. Raises `HydrarchError` where none runs: a calendar
    with nothing in it is none (RFC 5545).
    """
    if not waits:
        raise HydrarchError("no clock runs: there is nothing to put into a calendar")
    whole = calendar("clocks", plan.name)
    for c in waits:
        mine = entry(f"{c.id}-{job_id}@hydrarch", stamp, c.title, c.says, timedelta(0))
        mine.add("dtstart", utc(c.at))
        mine.add("dtend", utc(c.at + 900))
        whole.add_component(mine)
    return written(whole)


def reminders_text(plan: Plan, job_id: str, found: Sequence[Reminder], stamp: float) -> str:
    """The same for what is to be done again: each on the day it is due, or was, and on at its interval, with a word the
    day before. A calendar taken again says the same days.
    """
    if not found:
        raise HydrarchError("nothing here is to be done again: there is nothing to put into a calendar")
    whole = calendar("reminders", plan.name)
    for r in found:
        mine = entry(f"{r.id}-{job_id}@hydrarch", stamp, r.title, r.says, timedelta(days=-1))
        mine.add("dtstart", utc(r.due).date())
        mine.add("rrule", {"freq": "yearly"} if r.every == 365 else {"freq": "daily", "interval": r.every})
        whole.add_component(mine)
    return written(whole)


def calendar(of: str, name: str) -> Calendar:
    """A calendar with nothing in it yet: what it is `of`, and the job's name."""
    whole = Calendar()
    whole.add("version", "2.0")
    whole.add("prodid", f"-//Hydrarch//{of}//EN")
    whole.add("x-wr-calname", name)
    return whole


def entry(uid: str, stamp: float, title: str, says: str, before: timedelta | None = None) -> Event:
    """An event without its time, made at `stamp` (s since 1970), with an alarm so long `before` it where that is said."""
    mine = Event()
    mine.add("uid", uid)
    mine.add("dtstamp", utc(stamp))
    mine.add("sequence", max(0, int((stamp - _FIRST) // 60)))
    mine.add("summary", title)
    if says:
        mine.add("description", says)
    if before is not None:
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", title)
        alarm.add("trigger", before)
        mine.add_component(alarm)
    return mine


def written(whole: Calendar) -> str:
    """A calendar as RFC 5545 has it."""
    return str(whole.to_ical().decode("utf-8"))


def utc(at: float) -> datetime:
    """A moment (s since 1970) to the second."""
    return datetime.fromtimestamp(at, UTC).replace(microsecond=0)
