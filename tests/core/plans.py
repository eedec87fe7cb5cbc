"""Small plans for tests: invented lines with round numbers."""

from typing import Any

from hypothesis import strategies as st

from hydrarch.core.components.base import kind_named
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.upgrades import read_plan

RANDOMS = st.randoms(use_true_random=False)
"""Chance that a search makes smaller: what is drawn by it comes down to the least plan that breaks a law."""


def make_plan(points: list[dict[str, Any]], runs: list[tuple[str, str]], **more: Any) -> Plan:
    """A plan of points given as dictionaries and runs as pairs of ids; runs get ids R1, R2 and so on, their ends R1a
    and R1b.

    It is written as format 1 had it, so that each device faces away from the source.
    """
    made = [{"id": f"R{n}", "a": a, "b": b} for n, (a, b) in enumerate(runs, 1)]
    for run, extra in zip(made, more.pop("runs_more", [{}] * len(made)), strict=True):
        run.update(extra)
    return read_plan({"format": "hydrarch/plan/1", "name": "test", "points": points, "runs": made, **more})


def point(at: str, x: float, y: float, kind: str, **more: Any) -> dict[str, Any]:
    """A point at level ground, its pipe on the ground; called by its kind and id where it is given no name."""
    placed: dict[str, Any] = {k: more.pop(k) for k in ("ground", "depth", "name") if k in more}
    placed.setdefault("name", f"{kind.replace('_', ' ')} {at}")
    return {"id": at, "x": float(x), "y": float(y), "depth": 0.0, **placed, "what": {"kind": kind, **more}}


def tank_to_tap(length: float = 30.0, **more: Any) -> Plan:
    """A tank 20 m up, one run, one tap on the ground."""
    tap = {"flow": 2.5e-4, "needs": 100e3, "height": 0.0, **more.pop("tap", {})}
    return make_plan(
        [point("A", 0, 0, "tank", water_level=20.0), point("B", length, 0, "tap", **tap)], [("A", "B")], **more
    )


def tree(branches: int, size: str | None = None) -> Plan:
    """A tank, a trunk of tees, and a sprinkler at the end of each branch."""
    points, runs = [point("K", 0, 0, "tank", water_level=40.0)], []
    before = "K"
    for n in range(1, branches + 1):
        points += [point(f"J{n}", 10 * n, 0, "junction"), point(f"S{n}", 10 * n, 8, "sprinkler", height=0.0)]
        runs += [(before, f"J{n}"), (f"J{n}", f"S{n}")]
        before = f"J{n}"
    points.append(point("E", 10 * branches + 5, 0, "cap"))
    fixed = [{"series": "pvc40", "size": size}] * (len(runs) + 1)
    return make_plan(points, [*runs, (before, "E")], runs_more=fixed)


def draw(points: list[dict[str, Any]], runs: list[tuple[str, str]], **more: Any) -> Plan:
    """A plan in the newest format, drawn the way the water goes: "A:out" names a port; else a thing is left by its
    outlet, come to at its inlet.
    """
    what = {p["id"]: p["what"]["kind"] for p in points}

    def end(run: int, side: str, told: str) -> dict[str, str]:
        at, _, port = told.partition(":")
        names = [p.name for p in kind_named(what[at]).ports_of(kind_named(what[at]).start)]
        usual = {"a": "out", "b": "in"}[side]
        return {
            "id": f"R{run}{side}",
            "point": at,
            "port": port or (usual if usual in names else names[0] if names else ""),
        }

    made = [{"id": f"R{n}", "a": end(n, "a", a), "b": end(n, "b", b)} for n, (a, b) in enumerate(runs, 1)]
    for run, extra in zip(made, more.pop("runs_more", [{}] * len(made)), strict=True):
        run.update(extra)
    return Plan.model_validate({"name": "test", "points": points, "runs": made, **more})


def codes(plan: Plan) -> dict[str, str]:
    """What is wrong with a plan: problems by code."""
    return {p.code: p.says for p in derive(plan).problems()}
