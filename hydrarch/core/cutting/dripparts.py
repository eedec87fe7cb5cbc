"""What drip rows take beside tubing and its fittings: emitters, feeders and their barbs, plugs for holes too many, stakes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from math import ceil

from hydrarch.core.hydraulics.spread import row_length
from hydrarch.core.kinds.outlets import DripRow
from hydrarch.core.plan import Plan
from hydrarch.core.units import FOOT, show

__all__ = ["STAKES", "DripPart", "drip_parts"]

STAKES = {"sand": 2.0, "sandy-loam": 2.5, "loam": 3.0, "clay-loam": 3.5, "clay": 4.0}
"""ft between the stakes of tubing, by soil: every 2 to 4 ft, nearer where the ground holds less; common practice."""
_COIL = 100 * FOOT
_PLUGS = 0.05
"""Of the holes that are punched, those that turn out too many; estimate, from memory."""


@dataclass(frozen=True, slots=True)
class DripPart:
    """A line of the list: what it is by a short name and in words, how many, of which unit, and how the number came about."""

    item: str
    name: str
    count: int
    unit: str
    detail: str


def drip_parts(plan: Plan) -> Iterator[DripPart]:
    """What all rows of a plan take, alike things on one line; nothing of rows that were met in the ground. Their emitters are counted."""
    emitters: dict[tuple[str, float, float], int] = defaultdict(int)
    feeders, holes, fed, long = 0.0, 0, 0, 0.0
    for p in plan.points:
        what = p.what
        if not isinstance(what, DripRow) or p.existing is not None:
            continue
        emitters[what.built, what.each, what.spacing] += what.emitters
        long += row_length(plan, p.id)
        holes += what.emitters if what.built != "in line" else 0
        if what.built == "on feeders":
            feeders, fed = feeders + what.emitters * what.feeder, fed + what.emitters
    for (built, each, spacing), count in sorted(emitters.items()):
        flow, apart = show(each, "emitter", plan.units), show(spacing, "length", plan.units)
        if built == "in line":
            yield DripPart(
                f"emitter in line {each:.3e} {spacing:g}", f"Emitters in the tubing, {flow}", count, "", f"buy the tubing with one every {apart} in it"
            )  # fmt: skip
        else:
            yield DripPart(f"emitter {each:.3e}", f"Emitter {flow}", count, "", f"{built}, one every {apart}")
    if fed:
        feeding = f"{show(feeders, 'length', plan.units)} for {fed} feeders, in coils of {show(_COIL, 'length', plan.units)}"
        yield DripPart("feeder", "Quarter-inch feeder tubing", ceil(feeders / _COIL - 1e-9), "coil", feeding)
        softened = "one in each hole; soften the feeder in hot water, never with a flame"
        yield DripPart("feeder barb", "Quarter-inch barb", fed, "", softened)
        yield DripPart("small stake", "Small stake for a feeder's end", fed, "", "one each")
    if holes:
        yield DripPart(
            "hole plug", "Plug for a hole too many", max(2, ceil(holes * _PLUGS)), "", f"{holes} holes are punched; large end in"
        )
    if long:
        every = STAKES[plan.conditions.soil] * FOOT
        yield DripPart(
            "stake", "Stake for tubing", ceil(long / every) + 1, "",
            f"every {show(every, 'length', plan.units)}: {show(long, 'length', plan.units)} of rows on {plan.conditions.soil.replace('-', ' ')}",
        )  # fmt: skip
