"""Systems: what one water fills.

Supply, pumped drain, gravity drain, circulation and air are parted where something holds them apart.

A tank parts what leaves it from what comes to it, a sump the drains that run into it from the riser its pump feeds, a
drain inlet the drain from what falls into it in the open. All else hangs together through whatever valves stand
between.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal, TypeAlias

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.fittings import pipe_end
from hydrarch.core.catalogue.guidance import choose_practice
from hydrarch.core.catalogue.markets import market
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.components.basins import InWall, Standpipe
from hydrarch.core.components.drains import DrainEnd
from hydrarch.core.components.outlets import Outlet
from hydrarch.core.components.sources import Lifter, Mains, Tank
from hydrarch.core.plan.document import DRAIN_SERIES, Plan, Point, Run, RunEnd

__all__ = ["Sort", "System", "Systems", "Water", "home_of", "is_exercise", "repair_pieces", "systems", "water_at"]

declare(
    "survey",
    "no-source",
    "outlet-without-source",
    "lone-point",
    "open-end",
    "drain-on-supply",
    "cross-connection",
    "which-port",
    "device-not-in-line",
    "end-not-at-end",
    "wrong-pipe",
    "drain-into-drain",
    "faces-source",
    "met-unmeasured",
    "air-and-water",
    holds=True,
)
declare("survey", "shared-line", "opens-no-outlet", "no-water")

FLEXIBLE = "pvc-flex"
"""What buried pipe of a pond or tub is where the practice is flexible pipe."""
Sort = Literal["supply", "pumped drain", "gravity drain", "circulation", "air"]
_WET = ("source", "outlet", "end", "drain")
"""The roles of things at whose ports, but for those for air, water comes or goes; a valve may stand in a line of air.
"""
Water: TypeAlias = tuple[str, str]
"""A water at a thing: the thing's id, and the port where the thing holds its ports' waters apart ("" where it does
not)."""


@dataclass(frozen=True, slots=True)
class System:
    """What one water fills: its runs and points, and the points it comes from. `id` is that of its first run."""

    id: str
    sort: Sort
    runs: tuple[str, ...]
    points: tuple[str, ...]
    sources: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Systems:
    """The systems of a plan in the order of their first runs; `of` tells each run's, by index. `pieces` are new runs
    between two existing ones of one series, and that series: a repair keeps the family of its line.
    """

    found: tuple[System, ...]
    of: dict[str, int]
    problems: tuple[Problem, ...]
    pieces: dict[str, str]

    def sort(self, run: str) -> Sort:
        """The sort of a run's system."""
        return self.found[self.of[run]].sort

    def drain(self, run: str) -> bool:
        """Whether a run is of a drain that runs by its own fall."""
        return self.sort(run) == "gravity drain"

    def series_of(self, plan: Plan, run: Run) -> str:
        """The pipe series of a run: its own, or that of the line it repairs, or the job's, or for a drain, and what is
        buried of a pond or tub, that of the crew standards.
        """
        if run.series is not None:
            return run.series
        if run.id in self.pieces:
            return self.pieces[run.id]
        if self.drain(run.id):
            return market(plan.conditions.market).drain_pipe(DRAIN_SERIES[choose_practice(plan.practices, "drain")])
        round_ = self.sort(run.id) == "circulation" and run.situation == "buried"
        if (
            round_
            and series(plan.conditions.series).material == "pvc"
            and choose_practice(plan.practices, "round_pipe") == "flexible"
        ):
            return FLEXIBLE
        return plan.conditions.series


def water_at(plan: Plan, end: RunEnd) -> Water:
    """The water a run's end stands in."""
    point = plan.by_id[end.point]
    if not point.kind.apart:
        return end.point, ""
    return end.point, plan.port_name(end)


