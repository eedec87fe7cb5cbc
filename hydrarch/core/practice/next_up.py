"""What a person practises next, spaced by how it went: what went well comes back later, what did not, soon."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

__all__ = ["NextUp", "Practised", "missed_before", "next_up"]

_DAY = 86400.0
_FIRST, _GROWS, _MOST = 2.0, 2.5, 120.0  # days; a spacing that doubles and more each time it goes well; from memory
_WELL = 0.85


@dataclass(frozen=True, slots=True)
class Practised:
    """One attempt that ended: at which exercise, when (s since 1970), how much of it went well (0 to 1), and which
    faults were not seen.
    """

    exercise: str
    at: float
    share: float
    missed: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class NextUp:
    """When an exercise comes up again (s since 1970; None: it was never done), how often it was done, how the last time
    went, and why it comes then.
    """

    exercise: str
    due: float | None
    times: int
    last: float | None
    why: str


def next_up(exercises: Iterable[str], done: Iterable[Practised], now: float) -> tuple[NextUp, ...]:
    """Every exercise with when it comes up: what is overdue first, then what was never done, then the rest by date.

    After an attempt that went well the next one is 2 days off, and two and a half times as long each time more; one
    that did not go well starts that anew.
    """
    by: dict[str, list[Practised]] = {}
    for one in sorted(done, key=lambda d: d.at):
        by.setdefault(one.exercise, []).append(one)
    found = [_of(name, by.get(name, [])) for name in exercises]

    def order(item: NextUp) -> tuple[int, float]:
        if item.due is None:
            return 1, 0.0
        return (0 if item.due <= now else 2), item.due

    return tuple(sorted(found, key=order))


def _of(name: str, done: list[Practised]) -> NextUp:
    if not done:
        return NextUp(name, None, 0, None, "not done yet")
    days, well = _FIRST, 0
    for one in done:
        well = well + 1 if one.share >= _WELL else 0
        days = min(_FIRST * _GROWS ** (well - 1), _MOST) if well else 1.0
    last = done[-1]
    why = f"went well {well} times in a row" if well > 1 else "went well" if well else "some of it went wrong"
    return NextUp(name, last.at + days * _DAY, len(done), last.share, why)


def missed_before(done: Iterable[Practised]) -> Mapping[str, int]:
    """How often each fault was not seen in the last three attempts."""
    latest = sorted(done, key=lambda d: d.at)[-3:]
    return Counter(m for one in latest for m in one.missed)
