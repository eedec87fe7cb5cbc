"""The one plain mend of a problem, as an edit of the plan: what the page offers as a button.

A mend is a function of the plan and where the problem is; it gives the plan mended, or None where there is no plain
one. What it does is told before, in words; what goes and what comes is worked out by whoever asks.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from math import dist, hypot

from hydrarch.core.base.problems import Problem
from hydrarch.core.catalogue.markets import market
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.circulation.settling import nearest_body, settled_place
from hydrarch.core.components.base import kind_named
from hydrarch.core.components.basins import Basin, InWall
from hydrarch.core.components.devices import BackflowPreventer, Filter, Regulator, Valve
from hydrarch.core.components.equipment import Vessel
from hydrarch.core.components.fixtures import DRINKING
from hydrarch.core.components.sources import Mains, Tank
from hydrarch.core.coverage.driphead import head_of
from hydrarch.core.editing.bends import bend_beside, lead_in, may_bend_beside, may_lead_in
from hydrarch.core.editing.clean_out import clean_out, may_clean_out
from hydrarch.core.editing.draft import Body, Draft
from hydrarch.core.editing.grading import lay_by_rule, may_lay_by_rule
from hydrarch.core.plan.basin_shapes import shape_of
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import layout

__all__ = ["MENDS", "does", "mended"]

_HEAVY = {"pvc-sdr21": "pvc40", "pvc-sdr26": "pvc40", "sewer-thin": "sewer-sdr35", "corrugated": "sewer-sdr35"}
"""What takes the place of pipe that no wheel may go over, of like outside or fittings; common practice."""
_FROM_MAINS = 1.0  # m from the mains a preventer is set
_BEHIND = 0.3  # m behind what comes before it a device of a drip line's head is set
_INSIDE = 0.02  # share of a line from its ends within which no tee is moved
_ROOM = 2.0  # times the vessel that was too small


def _run(body: Body, where: str) -> Body | None:
    return next((r for r in body["runs"] if r["id"] == where), None)


def _point(body: Body, where: str) -> Body | None:
    return next((p for p in body["points"] if p["id"] == where), None)


def _turn(body: Body, where: str) -> bool:
    """Let what stands there face the other way."""
    other = {"in": "out", "out": "in"}
    ends = [e for r in body["runs"] for e in (r["a"], r["b"]) if e["point"] == where and e["port"] in other]
    for end in ends:
        end["port"] = other[end["port"]]
    return bool(ends)


def _on_surface(body: Body, where: str) -> bool:
    run = _run(body, where)
    if run is None:
        return False
    run["situation"] = "on surface"
    return True


def _by_wire(body: Body, where: str) -> bool:
    """Let a valve be worked by wire."""
    point = _point(body, where)
    if point is None or point["what"].get("worked") != "by hand":
        return False
    point["what"]["worked"] = "by wire"
    body["nodes"] = [n for n in body["nodes"] if n["point"] != where]
    return True


def _measured(body: Body, where: str) -> bool:
    """Say that the half-inch tubing was measured."""
    if body["practices"].get("half_inch") == "measured":
        return False
    body["practices"]["half_inch"] = "measured"
    return True


def _flush_valves(body: Body, where: str) -> bool:
    """End every row in a flush valve."""
    rows = [
        p
        for p in body["points"]
        if p["what"]["kind"] == "drip_row" and p["what"]["end"] == "plug" and p["existing"] is None
    ]
    here = {p["id"] for p in rows}
    for p in rows:
        p["what"]["end"] = "flush valve"
    body["nodes"] = [n for n in body["nodes"] if n["point"] not in here]
    ends = {e["id"] for r in body["runs"] for e in (r["a"], r["b"]) if e["point"] in here}
    body["ways"] = [w for w in body["ways"] if w["end"] not in ends]
    return bool(rows)


def _wheels(body: Body, where: str) -> bool:
    run = _run(body, where)
    if run is None or run["wheels"]:
        return False
    run["wheels"] = True
    return True


def _heavier(body: Body, where: str) -> bool:
    run = _run(body, where)
    if run is None:
        return False
    heavy = _HEAVY.get(run["series"] or body["conditions"]["series"])
    if heavy is None:
        return False
    if series(heavy).kind == "drain":
        heavy = market(body["conditions"]["market"]).drain_pipe(heavy)
    made = {p.size for p in series(heavy).sizes}
    run["series"], run["size"] = heavy, run["size"] if run["size"] in made else None
    return True


def _size_open(body: Body, where: str) -> bool:
    run = _run(body, where)
    if run is None or run["size"] is None:
        return False
    run["size"] = None
    return True


def _leave_ways(body: Body, where: str) -> bool:
    ends = {e["id"] for r in body["runs"] for e in (r["a"], r["b"]) if e["point"] == where}
    kept = [w for w in body["ways"] if w["end"] not in ends], [n for n in body["nodes"] if n["point"] != where]
    gone = len(kept[0]) < len(body["ways"]) or len(kept[1]) < len(body["nodes"])
    body["ways"], body["nodes"] = kept
    return gone


def _close_scenario(body: Body, where: str) -> bool:
    found = False
    for scenario in body["scenarios"]:
        if where in scenario["open"]:
            scenario["open"], found = [p for p in scenario["open"] if p != where], True
    return found


def _larger_vessel(body: Body, where: str) -> bool:
    point = _point(body, where)
    if point is None or point["what"]["kind"] != "vessel" or point["what"]["volume"] * _ROOM > 10:
        return False
    point["what"]["volume"] *= _ROOM
    return True


def _foot_valve(body: Body, where: str) -> bool:
    """Put a foot valve at the open water a pump draws from."""
    tanks = [p for p in body["points"] if p["what"]["kind"] == "tank" and p["what"]["intake"] != "foot valve"]
    if len(tanks) != 1:
        return False
    tanks[0]["what"]["intake"] = "foot valve"
    return True


def _vent(body: Body, where: str) -> bool:
    """Let the bend at the top of a hump be an air valve: its two runs come to it."""
    point = _point(body, where)
    ends = [e for r in body["runs"] for e in (r["a"], r["b"]) if e["point"] == where]
    if point is None or not kind_named(point["what"]["kind"]).plain or len(ends) != 2:
        return False
    point["what"] = {"kind": "vent"}
    body["nodes"] = [n for n in body["nodes"] if n["point"] != where]
    for end in ends:
        end["port"] = "in"
    return True


def _preventer(body: Body, where: str) -> bool:
    """Set a backflow preventer into the one run that leaves the mains, a metre from it or half-way where that is
    nearer.
    """
    mains = [p for p in body["points"] if p["what"]["kind"] == "mains"]
    runs = [r for r in body["runs"] for p in mains if p["id"] in (r["a"]["point"], r["b"]["point"])]
    if len(mains) != 1 or len(runs) != 1 or runs[0]["coupled"]:
        return False
    draft, run = Draft(body), runs[0]
    turned = run["b"]["point"] == mains[0]["id"]
    a, b = draft.spots[run["a"]["point"]], draft.spots[run["b"]["point"]]
    long = hypot(a["x"] - b["x"], a["y"] - b["y"], a["ground"] - a["depth"] - b["ground"] + b["depth"])
    share = min(0.5, _FROM_MAINS / long) if long else 0.5
    new = draft.split(
        run["id"],
        1 - share if turned else share,
        "BP",
        kind_named("backflow").start.model_dump(mode="json"),
        "Preventer",
    )
    if turned:  # it was drawn towards the mains: its water goes the other way
        for end in (e for r in draft.runs_at(new) for e in (r["a"], r["b"]) if e["point"] == new):
            end["port"] = {"in": "out", "out": "in"}[end["port"]]
    return True


def _in_order(body: Body, where: str) -> bool:
    """Let two devices of a drip line's head change places: what each is, its ends and its name; the pipe stays."""
    plan = Plan.model_validate(body)
    for drip in plan.with_trait("drips"):
        way = [
            p.id
            for p in head_of(plan, layout(plan), drip.id)
            if isinstance(p.what, (BackflowPreventer, Filter, Regulator))
        ]
        if where in way[:-1]:
            one, two = _point(body, where), _point(body, way[way.index(where) + 1])
            if one is not None and two is not None:
                for field in ("what", "ports", "name"):
                    one[field], two[field] = two[field], one[field]
                body["nodes"] = [n for n in body["nodes"] if n["point"] not in (one["id"], two["id"])]
                ends = {e["id"] for r in body["runs"] for e in (r["a"], r["b"]) if e["point"] in (one["id"], two["id"])}
                body["ways"] = [w for w in body["ways"] if w["end"] not in ends]
                return True
    return False


