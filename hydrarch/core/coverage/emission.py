"""What each emitter of a drip row passes, how even that is, and how long such a row could be."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise
from math import floor, hypot
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import FOOT, GALLON, show
from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.components.outlets import DripRow
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.hydraulics.friction import METHODS
from hydrarch.core.hydraulics.spread import Row, barb_length, beyond, exponent_of, pressed, rises, rows
from hydrarch.core.hydraulics.water import Water, water
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = [
    "RULE",
    "Emission",
    "emission_problems",
    "emissions",
    "emitter_places",
    "flow_variation",
    "lateral",
    "tubing_problems",
    "uniformity",
]

declare("size", "row-uneven", "row-crowded", "row-rich", "feeder-long")
declare("survey", "row-tubing", "row-no-flush")

Array = NDArray[np.float64]
RULE = {"1/4": 30.0, "1/2": 200.0, "3/4": 480.0, "1": 960.0}
"""By size of tubing, ft of one unbroken length and gal/h through it: the crews' rule of thumb; common practice."""
_APART = 0.10
"""How much less the last emitter may pass than the first where a row is called long enough; common practice."""
_MOST = 5000
_RICH = 1.25
"""Share of their rate beyond which emitters are told to pass too much; estimate, from memory."""
_POOR = 0.8
"""Emission uniformity below which a row is called uneven: fair to poor in ASAE EP458, from memory."""
_MOST_APART = 0.2
"""Share by which the weakest emitter of a row may pass less than the strongest: 10 to 20 % is acceptable, more is not;
ASAE EP405, from memory."""
_SHOWN = 400
Longest: TypeAlias = dict[tuple[float, float, float, float, float, str, str, float], float | None]


@dataclass(frozen=True, slots=True)
class Emission:
    """A row in one scenario: `emitters` on `length` (m); what one passes at the `least`, on the `mean` and at the
    `most`, and all `flow` (m³/s).

    `lowest` and `highest` are the pressures at them (Pa); `variation` is 1 − least / most, `uniformity` Keller and
    Karmeli's, as shares. `longest` (m) is how long such a row could be on the level from the pressure it begins with;
    `rule` (m) the rule of thumb's.
    """

    point: str
    scenario: str
    emitters: int
    length: float
    flow: float
    least: float
    mean: float
    most: float
    lowest: float
    highest: float
    variation: float
    uniformity: float
    longest: float | None
    rule: float | None
    says: tuple[str, ...]


def uniformity(least: float, mean: float, variation: float, emitters_a_plant: float = 1.0) -> float:
    """Emission uniformity, as a share: (1 − 1.27·cv/√n)·q_min/q_mean; Keller and Karmeli (1974)."""
    return float((1 - 1.27 * variation / emitters_a_plant**0.5) * least / mean) if mean > 0 else 0.0


def flow_variation(least: float, most: float) -> float:
    """How much less the least passes than the most, as a share."""
    return 1 - least / most if most > 0 else 0.0


def lateral(what: DripRow, item: Pipe, head: float, count: int, plan: Plan, wet: Water) -> Array:
    """Pressure heads (m) at `count` emitters of a level row whose beginning has `head` (m) above it, barbs counted; the
    first half a spacing on.
    """
    family, each = series(item.series), _law(what, wet)
    heads = np.full(count, head)
    barb, method = barb_length(what, item.bore), METHODS[plan.conditions.friction]
    for _ in range(60):
        flows = each(heads)
        through = np.cumsum(flows[::-1])[::-1]
        steps = np.full(count, what.spacing + barb)
        steps[0] = what.spacing / 2 + barb
        c, rough = family.hazen_williams_c, family.roughness
        lost = np.asarray(method.loss(through, steps, item.bore, c, rough, wet.density, wet.viscosity))
        new = np.maximum(head - np.cumsum(lost), 0.0)
        if np.allclose(new, heads, atol=1e-6):
            return new
        heads = (heads + new) / 2
    return heads


def _law(what: DripRow, wet: Water) -> Callable[[Array], Array]:
    """What an emitter passes (m³/s) at pressure heads (m)."""
    if what.exponent == 0:
        return lambda heads: np.full(heads.shape, what.each)
    return lambda heads: what.each * (np.maximum(heads, 0.0) * wet.weight / what.at_pressure) ** what.exponent


