"""Edits of several things at once: move, turn, mirror, copy, repeat, set, take away; and a part set down again, here or
in another job.

What is chosen are points and runs by id; a run is chosen with its ends, or by them. Every edit gives a new plan and
says what it did. A run with one end in the group is stretched, and forgets the length that was measured on it; nothing
comes to lie on another thing unseen.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from math import cos, hypot, pi, sin
from typing import Literal

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.identity import new_id, owner
from hydrarch.core.components.outlets import Outlet
from hydrarch.core.editing.draft import Body, Draft, next_number
from hydrarch.core.editing.measures import taped
from hydrarch.core.plan.document import MAX_POINTS, Plan
from hydrarch.core.plan.references import named_in, names_in, renaming, without

__all__ = [
    "Edited",
    "Way",
    "copied",
    "lifted",
    "members",
    "mirrored",
    "moved",
    "repeated",
    "set_down",
    "taken_away",
    "things",
    "turned",
]

Way = tuple[float, float, float]
"""East, north, up, in m."""
SAME = 0.005
"""m within which two things are at one place."""
_NUMBER = re.compile(r"^(.*?)\s*(\d+)$")


@dataclass(frozen=True, slots=True)
class Edited:
    """The plan after an edit of several things, those that are chosen now, and what was done in words."""

    plan: Plan
    chosen: tuple[str, ...]
    says: str


def members(plan: Plan, chosen: Iterable[str]) -> tuple[list[str], list[str]]:
    """The points and the runs of what is chosen, in the plan's order; a run comes with its ends, and with two chosen
    ends.
    """
    want = set(chosen)
    points = {p.id for p in plan.points if p.id in want} | {e for r in plan.runs if r.id in want for e in r.points}
    runs = [r.id for r in plan.runs if r.id in want or set(r.points) <= points]
    if not points:
        raise HydrarchError("what was chosen is not on the drawing any more: choose again")
    return [p.id for p in plan.points if p.id in points], runs


def things(points: Sequence[str]) -> str:
    """How many there are, in words."""
    return "1 thing" if len(points) == 1 else f"{len(points)} things"


def _middle(plan: Plan, points: Sequence[str]) -> tuple[float, float]:
    xs, ys = ([getattr(plan.by_id[p], axis) for p in points] for axis in "xy")
    return (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2


def _apart(plan: Plan, fresh: Iterable[str]) -> Plan:
    """The plan, where nothing of what was just set somewhere lies on another thing."""
    new = set(fresh)
    cells: dict[tuple[int, int], list[str]] = {}
    for p in plan.points:
        cells.setdefault((round(p.x), round(p.y)), []).append(p.id)
    for name in new:
        one = plan.by_id[name]
        cx, cy = round(one.x), round(one.y)
        for other in (o for dx in (-1, 0, 1) for dy in (-1, 0, 1) for o in cells.get((cx + dx, cy + dy), ())):
            two = plan.by_id[other]
            if other not in new and hypot(one.x - two.x, one.y - two.y, one.level - two.level) < SAME:
                raise HydrarchError(
                    f"{one.label} would come to lie on {two.label}: go a little less far, or another way"
                )
    return plan


def _placed(plan: Plan, chosen: Iterable[str], place: Callable[[Body], None]) -> tuple[Draft, list[str], int]:
    """The plan with each chosen point placed anew, and how many measured lengths were forgotten."""
    points, _ = members(plan, chosen)
    draft, mine, lost = Draft(plan), set(points), 0
    for p in points:
        place(draft.spots[p])
    for run in draft.body["runs"]:
        if len({run["a"]["point"], run["b"]["point"]} & mine) == 1 and run["measured_length"] is not None:
            run["measured_length"], lost = None, lost + 1
    return draft, points, lost


def _with_lost(says: str, lost: int) -> str:
    if not lost:
        return says
    return (
        f"{says} {'A measured length' if lost == 1 else f'{lost} measured lengths'} of stretched pipe went: "
        "measure again."
    )


def moved(plan: Plan, chosen: Iterable[str], by: Way) -> Edited:
    """Move what is chosen `by` so much (m)."""

    def place(spot: Body) -> None:
        spot["x"], spot["y"] = round(spot["x"] + by[0], 6), round(spot["y"] + by[1], 6)
        spot["depth"] = round(spot["depth"] - by[2], 6)

    draft, points, lost = _placed(plan, chosen, place)
    return Edited(
        _apart(draft.plan(), points), tuple(points), _with_lost(f"{things(points)} moved {_told(by, plan)}.", lost)
    )


def turned(plan: Plan, chosen: Iterable[str], angle: float) -> Edited:
    """Turn what is chosen about its middle by an angle (rad, anticlockwise as seen from above)."""
    if not abs(angle) % (2 * pi):
        raise HydrarchError("a turn is by some degrees: 90 is a quarter")
    cx, cy = _middle(plan, members(plan, chosen)[0])

    def place(spot: Body) -> None:
        x, y = spot["x"] - cx, spot["y"] - cy
        spot["x"] = round(cx + x * cos(angle) - y * sin(angle), 6)
        spot["y"] = round(cy + x * sin(angle) + y * cos(angle), 6)
        spot["what"] = plan.by_id[spot["id"]].what.turned(angle).model_dump(mode="json")

    draft, points, lost = _placed(plan, chosen, place)
    alone = plan.by_id[points[0]]
    if len(points) == 1 and alone.what.turned(angle) == alone.what:
        raise HydrarchError("one thing by itself has no other way to lie: choose more of the line")
    way = "left" if angle > 0 else "right"
    told = f"{things(points)} turned {abs(angle) * 180 / pi:.4g}° to the {way} about their middle."
    return Edited(_apart(draft.plan(), points), tuple(points), _with_lost(told, lost))


def mirrored(plan: Plan, chosen: Iterable[str], across: Literal["east-west", "north-south"]) -> Edited:
    """Let what is chosen lie the other way round about its middle: what was east is west, or what was north is
    south.
    """
    cx, cy = _middle(plan, members(plan, chosen)[0])

    def place(spot: Body) -> None:
        axis, middle = ("x", cx) if across == "east-west" else ("y", cy)
        spot[axis] = round(2 * middle - spot[axis], 6)
        spot["what"] = plan.by_id[spot["id"]].what.mirrored(across == "east-west").model_dump(mode="json")

    draft, points, lost = _placed(plan, chosen, place)
    return Edited(
        _apart(draft.plan(), points), tuple(points), _with_lost(f"{things(points)} mirrored, {across}.", lost)
    )


def lifted(plan: Plan, chosen: Iterable[str], name: str) -> Plan:
    """What is chosen as a plan of its own, with the crew's choices for it: kept as an assembly, or carried to another
    job.
    """
    points, runs = members(plan, chosen)
    met = [plan.by_id[p].model_copy(update={"existing": None}) for p in points]
    set_by = {n for p in met if (n := getattr(p.what, "nozzle", ""))}
    body = {
        "name": name,
        "units": plan.units,
        "conditions": plan.conditions.model_dump(mode="json"),
        "points": [p.model_dump(mode="json") for p in met],
        "runs": [plan.run_by_id[r].model_copy(update={"existing": None}).model_dump(mode="json") for r in runs],
        "ways": [w.model_dump(mode="json") for w in plan.ways],
        "nodes": [n.model_dump(mode="json") for n in plan.nodes],
        "nozzles": [n.model_dump(mode="json") for n in plan.nozzles if n.name in set_by],
    }
    here = named_in(body)
    return Plan.model_validate(
        without(body, {owner(n) for _, n in names_in(body)} - here - {n.name for n in plan.nozzles})
    )


def _numbered(name: str, taken: set[str]) -> str:
    """The next name of its kind: Head 1 is followed by Head 2; a name without a number begins at 2."""
    match = _NUMBER.match(name)
    stem = match.group(1) if match else name
    found = next(f"{stem} {n}" for n in range(2, len(taken) + 3) if f"{stem} {n}" not in taken)[:80]
    return found if found not in taken else ""


def _into(draft: Draft, part: Plan, by: Way, level_ground: float | None = None) -> dict[str, str]:
    """Set a part's things down `by` so much away from where they were; what each point is called now, by what
    it was.
    """
    now: dict[str, str] = {}
    names = {p["name"] for p in draft.body["points"] if p["name"]}
    for p in part.points:
        body = p.model_dump(mode="json")
        body.pop("id")
        name = body.pop("name")
        new = _numbered(name, names) if name in names else name
        names.add(new)
        if not new and p.kind.plain:
            body["number"] = next_number(draft.body["points"])
        ground = body["ground"] if level_ground is None else level_ground
        body |= {
            "x": round(p.x + by[0], 6),
            "y": round(p.y + by[1], 6),
            "ground": ground,
            "name": new,
            "depth": round(p.depth - by[2], 6),
            "existing": None,
        }
        now[p.id] = draft.add_point(p.kind.letter, **body)
    for r in part.runs:
        body = r.model_dump(mode="json") | {"id": new_id("R"), "existing": None}
        for end, side in ((r.a, "a"), (r.b, "b")):
            now[end.id] = new_id("E")
            body[side] = {"id": now[end.id], "point": now[end.point], "port": end.port}
        draft.body["runs"].append(body)
    choices = renaming(
        {name: [x.model_dump(mode="json") for x in getattr(part, name)] for name in ("ways", "nodes")}, now
    )
    for name, chosen in choices.items():
        draft.body[name] += chosen
    known = {n["name"] for n in draft.body["nozzles"]}
    draft.body["nozzles"] += [n.model_dump(mode="json") for n in part.nozzles if n.name not in known]
    return now


def _open_like(draft: Draft, plan: Plan, now: dict[str, str]) -> None:
    """What is a copy of an outlet is open where that one is."""
    for scenario in draft.body["scenarios"]:
        scenario["open"] += [now[p] for p in scenario["open"] if p in now]


def copied(plan: Plan, chosen: Iterable[str], by: Way) -> Edited:
    """Set a copy of what is chosen down `by` so much (m) away; it is chosen then."""
    return repeated(plan, chosen, by, 2)


def repeated(plan: Plan, chosen: Iterable[str], by: Way, times: int, joined: bool = False) -> Edited:
    """Have what is chosen `times` in all, each `by` so much (m) from the last, and `joined` to it by pipe where that is
    asked.

    What is joined, each to the next, is a plain place of the group's line, or what else takes one more pipe; the least
    filled first.
    """
    points, _ = members(plan, chosen)
    if not 2 <= times <= 200:
        raise HydrarchError("say how many there are to be in all: 2 to 200")
    if len(plan.points) + len(points) * (times - 1) > MAX_POINTS:
        raise HydrarchError(f"that makes more than {MAX_POINTS} things on one drawing: repeat fewer")
    part, draft, fresh = lifted(plan, chosen, plan.name), Draft(plan), []
    last = _link(plan, points) if joined else ""
    anchor = last
    for n in range(1, times):
        now = _into(draft, part, (by[0] * n, by[1] * n, by[2] * n))
        _open_like(draft, plan, {p: now[p] for p in points})
        fresh += [now[p] for p in points]
        if joined:
            draft.add_run(last, now[anchor])
            last = now[anchor]
    told = f"{times} in all, each {_told(by, plan)} of the last{', joined by pipe' if joined else ''}."
    if times == 2 and not joined:
        told = f"A copy of {things(points)} set down {_told(by, plan)}."
    return Edited(_apart(draft.plan(), fresh), tuple(fresh), told)


def _link(plan: Plan, points: Sequence[str]) -> str:
    """The thing of a group by which it is joined on: a plain place of its line, or what else takes another pipe; the
    least filled first.
    """
    count = Counter(p for r in plan.runs for p in r.points)

    def takes(p: str) -> bool:
        point = plan.by_id[p]
        return point.kind.plain or any(s.takes == 0 or s.takes > count[p] for s in point.kind.ports_of(point.what))

    able = [p for p in points if takes(p)]
    if not able:
        raise HydrarchError("nothing of what is chosen takes one more pipe: choose a bend or a tee of its line with it")
    return min(able, key=lambda p: (not plan.by_id[p].kind.plain, count[p]))


def set_down(plan: Plan, part: Plan, x: float, y: float, onto: str | None = None, level: float | None = None) -> Edited:
    """Set a part down so that its first place comes to `x`, `y` (m), as deep there as it was drawn, or at a `level`
    (m).

    `onto` is a plain point of the plan that its first place becomes. Ground is that of the point nearest to where it
    comes.
    """
    if not part.points:
        raise HydrarchError("there is nothing in that part")
    if len(plan.points) + len(part.points) > MAX_POINTS:
        raise HydrarchError(f"a drawing takes {MAX_POINTS} things at the most")
    first = _foot(part)
    start = part.by_id[first]
    there = plan.by_id.get(onto or "")
    if onto is not None and there is None:
        raise HydrarchError("the point it was to be set on is not on the drawing any more: choose another place")
    if there is not None and not (there.kind.plain and start.kind.plain):
        raise HydrarchError(f"{there.label} stands there already: set it down on a bend, a tee or free ground")
    if there is not None:
        x, y, level = there.x, there.y, there.level
    near = min(plan.points, key=lambda p: (p.x - x) ** 2 + (p.y - y) ** 2, default=None)
    ground = near.ground if near is not None else start.ground
    up = 0.0 if level is None else level - (ground - start.depth)
    draft = Draft(plan)
    now = _into(draft, part, (x - start.x, y - start.y, up), ground)
    fresh = [now[p.id] for p in part.points]
    if there is not None:
        fresh = [f for f in fresh if f != now[first]]
        _merge(draft, now[first], there.id)
    for scenario in draft.body["scenarios"][:1]:
        scenario["open"] += [
            now[p.id] for p in part.points if isinstance(p.what, Outlet) and now[p.id] not in scenario["open"]
        ]
    return Edited(_apart(draft.plan(), fresh), tuple(fresh), f"{part.name} set down: {things(fresh)}.")


def _foot(part: Plan) -> str:
    """The place a part is held by: the plain place of its line with fewest pipes, or the thing that was drawn first."""
    plain = [p.id for p in part.points if p.kind.plain]
    if not plain:
        return part.points[0].id
    count = Counter(p for r in part.runs for p in r.points)
    return min(plain, key=lambda p: count[p])


def _merge(draft: Draft, gone: str, into: str) -> None:
    """Let one plain point be another: its runs come there."""
    for run in draft.body["runs"]:
        for side in ("a", "b"):
            if run[side]["point"] == gone:
                run[side]["point"] = into
    draft.body["points"] = [p for p in draft.body["points"] if p["id"] != gone]
    draft.body["nodes"] = [n for n in draft.body["nodes"] if n["point"] not in (gone, into)]
    if len(draft.runs_at(into)) > 2:
        draft.spots[into]["what"] = {"kind": "junction"}
    for run in draft.runs_at(into):
        for side in ("a", "b"):
            if run[side]["point"] == into and draft.spots[into]["what"]["kind"] == "junction":
                run[side]["port"] = ""
                run[side]["port"] = draft.port(into, "any")


def taken_away(plan: Plan, chosen: Iterable[str]) -> Edited:
    """Take what is chosen off the drawing, with the pipe that comes to it and the crew's choices for it."""
    want = set(chosen)
    points = {p.id for p in plan.points if p.id in want}
    runs = {r.id for r in plan.runs if r.id in want or set(r.points) & points}
    if not points and not runs:
        raise HydrarchError("what was chosen is not on the drawing any more: choose again")
    draft = Draft(plan)
    draft.remove([p.id for p in plan.points if p.id in points], [r.id for r in plan.runs if r.id in want])
    made = draft.plan()
    runs = {r.id for r in plan.runs} - {r.id for r in made.runs}
    gone = things(sorted(points)) if points else ""
    pipes = f"{len(runs)} {'length' if len(runs) == 1 else 'lengths'} of pipe" if runs else ""
    return Edited(made, (), f"{' and '.join(t for t in (gone, pipes) if t)} taken away.")


def _told(by: Way, plan: Plan) -> str:
    """A way in words: how far east or west, north or south, up or down."""
    names = (("east", "west"), ("north", "south"), ("up", "down"))
    return ", ".join(f"{taped(abs(d), plan.units)} {n[d < 0]}" for d, n in zip(by, names, strict=True) if d)
