"""A changeover rehearsed: each step played on the drawing, what it opens, whether the house has water, and an order
that works.

The order is searched for over how valves stand and which ends are on (uniform-cost search): first as few minutes with
a dry house as can be, then as little work. What is played is judged the same way: an end opened under pressure, water
that runs out, a valve that does not turn, a port that is taken.
"""

from __future__ import annotations

import heapq
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import count
from typing import Literal

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.pipes import Pipe, pipe, series
from hydrarch.core.changeover.waterway import PartedEnd, Stand, Waterway, waterway
from hydrarch.core.components.sources import Mains
from hydrarch.core.hydraulics.flow import FlowModel
from hydrarch.core.plan.document import Existing, Plan, Point, Run, RunEnd, Scenario
from hydrarch.core.plan.leaving import ChangeoverAct, Leaving
from hydrarch.core.site.layout import Layout, layout

__all__ = ["MINUTES", "Changeover", "HouseTap", "RehearsedStep", "changeover"]

MINUTES: Mapping[str, float] = {
    "shut": 1.0,
    "open": 3.0,
    "let_down": 5.0,
    "take_off": 10.0,
    "join": 15.0,
    "cap": 10.0,
    "connect": 5.0,
    "disconnect": 5.0,
}
"""What a step takes two people with all parts at hand, from memory; a cure comes on top."""
_MOST = 60_000
"""States that are looked at before the search is given up."""
_TRAPPED, _STREET_FIRST = 20.0, 0.5
"""Minutes more for pressure that is let go by loosening a joint, and for joining the new pipe at the street before the
house: crews join the house's side first.
"""
_DRY = 0.01
"""The share of what a tap wants below which it counts as dry."""
Why = Literal["", "floods", "under-pressure", "not-let-down", "stuck", "taken", "nothing-there", "unfinished"]
declare("make", "changeover-no-order", "changeover-stops", holds=True)
declare("make", "changeover-dry", "changeover-no-tap", "changeover-unknown", "changeover-untried")


@dataclass(frozen=True, slots=True)
class HouseTap:
    """What a tap of the house gives by itself after a step (m³/s), and what it wants; None where a size or pressure on
    its way is not known.
    """

    point: str
    gives: float | None
    wants: float


@dataclass(frozen=True, slots=True)
class RehearsedStep:
    """One step as it was played.

    `name` is its own for ticks, `says` and `note` what to do and mind. `dry` are the outlets without water after it,
    `taps` what each gives. `why` is why it stops here, "" where it does not, and `stop` says so in words.
    """

    name: str
    act: ChangeoverAct
    says: str
    note: str
    minutes: float
    dry: tuple[str, ...]
    taps: tuple[HouseTap, ...]
    why: Why = ""
    stop: str = ""


@dataclass(frozen=True, slots=True)
class Changeover:
    """The rehearsal. `agreed` says that the order is the crew's own; `order` is the one that was worked out, empty where
    none is.

    `dry_minutes` is how long the house has no water at the least in what was played, `least_minutes` in the order that
    was worked out (None where there is none). `bring` is what is brought for the loop and taken home,
    `kept` the taps that are watched.
    """

    steps: tuple[RehearsedStep, ...]
    agreed: bool
    order: tuple[ChangeoverAct, ...]
    dry_minutes: float
    least_minutes: float | None
    bring: tuple[str, ...]
    kept: tuple[str, ...]
    problems: tuple[Problem, ...]


