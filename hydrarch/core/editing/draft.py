"""A plan being changed by the core: its document, new ids for what is added, and the next free port.

What is drafted is checked when it is made a plan again; the plan it began with stays as it is.
"""

from __future__ import annotations

from collections.abc import Container, Iterable, Mapping
from typing import Any

from pydantic import ValidationError

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.identity import new_id
from hydrarch.core.catalogue.beginnings import beginnings
from hydrarch.core.catalogue.pipes import HUNG
from hydrarch.core.components.base import PortSpec, kind_named
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.references import without

__all__ = ["Body", "Draft", "next_number"]

Body = dict[str, Any]
_UPRIGHT = 0.005
"""m within which a run that goes from one height to another stands upright."""


def next_number(points: Iterable[Body]) -> int:
    """The number of a new point without a name: one more than the highest there is."""
    return 1 + max((p.get("number") or 0 for p in points), default=0)


class Draft:
    """The document of a plan, to be changed: `body` is JSON in SI, `spots` its points by id."""

    def __init__(self, plan: Plan | Body) -> None:
        """Begin with a copy of a plan, or go on with a document as it is, changing it in place."""
        self.body: Body = plan.model_dump(mode="json") if isinstance(plan, Plan) else plan
        self.spots: dict[str, Body] = {p["id"]: p for p in self.body["points"]}

    def plan(self) -> Plan:
        """The plan it has become; raises `HydrarchError` where a thing would lie beyond a drawing, or it does not hold
        together.
        """
        try:
            return Plan.model_validate(self.body)
        except ValidationError as error:
            first = error.errors()[0]
            if first["loc"][:1] == ("points",) and first["loc"][-1] in ("x", "y", "depth", "ground"):
                told = self.body["points"][int(first["loc"][1])]
                name = told["name"] or told["what"]["kind"].replace("_", " ")
                raise HydrarchError(f"{name} would lie beyond what a drawing can hold: go less far") from None
            raise HydrarchError(
                f"the drawing would not be valid: {first['msg'].removeprefix('Value error, ')}"
            ) from None

    def split(self, run: str, share: float, stem: str, what: Body, name: str = "", comes: str = "a") -> str:
        """Set a thing into a run at a share of it and return its id.

        The run's own pipe, and the ids of its ends, stay on both sides. `comes` is the end ("a" or "b") its water comes
        from: the thing faces that way.
        """
        first = next(r for r in self.body["runs"] if r["id"] == run)
        a, b = self.spots[first["a"]["point"]], self.spots[first["b"]["point"]]
        part = min(1.0, max(0.0, share))
        between = {k: round(a[k] + (b[k] - a[k]) * part, 6) for k in ("x", "y", "ground", "depth")}
        air = any(self.airy(e["point"], e["port"]) for e in (first["a"], first["b"]))
        new = self.add_point(stem, **between, what=what, name=name)
        rest = dict(first) | {"id": new_id("R"), "measured_length": None, "coupled": False, "b": first["b"]}
        first |= {"measured_length": None, "coupled": False, "b": {"id": new_id("E"), "point": new, "port": ""}}
        rest["a"] = {"id": new_id("E"), "point": new, "port": ""}
        self.body["runs"].insert(self.body["runs"].index(first) + 1, rest)
        ways = ("in", "out") if comes == "a" else ("out", "in")
        rest["a"]["point"] = ""  # it comes to no port yet
        first["b"]["port"] = self.port(new, ways[0], air=air, but=first["b"])
        rest["a"]["point"] = new
        rest["a"]["port"] = self.port(new, ways[1], air=air, but=rest["a"])
        return new

    def runs_at(self, point: str) -> list[Body]:
        """The runs that come to a point, in their order."""
        return [r for r in self.body["runs"] if point in (r["a"]["point"], r["b"]["point"])]

    def _ports(self, point: str) -> tuple[PortSpec, ...]:
        what = self.spots[point]["what"]
        kind = kind_named(what["kind"])
        return kind.ports_of(kind.model.model_validate(what))

    def airy(self, point: str, port: str = "", seen: frozenset[str] = frozenset()) -> bool:
        """Whether what is drawn from a thing, or comes to a port of it, is a line of air: all that it leads to has
        ports for air.
        """
        if point not in self.spots or point in seen:
            return False
        ports = self._ports(point)
        air = [p for p in ports if p.role == "air"]
        if air:
            return len(air) == len(ports) or any(p.name == port for p in air)
        beyond = ((r["b"] if r["a"]["point"] == point else r["a"]) for r in self.runs_at(point))
        return any(self.airy(e["point"], e["port"], seen | {point}) for e in beyond)

    def port(self, point: str, way: str, *, air: bool = False, but: Body | None = None) -> str:
        """The port a run comes to at a point: a free one for what it carries that goes its way, or the next free one,
        or the first.

        `but` is an end that does not count as taken: the one whose port is asked for.
        """
        every = self._ports(point)
        ports = [p for p in every if (p.role == "air") == air] or list(every)
        used = [e["port"] for r in self.body["runs"] for e in (r["a"], r["b"]) if e["point"] == point and e is not but]
        free = [p for p in ports if p.takes == 0 or used.count(p.name) < p.takes]
        found = [*(p for p in free if p.way == way), *(p for p in free if p.way == "any"), *free, *ports]
        return found[0].name if found else ""

    def add_point(self, stem: str, **fields: Any) -> str:
        """Add a point and return its id; a plain place without a name has the next number, a thing its kind's next
        name.
        """
        new = {"id": new_id(stem), "name": "", **fields}
        if not new["name"]:
            if kind_named(new["what"]["kind"]).plain:
                new["number"] = next_number(self.body["points"])
            else:
                new["name"] = self.name_for(kind_named(new["what"]["kind"]).title)
        self.body["points"].append(new)
        self.spots[new["id"]] = new
        return str(new["id"])

    def name_for(self, title: str) -> str:
        """A name of its own for a thing that is called so: its title and the next number that no name has."""
        taken, number = {p["name"] for p in self.body["points"]}, 1
        while f"{title} {number}" in taken:
            number += 1
        return f"{title} {number}"

    def add_run(self, start: str, stop: str, fed: Container[str] = ()) -> str:
        """Add a run between two points, of the pipe that was drawn last at either, and return its id; a bend with three
        runs becomes a tee.

        The water goes as it is drawn, unless only the far thing is `fed`.
        """
        like = next(
            (r for r in reversed(self.body["runs"]) if {start, stop} & {r["a"]["point"], r["b"]["point"]}), None
        )
        backward = self._fed(stop, fed) and not self._fed(start, fed)
        air = any(self.airy(p) for p in (start, stop))
        ways = ("in", "out") if backward else ("out", "in")
        ends = [
            {"id": new_id("E"), "point": point, "port": self.port(point, way, air=air)}
            for point, way in zip((start, stop), ways, strict=True)
        ]
        run = new_id("R")
        new: Body = {"id": run, "a": ends[0], "b": ends[1]}
        about = beginnings().get(self.body.get("about", ""))
        lies = about.lies if about is not None else ""
        if like is not None:
            lies = lies if like.get("situation") == HUNG else like.get("situation", "")
            new |= {"series": like["series"]} if "series" in like else {}
            if self.runs_at(start) == [like]:  # the line goes on; a branch is sized anew
                new["size"] = like.get("size")
        if self._hangs(start, stop, like):
            lies = HUNG
        if lies:
            new["situation"] = lies
        self.body["runs"].append(new)
        for end in (start, stop):
            if kind_named(self.spots[end]["what"]["kind"]).plain and len(self.runs_at(end)) > 2:
                self.spots[end]["what"] = {"kind": "junction"}
        return run

    def _hangs(self, start: str, stop: str, like: Body | None) -> bool:
        """Whether a run from one to the other goes straight up or down a well, from its pump or on from what hangs
        there.
        """
        a, b = self.spots[start], self.spots[stop]
        upright = abs(a["x"] - b["x"]) < _UPRIGHT and abs(a["y"] - b["y"]) < _UPRIGHT
        sunk = any("sunk" in kind_named(p["what"]["kind"]).traits for p in (a, b))
        return upright and (sunk or (like is not None and like.get("situation") == HUNG))

    def become(self, point: str, what: Body, comes: Mapping[str, str]) -> None:
        """Let a thing be another kind: its runs come to the new kind's ports by the way their water goes.

        `comes` is the end of each run its water comes from; what was chosen for the kind it was goes
        (`references.become`).
        """
        spot = self.spots[point]
        spot |= {"what": what, "ports": {}}
        ends = [(r, side) for r in self.body["runs"] for side in ("a", "b") if r[side]["point"] == point]
        for run, side in ends:
            run[side]["port"] = ""
        for run, side in ends:
            far = run["b" if side == "a" else "a"]
            way = "out" if (comes.get(run["id"]) or "a") == side else "in"
            run[side]["port"] = self.port(point, way, air=self.airy(far["point"], far["port"]))

    def _fed(self, point: str, fed: Container[str]) -> bool:
        return point in fed or kind_named(self.spots[point]["what"]["kind"]).role == "source"

    def remove(self, points: Iterable[str], runs: Iterable[str] = ()) -> None:
        """Take points and runs off, with all that names them.

        A point with two runs joins them into one, and the far ends stay who they are.

        So deleting a bend straightens the line. Of two runs that come back to one thing, or lie beside another run,
        both go.
        """
        self._take(without(self.body, runs))
        for point in points:
            mine = self.runs_at(point)
            if len(mine) == 2:
                self._join(point, mine[0], mine[1])
            self._take(without(self.body, [point]))

    def _join(self, point: str, one: Body, two: Body) -> None:
        near = [r["a"] if r["a"]["point"] == point else r["b"] for r in (one, two)]
        far = [r["b"] if r["a"]["point"] == point else r["a"] for r in (one, two)]
        ends = {e["point"] for e in far}
        others = ({r["a"]["point"], r["b"]["point"]} for r in self.body["runs"] if r is not one and r is not two)
        if len(ends) < 2 or ends in others:
            return
        one["a" if one["a"] is near[0] else "b"] = far[1]
        one["measured_length"] = None
        self.body["runs"] = [r for r in self.body["runs"] if r is not two]
        self._take(without(self.body, [two["id"], near[0]["id"], near[1]["id"]]))

    def _take(self, body: Body) -> None:
        """Go on with another document in place of the one there was."""
        self.body.clear()
        self.body.update(body)
        self.spots = {p["id"]: p for p in self.body["points"]}
