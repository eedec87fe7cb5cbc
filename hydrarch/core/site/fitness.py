"""Whether pipe is fit for where it lies and what it carries: place, sun, cover, drinking water, lead, and the house's
own refusals.
"""

from __future__ import annotations

from collections.abc import Iterator

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.beginnings import beginnings
from hydrarch.core.catalogue.guidance import choose_practice
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.components.fixtures import DRINKING
from hydrarch.core.plan.document import Plan, Run
from hydrarch.core.site.cold import BARE, frost_reaches
from hydrarch.core.site.layout import Layout

__all__ = ["LEAST_COVER", "fitness_problems"]

declare(
    "survey",
    "unfit-place",
    "thin-refused",
    "not-for-drinking",
    "lead-in-the-way",
    "not-buried",
    "thin-cover",
    "sun",
    "under-wheels",
    "above-frost",
    "galvanic",
)

_STIFF = 100  # outside diameters: what bends tighter than that is soft, and paint flakes off it
LEAST_COVER = 0.3
"""m of ground over a buried run, where nothing else is asked: sprinkler laterals lie 12 to 18 in deep, common practice.
"""


WHEEL_COVER = 0.6
"""m of ground over a run that wheels go over: 24 in, common practice."""


def fitness_problems(plan: Plan, lay: Layout) -> tuple[Problem, ...]:
    """What the catalogue knows against the pipe of a run where it lies; what exists already is asked for lead
    alone.
    """
    found = list(_drinking(plan, lay))
    sunny: dict[str, list[str]] = {}
    outside = not plan.about or beginnings()[plan.about].sun
    for run in plan.runs:
        if run.id in lay.lines and not run.coupled and run.existing is None:
            found += _placed(plan, lay, run)
            family = series(lay.systems.series_of(plan, run))
            if outside and run.situation in BARE and run.situation in family.situations and family.pattern == "white":
                sunny.setdefault(family.id, []).append(run.id)
    found += _metals(plan, lay)
    for name, runs in sunny.items():
        family = series(name)
        many = f": {len(runs)} runs" if len(runs) > 1 else ""
        found.append(
            tell("sun/rigid" if family.bend_radius > _STIFF else "sun", min(runs), pipe=family.name, many=many)
        )
    return tuple(found)


def _placed(plan: Plan, lay: Layout, run: Run) -> Iterator[Problem]:
    family = series(lay.systems.series_of(plan, run))
    a, b = (plan.names[p] for p in run.points)
    if run.situation not in family.situations:
        yield tell(
            "unfit-place",
            run.id,
            pipe=family.name,
            situation=run.situation,
            a=a,
            b=b,
            fit=", ".join(family.situations),
            caution=f"; {family.caution}" if family.caution else "",
        )
    if "thin" in family.name.lower() and choose_practice(plan.practices, "thinwall") == "refuse":
        yield tell("thin-refused", run.id, pipe=family.name, a=a, b=b)
    if run.situation == "buried" and run.wheels and not family.wheels:
        yield tell("under-wheels", run.id, pipe=family.name, a=a, b=b)
    if run.situation == "buried":
        yield from _covered(plan, run, a, b)
        yield from _frozen(plan, run)


def _covered(plan: Plan, run: Run, a: str, b: str) -> Iterator[Problem]:
    """A run may rise to what stands above ground at one end; it is judged where it lies deepest."""
    deepest = max((plan.by_id[p] for p in run.points), key=lambda p: p.depth)
    lies = show(abs(deepest.depth), "depth", plan.units)
    if deepest.depth <= 0:
        lying = f"{lies} above the ground" if deepest.depth < 0 else "at ground level"
        yield tell("not-buried", run.id, a=a, b=b, lying=lying)
    elif run.wheels and deepest.depth < WHEEL_COVER:
        yield tell("thin-cover/wheels", run.id, plan.units, a=a, b=b, lies=deepest.depth, least=WHEEL_COVER)
    elif deepest.depth < LEAST_COVER:
        yield tell("thin-cover", run.id, plan.units, a=a, b=b, lies=deepest.depth, least=LEAST_COVER)


def _frozen(plan: Plan, run: Run) -> Iterator[Problem]:
    """A run above the depth that frost goes to; one that rises at an end is judged where it lies deepest."""
    frost, deepest = frost_reaches(plan.conditions), max(plan.by_id[p].depth for p in run.points)
    if frost is None or not 0 < deepest < frost:
        return
    a, b = (plan.names[p] for p in run.points)
    drained = plan.about in ("sprinklers", "drip")
    yield tell(
        "above-frost/drained" if drained else "above-frost", run.id, plan.units, a=a, b=b, lies=deepest, reach=frost
    )


def _metals(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """Where galvanized steel meets copper: the steel rusts through, first where water comes to it from the copper."""
    at: dict[str, set[str]] = {}
    for run in plan.runs:
        if run.id in lay.lines and not run.coupled:
            for p in run.points:
                at.setdefault(p, set()).add(series(lay.systems.series_of(plan, run)).material)
    for name, materials in at.items():
        if {"steel", "copper"} <= materials:
            yield tell("galvanic", name, place=plan.names[name])


def _drinking(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """Pipe on the way to a tap that drinking water may not run through, and lead."""
    families = {name: series(lay.systems.series_of(plan, plan.run_by_id[name])) for name in lay.lines}
    doubtful = {name: f for name, f in families.items() if f.material == "lead" or not f.potable}
    if not doubtful:
        return
    ways = Graph[str](Edge(x.run, x.a, x.b, x.length) for x in lay.lines.values()).from_nodes(
        [p.id for p in plan.sources]
    )
    fed: dict[str, list[str]] = {}
    for tap in plan.of_kind(*DRINKING):
        label = tap.label
        for run in ways.way(tap.id):
            if run in doubtful:
                fed.setdefault(run, []).append(label)
    for name, taps in fed.items():
        family = doubtful[name]
        told = ", ".join(sorted(taps)[:3]) + (" …" if len(taps) > 3 else "")
        if family.material == "lead":
            yield tell("lead-in-the-way", name, taps=told)
        else:
            yield tell("not-for-drinking", name, pipe=family.name, taps=told)