def _longest(what: DripRow, item: Pipe, head: float, plan: Plan, wet: Water) -> float | None:
    """How long (m) a level row could be that begins with this head (m); None where not one emitter would do."""
    law, needs = _law(what, wet), what.needs / wet.weight

    def does(count: int) -> bool:
        heads = lateral(what, item, head, count, plan, wet)
        flows = law(heads)
        return bool(heads[-1] >= needs and flow_variation(float(flows.min()), float(flows.max())) <= _APART)

    if not does(1):
        return None
    good, bad = 1, _MOST + 1
    while bad - good > 1:
        middle = (good + bad) // 2
        good, bad = (middle, bad) if does(middle) else (good, middle)
    return good * what.spacing


def emissions(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], flows: Mapping[str, Flow]
) -> dict[str, dict[str, Emission]]:
    """Every row that drips, by scenario and by the point it ends at."""
    laid = rows(plan, lay)
    wet = water(plan.conditions.water_temperature)
    found: dict[str, dict[str, Emission]] = {}
    known: Longest = {}
    for name, flow in flows.items():
        for point, row in laid.items():
            if point in flow.outlets and row.start in flow.points and flow.outlets[point].pressure > 0:
                found.setdefault(name, {})[point] = _emission(plan, lay, pipes, flow, row, wet, known)
    return found


def _emission(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], flow: Flow, row: Row, wet: Water, known: Longest
) -> Emission:
    what = plan.by_id[row.point].what
    assert isinstance(what, DripRow)
    heads = {p: flow.points[p].head for p in (row.start, row.point)}
    at = pressed(heads, row.start, row.point, beyond(row, exponent_of(plan)), rises(plan, lay, row)) - row.level
    each = _law(what, wet)(at)
    least, most, mean = float(each.min()), float(each.max()), float(each.mean())
    item = pipes[row.runs[0]]
    begins = heads[row.start] - lay.places[row.start][2]
    like = (
        what.spacing,
        what.each,
        what.at_pressure,
        what.exponent,
        what.needs,
        f"{item.series} {what.built}",
        item.size,
        floor(begins * 10) / 10,
    )
    if like not in known:  # rows of a bed are alike; a little less pressure than there is
        known[like] = _longest(what, item, like[-1], plan, wet)
    longest = known[like]
    rule = RULE.get(item.size)
    found = Emission(
        point=row.point,
        scenario=flow.scenario,
        emitters=len(row.places),
        length=row.length,
        flow=float(each.sum()),
        least=least,
        mean=mean,
        most=most,
        lowest=float(at.min()) * wet.weight,
        highest=float(at.max()) * wet.weight,
        variation=flow_variation(least, most),
        uniformity=uniformity(least, mean, what.variation),
        longest=longest,
        rule=None if rule is None else rule * FOOT,
        says=(),
    )
    return replace(found, says=tuple(_says(plan, what, item, found)))


def _says(plan: Plan, what: DripRow, item: Pipe, e: Emission) -> Iterator[str]:
    units = plan.units
    least, top = str(show(e.least, "emitter", units)), str(show(e.most, "emitter", units))
    each = f"{least} each" if least == top else f"{least} to {top} each"
    many = f"{e.emitters} emitters" if e.emitters > 1 else "1 emitter"
    yield f"{many} on {show(e.length, 'length', units)}: {show(e.flow, 'emitter', units)} in all, {each}."
    if what.exponent == 0:
        yield (
            f"Emission uniformity {e.uniformity:.0%}, by what the maker lets differ alone: they compensate. The "
            f"least pressure is {show(e.lowest, 'pressure', units)}."
        )
    else:
        yield (
            f"Emission uniformity {e.uniformity:.0%}; the weakest passes {e.variation:.1%} less than the "
            "strongest where all are made alike."
        )
    if e.longest is not None:
        bound = (
            "before pressure runs out at its end"
            if what.exponent == 0
            else "before its end passes a tenth less than its beginning"
        )
        most = "more than " if e.longest >= _MOST * what.spacing * 0.999 else ""
        yield f"On the level it could be {most}{show(e.longest, 'length', units)} long {bound}."
    if e.rule is not None:
        gallons = RULE[item.size]
        over = e.length > e.rule or e.flow > gallons * GALLON / 3600
        yield (
            f"The rule of thumb gives {item.size} in tubing {show(e.rule, 'length', units)} and "
            f"{show(gallons * GALLON / 3600, 'emitter', units)}: this is {'beyond it' if over else 'within it'}"
            + ("." if over or even_enough(e) else ", but that is for level ground: here it is not even enough.")
        )


def even_enough(e: Emission) -> bool:
    """Whether a row waters as evenly as a row must: by its emission uniformity, and by how far its emitters differ."""
    return e.uniformity >= _POOR and e.variation <= _MOST_APART + 1e-9


