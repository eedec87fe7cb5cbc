"""How each joint is made, step by step, by the crew's own practice, with this joint's numbers in the words."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import ceil, sqrt

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import Unknown
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show, size_value
from hydrarch.core.catalogue.fittings import end, fitting
from hydrarch.core.catalogue.guidance import Caution, cautioned_at, cautions_for, choose_practice
from hydrarch.core.catalogue.methods import method
from hydrarch.core.catalogue.pipes import pipe_called, series
from hydrarch.core.catalogue.tables import read_rows
from hydrarch.core.components.basins import Basin, InWall
from hydrarch.core.cutting.bill import QUART, TAPE_WRAPS, joints_per_quart, tape_length
from hydrarch.core.joining.assembled import Assembly, Joint, Side
from hydrarch.core.joining.choosing import SWING_REACH
from hydrarch.core.joining.stacks import SLIP
from hydrarch.core.making.cure import CureTime, cure_time
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.risers import riser_length

__all__ = [
    "Procedure",
    "StepText",
    "fusion_wait",
    "other_mark",
    "hold_time",
    "joint_cure",
    "mend_wait",
    "procedure",
    "step_problems",
    "steps_of",
    "weather_problems",
    "words_for_time",
]

declare("make", "no-steps", "weather-assumed")

_CLOCKED = ("solvent weld",)
"""Methods whose joints cure by the weather."""


@dataclass(frozen=True, slots=True)
class StepText:
    """One step: what to do, how it looks when right, what to do when it is wrong, and seconds to hold (0: none)."""

    title: str
    do: str
    looks: str
    wrong: str
    timer: float
    source: str


@dataclass(frozen=True, slots=True)
class Procedure:
    """All steps of one joint, the tools to have at hand, its cautions, and its clocks; where nothing cures, `wait` says
    what to wait for.
    """

    joint: str
    method: str
    tools: str
    steps: tuple[StepText, ...]
    cautions: tuple[Caution, ...]
    cure: CureTime | None
    wait: str


FIRST_TEST = 3600.0
"""s from the last fusion to the first test: what guides of PPR systems ask at the least, from memory."""
COLD, COLD_FACTOR = 278.15, 1.5
"""Below this air temperature (K) fusion is heated half as long again: a site rule, from memory."""
_MEDIUM, _LARGE = (
    1.5,
    3.0,
)  # in: from here a socket is held a minute, from there it takes two people and three; common practice


@remembered()
def _rows() -> tuple[dict[str, str], ...]:
    return read_rows("hydrarch.core.making", "steps.csv", dict)


def steps_of(method: str) -> tuple[str, ...]:
    """The titles of all steps written for a method, whatever they apply to."""
    return tuple(r["title"] for r in _rows() if r["method"] == method)


def step_problems(assembly: Assembly) -> Iterator[Problem]:
    """Ways of joining that no steps are written for, at the first joint of each."""
    for name in dict.fromkeys(j.method for j in assembly.joints):
        if not steps_of(name):
            joint = next(j for j in assembly.joints if j.method == name)
            yield tell("no-steps", joint.point or joint.run or "", method=name)


def weather_problems(plan: Plan, assembly: Assembly) -> Iterator[Problem]:
    """Clocks that run on weather which nobody has said, or that a stand-in said."""
    c = plan.conditions
    if c.weather == "said" or not any(j.method in _CLOCKED for j in assembly.joints):
        return
    yield tell(
        "weather-assumed" if c.weather == "assumed" else "weather-assumed/simulated",
        "",
        plan.units,
        warm=c.air_temperature,
        damp=c.humidity,
    )


_OTHER_LIST = "another printed list says {}: measure the depth of the fitting, and go by that"


@remembered()
def fusion_times(size: str) -> dict[str, float]:
    """Seconds to heat, to change over and to hold, and minutes to cool, of a socket fusion of outside diameter `size`
    (mm).

    Raises `Unknown` for a size the table does not have. Source: DVS 2207-11 for PP, from memory.
    """
    rows = {r["size"]: r for r in read_rows("hydrarch.core.making", "fusion.csv", dict)}
    if size not in rows:
        raise Unknown("socket fusion of size", size, rows)
    row = rows[size]
    return {
        "heat": float(row["heat_s"]),
        "changeover": float(row["changeover_s"]),
        "fix": float(row["fix_s"]),
        "cool": float(row["cool_min"]),
    }


def joint_cure(plan: Plan, joint: Joint, pressure: float, temperature: float | None = None) -> CureTime | None:
    """The clocks of a joint under the job's conditions, or None where nothing cures. A drain's weld sees no pressure.

    `temperature` (K) is the one it was made at, if lower than the job's lowest.
    """
    if joint.method == "socket fusion":
        return fusion_wait(joint.size)
    if joint.method != "solvent weld":
        return None
    if joint.a.end.startswith(("dwv", "sewer")):
        pressure = 0.0
    coldest = min(plan.conditions.air_temperature, temperature or plan.conditions.air_temperature)
    practice = choose_practice(plan.practices_at(joint.point), "cure")
    return cure_time(joint.size, coldest, plan.conditions.humidity, pressure, practice, plan.units)


def mend_wait(plan: Plan, joint: Joint, pressure: float) -> CureTime | None:
    """The clocks of a mend at a joint by which pipe was opened, from the mend on; None where nothing can have set.

    How it was mended is said in words, which are not read: it waits as for cement of that size, which nearly all of it
    sets within, unless its pipe is one that no cement joins.
    """
    own = joint_cure(plan, joint, pressure)
    pipes = [series(pipe_called(side.pipe).series).material for side in (joint.a, joint.b) if side.pipe]
    if own is not None or (pipes and "pvc" not in pipes):
        return own
    practice = choose_practice(plan.practices_at(joint.point), "cure")
    coldest = plan.conditions.air_temperature
    return cure_time(joint.size, coldest, plan.conditions.humidity, pressure, practice, plan.units)


def other_mark(size: str) -> float | None:
    """How deep (m) the shorter of two printed lists marks a socket fusion of outside diameter `size` (mm), where it is
    another depth than 0.3 d + 8.5 mm by more than a millimetre; None where both say the same.

    Source: the installers' list 14, 15, 16.5, 18, 20, 24, 26, 29, 32.5 mm, from memory.
    """
    rows = {r["size"]: r for r in read_rows("hydrarch.core.making", "fusion.csv", dict)}
    if size not in rows:
        return None
    marked = float(rows[size]["shorter_mark_mm"]) / 1e3
    return marked if abs(end(f"fusion:socket:{size}").engagement - marked) > 1e-3 else None


def fusion_wait(size: str) -> CureTime:
    """The clocks of a socket fusion of outside diameter `size` (mm): cooling before any load, and an hour before water
    under pressure.
    """
    cool = fusion_times(size)["cool"] * 60
    return CureTime(
        cool,
        cool,
        max(cool, FIRST_TEST),
        max(cool, FIRST_TEST),
        f"size {size}, cooled by itself; an hour after the last fusion before the test",
        "cooling: DVS 2207-11 for PP, from memory; an hour to the first test: guides of PPR systems, from "
        "memory; the maker's own wins",
    )


def hold_time(size: str) -> float:
    """Seconds a solvent weld is held home: half a minute to 1-1/4 in, a minute to 2-1/2, three from 3 in.

    Common practice.
    """
    inches = size_value(size)
    return 180.0 if inches >= _LARGE else 60.0 if inches >= _MEDIUM else 30.0


def procedure(plan: Plan, joint: Joint, pressure: float) -> Procedure:
    """The steps of `joint` under the crew's practices, for a test at `pressure` (Pa)."""
    cure = joint_cure(plan, joint, pressure)
    wraps = TAPE_WRAPS[choose_practice(plan.practices_at(joint.point), "tape")]
    wet = (
        choose_practice(plan.practices_at(joint.point), "primer_wet") == "wet"
        and choose_practice(plan.practices_at(joint.point), "prepare") == "primer"
    )
    words = {
        "spigot": "pipe" if _is_pipe(joint.a) else "spigot",
        "body": _body(plan, joint),
        "depth": str(show(joint.depth, "takeoff", plan.units)),
        "wraps": str(wraps),
        "tape": str(show(tape_length(joint.size, wraps), "length", plan.units)) if joint.method == "thread" else "",
        "cement": str(show(QUART / joints_per_quart(joint.size), "dose", plan.units))
        if joint.method == "solvent weld"
        else "",
        "wet": ", over primer that is still wet" if wet else "",
        "set": words_for_time(cure.set) if cure else "",
        "handle": words_for_time(cure.handle) if cure else "",
        "cure": words_for_time(cure.cure) if cure else "",
    }
    words |= _reach(plan, joint) | _hole(plan, joint)
    other = other_mark(joint.size) if joint.method == "socket fusion" else None
    words["other"] = "" if other is None else f" ({_OTHER_LIST.format(show(other, 'takeoff', plan.units))})"
    fusion = dict(fusion_times(joint.size)) if joint.method == "socket fusion" else {}
    if fusion and plan.conditions.air_temperature < COLD:
        fusion["heat"] = ceil(COLD_FACTOR * fusion["heat"])
    words |= {name: f"{number:g}" for name, number in fusion.items()}
    facts = _facts(plan, joint)
    mine = [r for r in _rows() if r["method"] in ("any", joint.method) and _applies(plan, joint, facts, r["when"])]
    steps = tuple(
        StepText(
            r["title"],
            r["do"].format(**words),
            r["looks"].format(**words),
            r["wrong"],
            _timer(r["timer"], joint, fusion),
            r["source"],
        )
        for r in mine
    )
    kind = method(joint.method)
    held = [series(pipe_called(s.pipe).series) for s in (joint.a, joint.b) if s.pipe is not None]
    pipes = {f.material for f in held} | cautioned_at(joint.method, (f.kind for f in held))
    return Procedure(
        joint=joint.id,
        method=joint.method,
        tools=kind.tools,
        steps=steps,
        cautions=cautions_for(*sorted(pipes)),
        cure=cure,
        wait=kind.wait,
    )


