"""The time of what was said on a device whose clock was wrong, or was changed before it could be sent."""

from __future__ import annotations

__all__ = ["SLACK", "put_right"]

SLACK = 30.0
"""s by which a device's clock may be wrong, or its words long on their way, before its times are put right."""


def put_right(
    at: float, *, off_now: float, off_then: float | None, now: float, latest: float | None = None
) -> tuple[float, float]:
    """The time (s since 1970) of what a device said at `at` by its own clock, and how much (s) earlier it may have
    been.

    `off_now` is by how much (s) its clock is to be put right as it sends, `off_then` what it knew of that as it was
    said, None where it knew nothing. Where the two differ, the clock was changed in between and either may hold: the
    later one counts, so that no joint is cured before its time, and the difference is the doubt. Never later than
    `now`, nor than `latest`, which is what the device's second clock leaves: one that nobody sets, and that runs on
    while the page it was said on stays open. A device that knew nothing of its clock, and whose page is known, is
    believed no further than that: what lies between is the doubt.

    >>> put_right(1000.0, off_now=0.0, off_then=10800.0, now=50000.0)
    (11800.0, 10800.0)
    >>> put_right(1000.0, off_now=5.0, off_then=None, now=50000.0)
    (1000.0, 0.0)
    """
    most = now if latest is None else min(latest, now)
    found = [at + (off if abs(off) > SLACK else 0.0) for off in (off_now, off_now if off_then is None else off_then)]
    if latest is not None and off_then is None:
        found.append(most)
    late, early = max(found), min(found)
    if late - early <= 2 * SLACK:
        return (found[0] if latest is None or found[0] <= most + SLACK else most), 0.0
    late = max(min(late, most), min(early, most))
    return late, max(late - early, 0.0)
