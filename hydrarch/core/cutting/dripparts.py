"""What drip rows take beside the fittings: tubing with emitters in it, emitters, feeders and their barbs, plugs for
holes too many, stakes.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from math import ceil

from hydrarch.core.base.units import FOOT, System, show
from hydrarch.core.catalogue.prices import InLine
from hydrarch.core.components.outlets import DripRow
from hydrarch.core.hydraulics.spread import row_length, row_runs
from hydrarch.core.plan.document import Plan

__all__ = ["STAKES", "DripPart", "drip_parts", "in_line", "in_line_count", "in_line_words"]

STAKES = {"sand": 2.0, "sandy-loam": 2.5, "loam": 3.0, "clay-loam": 3.5, "clay": 4.0}
"""ft between the stakes of tubing, by soil: every 2 to 4 ft, nearer where the ground holds less; common practice."""
_COIL = 100 * FOOT
_PLUGS = 0.05
"""Of the holes that are punched, those that turn out too many; estimate, from memory."""


@dataclass(frozen=True, slots=True)
class DripPart:
    """A line of the list: what it is by a short name and in words, how many, of which unit, and how the number came
    about.
    """

    item: str
    name: str
    count: int
    unit: str
    detail: str


def in_line(plan: Plan) -> dict[str, InLine]:
    """The runs of rows whose emitters are in the tubing, each with what is in it; that tubing is bought by itself."""
    return {run.id: made for p, _, made in _in_tubing(plan) for run in row_runs(plan, p)[1]}


def in_line_count(plan: Plan) -> Counter[InLine]:
    """How many emitters rows are drawn with, by the tubing they are in."""
    found: Counter[InLine] = Counter()
    for _, count, made in _in_tubing(plan):
        found[made] += count
    return found


def _in_tubing(plan: Plan) -> Iterator[tuple[str, int, InLine]]:
    for p in plan.points:
        what = p.what
        if isinstance(what, DripRow) and what.built == "in line" and p.existing is None:
            yield p.id, what.emitters, InLine(float(f"{what.spacing:.4g}"), float(f"{what.each * 3.6e6:.4g}"))


def in_line_words(made: InLine, units: System) -> str:
    """What is in such tubing, in a person's units."""
    return f"an emitter of {show(made.each / 3.6e6, 'emitter', units)} every {show(made.spacing, 'length', units)}"


def drip_parts(plan: Plan) -> Iterator[DripPart]:
    """What all rows of a plan take, alike things on one line; nothing of rows that exist already.

    Emitters that are not in the tubing are counted.
    """
    emitters: dict[tuple[str, float, float], int] = defaultdict(int)
    feeders, holes, fed, long = 0.0, 0, 0, 0.0
    for p in plan.points:
        what = p.what
        if not isinstance(what, DripRow) or p.existing is not None:
            continue
        if what.built != "in line":
            emitters[what.built, what.each, what.spacing] += what.emitters
        long += row_length(plan, p.id)
        holes += what.emitters if what.built != "in line" else 0
        if what.built == "on feeders":
            feeders, fed = feeders + what.emitters * what.feeder, fed + what.emitters
    for (built, each, spacing), count in sorted(emitters.items()):
        flow, apart = show(each, "emitter", plan.units), show(spacing, "length", plan.units)
        yield DripPart(f"emitter {each:.3e}", f"Emitter {flow}", count, "", f"{built}, one every {apart}")
    if fed:
        feeding = (
            f"{show(feeders, 'length', plan.units)} for {fed} feeders, in coils of {show(_COIL, 'length', plan.units)}"
        )
        yield DripPart("feeder", "Quarter-inch feeder tubing", ceil(feeders / _COIL - 1e-9), "coil", feeding)
        softened = "one in each hole; soften the feeder in hot water, never with a flame"
        yield DripPart("feeder barb", "Quarter-inch barb", fed, "", softened)
        yield DripPart("small stake", "Small stake for a feeder's end", fed, "", "one each")
    if holes:
        yield DripPart(
            "hole plug",
            "Plug for a hole too many",
            max(2, ceil(holes * _PLUGS)),
            "",
            f"{holes} holes are punched; large end in",
        )
    if long:
        every = STAKES[plan.conditions.soil] * FOOT
        yield DripPart(
            "stake",
            "Stake for tubing",
            ceil(long / every) + 1,
            "",
            f"every {show(every, 'length', plan.units)}: {show(long, 'length', plan.units)} of rows on "
            f"{plan.conditions.soil.replace('-', ' ')}",
        )