def _timer(told: str, joint: Joint, fusion: dict[str, float]) -> float:
    return hold_time(joint.size) if told == "hold" else fusion[told] if told in fusion else float(told)


_ARROWS = frozenset(
    {"check valve", "spring check valve", "foot valve", "filter", "backflow preventer", "vacuum breaker"}
)
"""Families that work one way round, and have an arrow cast on them; common practice."""
_HANDLES = frozenset({"valve", "union valve", "valve with waste", "three-way valve"})
"""Families with a handle that swings; common practice."""


def _is_pipe(side: Side) -> bool:
    """Whether a side is pipe, or a piece cut from it."""
    return side.pipe is not None or (side.fitting is not None and fitting(side.fitting).family == "stub")


def _leads_one_way(plan: Plan, joint: Joint) -> bool:
    """Whether one side is what stands at the joint's point itself, and that lets water through one way only."""
    there = plan.by_id.get(joint.point or "")
    return (
        there is not None and there.kind.one_way and any(s.part is None and s.pipe is None for s in (joint.a, joint.b))
    )


def _in_liner(plan: Plan, joint: Joint) -> bool:
    """Whether one side is what stands at the joint's point itself, let into a body of water whose wall is a liner."""
    there = plan.by_id.get(joint.point or "")
    what = there.what if there is not None else None
    if (
        not isinstance(what, InWall)
        or what.waters is None
        or not any(s.part is None and s.pipe is None for s in (joint.a, joint.b))
    ):
        return False
    body = plan.by_id[what.waters.basin].what
    return isinstance(body, Basin) and body.walls == "liner"


