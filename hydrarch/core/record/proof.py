"""What proves a joint: what a test must come to, and tests that cannot both be so."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import inf

from hydrarch.core.record.events import Event

__all__ = ["READ_TO", "READ_WITHIN", "TestNeed", "clashing_tests", "test_end"]


@dataclass(frozen=True, slots=True)
class TestNeed:
    """What a test must come to that proves a joint: pressure (Pa) at the least and the most, and how long (s) it was
    held.

    No test proves a joint that is `apart` while it is held: one made after it, or parted for it. Such a joint is looked
    at.
    """

    test: float = 0.0
    most: float = inf
    hold: float = 0.0
    apart: bool = False

    def met_by(self, test: Event) -> bool:
        """Whether a test that was passed comes to that; what a gauge is read to is let pass."""
        held = (test.ended or test.at) - test.at
        if self.apart:
            return False
        return (
            self.test * READ_TO <= (test.pressure or 0.0) <= self.most / READ_TO**2 and held >= self.hold - READ_WITHIN
        )


READ_TO = 0.99
"""Share of a pressure that a gauge is read to; common practice."""
READ_WITHIN = 30.0
"""s within which a start and an end are written down."""


def test_end(test: Event) -> float:
    """When a test ended (s since 1970)."""
    return test.ended if test.ended is not None else test.at


def clashing_tests(tests: Iterable[Event]) -> dict[str, str]:
    """Tests of one line that cannot both be so, each with what the other says: at one time it held and failed, or stood
    at two pressures.
    """
    known = sorted((t for t in tests if not t.simulated), key=lambda t: (t.at, t.id))
    found: dict[str, str] = {}
    for n, one in enumerate(known):
        for two in known[n + 1 :]:
            if two.at >= test_end(one):
                continue
            apart = abs((one.pressure or 0.0) - (two.pressure or 0.0)) > 2 * (1 - READ_TO) * max(
                one.pressure or 0.0, two.pressure or 0.0
            )
            if bool(one.passed) == bool(two.passed) and not apart:
                continue
            how = "at another pressure" if apart else "with another result"
            found.setdefault(
                one.id, f"{two.by or 'somebody'} recorded a test of the same time {how}: withdraw one of the two"
            )
            found.setdefault(
                two.id, f"{one.by or 'somebody'} recorded a test of the same time {how}: withdraw one of the two"
            )
    return found