def systems(plan: Plan) -> Systems:
    """Part a plan into its systems, and say what is wrong with how it hangs together."""
    edges = [Edge(r.id, water_at(plan, r.a), water_at(plan, r.b)) for r in plan.runs]
    parts = [part for part in Graph(edges).parts() if part[1]]
    order = {r.id: n for n, r in enumerate(plan.runs)}
    parts.sort(key=lambda part: min(order[e.name] for e in part[1]))
    at: dict[str, list[RunEnd]] = defaultdict(list)
    for run in plan.runs:
        for end in run.ends:
            at[end.point].append(end)
    found, problems = [], list[Problem]()
    for waters, joined in parts:
        runs = tuple(sorted((e.name for e in joined), key=order.__getitem__))
        points = tuple(dict.fromkeys(p for p, _ in waters))
        system = _sorted(plan, runs, points)
        found.append(system)
        problems += _mixed(plan, system)
    of = {r: n for n, s in enumerate(found) for r in s.runs}
    pieces = dict(_pieces(plan))
    made = Systems(tuple(found), of, (), pieces)
    problems += _unfed(plan, made)
    problems += [p for point in plan.points for p in _at_ports(plan, point, at[point.id])]
    problems += [*_wrong_pipe(plan, made), *_facing(plan)]
    return Systems(made.found, of, tuple(problems), pieces)


def repair_pieces(plan: Plan) -> Iterable[tuple[tuple[str, ...], Run, Run]]:
    """The new runs of each line, with no branch, between two existing runs, and those two."""
    at: dict[str, list[Run]] = defaultdict(list)
    for run in plan.runs:
        for p in run.points:
            at[p].append(run)
    for old in plan.runs:
        if old.existing is None:
            continue
        for end in old.ends:
            way, here, run = list[Run](), end.point, old
            while len(at[here]) == 2 and plan.by_id[here].kind.role not in ("source", "outlet", "end", "drain"):
                run = next((r for r in at[here] if r.id != run.id), run)
                if run in way or run.id == old.id:
                    break
                if run.existing is not None:
                    if way and old.id < run.id:
                        yield tuple(r.id for r in way), old, run
                    break
                way.append(run)
                here = next((p for p in run.points if p != here), here)


def _pieces(plan: Plan) -> Iterable[tuple[str, str]]:
    """New runs that repair a line of one series, as far as that is sold here and still laid."""
    foreign = market(plan.conditions.market).foreign
    for runs, one, two in repair_pieces(plan):
        name = one.series
        if name is None or name != two.series or series(name).kind == "met":
            continue
        if pipe_end(name, series(name).sizes[0].size).system in foreign:
            continue
        for run in runs:
            yield run, name


def _roles(plan: Plan, runs: Iterable[str]) -> dict[str, list[tuple[str, str]]]:
    """The roles of the ports that runs come to, each with the points and ports that have it."""
    roles: dict[str, list[tuple[str, str]]] = defaultdict(list)
    for name in runs:
        for end in plan.run_by_id[name].ends:
            port = plan.port(end)
            if port is not None:
                roles[port.role].append((end.point, port.name))
    return roles


def _sorted(plan: Plan, runs: tuple[str, ...], points: tuple[str, ...]) -> System:
    roles = _roles(plan, runs)
    pumped = [p for p, _ in roles["pumped"]]
    # a standpipe that stands in no water gives none
    dry = {p for p in points if isinstance(w := plan.by_id[p].what, Standpipe) and w.waters is None}
    feeding = [p for p in points if plan.by_id[p].kind.role == "source" and p not in dry]
    drawn = [p for p, _ in roles["suction"]]
    returned = {p for p, _ in roles["in"]}
    supplied = [p for p in feeding if p in drawn or not isinstance(plan.by_id[p].what, Tank)]
    if roles["air"]:
        sort: Sort = "air"
        supplied = []
    elif supplied and (set(supplied) <= returned & set(drawn) or _goes_round(plan, points, supplied, returned)):
        sort = "circulation"
    elif supplied:
        sort = "supply"
    elif pumped:
        sort = "pumped drain"
    elif roles["drain"]:
        sort = "gravity drain"
    else:
        sort = "supply"
    sources = tuple(dict.fromkeys((*supplied, *pumped)))
    return System(runs[0], sort, runs, points, sources)


