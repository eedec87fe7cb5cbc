"""Dates and times as loggers and weather stations write them."""

from __future__ import annotations

import re
from datetime import datetime

__all__ = ["moment"]

_FORMS = ("%d.%m.%Y %H:%M:%S", "%d.%m.%Y %H:%M", "%Y-%m-%d %I:%M:%S %p", "%Y-%m-%d %I:%M %p", "%Y-%m-%d %H:%M:%S,%f")


def moment(text: str) -> float | None:
    """The time (s since 1970) that a date and time mean, in the machine's own time where they name no other; None for
    what is none. Day and month are distinguished by a figure above twelve, a point between them, or a year in front.

    >>> moment("2026-11-24T06:00:00+00:00")
    1795500000.0
    >>> moment("24.11.2026 06:00") == moment("2026-11-24 06:00")
    True
    """
    told = text.strip().replace("/", "-") if re.match(r"\d{4}/", text.strip()) else text.strip()
    try:
        return datetime.fromisoformat(told).timestamp() if len(told) >= 10 else None
    except ValueError:
        pass
    for form in _FORMS:
        try:
            return datetime.strptime(told, form).timestamp()
        except ValueError:
            continue
    slashed = re.fullmatch(r"(\d{1,2})/(\d{1,2})/(\d{4})(\s.*)?", told)
    if slashed and (int(slashed[1]) > 12) != (int(slashed[2]) > 12):  # else it can be either
        day, month = (slashed[1], slashed[2]) if int(slashed[1]) > 12 else (slashed[2], slashed[1])
        return moment(f"{slashed[3]}-{int(month):02}-{int(day):02}{slashed[4] or ' 00:00'}")
    return None
