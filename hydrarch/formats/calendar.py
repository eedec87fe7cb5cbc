"""The clocks as an iCalendar file (RFC 5545): when joints may be handled, when sections may take water, when tins run
out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from hydrarch.core.commissioning.readiness import Readiness
from hydrarch.core.commissioning.sections import Section
from hydrarch.core.joining.records import Joint
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.reminders import Reminder

__all__ = ["Clock", "calendar_text", "clocks", "escaped", "folded", "reminders_text"]


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
    """An iCalendar file with an event and an alarm for every clock, lines folded at 75 octets as the RFC asks."""
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Hydrarch//clocks//EN", f"X-WR-CALNAME:{escaped(plan.name)}"]
    for c in waits:
        lines += [
            "BEGIN:VEVENT",
            f"UID:{escaped(c.id)}-{job_id}@hydrarch",
            f"DTSTAMP:{_time(stamp)}",
            f"DTSTART:{_time(c.at)}",
            f"DTEND:{_time(c.at + 900)}",
            f"SUMMARY:{escaped(c.title)}",
            f"DESCRIPTION:{escaped(c.says)}",
            "BEGIN:VALARM",
            "ACTION:DISPLAY",
            f"DESCRIPTION:{escaped(c.title)}",
            "TRIGGER:PT0S",
            "END:VALARM",
            "END:VEVENT",
        ]
    lines.append("END:VCALENDAR")
    return "\r\n".join(part for line in lines for part in folded(line)) + "\r\n"


def reminders_text(plan: Plan, job_id: str, found: Sequence[Reminder], stamp: float) -> str:
    """The same for what is to be done again: each on its day, and on at its interval, with a word the day before."""
    lines = [
        "BEGIN:VCALENDAR",
        "VERSION:2.0",
        "PRODID:-//Hydrarch//reminders//EN",
        f"X-WR-CALNAME:{escaped(plan.name)}",
    ]
    for r in found:
        often = "FREQ=YEARLY" if r.every == 365 else f"FREQ=DAILY;INTERVAL={r.every}"
        lines += [
            "BEGIN:VEVENT",
            f"UID:{escaped(r.id)}-{job_id}@hydrarch",
            f"DTSTAMP:{_time(stamp)}",
            f"DTSTART;VALUE=DATE:{datetime.fromtimestamp(max(r.due, stamp), UTC):%Y%m%d}",
            f"RRULE:{often}",
            f"SUMMARY:{escaped(r.title)}",
            f"DESCRIPTION:{escaped(r.says)}",
            "BEGIN:VALARM",
            "ACTION:DISPLAY",
            f"DESCRIPTION:{escaped(r.title)}",
            "TRIGGER:-P1D",
            "END:VALARM",
            "END:VEVENT",
        ]
    lines.append("END:VCALENDAR")
    return "\r\n".join(part for line in lines for part in folded(line)) + "\r\n"


def _time(at: float) -> str:
    return datetime.fromtimestamp(at, UTC).strftime("%Y%m%dT%H%M%SZ")


def escaped(text: str) -> str:
    """Text as the RFC wants it in a line."""
    for plain, written in (("\\", "\\\\"), (";", "\\;"), (",", "\\,"), ("\n", "\\n")):
        text = text.replace(plain, written)
    return text


def folded(line: str) -> list[str]:
    """Lines of at most 75 octets, the next ones beginning with a space; no character is parted."""
    folded, current = [], ""
    for letter in line:
        if len((current + letter).encode()) > 75:
            folded.append(current)
            current = " "
        current += letter
    return [*folded, current]