def _goes_round(plan: Plan, points: tuple[str, ...], supplied: list[str], returned: set[str]) -> bool:
    """Whether all of it comes from bodies of water and goes to them, and none is drawn on its way."""
    open_water = {p for p in (*supplied, *returned) if isinstance(plan.by_id[p].what, (InWall, Tank))}
    return (
        any(isinstance(plan.by_id[p].what, InWall) for p in supplied)
        and open_water >= set(supplied)
        and bool(open_water & returned)
        and not any(isinstance(plan.by_id[p].what, Outlet) for p in points)
    )


def home_of(point: Point) -> str:
    """Whose water a source gives: the body's it is let into, or its own."""
    waters = point.what.waters if isinstance(point.what, InWall) else None
    return point.id if waters is None else waters.basin


def _mixed(plan: Plan, system: System) -> Iterable[Problem]:
    """Waters on one line that must never meet."""
    names, roles = plan.names, _roles(plan, system.runs)
    drains = dict.fromkeys(p for p, _ in roles["drain"])
    if system.sort in ("supply", "circulation"):
        for p in (*drains, *dict.fromkeys(p for p, _ in roles["pumped"])):
            yield tell("drain-on-supply", p, place=names[p])
    if system.sort == "air":
        wet = [
            p
            for role in ("suction", "in", "drain", "pumped")
            for p, _ in roles[role]
            if plan.by_id[p].kind.role in _WET
        ]
        for p in dict.fromkeys(wet):
            airs = next(names[q] for q, _ in roles["air"])
            yield tell("air-and-water", p, place=names[p], air=airs)
    if system.sort == "pumped drain":
        for p in drains:
            if not isinstance(plan.by_id[p].what, DrainEnd):
                yield tell("drain-into-drain", p, place=names[p])
    yield from _shared(plan, [p for p in system.sources if plan.by_id[p].kind.role == "source"])


def _shared(plan: Plan, sources: list[str]) -> Iterable[Problem]:
    """Sources on one line: with a mains among them a cross-connection, whatever valves stand between."""
    if len({home_of(plan.by_id[p]) for p in sources}) < 2:
        return
    sources = sorted(sources, key=lambda p: (not isinstance(plan.by_id[p].what, Mains), p))
    told = " and ".join(plan.names[p] for p in sources[:3])
    if any(isinstance(plan.by_id[p].what, Mains) for p in sources):
        yield tell("cross-connection", sources[0], sources=told)
    else:
        yield tell("shared-line", sources[0], sources=told)


def is_exercise(plan: Plan) -> bool:
    """Whether only pipe and what is made of it is drawn, as an apprentice's square is: bends, junctions, closed ends,
    unions and valves.
    """
    return bool(plan.runs) and all(
        p.kind.role in ("line", "mark") or p.what.kind in ("cap", "valve", "union") for p in plan.points
    )


def _unfed(plan: Plan, made: Systems) -> Iterable[Problem]:
    fed = {p for s in made.found if s.sources for p in s.points}
    drawing = any(s.sort in ("supply", "circulation", "air") for s in made.found) or not any(
        p.kind.role == "drain" for p in plan.points
    )
    things = [p for p in plan.points if p.kind.joined]
    if is_exercise(plan):
        yield tell("no-water", "")
    elif things and drawing and not plan.sources:
        yield tell("no-source", "")
    for p in plan.outlets:
        if p.id not in fed:
            yield tell("outlet-without-source", p.id, outlet=p.label)
    for scenario in plan.scenarios:
        for name in scenario.open:
            if not isinstance(plan.by_id[name].what, Outlet):
                yield tell("opens-no-outlet", name, scenario_name=scenario.name, place=plan.names[name])


