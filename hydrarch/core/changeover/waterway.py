"""A line as a changeover sees it: water that stands together, the gates between, and the ends that are opened.

Pipe that is never parted in the changeover is one place. What is left are a few places, gates (valves, the taps a loop
hangs on, the supply of a loop) and ends: of the old pipe, of the new, of the loop. A state says which gates are shut,
which ends are on, which dead ends are capped, and where pressure stands.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.components.devices import Valve
from hydrarch.core.components.outlets import Outlet
from hydrarch.core.plan.document import Plan, Run, RunEnd
from hydrarch.core.plan.leaving import ChangeoverAct, Leaving, LeavingEnd
from hydrarch.core.site.layout import Layout

__all__ = ["PartedEnd", "Stand", "Waterway", "waterway"]

Place = tuple[str, str]
_NEAR = 8
"""Valves that an order is looked for with."""


@dataclass(frozen=True, slots=True)
class PartedEnd:
    """An end that is parted or joined: `sort` of pipe, its own pipe's place, the place it comes to at `point`, and how
    far that is from the source (m).
    """

    id: str
    sort: str
    pipe: str
    point: str
    own: int
    at: int
    away: float


@dataclass(frozen=True, slots=True)
class Stand:
    """How it stands between two steps: gates that are `shut`, ends that are `on`, dead ends `capped`, and the places
    that are `pressed`: under pressure, fed or shut in.
    """

    shut: frozenset[str]
    on: frozenset[str]
    capped: frozenset[str]
    pressed: frozenset[int]


@dataclass
class Waterway:
    """The places of a changeover and what lies between them.

    `gates` are the two places at each valve, tap or supply; `stuck` those that do not turn, `untried` those nobody
    tried; `mouths` are the taps a loop is on, `supplies` the loops that come from beyond the drawing. `sources` are
    places where water comes in, `taps` the outlets of each place, the lowest first, `kept` the outlets that are fed as
    it begins and are to stay fed.
    """

    gates: dict[str, tuple[int, int]]
    ends: dict[str, PartedEnd]
    sources: frozenset[int]
    taps: dict[int, list[str]]
    kept: dict[str, int]
    stuck: frozenset[str]
    untried: frozenset[str]
    mouths: dict[str, int]
    supplies: frozenset[str]
    begins: Stand
    count: int
    _known: dict[tuple[frozenset[str], frozenset[str]], tuple[int, ...]] = field(default_factory=dict)

    def joined(self, shut: frozenset[str], on: frozenset[str]) -> tuple[int, ...]:
        """By place the lowest place that holds the same water."""
        known = self._known.get((shut, on))
        if known is None:
            mine = list(range(self.count))

            def root(x: int) -> int:
                while mine[x] != x:
                    x = mine[x]
                return x

            ties = [pair for name, pair in self.gates.items() if name not in shut]
            ties += [(e.own, e.at) for e in self.ends.values() if e.id in on]
            for a, b in ties:
                low, high = sorted((root(a), root(b)))
                mine[high] = low
            known = self._known[shut, on] = tuple(root(x) for x in range(self.count))
        return known

    def fed(self, stand: Stand) -> frozenset[int]:
        """The places a source reaches, by their lowest."""
        mine = self.joined(stand.shut, stand.on)
        return frozenset(mine[s] for s in self.sources)

    def open_ends(self, stand: Stand) -> Iterator[tuple[int, str, str]]:
        """Where water would come out: the place, the sort of opening, and the end or tap it is."""
        for e in self.ends.values():
            if e.id in stand.on:
                continue
            if e.sort == "old":
                if e.id not in stand.capped:
                    yield e.own, "old", e.id
                if any(o.sort == "new" and o.at == e.at and o.id not in stand.on for o in self.ends.values()):
                    yield e.at, "cut", e.id  # the other side of the cut, where the new pipe is to come
            else:
                yield e.own, e.sort, e.id
        for tap, mouth in self.mouths.items():
            if tap not in stand.shut and not any(
                e.sort == "loop" and e.point == tap and e.id in stand.on for e in self.ends.values()
            ):
                yield mouth, "tap", tap

    def tap_of(self, mine: Sequence[int], place: int) -> str:
        """The lowest outlet of the same water, "" where there is none."""
        return next((t for n, taps in self.taps.items() if mine[n] == mine[place] for t in taps), "")

    def trapped(self, stand: Stand, end: PartedEnd) -> bool:
        """Whether pressure is shut in at an end, and no tap lets it go."""
        return end.at in stand.pressed and not self.tap_of(self.joined(stand.shut, stand.on), end.at)

    @cached_property
    def far(self) -> frozenset[str]:
        """Valves that are left as they are when an order is looked for: all but the few nearest to what is opened."""
        ties = [Edge(name, a, b) for name, (a, b) in self.gates.items()]
        ties += [Edge(e.id, e.own, e.at) for e in self.ends.values()]
        reach = Graph(ties, range(self.count)).from_nodes(sorted({e.at for e in self.ends.values()}))
        valves = [g for g in self.gates if g not in self.mouths and g not in self.supplies]
        near = sorted(valves, key=lambda g: min(reach.distance.get(x, float("inf")) for x in self.gates[g]))
        return frozenset(near[_NEAR:])

    def dry(self, stand: Stand) -> tuple[str, ...]:
        """The outlets of the house that no source reaches."""
        mine, fed = self.joined(stand.shut, stand.on), self.fed(stand)
        return tuple(p for p, place in self.kept.items() if mine[place] not in fed)

    def settle(self, stand: Stand) -> Stand:
        """The same with pressure where it is then: fed places are pressed, and what is open lets it go."""
        mine, fed = self.joined(stand.shut, stand.on), self.fed(stand)
        loose = {mine[place] for place, _, _ in self.open_ends(stand)} - fed
        stands = fed | ({mine[x] for x in stand.pressed} - loose)
        pressed = frozenset(x for x in range(self.count) if mine[x] in stands)
        return stand if pressed == stand.pressed else Stand(stand.shut, stand.on, stand.capped, pressed)

    @cached_property
    def loops(self) -> frozenset[int]:
        """The places that are a loop's own, or the mouth of a tap it hangs on."""
        return frozenset({e.own for e in self.ends.values() if e.sort == "loop"} | set(self.mouths.values()))

    def over(self, stand: Stand) -> tuple[ChangeoverAct, ...]:
        """What is still to be done for it to be over: the new on, the old off and capped, no loop, the gates as they
        were.
        """
        left: list[ChangeoverAct] = []
        for e in self.ends.values():
            on = e.id in stand.on
            if e.sort == "new" and not on:
                left.append(ChangeoverAct(do="join", end=e.id))
            if e.sort == "old" and on:
                left.append(ChangeoverAct(do="take_off", end=e.id))
            if e.sort == "old" and e.id not in stand.capped:
                left.append(ChangeoverAct(do="cap", end=e.id))
            if e.sort == "loop" and on:
                left.append(ChangeoverAct(do="disconnect", end=e.id))
        for gate in self.gates:
            if (gate in stand.shut) != (gate in self.begins.shut):
                left.append(ChangeoverAct(do="shut" if gate in self.begins.shut else "open", thing=gate))
        return tuple(left)


