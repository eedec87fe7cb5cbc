"""The small parts that a joint wants beside its fittings: clamps, liners, washers, gaskets."""

from __future__ import annotations

from collections import Counter

from hydrarch.core.catalogue.fittings import mating_method
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.joining.pipe_or_end import PipeOrEnd
from hydrarch.core.joining.stacks import Stack

__all__ = ["HEAD_OF_DRIP", "belongings"]

HEAD_OF_DRIP = (
    "Before drip tubing, in the order of flow: timer (if any), backflow preventer, filter, pressure "
    "regulator, then this "
    "joint. A house's pressure blows drip fittings apart without the regulator."
)
"""What stands between a tap and drip tubing; common practice."""


def belongings(stack: Stack, start: PipeOrEnd, stop: PipeOrEnd | None) -> tuple[str, ...]:
    """What to buy beside the fittings of a way between two things, in words with counts; `stop` is None for a line that
    is closed.
    """
    counts: Counter[str] = Counter()
    pairs = [(a, b, mating_method(a, b) or "") for a, b in stack.ends()]
    for n, (a, b, how) in enumerate(pairs):
        outer = [t for t, at in ((start, 0), (stop, len(pairs) - 1)) if t is not None and at == n]
        if how == "barb and clamp":
            counts[f"worm-drive clamp for {a.size}, two on the barb with the screws on opposite sides"] += 2
        if how == "washer thread":
            counts["flat washer in the hose nut; no tape"] += 1
        if how == "bulkhead":
            counts["gasket under the flange on the wet side, never under the nut"] += 1
        if "vinyl" in (a.system, b.system):
            counts[f"clamp for {a.size} vinyl, after the tube is snug on the barb"] += 1
        if "compression" in how:
            for thing in outer:
                if thing.series is not None and series(thing.series).liner:
                    counts[f"liner for {series(thing.series).short} {thing.size}, inside the pipe under the nut"] += 1
    return tuple(f"{n} × {what}" if n > 1 else what for what, n in counts.items())
