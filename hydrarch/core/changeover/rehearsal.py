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

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.changeover.as_it_stands import HouseTap, house_taps
from hydrarch.core.changeover.step_words import MOST_WAYS, StepWords, Why
from hydrarch.core.changeover.waterway import PartedEnd, Stand, Waterway, waterway
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.leaving import ChangeoverAct
from hydrarch.core.site.layout import Layout

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
_TRAPPED, _STREET_FIRST = 20.0, 0.5
"""Minutes more for pressure that is let go by loosening a joint, and for joining the new pipe at the street before the
house: crews join the house's side first.
"""
_DRY = 0.01
"""The share of what a tap wants below which it counts as dry."""
declare("make", "changeover-no-order", "changeover-stops", holds=True)
declare("make", "changeover-dry", "changeover-no-tap", "changeover-unknown", "changeover-untried")


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
    """The rehearsal. `agreed` says that the order is the crew's own; `order` is the one that was worked out, empty
    where none is.

    `dry_minutes` is how long the house has no water at the least in what was played, `least_minutes` in the order that
    was worked out (None where there is none). `bring` is what is brought for the loop and taken home,
    `kept` the taps that are watched, `goes_by` the whole order, of which what comes after a stop is not played.
    """

    steps: tuple[RehearsedStep, ...]
    agreed: bool
    order: tuple[ChangeoverAct, ...]
    dry_minutes: float
    least_minutes: float | None
    bring: tuple[str, ...]
    kept: tuple[str, ...]
    goes_by: tuple[ChangeoverAct, ...]
    problems: tuple[Problem, ...]


def changeover(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> Changeover | None:
    """Rehearse the changeover that is drawn; None where none is. `pipes` are those of the runs that stay."""
    ways = waterway(plan, lay)
    if ways is None:
        return None
    order, every = _order(ways)
    agreed = tuple(a for a in plan.changeover if a.thing in ways.gates or a.end in ways.ends or a.do == "let_down")
    played = agreed or order
    words = StepWords(plan, ways)
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
            tell("changeover-dry", dry_taps[0], plan.units, minutes=round(dry), tap=_several(plan, dry_taps))
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
    least = None
    if order is not None:
        least = dry if played == order else _dry_minutes(ways, tuple(_play(plan, ways, words, pipes, order)))
    return Changeover(
        steps,
        bool(agreed),
        order or (),
        dry,
        least,
        words.bring(),
        tuple(ways.kept),
        tuple(played or ()),
        tuple(problems),
    )


def _several(plan: Plan, taps: Sequence[str]) -> str:
    """The first tap, and how many more there are."""
    return plan.names[taps[0]] + (f" and {len(taps) - 1} more" if len(taps) > 1 else "")


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
        if place in stand.pressed and not (act.do == "disconnect" and place in ways.loops) and ways.tap_of(mine, place):
            return "not-let-down", on, capped
    return "", on - {end.id} if leaves else on | {end.id}, capped


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
        if gate not in ways.stuck | ways.far:
            yield ChangeoverAct(do="open" if gate in stand.shut else "shut", thing=gate)
    mine, fed = ways.joined(stand.shut, stand.on), ways.fed(stand)
    for tap in {ways.tap_of(mine, x) for x in stand.pressed if mine[x] not in fed} - {""}:
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
    while queue and looked < MOST_WAYS:
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
    return None, not queue and not ways.far


def _takes(ways: Waterway, stand: Stand, act: ChangeoverAct) -> float:
    """What a step takes (min), with what is awkward about it as it stands then."""
    takes = _minutes(ways, stand, act)
    if act.do == "join":
        end = ways.ends[act.end]
        others = (o for o in ways.ends.values() if o.sort == "new" and o.id not in stand.on)
        takes += _STREET_FIRST if any(o.away > end.away for o in others) else 0.0
    return takes


def _minutes(ways: Waterway, stand: Stand, act: ChangeoverAct) -> float:
    """How long a step takes as it is shown (min)."""
    slow = act.do == "take_off" and act.end in ways.ends and ways.trapped(stand, ways.ends[act.end])
    return MINUTES[act.do] + (_TRAPPED if slow else 0.0)


def _play(
    plan: Plan, ways: Waterway, words: StepWords, pipes: Mapping[str, Pipe], order: Sequence[ChangeoverAct]
) -> Iterator[RehearsedStep]:
    """Every step of an order until one stops it; what is unfinished at the end stops it too."""
    stand, seen = ways.begins, dict[ChangeoverAct, int]()
    solved: dict[tuple[frozenset[str], frozenset[str]], tuple[HouseTap, ...]] = {}
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
        if pipes and (stand.shut, stand.on) not in solved:
            solved[stand.shut, stand.on] = tuple(house_taps(plan, ways, pipes, stand))
        taps = solved.get((stand.shut, stand.on), ())
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