def _evened(plan: Plan, lay: Layout, row: Row | None, e: Emission) -> str:
    """What makes a row even: against the slope where that parts its pressures, else against the pipe's loss.

    In wider tubing less is lost, and a row that falls is then less even, not more.
    """
    fall = lay.places[row.start][2] - lay.places[row.point][2] if row is not None else 0.0
    weight = water(plan.conditions.water_temperature).weight
    if abs(fall) * weight <= (e.highest - e.lowest) / 2:
        return "Shorten the row, feed it from the middle, use larger tubing, or use compensating emitters."
    steps = "Run rows along the contour, split them into terraces with a regulator each, or use compensating emitters."
    return (
        f"{steps} Larger tubing makes it worse; what stands in the row drains out at its low end."
        if fall > 0
        else steps
    )


def emission_problems(plan: Plan, lay: Layout, found: Mapping[str, Mapping[str, Emission]]) -> tuple[Problem, ...]:
    """Rows that water unevenly, emitters that have no room on their tubing, feeders that are too long; each
    told once.
    """
    told: dict[tuple[str, str], Problem] = {}
    units = plan.units
    drawn = rows(plan, lay)
    for mine in found.values():
        for e in mine.values():
            what = plan.by_id[e.point].what
            if isinstance(what, DripRow) and what.exponent > 0 and e.mean > _RICH * what.each:
                told.setdefault(
                    ("row-rich", e.point),
                    tell(
                        "row-rich",
                        e.point,
                        units,
                        row=plan.names[e.point],
                        mean=e.mean,
                        each=what.each,
                        at=what.at_pressure,
                    ),
                )
            if not even_enough(e) and ("row-uneven", e.point) not in told:
                told["row-uneven", e.point] = tell(
                    "row-uneven",
                    e.point,
                    units,
                    row=plan.names[e.point],
                    eu=e.uniformity,
                    least=e.least,
                    most=e.most,
                    apart=e.variation,
                    way=_evened(plan, lay, drawn.get(e.point), e),
                )
    for row in drawn.values():
        what = plan.by_id[row.point].what
        assert isinstance(what, DripRow)
        if (what.emitters - 0.5) * what.spacing > row.length + what.spacing:
            told["row-crowded", row.point] = tell(
                "row-crowded",
                row.point,
                units,
                row=plan.names[row.point],
                count=what.emitters,
                spacing=what.spacing,
                need=(what.emitters - 0.5) * what.spacing,
                long=row.length,
            )
        if what.built == "on feeders" and what.feeder > RULE["1/4"] * FOOT:
            told["feeder-long", row.point] = tell(
                "feeder-long",
                row.point,
                units,
                row=plan.names[row.point],
                feeder=what.feeder,
                limit=RULE["1/4"] * FOOT,
            )
    return tuple(told.values())


def tubing_problems(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """Rows whose emitters would sit in pipe that is not made for them, and those whose end lets nothing out."""
    plugged = sorted(
        p.id
        for p in plan.of_kind(DripRow)
        if isinstance(p.what, DripRow) and p.what.end == "plug" and p.existing is None
    )
    if plugged:
        names = plan.names[plugged[0]] if len(plugged) == 1 else f"{plan.names[plugged[0]]} and {len(plugged) - 1} more"
        yield tell("row-no-flush", plugged[0], rows=names)
    for row in rows(plan, lay).values():
        wrong = next(
            (
                r
                for r in row.runs
                if series(plan.run_by_id[r].series or plan.conditions.series).material != "pe"
                or not (plan.run_by_id[r].series or plan.conditions.series).startswith("drip-")
            ),
            None,
        )
        if wrong is not None:
            name = series(plan.run_by_id[wrong].series or plan.conditions.series).short
            yield tell("row-tubing", row.point, row=plan.names[row.point], pipe=name)


def emitter_places(plan: Plan, lay: Layout) -> dict[str, tuple[tuple[float, float, float], ...]]:
    """Where the emitters of each row are (m, east, north, up), by the point it ends at; of very many as many as can be
    told apart.
    """
    found = {}
    for row in rows(plan, lay).values():
        spots, here = [lay.places[row.start]], row.start
        for run in row.runs:
            here = lay.lines[run].other(here)
            spots.append(lay.places[here])
        legs = [hypot(*(q - p for p, q in zip(a, b, strict=True))) for a, b in pairwise(spots)]
        marks = np.concatenate(([0.0], np.cumsum(legs)))
        scale = marks[-1] / row.length if row.length else 1.0
        every = -(-len(row.places) // _SHOWN)
        at = np.array(row.places[::every]) * scale
        axes = [np.interp(at, marks, [s[k] for s in spots]) for k in range(3)]
        found[row.point] = tuple((float(x), float(y), float(z)) for x, y, z in zip(*axes, strict=True))
    return found