def _after(first: tuple[type, ...], kind: str, stem: str) -> Callable[[Body, str], bool]:
    """Set a device of a kind into the run behind the last of some others on the way to a drip zone, or behind the
    source.
    """

    def edit(body: Body, where: str) -> bool:
        plan = Plan.model_validate(body)
        lay = layout(plan)
        way = head_of(plan, lay, where)
        behind = max((n for n, p in enumerate(way) if n == 0 or isinstance(p.what, first)), default=0)
        if len(way) < 2 or behind + 1 >= len(way):
            return False
        a, b = way[behind].id, way[behind + 1].id
        run = next((r for r in plan.runs if set(r.points) == {a, b} and not r.coupled), None)
        if run is None:
            return False
        made = kind_named(kind)
        long = lay.lines[run.id].length
        share = min(0.5, _BEHIND / long) if long else 0.5
        draft = Draft(body)
        new = draft.split(
            run.id, share if run.a.point == a else 1 - share, stem, made.start.model_dump(mode="json"), made.title
        )
        if run.a.point != a:
            for end in (e for r in draft.runs_at(new) for e in (r["a"], r["b"]) if e["point"] == new):
                end["port"] = {"in": "out", "out": "in"}[end["port"]]
        return True

    return edit


def _square(body: Body, where: str) -> bool:
    """Move a tee to where its branch comes square to a straight line through the other two."""
    places = {p["id"]: (p["x"], p["y"], p["ground"] - p["depth"]) for p in body["points"]}
    found = _foot(places, [(r["a"]["point"], r["b"]["point"]) for r in body["runs"]], where)
    point = _point(body, where)
    if found is None or point is None:
        return False
    x, y, z = found
    point["x"], point["y"], point["depth"] = round(x, 6), round(y, 6), round(point["ground"] - z, 6)
    for run in body["runs"]:
        if where in (run["a"]["point"], run["b"]["point"]):
            run["measured_length"] = None
    return True