def _met(plan: Plan, side: Side) -> bool:
    """Whether a side is pipe that exists already."""
    return side.of is not None and side.of in plan.met_ends


def _body(plan: Plan, joint: Joint) -> str:
    """What has the arrow or the handle, in words."""
    for side in (joint.b, joint.a):
        if side.fitting is not None and fitting(side.fitting).family in (_ARROWS | _HANDLES):
            return side.what
    return plan.names.get(joint.point or "", joint.place)


def _facts(plan: Plan, joint: Joint) -> dict[str, bool]:
    """What the rows of the steps ask about a joint, answered."""
    kinds = {kind for side in (joint.a, joint.b) for kind in (end(side.end).system, end(side.end).gender)}
    swing = any(
        side.fitting is not None and fitting(side.fitting).family == "swing riser" for side in (joint.a, joint.b)
    )
    foot = swing and joint.b.part is not None
    families = {fitting(side.fitting).family for side in (joint.a, joint.b) if side.fitting is not None}
    return {
        "cut": _is_pipe(joint.a) or _is_pipe(joint.b),
        "slip": _is_pipe(joint.a) and joint.b.fitting is not None and fitting(joint.b.fitting).family == SLIP,
        "liner": any(series(pipe_called(s.pipe).series).liner for s in (joint.a, joint.b) if s.pipe is not None),
        "arrow": bool(families & _ARROWS) or _leads_one_way(plan, joint),
        "handle": bool(families & _HANDLES),
        "lined": _in_liner(plan, joint),
        "fixed": any(_met(plan, s) for s in (joint.a, joint.b)),
        "swing": swing,
        "foot": foot,
        "large": size_value(joint.size) >= _LARGE,
        "flexible": "flex" in kinds,
        "vinyl": "vinyl" in kinds,
    }


def _applies(plan: Plan, joint: Joint, facts: dict[str, bool], when: str) -> bool:
    for condition in when.split("&") if when else ():
        question, _, option = condition.partition("=")
        told = (
            ("yes" if facts[question] else "no")
            if question in facts
            else choose_practice(plan.practices_at(joint.point), question)
        )
        if told != option:
            return False
    return True


def _hole(plan: Plan, joint: Joint) -> dict[str, str]:
    """How wide the hole of a bulkhead is, and how thick a wall it takes; blank where there is none."""
    wall = next((end(s.end) for s in (joint.a, joint.b) if s.end.startswith("bulkhead:wall")), None)
    if wall is None:
        return {"hole": "", "wall": ""}
    return {
        "hole": str(show(wall.diameter, "takeoff", plan.units)),
        "wall": str(show(wall.engagement, "takeoff", plan.units)),
    }


def _reach(plan: Plan, joint: Joint) -> dict[str, str]:
    """How far a swing riser goes up, and round at the height its head stands at; blank where there is none."""
    point = plan.by_id.get(joint.point or "")
    up = riser_length(point) if point is not None else 0.0
    aside = sqrt(max(SWING_REACH**2 - up**2, 0.0))
    return {"arm": str(show(SWING_REACH, "takeoff", plan.units)), "round": str(show(aside, "takeoff", plan.units))}


def words_for_time(seconds: float) -> str:
    """A wait as a crew says it: "45 min", "1 h 30 min", "3 days"."""
    minutes = round(seconds / 60)
    if minutes < 60:
        return f"{minutes} min"
    hours, rest = divmod(minutes, 60)
    if hours >= 48:
        days, hours = divmod(hours, 24)
        return f"{days} days" + (f" {hours} h" if hours else "")
    return f"{hours} h" + (f" {rest} min" if rest else "")
