"""A workable order: what stands at a point is made on the bench, then pipe is led to it run by run, heads last of all.

Every part and pipe is a body; a joint makes one body of two. A thread needs a body that can still be turned, so threads
come first and on the bench. A joint between two bodies that both have a direction sets an angle: it is marked when all
is dry, and comes last in its group. Groups go to as many hands as there are, and no two of them hold the same run.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.catalogue.methods import method
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.components.sources import Mains
from hydrarch.core.cutting.bill import cement_body
from hydrarch.core.joining.assembled import Assembly, Joint
from hydrarch.core.joining.stacks import SLIP
from hydrarch.core.making.joined_bodies import Bodies
from hydrarch.core.making.skin import joints_ahead
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = ["Glueup", "Task", "WorkOrder", "is_head", "worklist"]

declare("make", "cannot-turn")

_RANK = {"thread": 0, "solvent weld": 2, "barb and clamp": 3}
_SOFT = "solvent:flex"
_NOON = 293.15  # K: a job knows its coldest hour; cement is calculated no slower than at 20 °C
_EACH = 0.5  # min for each of many alike: a hole punched, a feeder pushed on; from memory
_MINUTES = {"thread": 4.0, "solvent weld": 3.0, "barb and clamp": 4.0}
"""How long a joint takes a hand, to share groups out; any other takes four. From memory."""


@dataclass(frozen=True, slots=True)
class Task:
    """One joint in its turn; `why` is the reason for its place.

    `angle` is whether it sets an angle that was marked when all was dry.
    """

    joint: str
    why: str
    angle: bool


@dataclass(frozen=True, slots=True)
class Glueup:
    """Joints made in one go. `hand` (from 1) is whose it is, `start` and `lasts` (s) when it falls due if all goes
    well.

    `runs` are those it holds, `angles` the joints whose angle is marked dry, `ahead` how many sockets may be cemented
    before the first is pushed home at 20 °C or the job's own warmth (0 where fewer than two are cemented).
    """

    id: str
    title: str
    joints: tuple[str, ...]
    runs: tuple[str, ...]
    angles: tuple[str, ...]
    ahead: int
    hand: int
    start: float
    lasts: float


@dataclass(frozen=True, slots=True)
class WorkOrder:
    """Every joint in the order to make it, the glue-ups it falls into, and what cannot be made in any order."""

    tasks: tuple[Task, ...]
    groups: tuple[Glueup, ...]
    problems: tuple[Problem, ...]


def worklist(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], assembly: Assembly) -> WorkOrder:
    """Every joint in the order to make it, in glue-ups; a thread that nothing can turn any more is a `Problem`."""
    bodies = Bodies(plan, lay, pipes, assembly)
    tasks: list[Task] = []
    groups: list[tuple[str, str, tuple[Joint, ...], tuple[str, ...]]] = []
    problems: list[Problem] = []
    for name, title, joints in _groups(plan, lay, assembly):
        order, angles = _in_order(bodies, name, joints, tasks, problems)
        groups.append((name, title, order, angles))
    return WorkOrder(tuple(tasks), tuple(_shared_out(plan, groups)), tuple(problems))


def is_head(joint: Joint) -> bool:
    """Whether a joint puts a tap or head on its riser: the line is flushed before these."""
    return joint.role == "head"


def _groups(plan: Plan, lay: Layout, assembly: Assembly) -> Iterable[tuple[str, str, list[Joint]]]:
    """The glue-ups away from the source: what stands at a run's two ends before the run, on a saddle after it; the
    heads last.

    A run between two points as far away begins at the one that is fixed, since what is not may still be turned at the
    end.
    """
    names, away = plan.names, lay.away  # a drain is laid from its outfall up
    last = _ties(plan, lay)
    ties: dict[str, list[Joint]] = {}
    bench: dict[str, list[Joint]] = {}
    along: dict[str, list[Joint]] = {run: [] for run in lay.lines}
    heads: list[Joint] = []
    drilled = {j.point: run for j in assembly.joints if j.method == "saddle" and (run := _pipe_of(j, lay)) is not None}
    for joint in assembly.joints:
        if is_head(joint):
            heads.append(joint)
        elif joint.point in last and joint.point not in drilled:
            ties.setdefault(joint.point, []).append(joint)
        elif joint.point in drilled and _pipe_of(joint, lay) is None:
            along[drilled[joint.point]].append(joint)  # a saddle is set and drilled before anything is threaded into it
        elif (run := _pipe_of(joint, lay)) is not None:
            along[run].append(joint)
        else:
            bench.setdefault(joint.point or "", []).append(joint)

    def first(point: str) -> tuple[float, bool, str]:
        return away(point), not plan.by_id[point].kind.bears, point

    laid = {run: sorted((line.a, line.b), key=first) for run, line in lay.lines.items()}
    for run in sorted(along, key=lambda r: (away(laid[r][0]), r)):
        ends = laid[run]
        for p in ends:
            if p in bench:
                yield f"at {p}", names[p], bench.pop(p)
        place = {p: 0 if p == ends[0] else 2 for p in ends}
        joints = sorted(along[run], key=lambda j: (place[j.point] if j.point else 1, _pipe_of(j, lay) is None, j.id))
        if joints:
            yield f"run {run}", f"{names[ends[0]]} to {names[ends[1]]}", joints
    for p, joints in sorted(bench.items(), key=lambda b: away(b[0])):
        yield f"at {p}", names[p], joints
    for p, joints in sorted(ties.items(), key=lambda t: (-away(t[0]), t[0])):
        yield (
            f"{_TIE}{p}",
            f"{names[p]}, where the old pipe is cut",
            sorted(joints, key=lambda j: (_pipe_of(j, lay) is None, j.id)),
        )
    if heads:
        small = ", taps and emitters" if any(j.count > 1 for j in heads) else " and taps"
        yield "heads", f"Heads{small}, after flushing", sorted(heads, key=lambda j: (away(j.point or ""), j.id))


def _ties(plan: Plan, lay: Layout) -> set[str]:
    """The points where new pipe is joined to old pipe that stands under a main's pressure, or is fed by one: all else
    is made before the water is shut off and the old pipe cut, the end at the main last of all.
    """
    old = {r.id for r in plan.runs if r.existing is not None}
    if not old:
        return set()
    ways = [lay.lines[r] for r in old if r in lay.lines and lay.systems.sort(r) == "supply"]
    mains = [p.id for p in plan.sources if isinstance(p.what, Mains)]
    fed = Graph[str](Edge(x.run, x.a, x.b, x.length) for x in ways).from_nodes(mains).distance if mains else {}
    return {p for p in fed if any(r not in old for r in lay.at[p])}


def _pipe_of(joint: Joint, lay: Layout) -> str | None:
    """The run whose own pipe a joint holds, by its end or its side, so that the pipe must be there; None for one of
    parts only.
    """
    if joint.role == "length":
        return joint.run
    if joint.to_pipe:
        return lay.run_of.get(joint.b.of or "")
    return lay.run_of.get(joint.a.of or "") if joint.a.pipe is not None else None


def _in_order(
    bodies: Bodies, group: str, joints: list[Joint], tasks: list[Task], problems: list[Problem]
) -> tuple[tuple[Joint, ...], tuple[str, ...]]:
    """Make a group's joints: on the bench loose parts fused, then threads, those that set an angle last; along a run as
    the pipe goes in.
    """
    left, order, angles = deque(joints), list[Joint](), list[str]()
    on_bench = group.startswith("at ")

    def turn(joint: Joint) -> tuple[bool, bool, bool, int, str]:
        pair = bodies.pair(joint)
        loose = "fusion" in joint.method and bodies.loose(pair)
        return not loose, joint.method != "thread", bodies.sets_angle(pair), _RANK.get(joint.method, 1), joint.id

    while left:
        joint = min(left, key=turn) if on_bench and len(left) > 1 else left[0]
        left.remove(joint)
        pair = bodies.pair(joint)
        # what its nut lets go again is turned to its angle by hand before the nut is tightened
        angle = bodies.sets_angle(pair) and not method(joint.method).undo
        closes = pair[0] == pair[1] and joint.point is not None
        loose = on_bench and "fusion" in joint.method and bodies.loose(pair)
        if joint.method == "thread" and joint.point is not None and not is_head(joint) and bodies.stuck(pair):
            problems.append(tell("cannot-turn", joint.point, size=joint.size, place=joint.place))
        bodies.make(pair)
        order.append(joint)
        if angle:
            angles.append(joint.id)
        why = _FUSED_LOOSE if loose else _why(joint, angle, closes, on_bench, joints)
        if group.startswith(_TIE):
            why = f"{_TIED}; {why}" if _slides(joint) else _TIED
        tasks.append(Task(joint.id, why, angle))
    return tuple(order), tuple(angles)


def _slides(joint: Joint) -> bool:
    """Whether a joint is of a coupling without a stop, with the pipe it is slid onto."""
    return joint.a.pipe is not None and joint.b.fitting is not None and fitting(joint.b.fitting).family == SLIP


_TIE = "tie "
_TIED = (
    "when all else is made: shut the water off at the street, open a low tap until it runs no more, and only then cut the "
    "old pipe"
)
_FUSED_LOOSE = (
    "fused while both parts lie loose on the bench: it needs no iron beside what it is screwed to, and is turned "
    "in as one"
)


def _why(joint: Joint, angle: bool, closes: bool, on_bench: bool, group: list[Joint]) -> str:
    if is_head(joint):
        return "after flushing, so that nothing lodges in it"
    if _slides(joint):
        return (
            "the coupling has no stop: it is slid wholly onto the pipe first, then back over the gap to the "
            "marks, last of all here"
        )
    if closes:
        return "it closes a ring: both ends are held, so leave it play or use the union"
    if angle and joint.method == "thread":
        return "it sets an angle: turn it up to the mark made dry, never back"
    if angle:
        return "last here, for it sets an angle: push it home to the mark made dry"
    if joint.method == "thread":
        return "threads first: what is threaded must still be free to turn"
    if joint.method == "barb and clamp":
        welded = any(j.method == "solvent weld" for j in group)
        return (
            "once the welds beside it have set: a push would shift them"
            if welded
            else "while the pipe is still free to push"
        )
    if joint.point is None:
        return "the next length, while it can still be turned"
    return (
        "on the bench, while it can still be turned"
        if on_bench
        else "the pipe goes in here first, while it can still be turned"
    )


def _shared_out(plan: Plan, groups: list[tuple[str, str, tuple[Joint, ...], tuple[str, ...]]]) -> Iterable[Glueup]:
    """Give each group to the hand that can begin it first; a group waits for the runs and places that another holds."""
    c = plan.conditions
    free = [0.0] * int(c.crew)
    let_go: dict[str, float] = {}
    warmth = max(c.air_temperature, _NOON)
    for name, title, joints, angles in groups:
        runs: dict[str, None] = {}
        held: set[str] = set()
        minutes, sizes, soft = 0.0, list[str](), False
        for j in joints:
            if j.run:
                runs[j.run] = None
            if j.point:
                held.add(j.point)
            minutes += _MINUTES.get(j.method, 4.0) if j.count == 1 else _EACH * j.count
            if j.method == "solvent weld":
                sizes.append(j.size)
                soft = soft or j.a.end.startswith(_SOFT) or j.b.end.startswith(_SOFT)
        held.update(runs)
        waits = max([let_go.get(x, 0.0) for x in held], default=0.0)
        if name == "heads":
            waits = max(*free, waits)
        start, hand = min([(max(since, waits), n) for n, since in enumerate(free)])
        free[hand] = done = start + 60.0 * minutes
        for x in held:
            let_go[x] = done
        ahead = _ahead(tuple(sizes), soft, warmth) if len(sizes) > 1 else 0
        ids = tuple([j.id for j in joints])
        yield Glueup(
            id=name,
            title=title,
            joints=ids,
            runs=tuple(runs),
            angles=angles,
            ahead=ahead,
            hand=hand + 1,
            start=start,
            lasts=60.0 * minutes,
        )


@remembered(1 << 12)
def _ahead(sizes: tuple[str, ...], soft: bool, temperature: float) -> int:
    """How many welds of these sizes may be coated before the first is pushed home."""
    body = cement_body(sizes, soft)
    return min(len(sizes), *(joints_ahead(size, body, temperature) for size in sizes))
