"""A plan being changed by the core: its document, new ids for what is added, and the next free port.

What is drafted is checked when it is made a plan again; the plan it began with stays as it is.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from pydantic import ValidationError

from hydrarch.core.errors import HydrarchError
from hydrarch.core.identity import new_id
from hydrarch.core.kinds.base import kind_named
from hydrarch.core.plan import Plan

__all__ = ["Body", "Draft", "next_number"]

Body = dict[str, Any]


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
        """The plan it has become; raises `HydrarchError` where a thing would lie beyond a drawing, or it does not hold together."""
        try:
            return Plan.model_validate(self.body)
        except ValidationError as error:
            first = error.errors()[0]
            if first["loc"][:1] == ("points",) and first["loc"][-1] in ("x", "y", "depth", "ground"):
                told = self.body["points"][int(first["loc"][1])]
                name = told["name"] or told["what"]["kind"].replace("_", " ")
                raise HydrarchError(f"{name} would lie beyond what a drawing can hold: go less far") from None
            raise HydrarchError(f"the drawing would not hold together: {first['msg'].removeprefix('Value error, ')}") from None

    def split(self, run: str, share: float, stem: str, what: Body, name: str = "") -> str:
        """Set a thing into a run at a share of it; the run's own pipe, and the names of its ends, stay on both sides. Its name."""
        first = next(r for r in self.body["runs"] if r["id"] == run)
        a, b = self.spots[first["a"]["point"]], self.spots[first["b"]["point"]]
        between = {k: round(a[k] + (b[k] - a[k]) * share, 6) for k in ("x", "y", "ground", "depth")}
        new = self.add_point(stem, **between, what=what)
        self.spots[new]["name"] = name
        rest = dict(first) | {"id": new_id("R"), "measured_length": None, "coupled": False, "b": first["b"]}
        first |= {"measured_length": None, "coupled": False, "b": {"id": new_id("E"), "point": new, "port": ""}}
        rest["a"] = {"id": new_id("E"), "point": new, "port": ""}
        self.body["runs"].insert(self.body["runs"].index(first) + 1, rest)
        first["b"]["port"], rest["a"]["port"] = self.port(new, "in"), ""
        rest["a"]["port"] = self.port(new, "out")
        return new

    def runs_at(self, point: str) -> list[Body]:
        """The runs that come to a point, in their order."""
        return [r for r in self.body["runs"] if point in (r["a"]["point"], r["b"]["point"])]

    def port(self, point: str, way: str) -> str:
        """The port a run comes to at a point: a free one that goes its way, or the next free one, or the first."""
        kind = kind_named(self.spots[point]["what"]["kind"])
        ports = kind.ports_of(kind.model.model_validate(self.spots[point]["what"]))
        used = [e["port"] for r in self.body["runs"] for e in (r["a"], r["b"]) if e["point"] == point]
        free = [p for p in ports if p.takes == 0 or used.count(p.name) < p.takes]
        return next((p.name for p in free if p.way in (way, "any")), free[0].name if free else ports[0].name if ports else "")

    def add_point(self, stem: str, **fields: Any) -> str:
        """Add a point and return its id; one without a name has the next number."""
        new = {"id": new_id(stem), "name": "", **fields}
        if not new["name"]:
            new["number"] = next_number(self.body["points"])
        self.body["points"].append(new)
        self.spots[new["id"]] = new
        return str(new["id"])

    def add_run(self, start: str, stop: str) -> str:
        """A new run between two points, of the pipe that was drawn last at the first; a bend with three runs becomes a tee."""
        like = next((r for r in reversed(self.runs_at(start)) if not r.get("coupled")), None)
        run = new_id("R")
        new: Body = {
            "id": run, "a": {"id": new_id("E"), "point": start, "port": self.port(start, "out")},
            "b": {"id": new_id("E"), "point": stop, "port": self.port(stop, "in")},
        }  # fmt: skip
        new |= {k: like[k] for k in ("series", "size", "situation") if like is not None and k in like}
        self.body["runs"].append(new)
        for end in (start, stop):
            if kind_named(self.spots[end]["what"]["kind"]).plain and len(self.runs_at(end)) > 2:
                self.spots[end]["what"] = {"kind": "junction"}
        return run