Place = tuple[float, float, float]


def _foot(places: Mapping[str, Place], runs: Iterable[tuple[str, str]], where: str) -> Place | None:
    """The place on the straight line between two of a tee's three neighbours that is nearest to the third; None where
    there is none between.
    """
    ends = [ends for ends in runs if where in ends]
    if where not in places or len(ends) != 3:
        return None
    here = places[where]
    far = [places[b if a == where else a] for a, b in ends]
    if min(dist(here, f) for f in far) <= 0:
        return None

    def turn(pair: tuple[int, int]) -> float:
        u, v = ([(f - h) / dist(here, far[n]) for f, h in zip(far[n], here, strict=True)] for n in pair)
        return float(sum(p * q for p, q in zip(u, v, strict=True)))  # -1 where they lie straight through

    i, j = min(((0, 1), (0, 2), (1, 2)), key=turn)
    one, two, third = far[i], far[j], far[3 - i - j]
    along = [b - a for a, b in zip(one, two, strict=True)]
    long = sum(v * v for v in along)
    share = sum((t - a) * v for t, a, v in zip(third, one, along, strict=True)) / long if long else -1.0
    if not _INSIDE < share < 1 - _INSIDE:
        return None
    x, y, z = (a + share * v for a, v in zip(one, along, strict=True))
    return x, y, z


@dataclass(frozen=True, slots=True)
class _Mend:
    """What a mend does, in words, the edit, and whether it can be done to a plan there: asked of every problem, so it
    is quick.
    """

    says: str
    edit: Callable[[Body, str], bool]
    fits: Callable[[Plan, str], bool] = lambda plan, where: True


def _has_heavier(plan: Plan, where: str) -> bool:
    run = plan.run_by_id.get(where)
    return run is not None and (run.series or plan.conditions.series) in _HEAVY


def _has_size(plan: Plan, where: str) -> bool:
    run = plan.run_by_id.get(where)
    return run is not None and run.size is not None and run.existing is None  # what lies there keeps its size


def _may_grow(plan: Plan, where: str) -> bool:
    what = plan.by_id[where].what if where in plan.by_id else None
    return isinstance(what, Vessel) and what.volume * _ROOM <= 10


def _one_bare_tank(plan: Plan, where: str) -> bool:
    return sum(isinstance(p.what, Tank) and p.what.intake != "foot valve" for p in plan.points) == 1


def _is_hump(plan: Plan, where: str) -> bool:
    return where in plan.by_id and plan.by_id[where].kind.plain and sum(where in r.points for r in plan.runs) == 2


def _one_mains(plan: Plan, where: str) -> bool:
    """One mains with one run, and nobody drinks beyond it: then there is one place for the preventer."""
    mains = list(plan.of_kind(Mains))
    return (
        len(mains) == 1
        and sum(mains[0].id in r.points for r in plan.runs if not r.coupled) == 1
        and not any(plan.of_kind(*DRINKING))
    )


