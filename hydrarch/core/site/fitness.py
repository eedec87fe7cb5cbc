"""Whether pipe is fit for where it lies and what it carries: place, sun, cover, drinking water, lead, and the house's
own refusals.
"""

from __future__ import annotations

from collections.abc import Iterator

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.beginnings import beginnings
from hydrarch.core.catalogue.guidance import choose_practice
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.components.outlets import Tap
from hydrarch.core.plan.document import Plan, Run
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
_SUNNY = ("on surface", "on bracket", "above water")
LEAST_COVER = 0.3
"""m of ground over a buried run, where nothing else is asked: sprinkler laterals lie 12 to 18 in deep, common practice.
"""


WHEEL_COVER = 0.6
"""m of ground over a run that wheels go over: 24 in, common practice."""


def fitness_problems(plan: Plan, lay: Layout) -> tuple[Problem, ...]:
    """What the catalogue knows against the pipe of a run where it lies; what was met in the ground is asked for lead
    alone.
    """
    found = list(_drinking(plan, lay))
    sunny: dict[str, list[str]] = {}
    outside = not plan.about or beginnings()[plan.about].sun
    for run in plan.runs:
        if run.id in lay.lines and not run.coupled and run.existing is None:
            found += _placed(plan, lay, run)
            family = series(lay.systems.series_of(plan, run))
            if outside and run.situation in _SUNNY and run.situation in family.situations and family.pattern == "white":
                sunny.setdefault(family.id, []).append(run.id)
    found += _metals(plan, lay)
    for name, runs in sunny.items():
        family = series(name)
        many = f" ({len(runs)} runs)" if len(runs) > 1 else ""
        found.append(
            Problem(
                code="sun",
                severity="note",
                where=min(runs),
                says=f"{family.name} above ground{many} grows brittle within years where the sun reaches it.",
                mend="Cover or wrap it; rigid pipe may be painted."
                if family.bend_radius > _STIFF
                else "Cover or wrap it.",
            )
        )
    return tuple(found)


def _placed(plan: Plan, lay: Layout, run: Run) -> Iterator[Problem]:
    family = series(lay.systems.series_of(plan, run))
    a, b = (plan.names[p] for p in run.points)
    between = f"from {a} to {b}"
    if run.situation not in family.situations:
        yield Problem(
            code="unfit-place",
            severity="warn",
            where=run.id,
            says=f"{family.name} {between} lies {run.situation}: it is made for {', '.join(family.situations)}.",
            mend=f"Take another pipe there, or lay it elsewhere; {family.caution}."
            if family.caution
            else "Take another pipe there, or lay it elsewhere.",
        )
    if "thin" in family.name.lower() and choose_practice(plan.practices, "thinwall") == "refuse":
        yield Problem(
            code="thin-refused",
            severity="stop",
            where=run.id,
            says=f"This house refuses thin-wall pipe, and {family.name} {between} is one.",
            mend="Take schedule 40 there, or change the house practice.",
        )
    if run.situation == "buried" and run.wheels and not family.wheels:
        yield Problem(
            code="under-wheels",
            severity="warn",
            where=run.id,
            says=f"{family.name} {between} lies under wheels: it ovals or breaks there.",
            mend="Take a heavier pipe on that stretch, or sleeve it in one under the drive.",
        )
    if run.situation == "buried":
        yield from _covered(plan, run, between)
        yield from _frozen(plan, run, between)


def _covered(plan: Plan, run: Run, between: str) -> Iterator[Problem]:
    """A run may rise to what stands above ground at one end; it is judged where it lies deepest."""
    deepest = max((plan.by_id[p] for p in run.points), key=lambda p: p.depth)
    lies = show(abs(deepest.depth), "depth", plan.units)
    if deepest.depth <= 0:
        where = (
            f"no deeper than {lies} above the ground" if deepest.depth < 0 else "no deeper than the ground's own level"
        )
        yield Problem(
            code="not-buried",
            severity="warn",
            where=run.id,
            says=f"The run {between} is to be buried and lies {where}.",
            mend="Say how deep the pipe lies at its ends, or that the run lies on the surface.",
        )
    elif run.wheels and deepest.depth < WHEEL_COVER:
        yield Problem(
            code="thin-cover",
            severity="warn",
            where=run.id,
            says=f"The run {between} lies no deeper than {lies} under wheels: their load reaches it above "
            f"{show(WHEEL_COVER, 'depth', plan.units)}.",
            mend="Lay it deeper, or sleeve it in heavier pipe under the drive; the local code may ask for more.",
        )
    elif deepest.depth < LEAST_COVER:
        least = show(LEAST_COVER, "depth", plan.units)
        yield Problem(
            code="thin-cover",
            severity="note",
            where=run.id,
            says=f"The run {between} lies no deeper than {lies}: spades and frost reach it above {least}.",
            mend="Lay it deeper, or sleeve it; frost, traffic and the local code may ask for more.",
        )


def _frozen(plan: Plan, run: Run, between: str) -> Iterator[Problem]:
    """A run above the depth that frost goes to; one that rises at an end is judged where it lies deepest."""
    frost, deepest = plan.conditions.frost, max(plan.by_id[p].depth for p in run.points)
    if frost is None or not 0 < deepest < frost:
        return
    lies, reach = (show(d, "depth", plan.units) for d in (deepest, frost))
    drained = plan.about in ("sprinklers", "drip")
    yield Problem(
        code="above-frost",
        severity="note" if drained else "warn",
        where=run.id,
        says=f"The run {between} lies {lies} deep; frost goes down to {reach}.",
        mend="Drain it down before the first frost, or lay it below."
        if drained
        else "Lay it below the frost, or see that it is drained or kept warm; local code may ask for more.",
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
            yield Problem(
                code="galvanic",
                severity="warn",
                where=name,
                says=f"Copper and galvanized steel meet at {plan.names[name]}: the steel rusts through there.",
                mend="Part them by a dielectric union, or a brass fitting at the least, and let water run from "
                "steel to "
                "copper, not back.",
            )


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
    for tap in plan.of_kind(Tap):
        label = tap.label
        for run in ways.way(tap.id):
            if run in doubtful:
                fed.setdefault(run, []).append(label)
    for name, taps in fed.items():
        family = doubtful[name]
        told = ", ".join(sorted(taps)[:3]) + (" …" if len(taps) > 3 else "")
        if family.material == "lead":
            yield Problem(
                code="lead-in-the-way",
                severity="warn",
                where=name,
                says=f"Lead lies on the way to {told}: lead poisons, a little every day.",
                mend="Replace it whole as the local rules say; until then let the water run before drinking.",
            )
        else:
            yield Problem(
                code="not-for-drinking",
                severity="warn",
                where=name,
                says=f"{family.name} is not for drinking water, and {told} may be drunk from.",
                mend="Take pipe that is marked for drinking water on the way there, or mark the tap as not for "
                "drinking.",
            )
