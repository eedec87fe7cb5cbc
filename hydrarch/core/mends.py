"""The one plain mend of a problem, as an edit of the plan: what the page offers as a button.

A mend is a function of the plan and where the problem is; it gives the plan mended, or None where there is no plain one. What it does
is told before, in words; what goes and what comes is worked out by whoever asks.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from hydrarch.core.catalogue.pipes import series
from hydrarch.core.kinds.equipment import Vessel
from hydrarch.core.kinds.sources import Tank
from hydrarch.core.plan import Plan
from hydrarch.core.problems import Problem

__all__ = ["MENDS", "does", "mended"]

Body = dict[str, Any]
_HEAVY = {"pvc-sdr21": "pvc40", "pvc-sdr26": "pvc40", "sewer-thin": "sewer-sdr35", "corrugated": "sewer-sdr35"}
"""What takes the place of pipe that no wheel may go over, of like outside or fittings; common practice."""
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


@dataclass(frozen=True, slots=True)
class _Mend:
    """What a mend does, in words, the edit, and whether it can be done to a plan there: asked of every problem, so it is quick."""

    says: str
    edit: Callable[[Body, str], bool]
    fits: Callable[[Plan, str], bool] = lambda plan, where: True


def _has_heavier(plan: Plan, where: str) -> bool:
    run = plan.run_by_id.get(where)
    return run is not None and (run.series or plan.conditions.series) in _HEAVY


def _has_size(plan: Plan, where: str) -> bool:
    return where in plan.run_by_id and plan.run_by_id[where].size is not None


def _may_grow(plan: Plan, where: str) -> bool:
    what = plan.by_id[where].what if where in plan.by_id else None
    return isinstance(what, Vessel) and what.volume * _ROOM <= 10


def _one_bare_tank(plan: Plan, where: str) -> bool:
    return sum(isinstance(p.what, Tank) and p.what.intake != "foot valve" for p in plan.points) == 1


MENDS: dict[str, _Mend] = {
    "faces-source": _Mend("Turn it round", _turn),
    "not-buried": _Mend("Say that it lies on the surface", _on_surface, lambda plan, where: where in plan.run_by_id),
    "crosses-drive": _Mend("Say that wheels go over it", _wheels, lambda plan, where: where in plan.run_by_id),
    "under-wheels": _Mend("Take the heavier pipe there", _heavier, _has_heavier),
    "thin-refused": _Mend("Take the heavier pipe there", _heavier, _has_heavier),
    "too-fast": _Mend("Leave its size to Hydrarch", _size_open, _has_size),
    "choice-lapsed": _Mend("Leave it to Hydrarch again", _leave_ways),
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