def changeover(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> Changeover | None:
    """Rehearse the changeover that is drawn; None where none is. `pipes` are those of the runs that stay."""
    ways = waterway(plan, lay)
    if ways is None:
        return None
    order, every = _order(ways)
    agreed = tuple(a for a in plan.changeover if a.thing in ways.gates or a.end in ways.ends or a.do == "let_down")
    played = agreed or order
    words = _Words(plan, ways)
    problems: list[Problem] = []
    steps = tuple(_play(plan, ways, words, pipes, played or ()))
    stopped = steps[-1] if steps and steps[-1].why else None
    where = _spot(ways, stopped.act) if stopped else ""
    if order is None:
        blocked = words.blocked(every)
        problems.append(
            tell("changeover-no-order", blocked[0], plan.units, place=plan.names[blocked[0]], reason=blocked[1])
        )
    if stopped is not None:
        problems.append(
            tell(
                "changeover-stops",
                where,
                plan.units,
                step=len(steps),
                act=stopped.says.rstrip("."),
                reason=stopped.stop,
            )
        )
    dry = _dry_minutes(ways, steps)
    if played and stopped is None and dry > 0:
        dry_taps = sorted({p for s in steps for p in s.dry})
        problems.append(
            tell("changeover-dry", dry_taps[0], plan.units, minutes=round(dry), tap=plan.names[dry_taps[0]])
        )
    if not ways.kept:
        problems.append(tell("changeover-no-tap", next(iter(ways.ends.values())).point, plan.units))
    blind = [t.point for s in steps for t in s.taps if t.gives is None]
    if blind and stopped is None:
        problems.append(tell("changeover-unknown", blind[0], plan.units, tap=plan.names[blind[0]]))
    problems += [
        tell("changeover-untried", a.thing, plan.units, valve=plan.names[a.thing])
        for a in dict.fromkeys(a for a in played or () if a.do == "shut" and a.thing in ways.untried)
    ]
    least = None if order is None else _dry_minutes(ways, tuple(_play(plan, ways, words, {}, order)))
    return Changeover(steps, bool(agreed), order or (), dry, least, words.bring(), tuple(ways.kept), tuple(problems))


def _dry_minutes(ways: Waterway, steps: Sequence[RehearsedStep]) -> float:
    """How long the house is without water: from the step after which it is until the one after which it is not."""
    before = [ways.dry(ways.begins), *(s.dry for s in steps)]
    return sum(s.minutes for was, s in zip(before, steps, strict=False) if was)


def _spot(ways: Waterway, act: ChangeoverAct) -> str:
    return ways.ends[act.end].point if act.end in ways.ends else act.thing


def _after(ways: Waterway, stand: Stand, act: ChangeoverAct) -> Stand | Why:
    """How it stands after a step, or why the step may not be done."""
    if act.do in ("shut", "open"):
        gate = act.thing
        if gate not in ways.gates or (gate in stand.shut) == (act.do == "shut"):
            return "nothing-there"
        if gate in ways.stuck:
            return "stuck"
        found = replace(stand, shut=stand.shut | {gate} if act.do == "shut" else stand.shut - {gate})
    elif act.do == "let_down":
        place = next((n for n, mine in ways.taps.items() if act.thing in mine), None)
        mine, fed = ways.joined(stand.shut, stand.on), ways.fed(stand)
        if place is None or place not in stand.pressed:
            return "nothing-there"
        if mine[place] in fed:
            return "under-pressure"
        found = replace(stand, pressed=frozenset(x for x in stand.pressed if mine[x] != mine[place]))
    else:
        end = ways.ends.get(act.end)
        if end is None:
            return "nothing-there"
        wrong, on, capped = _opened(ways, stand, end, act)
        if wrong:
            return wrong
        found = replace(stand, on=on, capped=capped)
    settled = ways.settle(found)
    mine, fed = ways.joined(settled.shut, settled.on), ways.fed(settled)
    return "floods" if any(mine[place] in fed for place, _, _ in ways.open_ends(settled)) else settled


_SORTS = {"take_off": "old", "cap": "old", "join": "new", "connect": "loop", "disconnect": "loop"}


def _opened(
    ways: Waterway, stand: Stand, end: PartedEnd, act: ChangeoverAct
) -> tuple[Why, frozenset[str], frozenset[str]]:
    """Whether an end may be worked on, and which are on and capped then."""
    on, capped = stand.on, stand.capped
    if end.sort != _SORTS[act.do]:
        return "nothing-there", on, capped
    if act.do == "cap":
        return ("nothing-there" if end.id in on or end.id in capped else ""), on, capped | {end.id}
    leaves = act.do in ("take_off", "disconnect")
    if (end.id in on) != leaves:
        return "nothing-there", on, capped
    if act.do == "join" and any(o.sort == "old" and o.at == end.at and o.id in on for o in ways.ends.values()):
        return "taken", on, capped
    mine, fed = ways.joined(stand.shut, on), ways.fed(stand)
    for place in {end.at, end.own}:
        if mine[place] in fed:
            return "under-pressure", on, capped
        if (
            place in stand.pressed
            and not (act.do == "disconnect" and place in ways.loops)
            and _tap_of(ways, mine, place)
        ):
            return "not-let-down", on, capped
    return "", on - {end.id} if leaves else on | {end.id}, capped


def _tap_of(ways: Waterway, mine: Sequence[int], place: int) -> str:
    """The lowest outlet of the same water, "" where there is none."""
    return next((t for n, taps in ways.taps.items() if mine[n] == mine[place] for t in taps), "")


def _possible(ways: Waterway, stand: Stand) -> Iterator[ChangeoverAct]:
    for e in ways.ends.values():
        on = e.id in stand.on
        if e.sort == "old":
            if on:
                yield ChangeoverAct(do="take_off", end=e.id)
            elif e.id not in stand.capped:
                yield ChangeoverAct(do="cap", end=e.id)
        elif e.sort == "new" and not on:
            yield ChangeoverAct(do="join", end=e.id)
        elif e.sort == "loop":
            yield ChangeoverAct(do="disconnect" if on else "connect", end=e.id)
    for gate in ways.gates:
        if gate not in ways.stuck:
            yield ChangeoverAct(do="open" if gate in stand.shut else "shut", thing=gate)
    mine, fed = ways.joined(stand.shut, stand.on), ways.fed(stand)
    for tap in {_tap_of(ways, mine, x) for x in stand.pressed if mine[x] not in fed} - {""}:
        yield ChangeoverAct(do="let_down", thing=tap)


def _order(ways: Waterway) -> tuple[tuple[ChangeoverAct, ...] | None, bool]:
    """The order with the fewest minutes without water, and of those the least work; None where none was found. And
    whether every way it could stand was looked at, so that there is none.
    """

    def to_do(stand: Stand) -> float:
        return sum(MINUTES[a.do] for a in ways.over(stand))

    turn = count()
    queue = [(0.0, to_do(ways.begins), next(turn), 0.0, ways.begins)]
    came: dict[Stand, tuple[Stand, ChangeoverAct]] = {}
    best = {ways.begins: (0.0, 0.0)}
    looked = 0
    while queue and looked < _MOST:
        dry, _, _, spent, stand = heapq.heappop(queue)
        if best[stand] < (dry, spent):
            continue
        looked += 1
        if not ways.over(stand) and not ways.dry(stand):
            acts = []
            while stand in came:
                stand, act = came[stand]
                acts.append(act)
            return tuple(reversed(acts)), False
        without = bool(ways.dry(stand))
        for act in _possible(ways, stand):
            after = _after(ways, stand, act)
            if isinstance(after, str):
                continue
            takes = _takes(ways, stand, act)
            cost = (dry + (takes if without else 0.0), spent + takes)
            if cost < best.get(after, (float("inf"), 0.0)):
                best[after], came[after] = cost, (stand, act)
                heapq.heappush(queue, (cost[0], cost[1] + to_do(after), next(turn), cost[1], after))
    return None, not queue


def _takes(ways: Waterway, stand: Stand, act: ChangeoverAct) -> float:
    """What a step takes (min), with what is awkward about it as it stands then."""
    takes = _minutes(ways, stand, act)
    if act.do == "join":
        end = ways.ends[act.end]
        others = (o for o in ways.ends.values() if o.sort == "new" and o.id not in stand.on)
        takes += _STREET_FIRST if any(o.away > end.away for o in others) else 0.0
    return takes


def _minutes(ways: Waterway, stand: Stand, act: ChangeoverAct) -> float:
    """What a step is told to take (min)."""
    slow = act.do == "take_off" and act.end in ways.ends and _trapped(ways, stand, ways.ends[act.end])
    return MINUTES[act.do] + (_TRAPPED if slow else 0.0)


def _trapped(ways: Waterway, stand: Stand, end: PartedEnd) -> bool:
    """Whether pressure is shut in at an end, and no tap lets it go."""
    mine = ways.joined(stand.shut, stand.on)
    return end.at in stand.pressed and not _tap_of(ways, mine, end.at)


def _play(
    plan: Plan, ways: Waterway, words: _Words, pipes: Mapping[str, Pipe], order: Sequence[ChangeoverAct]
) -> Iterator[RehearsedStep]:
    """Every step of an order until one stops it; what is unfinished at the end stops it too."""
    stand, seen = ways.begins, dict[ChangeoverAct, int]()
    for act in order:
        seen[act] = seen.get(act, 0) + 1
        name = f"{act.do} {act.thing or act.end} {seen[act]}"
        after = _after(ways, stand, act)
        says, note = words.says(stand, act)
        takes = _minutes(ways, stand, act)
        if isinstance(after, str):
            yield RehearsedStep(name, act, says, note, takes, ways.dry(stand), (), after, words.why(after, stand, act))
            return
        stand = after
        taps = tuple(_house(plan, ways, pipes, stand)) if pipes else ()
        without = {t.point for t in taps if t.gives is not None and t.gives < _DRY * t.wants}
        dry = tuple(p for p in ways.kept if p in without or p in ways.dry(stand))
        yield RehearsedStep(name, act, says, note, takes, dry, taps)
    left = ways.over(stand)
    if order and left:
        says, note = words.says(stand, left[0])
        yield RehearsedStep(
            f"unfinished {len(order)}",
            left[0],
            says,
            note,
            0.0,
            ways.dry(stand),
            (),
            "unfinished",
            f"the order ends and this is still to be done{f', and {len(left) - 1} more' if len(left) > 1 else ''}",
        )


def _house(plan: Plan, ways: Waterway, pipes: Mapping[str, Pipe], stand: Stand) -> Iterator[HouseTap]:
    """What each tap of the house gives by itself as it stands then, solved on the drawing."""
    as_it_is = _drawn(plan, ways, pipes, stand)
    lay: Layout | None = None
    dry = ways.dry(stand)
    for name in ways.kept:
        wants = getattr(plan.by_id[name].what, "flow", 0.0)
        if name in dry:
            yield HouseTap(name, 0.0, wants)
            continue
        if as_it_is is None:
            yield HouseTap(name, None, wants)
            continue
        drawn, mine = as_it_is
        lay = lay or layout(drawn)
        try:
            model = FlowModel(drawn, lay, Scenario(id="tap", name="One tap", open=(name,)), yields=True)
            found = model.solve(mine, {})
            settled = all(p.code != "not-settled" for p in found.problems)
            gives = (max(found.outlets[name].flow, 0.0) if name in found.outlets else 0.0) if settled else None
        except (HydrarchError, KeyError):
            gives = None
        yield HouseTap(name, gives, wants)


def _drawn(plan: Plan, ways: Waterway, pipes: Mapping[str, Pipe], stand: Stand) -> tuple[Plan, dict[str, Pipe]] | None:
    """The drawing as it stands after a step, and its pipes; None where what carries water then has no size said, or a
    supply no pressure.
    """
    off = {e.pipe for e in ways.ends.values() if e.id not in stand.on}
    runs = [r for r in plan.runs if r.id not in off]
    mine, points = dict(pipes), list(plan.points)
    for x in plan.leaving:
        shut = x.id in stand.shut or any(e.point in ways.mouths and e.point in stand.shut for e in x.ends)
        if x.id in off or shut:
            continue
        if x.series is None or x.size is None or (x.b is None and x.pressure == 0):
            return None
        b = RunEnd(id=f"{x.id}-b", point=x.b.point if x.b else f"{x.id}-s", port=x.b.port if x.b else "")
        at = plan.by_id[x.a.point]
        if x.b is None:
            supply = Mains(pressure=x.pressure)
            points.append(Point(id=f"{x.id}-s", x=at.x + 0.1, y=at.y, ground=at.ground, depth=at.depth, what=supply))
        runs.append(
            Run(
                id=x.id,
                a=RunEnd(id=x.a.id, point=x.a.point, port=x.a.port),
                b=b,
                series=x.series,
                size=x.size,
                situation="on surface",
                existing=Existing(),
                measured_length=_long(plan, x),
            )
        )
        mine[x.id] = pipe(x.series, x.size)
    for gate in stand.shut & {p.id for p in plan.points}:
        if gate not in ways.mouths:
            runs = [r for r in runs if not any(e.point == gate and e.port == "out" for e in r.ends)]
    if any(r.id not in mine for r in runs if not r.coupled):
        return None
    changed = plan.model_copy(update={"runs": tuple(runs), "points": tuple(points), "leaving": (), "changeover": ()})
    return changed, mine


def _long(plan: Plan, x: Leaving) -> float | None:
    return x.length or (10.0 if x.b is None else None)


class _Words:
    """What is said of steps, with the names of the drawing."""

    def __init__(self, plan: Plan, ways: Waterway) -> None:
        self.plan, self.ways = plan, ways
        self.pipes = {x.id: x for x in plan.leaving}

    def called(self, thing: str) -> str:
        """A thing's name, or what supplies a loop from beyond the drawing."""
        return self.plan.names.get(thing) or (self.pipes[thing].note or "the other supply")

    def says(self, stand: Stand, act: ChangeoverAct) -> tuple[str, str]:
        """What is done, and what to mind."""
        if act.do in ("shut", "open", "let_down"):
            return self._at_gate(act)
        if act.end not in self.ways.ends:
            return "What this step is about is not on the drawing any more.", ""
        end = self.ways.ends[act.end]
        at = self.called(end.point)
        lead = end.sort == "old" and (s := self.pipes[end.pipe].series) is not None and series(s).material == "lead"
        if act.do == "take_off":
            note = "Look for wires and other pipe first; keep the saw off them."
            if _trapped(self.ways, stand, end):
                note = "No tap lets the pressure go here: loosen it a little, and let it drip out before it comes off."
            if lead:
                note += " Lead: gloves, no dust, wash hands, and take the cut pieces away as lead."
            return f"Cut the old pipe off at {at}.", note
        if act.do == "join":
            return (
                f"Join the new pipe at {at}.",
                "Clean, square ends; a liner in soft pipe. Its wait before pressure comes on top of this time.",
            )
        if act.do == "cap":
            return f"Cap or crimp the dead pipe at {at}.", "It stays in the ground: write on the plan that it is dead."
        loop = self.pipes[end.pipe]
        if act.do == "connect":
            return (
                f"Connect the temporary loop at {at}.",
                "Hose for drinking water, flushed first, out of the sun and off the way; a check valve at its supply, so that "
                "neither water runs into the other.",
            )
        return (
            f"Take the temporary loop off at {at}.",
            f"Turn the nut slowly, what is in it runs out.{' It goes home again.' if loop.b else ''}",
        )

    def _at_gate(self, act: ChangeoverAct) -> tuple[str, str]:
        if act.thing not in self.plan.names and act.thing not in self.pipes:
            return "What this step is about is not on the drawing any more.", ""
        at = self.called(act.thing)
        if act.do == "let_down":
            return f"Open {at}, the lowest: the pressure goes and the line drains. Shut it again.", ""
        tried = " Nobody said that it turns: try it before the day." if act.thing in self.ways.untried else ""
        if act.do == "shut":
            return f"Shut {at}.", f"Do not force an old valve.{tried}" if act.thing in self.plan.names else ""
        what = (
            "every joint of the loop"
            if act.thing not in self.plan.names or act.thing in self.ways.mouths
            else "every new joint"
        )
        return f"Open {at} slowly.", f"Look at {what}, and feel under it.{tried}"

    def why(self, why: Why, stand: Stand, act: ChangeoverAct) -> str:
        """Why a step may not be done."""
        if why == "floods":
            return f"water would run out {self._outlet(stand, act)}"
        if why == "under-pressure":
            return "the line is under pressure there from a source"
        if why == "not-let-down":
            mine = self.ways.joined(stand.shut, stand.on)
            end = self.ways.ends[act.end]
            tap = next(t for p in (end.at, end.own) if p in stand.pressed and (t := _tap_of(self.ways, mine, p)))
            return f"pressure is shut in there: open {self.called(tap)} first"
        if why == "stuck":
            return "this valve does not turn"
        if why == "taken":
            return "the old pipe is still on there"
        return "it is so already, or is not there"

    def _outlet(self, stand: Stand, act: ChangeoverAct) -> str:
        """Where water would come out if a step were done all the same."""
        shut = stand.shut | {act.thing} if act.do == "shut" else stand.shut - {act.thing}
        gone = act.do in ("take_off", "disconnect")
        on = stand.on - {act.end} if gone else stand.on | ({act.end} if act.end else set())
        after = Stand(shut, on, stand.capped, stand.pressed)
        mine, fed = self.ways.joined(shut, on), self.ways.fed(after)
        for place, sort, name in self.ways.open_ends(after):
            if mine[place] in fed:
                if sort == "tap":
                    return f"at {self.called(name)}"
                at = self.called(self.ways.ends[name].point)
                of = {"old": "the old pipe", "cut": "the cut", "new": "the new pipe", "loop": "the loop"}[sort]
                return f"of the open end of {of} at {at}"
        return "there"

    def blocked(self, every: bool) -> tuple[str, str]:
        """The first end that cannot be opened however valves are turned, and why no order works; `every` says that all
        were looked at.
        """
        free = frozenset(self.ways.gates) - self.ways.stuck
        for e in self.ways.ends.values():
            stand = Stand(self.ways.begins.shut | free, self.ways.begins.on, frozenset(), frozenset())
            mine, fed = self.ways.joined(stand.shut, stand.on), self.ways.fed(stand)
            if e.sort != "loop" and mine[e.at] in fed:
                return e.point, f"no valve that turns shuts {self.called(e.point)} off from the source"
        first = next(iter(self.ways.ends.values())).point
        if not every:
            return first, f"none was found among the first {_MOST} ways it can stand; set the order by hand"
        return first, "every order floods, or leaves something undone"

    def bring(self) -> tuple[str, ...]:
        """What is brought for the loops, and goes home again."""
        told = []
        for x in self.plan.leaving:
            if x.what == "loop":
                ends = " to ".join(self.called(p) for p in (*x.points, *(() if x.b else (x.id,))))
                what = f"{series(x.series).name} {x.size or ''}".strip() if x.series else "hose for drinking water"
                long = "" if x.length is None else f", {show(x.length, 'length', self.plan.units)}"
                told.append(f"{what}{long}, {ends}, with an end that fits each")
        return tuple(told)