def waterway(plan: Plan, lay: Layout) -> Waterway | None:
    """The waterway of a plan's changeover; None where no old pipe leaves, or nothing new comes where it was."""
    old = [x for x in plan.leaving if x.what == "old"]
    if not old:
        return None
    hung = {e.point for x in plan.leaving if x.what == "loop" for e in x.ends}
    lives = {p.id for p in plan.points if p.existing is not None}
    lives |= {p for r in plan.runs if r.existing is not None for p in r.points}
    lives |= {e.point for x in old for e in x.ends}

    def at(end: RunEnd | LeavingEnd) -> Place:
        p = plan.by_id[end.point]
        parted = p.kind.apart or isinstance(p.what, Valve)
        port = plan.port_name(end) if isinstance(end, RunEnd) else end.port
        if isinstance(p.what, Valve) and port not in ("in", "out"):  # not said: the side no other pipe comes to
            port = (
                "out" if any(e.point == p.id and plan.port_name(e) == "in" for r in plan.runs for e in r.ends) else "in"
            )
        return (p.id, port if parted else "")

    def meets(run: Run, end: RunEnd) -> bool:
        return run.existing is None and end.point in lives

    ties: list[Edge[Place]] = []
    places: dict[Place, None] = {}
    for run in plan.runs:
        comes = [("end", e.id) if meets(run, e) else at(e) for e in run.ends]
        places |= dict.fromkeys([*comes, *(at(e) for e in run.ends)])
        ties.append(Edge(run.id, comes[0], comes[1]))
    for leaves in plan.leaving:
        mine = [("end", e.id) for e in leaves.ends]
        if leaves.b is None:
            mine.append(("hose", leaves.id))
            places[("supply", leaves.id)] = None
        places |= dict.fromkeys([*mine, *(_mouth(plan, leaves, e, at) for e in leaves.ends)])
        ties.append(Edge(leaves.id, mine[0], mine[1]))
    parts = Graph(ties, places).parts()
    number = {place: n for n, (inside, _) in enumerate(parts) for place in inside}
    valves = {p.id: p for p in plan.points if isinstance(p.what, Valve)}
    gates = {
        name: (number[name, "in"], number[name, "out"])
        for name in valves
        if (name, "in") in number and (name, "out") in number
    }
    mouths = {p: number[p, "mouth"] for p in hung if (p, "mouth") in number}
    gates |= {p: (number[p, ""], mouth) for p, mouth in mouths.items() if (p, "") in number}
    gates |= {x.id: (number["supply", x.id], number["hose", x.id]) for x in plan.leaving if x.b is None}
    ends = {
        e.id: PartedEnd(
            e.id, x.what, x.id, e.point, number["end", e.id], number[_mouth(plan, x, e, at)], lay.away(e.point)
        )
        for x in plan.leaving
        for e in x.ends
    }
    ends |= {
        e.id: PartedEnd(e.id, "new", r.id, e.point, number["end", e.id], number[at(e)], lay.away(e.point))
        for r in plan.runs
        for e in r.ends
        if meets(r, e)
    }
    if not any(e.sort == "new" for e in ends.values()):
        return None
    gone = {n for n, _ in places}
    sources = {number[x] for x in places if x[0] in plan.by_id and plan.by_id[x[0]].kind.role == "source"}
    sources |= {number["supply", x.id] for x in plan.leaving if x.b is None}
    taps: dict[int, list[str]] = {}
    for p in sorted((p for p in plan.outlets if p.id in gone), key=lambda p: (p.id in hung, p.level, p.id)):
        taps.setdefault(number[p.id, ""], []).append(p.id)
    shut = frozenset(
        {name for name, p in valves.items() if isinstance(p.what, Valve) and p.what.opening == 0 and name in gates}
        | set(mouths)
        | {x.id for x in plan.leaving if x.b is None}
    )
    tried = {name: p.what.turns for name, p in valves.items() if isinstance(p.what, Valve) and p.existing is not None}
    found = Waterway(
        gates=gates,
        ends=ends,
        sources=frozenset(sources),
        taps=taps,
        kept={},
        stuck=frozenset(n for n, t in tried.items() if t == "no"),
        untried=frozenset(n for n, t in tried.items() if t == "not tried"),
        mouths=mouths,
        supplies=frozenset(x.id for x in plan.leaving if x.b is None),
        begins=Stand(shut, frozenset(e.id for e in ends.values() if e.sort == "old"), frozenset(), frozenset()),
        count=len(parts),
    )
    found.begins = found.settle(found.begins)
    labels, fed = found.joined(found.begins.shut, found.begins.on), found.fed(found.begins)
    found.kept = {p: place for place, mine in taps.items() for p in mine if p not in hung and labels[place] in fed}
    return found


def _mouth(plan: Plan, leaves: Leaving, end: LeavingEnd, at) -> Place:  # type: ignore[no-untyped-def]
    """Where an end of what leaves comes to: a loop hangs on the mouth of a tap, not on its pipe."""
    tap = isinstance(plan.by_id[end.point].what, Outlet)
    return (end.point, "mouth") if leaves.what == "loop" and tap else at(end)
