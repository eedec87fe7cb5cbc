"""The time of what was said on a device whose clock was wrong, or was changed before it could be sent."""

from __future__ import annotations

__all__ = ["SLACK", "put_right"]

SLACK = 30.0
"""s by which a device's clock may be wrong, or its words long on their way, before its times are put right."""


def put_right(at: float, *, off_now: float, off_then: float | None, now: float) -> tuple[float, float]:
    """The time (s since 1970) of what a device said at `at` by its own clock, and how much (s) earlier it may have
    been.

    `off_now` is by how much (s) its clock is to be put right as it sends, `off_then` what it knew of that as it was
    said, None where it knew nothing. Where the two differ, the clock was changed in between and either may hold: the
    later one counts, so that no joint is cured before its time, and the difference is the doubt. Never later than
    `now`.

    >>> put_right(1000.0, off_now=0.0, off_then=10800.0, now=50000.0)
    (11800.0, 10800.0)
    >>> put_right(1000.0, off_now=5.0, off_then=None, now=50000.0)
    (1000.0, 0.0)
    """
    found = [at + (off if abs(off) > SLACK else 0.0) for off in (off_now, off_now if off_then is None else off_then)]
    late, early = max(found), min(found)
    if late - early <= 2 * SLACK:
        return found[0], 0.0
    late = max(min(late, now), early)
    return late, late - early