def _can_be_square(plan: Plan, where: str) -> bool:
    mine = [r.points for r in plan.runs if where in r.points]
    near = {p for ends in mine for p in ends} | ({where} & plan.by_id.keys())
    return _foot({p: (plan.by_id[p].x, plan.by_id[p].y, plan.by_id[p].level) for p in near}, mine, where) is not None


def _into_wall(body: Body, where: str) -> bool:
    """Set a fitting into the wall or floor of the nearest body of water, at the height its kind has there."""
    plan = Plan.model_validate(body)
    point = plan.by_id.get(where)
    home = (
        nearest_body(plan, point.x, point.y, point.level)
        if point is not None and isinstance(point.what, InWall)
        else None
    )
    if point is None or home is None:
        return False
    x, y, level, what = settled_place(plan, where, home)
    mine = _point(body, where)
    assert mine is not None
    mine |= {
        "x": round(x, 4),
        "y": round(y, 4),
        "depth": round(mine["ground"] - level, 4),
        "what": what.model_dump(mode="json"),
    }
    return True


def _has_body(plan: Plan, where: str) -> bool:
    return where in plan.by_id and any(isinstance(p.what, Basin) and not shape_of(p).crosses for p in plan.points)


MENDS: dict[str, _Mend] = {
    "in-no-water": _Mend("Set it into the wall of the nearest pond, tub or tank", _into_wall, _has_body),
    "skimmer-level": _Mend("Set it at the water's level", _into_wall, _has_body),
    "zone-by-hand": _Mend("Take a valve that is worked by wire", _by_wire),
    "row-no-flush": _Mend("End each row in a flush valve", _flush_valves),
    "half-inch": _Mend("It is measured, and it is this", _measured),
    "drip-order": _Mend("Let the two change places", _in_order, lambda plan, where: where in plan.by_id),
    "drip-filter": _Mend("Put a filter there", _after((BackflowPreventer, Valve), "filter", "F")),
    "drip-pressure": _Mend("Put a regulator there", _after((BackflowPreventer, Valve, Filter), "regulator", "PR")),
    "air-trap": _Mend("Put an air valve there", _vent, _is_hump),
    "no-backflow": _Mend("Put a preventer after the mains, of the kind the local code names", _preventer, _one_mains),
    "turn-at-device": _Mend("Set a bend of its own beside it", bend_beside, may_bend_beside),
    "no-cleanout": _Mend("Set a clean-out into the middle of it", clean_out, may_clean_out),
    "waste-cleanout": _Mend("Set a clean-out beside it", clean_out, may_clean_out),
    "off-rule": _Mend("Lay the line by its rule again", lay_by_rule, may_lay_by_rule),
    "square-branch": _Mend("Bring it in at 45° the way the water runs", lead_in, may_lead_in),
    "tee-angle": _Mend("Move it to where its branch comes square to a straight line", _square, _can_be_square),
    "faces-source": _Mend("Turn it round", _turn),
    "not-buried": _Mend("Say that it lies on the surface", _on_surface, lambda plan, where: where in plan.run_by_id),
    "crosses-drive": _Mend("Say that wheels go over it", _wheels, lambda plan, where: where in plan.run_by_id),
    "under-wheels": _Mend("Take the heavier pipe there", _heavier, _has_heavier),
    "thin-refused": _Mend("Take the heavier pipe there", _heavier, _has_heavier),
    "too-fast": _Mend("Leave its size to Hydrarch", _size_open, _has_size),
    "choice-lapsed": _Mend("Automatic again", _leave_ways),
    "opens-no-outlet": _Mend("Take it out of its scenarios", _close_scenario),
    "vessel-small": _Mend("Take a vessel twice as large", _larger_vessel, _may_grow),
    "priming": _Mend("Put a foot valve at the intake", _foot_valve, _one_bare_tank),
}
"""By the code of a problem."""


def does(plan: Plan, problem: Problem) -> str:
    """What the plain mend of a problem does, in words; "" where there is none."""
    mend = MENDS.get(problem.code)
    return mend.says if mend is not None and mend.fits(plan, problem.where) else ""


def mended(plan: Plan, problem: Problem) -> Plan | None:
    """The plan with a problem's plain mend done; None where there is none."""
    mend = MENDS.get(problem.code)
    if mend is None:
        return None
    body = plan.model_dump(mode="json")
    return Plan.model_validate(body) if mend.edit(body, problem.where) else None