def _at_ports(plan: Plan, point: Point, ends: list[RunEnd]) -> Iterable[Problem]:
    """Whether a thing has at its ports what it needs."""
    kind, count, label = point.kind, len(ends), point.label
    specs = kind.ports_of(point.what)
    if not kind.joined:
        if ends:
            yield tell("end-not-at-end/body" if kind.role == "body" else "end-not-at-end/mark", point.id, place=label)
        return
    if count == 0:
        if kind.role != "outlet":
            yield tell("lone-point", point.id, place=label)
        return
    if kind.plain and count == 1:
        old = any(ends[0] in r.ends and r.existing is not None for r in plan.runs)
        yield tell("open-end/old" if old else "open-end", point.id, place=label)
        return
    attached = [plan.port(e) for e in ends]
    taken = Counter(port.name for port in attached if port is not None)
    runs = f"{count} run{'' if count == 1 else 's'}"
    if None in attached:
        names = ", ".join(p.title.lower() for p in specs) or "none"
        yield tell("which-port", point.id, place=label, ports=names)
    elif any(spec.takes and taken[spec.name] > spec.takes for spec in specs):
        many = next(spec for spec in specs if spec.takes and taken[spec.name] > spec.takes)
        whose = f"{many.title} of {label}" if len(specs) > 1 else label
        yield tell(
            "end-not-at-end",
            point.id,
            place=whose,
            has=taken[many.name],
            takes=str(many.takes) if many.takes > 1 else "one",
        )
    elif any(spec.needs and not taken[spec.name] for spec in specs):
        yield tell(
            "device-not-in-line" if len(specs) > 1 else "device-not-in-line/one",
            point.id,
            place=label,
            runs=runs,
            needs=kind.needs,
        )


def _wrong_pipe(plan: Plan, made: Systems) -> Iterable[Problem]:
    for run in plan.runs:
        if run.coupled:
            continue
        if run.existing is not None and (run.series is None or run.size is None):
            a, b = (plan.names[p] for p in run.points)
            yield tell("met-unmeasured", run.id, a=a, b=b, what="size" if run.series else "series and size")
        family, drain = series(made.series_of(plan, run)), made.drain(run.id)
        right = ("drain",) if drain else ("pressure", "drip")
        if family.kind not in right and not (run.existing is not None and family.kind == "met"):
            a, b = (plan.names[p] for p in run.points)
            yield tell(
                "wrong-pipe/met" if family.kind == "met" else "wrong-pipe/drain" if drain else "wrong-pipe/pressure",
                run.id,
                pipe=family.name,
                a=a,
                b=b,
            )


def _facing(plan: Plan) -> Iterable[Problem]:
    """Devices that let water only one way, and stand the wrong way round: water comes to their outlet and never to
    their inlet.
    """
    turned = {p.id: p for p in plan.points if (p.kind.one_way and not p.kind.apart)}
    if not turned:
        return

    def side(end: RunEnd) -> Water:
        port = plan.port(end)
        return (end.point, port.name) if end.point in turned and port is not None else water_at(plan, end)

    edges = [Edge(r.id, side(r.a), side(r.b)) for r in plan.runs]
    edges += [Edge(f"{p}~", (p, "in"), (p, "out"), 1.0, True) for p in turned]
    starts = [side(e) for r in plan.runs for e in r.ends if (port := plan.port(e)) is not None and port.way == "out"]
    starts = [s for s in starts if plan.by_id[s[0]].kind.role == "source" or plan.by_id[s[0]].kind.apart]
    graph = Graph[Water](edges)
    reached = graph.from_nodes(starts).distance
    wrong = {n for n in turned if (n, "out") in reached and (n, "in") not in reached}
    for start in starts:  # a pump beside another one, whose own way out is shut by what faces it
        if isinstance(plan.by_id[start[0]].what, Lifter):
            alone = graph.from_nodes([start]).distance
            if not any(_lets_out(plan, p) for p, _ in alone if p != start[0]):
                wrong |= {n for n in turned if (n, "out") in alone and (n, "in") not in alone}
    for name, point in turned.items():
        if name in wrong and _both_sides(plan, name):
            yield tell("faces-source", name, place=point.label)


def _lets_out(plan: Plan, point: str) -> bool:
    """Whether water leaves the line at a thing, or is kept by it."""
    kind = plan.by_id[point].kind
    return kind.role in ("outlet", "body") or kind.apart or any(p.falls for p in kind.ports_of(plan.by_id[point].what))


def _both_sides(plan: Plan, point: str) -> bool:
    return {
        port.name for r in plan.runs for e in r.ends if e.point == point and (port := plan.port(e)) is not None
    } >= {
        "in",
        "out",
    }
