"""Long sections on paper: the ground over a line and the pipe in it, from where the water comes to the farthest it
goes, heights drawn larger.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from hydrarch.core.base.units import show
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import ProfilePoint, profile
from hydrarch.formats.drawing import Sheet
from hydrarch.formats.paper import WIDE, Paper

__all__ = ["long_sections"]

_TALL, _LEFT, _RIGHT, _TOP, _FOOT = 62.0, 24.0, 12.0, 14.0, 16.0  # mm of paper
_MOST = 4
_LARGER = (1, 2, 5, 10, 20, 50, 100)
_LEAST = 1.0  # m of line, below which no section is worth its paper
_APART = 12.0  # mm between two levels that are written out


def long_sections(plan: Plan, derived: Derivation) -> tuple[Sheet, ...]:
    """One of each of the longest systems: of a supply from its source, of a drain down to where it lets out."""
    found = [way for way in _ways(plan, derived) if way and way[-1].distance >= _LEAST]
    found.sort(key=lambda way: (-way[-1].distance, way[0].point, way[-1].point))
    return tuple(_drawn(plan, way) for way in found[:_MOST])


def _ways(plan: Plan, derived: Derivation) -> Iterator[tuple[ProfilePoint, ...]]:
    lay = derived.layout
    for system in lay.systems.found:
        here = set(system.points)
        fed = sorted((p for p in here if p in lay.distance), key=lambda p: (-lay.distance[p], p))
        down = sorted((p for p in here if p in lay.outfall), key=lambda p: (-lay.outfall[p], p))
        first = next((s for s in sorted(system.sources) if s in here), None)
        if first is not None and fed:
            yield profile(plan, lay, first, fed[0], {})
        elif down:
            yield tuple(profile(plan, lay, down[0], down[-1], {}))


def _drawn(plan: Plan, way: tuple[ProfilePoint, ...]) -> Sheet:
    long = way[-1].distance
    heights = [h for p in way for h in (p.ground, p.pipe)]
    low, high = min(heights), max(heights)
    across = (WIDE - _LEFT - _RIGHT) / long
    room = _TALL - _TOP - _FOOT
    larger = max((n for n in _LARGER if (high - low) * across * n <= room), default=1)
    up = min(across * larger, room / (high - low) if high > low else across)
    paper = Paper(WIDE, _TALL)
    foot = _TALL - _FOOT

    def at(s: float, level: float) -> tuple[float, float]:
        return _LEFT + s * across, foot - (level - low) * up

    for one, two in pairwise(way):
        paper.line(at(one.distance, one.ground), at(two.distance, two.ground), 0.4, "#8a8577", "2 1")
        paper.line(at(one.distance, one.pipe), at(two.distance, two.pipe), 0.9, "#16212a")
    written, last = -_APART, at(long, low)[0]
    for p in way:
        x, y = at(p.distance, p.pipe)
        plain = plan.by_id[p.point].kind.plain
        paper.point((x, y), plain=plain, mark=False)
        if x == last or (x - written >= _APART and last - x >= _APART):
            written = x
            paper.stroke(((x, foot + 3), (x, foot + 5)), 0.3, "#8a8577")
            for row, value in enumerate((p.ground, p.pipe)):
                paper.word(
                    (x, foot + 8.4 + 3.4 * row),
                    show(value, "level", plan.units).text,
                    colour="#8a8577" if row == 0 else "#16212a",
                )
    for p in way:
        if not plan.by_id[p.point].kind.plain:
            paper.label(at(p.distance, max(p.ground, p.pipe)), p.name, bold=True)
    unit = show(1.0, "level", plan.units).unit
    for row, words in enumerate(("ground", "pipe")):
        paper.word(
            (0.0, foot + 8.4 + 3.4 * row), f"{words}, {unit}", middle=False, colour="#8a8577" if row == 0 else "#16212a"
        )
    paper.bar(1e3 / across, plan.units, 6.0)
    told = f"Long section, {way[0].name} to {way[-1].name}, {show(long, 'length', plan.units)}"
    stretched = up / across
    return Sheet(f"{told}; heights {stretched:.3g} times as large" if stretched > 1.01 else told, paper)
