"""Every fitting and joint of a whole plan: what stands at each point, and what joins the lengths of a run to each
other.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from math import ceil, degrees

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.identity import EndId, PipeId, length_joint, length_part, pipe_of
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import STANDARD_GRAVITY
from hydrarch.core.catalogue.fittings import End, end, mating_method
from hydrarch.core.catalogue.guidance import choose_practice
from hydrarch.core.catalogue.markets import Market, market
from hydrarch.core.catalogue.pipes import Pipe, pipe, pipe_called, series
from hydrarch.core.catalogue.prices import fitting_price
from hydrarch.core.hydraulics.static import static_pressure
from hydrarch.core.joining.assembled import Assembly, Joint, Part, PipeLength, Side, TakeOff
from hydrarch.core.joining.choosing import REMEMBERED, join_meeting
from hydrarch.core.joining.couplings import couple
from hydrarch.core.joining.dripways import set_aside_ways, tubing_end
from hydrarch.core.joining.emitters import emitter_joints
from hydrarch.core.joining.leading import needs_of
from hydrarch.core.joining.lengths import pipe_lengths
from hydrarch.core.joining.meeting import METALS, Meeting, end_of, meetings
from hydrarch.core.joining.node_fittings import MISFIT, How, turn_words
from hydrarch.core.joining.pipe_or_end import PipeOrEnd
from hydrarch.core.joining.placing import Joined
from hydrarch.core.joining.served import NOTHING_MORE, Needs
from hydrarch.core.joining.stacks import Limits
from hydrarch.core.joining.strength import join_strong, too_weak
from hydrarch.core.joining.way_search import best_stack
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = ["Joiner", "NodeView", "assemble", "leg_needs", "leg_things", "node_views"]

declare("join", "too-many-joints", holds=True)
Coupled = tuple[Part | None, tuple[Joint, ...]]

MOST_JOINTS = 20_000
"""Joints between lengths of pipe above which they are counted and not listed: no crew makes as many in one job."""


def assemble(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> Assembly:
    """Join a whole plan. What cannot be joined is a `Problem` at its point; the rest goes on."""
    return Joiner(plan, lay).join(pipes)


class Joiner:
    """Joins one plan over and over while its sizes change: only the points whose pipes changed are joined again."""

    def __init__(self, plan: Plan, lay: Layout) -> None:
        self._plan, self._lay = plan, lay
        self._coupled = any(
            r.coupled for r in plan.runs
        )  # then what stands at one point may hang on the next one's pipes
        self._pipes: dict[str, Pipe] = {}
        self._found: dict[str, Joined] = {}
        self._along: dict[EndId, tuple[object, tuple[Coupled, ...]]] = {}

    @cached_property
    def _rest(self) -> dict[str, float]:
        """Gauge pressure (Pa) at rest by point."""
        return static_pressure(self._plan, self._lay)

    def join(self, pipes: Mapping[str, Pipe]) -> Assembly:
        """Every fitting and joint where the runs have these pipes."""
        plan, lay = self._plan, self._lay
        changed = [r for r in lay.lines if self._pipes.get(r) is not pipes[r]]
        touched = None if self._coupled else {p for r in changed for p in (lay.lines[r].a, lay.lines[r].b)}
        whole, told = _meetings(plan, lay, pipes, touched)
        self._found |= {p: join_strong(plan, lay, self._rest, m) for p, m in whole.items()}
        self._pipes = dict(pipes)
        found = [self._found[p.id] for p in plan.points if p.id in self._found]
        taken = {x.end: x for f in found for x in f.taken}
        minor: dict[str, float] = {}
        for f in found:
            for key, k in f.minor:
                minor[key] = minor.get(key, 0.0) + k
        bends = tuple(b for f in found for b in f.bends)
        lengths = pipe_lengths(lay, bends)
        laid = [
            x for x in lengths if plan.run_by_id[x.runs[0]].existing is None
        ]  # what was met is joined along its length already
        counts = {x.start: _coupled_times(x, pipes[x.runs[0]], taken) for x in laid}
        problems = [*told, *(p for f in found for p in f.problems)]
        if sum(counts.values()) > MOST_JOINTS:
            problems.append(_too_many(plan, laid, counts))
            counts = {}
        along = [made for x in laid if counts.get(x.start) for made in self._made_along(x, taken, counts[x.start])]
        return Assembly(
            parts=(*(p for f in found for p in f.parts), *(part for part, _ in along if part is not None)),
            joints=(
                *(j for f in found for j in f.joints),
                *(j for _, joints in along for j in joints),
                *emitter_joints(plan, pipes),
            ),
            taken=taken,
            bends=bends,
            lengths=lengths,
            minor=minor,
            problems=tuple(problems),
        )

    def _made_along(self, length: PipeLength, taken: Mapping[EndId, TakeOff], count: int) -> tuple[Coupled, ...]:
        """What joins one length of pipe along its way, worked out again only where it changed."""
        item = self._pipes[length.runs[0]]
        of = (length, item, _offset(taken, length.start), count)  # pressures at rest hang on no size
        before = self._along.get(length.start)
        if before is None or before[0] != of:
            before = of, tuple(_along(self._plan, self._lay, length, item, taken, count, self._rest))
            self._along[length.start] = before
        return before[1]


def _meetings(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], only: set[str] | None = None
) -> tuple[dict[str, Meeting], tuple[Problem, ...]]:
    found = {m.point: m for m in meetings(plan, lay, pipes, only)}
    return couple(found, lay) if only is None else (found, ())


def _too_many(plan: Plan, lengths: Sequence[PipeLength], counts: Mapping[EndId, int]) -> Problem:
    most = max(lengths, key=lambda x: (counts[x.start], x.start))
    run = plan.run_by_id[most.runs[0]]
    a, b = (plan.names[p] for p in run.points)
    return tell("too-many-joints", run.id, count=sum(counts.values()), a=a, b=b)


_BELLS = {
    "solvent:spigot": "solvent:socket",
    "sewer:spigot": "gasket:bell",
    "gasket-metric:spigot": "gasket-metric:bell",
}


def _offset(taken: Mapping[EndId, TakeOff], end_id: EndId) -> float:
    return taken[end_id].offset if end_id in taken else 0.0


def _coupled_times(length: PipeLength, item: Pipe, taken: Mapping[EndId, TakeOff]) -> int:
    """How often stick is joined to stick, or coil to coil, along a length of pipe."""
    family = series(item.series)
    longest = family.stick or family.coil
    if longest is None:
        return 0
    whole = length.centres - length.saved - _offset(taken, length.start) - _offset(taken, length.stop)
    return max(0, ceil(whole / longest - 1e-9) - 1)


def _along(
    plan: Plan,
    lay: Layout,
    length: PipeLength,
    item: Pipe,
    taken: Mapping[EndId, TakeOff],
    count: int,
    rest: Mapping[str, float],
) -> Iterator[Coupled]:
    """What joins stick to stick or coil to coil along a length of pipe; each joint is of the run it falls in."""
    family = series(item.series)
    longest = family.stick or family.coil or 0.0
    at, reached, made, here_from = _offset(taken, length.start) + longest, 0.0, 0, lay.point_of[length.start]
    for run in length.runs:
        line = lay.lines[run]
        before, reached, backwards = reached, reached + line.length, here_from != line.a
        here_from = line.other(here_from)
        left = count - made
        here = left if run == length.runs[-1] else min(left, max(0, ceil((reached - at) / longest)))
        if here > 0:
            place = f"along {plan.names[line.a]} to {plan.names[line.b]}"
            shop = plan.conditions.market
            lies = plan.run_by_id[run].situation
            way = choose_practice(plan.practices, "drip_joint")
            of = (length.start, length.stop, run, item.series, item.size, shop, made, here, count, place, lies, way)
            found, seen = _coupled(*of), max(rest.get(line.a, 0.0), rest.get(line.b, 0.0))
            weak = too_weak(seen, lay.warm[run])
            if any(part is not None and part.fitting in weak for part, _ in found):
                found = _coupled(*of, weak) or found
            for part, joints in found:
                yield (
                    part,
                    tuple(
                        _placed(j, at + (j.number - made - 1) * longest - before, line.length, backwards)
                        for j in joints
                    ),
                )
            made, at = made + here, at + here * longest


def _placed(joint: Joint, away: float, long: float, backwards: bool) -> Joint:
    """A joint between two lengths with its place: `away` (m) along its run, of `long` (m), from the end the length
    comes in by.
    """
    share = min(max(away / long, 0.0), 1.0) if long > 0 else 0.0
    return replace(joint, share=1.0 - share if backwards else share)


@remembered(REMEMBERED)
def _coupled(
    start: EndId,
    stop: EndId,
    run: str,
    series_name: str,
    size: str,
    shop: Market,
    before: int,
    here: int,
    count: int,
    place: str,
    lies: str,
    way: str,
    weak: frozenset[str] = frozenset(),
) -> tuple[Coupled, ...]:
    """The joints number `before` + 1 to `before` + `here` of `count` along a length of pipe, without the fittings that
    are too `weak`; empty where there are then none.
    """
    item, family = pipe(series_name, size), series(series_name)
    numbers = range(before + 1, before + here + 1)
    own = tubing_end(series_name, size, way) or end_of(market(shop), series_name, size, lies)
    mine = Side(f"{family.short} {size} pipe", own, pipe=f"{series_name} {size}", of=start)
    made = _Along(
        start=start,
        stop=stop,
        run=run,
        count=count,
        place=place,
        mine=mine,
        limits=Limits(foreign=market(shop).foreign | set_aside_ways(way), weak=weak),
    )
    return tuple(c for n in numbers for c in made.couple(item, n))


@dataclass(frozen=True, slots=True)
class _Along:
    """Where joints along a length of pipe are: its ends, the run, how many there are, and the pipe as one side of a
    joint.
    """

    start: EndId
    stop: EndId
    run: str
    count: int
    place: str
    mine: Side
    limits: Limits

    def couple(self, item: Pipe, n: int) -> Iterator[Coupled]:
        """What joins the nth stick or coil to the next: a bell, or the best coupling with a joint at each end."""
        family, own = series(item.series), end(self.mine.end)
        bell = _BELLS.get(f"{own.system}:{own.gender}") if family.stick else None
        if bell is not None:  # sticks come with a bell: one joint each
            socket = end(f"{bell}:{item.size}")
            there = Side("bell of the next length", socket.name, pipe=self.mine.pipe, of=self.mine.of)
            yield None, (self._joint(n, 1, 1, self.mine, own, there, socket),)
            return
        metal = frozenset({own.name}) if family.material in METALS else frozenset[str]()
        coupling = best_stack(own.name, own.name, metal, self.limits)
        if coupling is None:
            return
        parts = [
            Part(length_part(self.start, n, k), s.fitting.id, s.fitting.name, None, self.start)
            for k, s in enumerate(coupling.steps, 1)
        ]
        sides = [self.mine, *(Side(p.name, "", p.id, p.fitting) for p in parts), self.mine]
        pairs, joints = coupling.ends(), []
        for k, pair in enumerate(pairs, 1):
            made = [(replace(side, end=e.name), e) for side, e in zip(sides[k - 1 : k + 1], pair, strict=True)]
            if made[0][0].part is not None and made[1][0].part is None:
                made.reverse()  # the pipe is named first
            (one, a), (two, b) = made
            joints.append(self._joint(n, k, len(pairs), one, a, two, b))
        yield from zip(parts, [tuple(joints), *[()] * (len(parts) - 1)], strict=True)

    def _joint(self, n: int, step: int, steps: int, one: Side, a: End, two: Side, b: End) -> Joint:
        method = mating_method(a, b)
        assert method is not None
        depth = max(a.engagement, b.engagement) if one.part else b.engagement
        name, also = length_joint(self.start, n, step), length_joint(self.stop, self.count - n + 1, steps - step + 1)
        return Joint(
            id=name,
            also=also,
            role="length",
            point=None,
            end=None,
            run=self.run,
            number=n,
            method=method,
            size=a.size,
            a=one,
            b=two,
            depth=depth,
            place=self.place,
            towards="",
        )


def length_name(length: PipeLength) -> PipeId:
    """Who a length of pipe is: named after its end nearer the source."""
    return pipe_of(length.start)


def leg_things(lay: Layout, pipes: Mapping[str, Pipe], joints: Sequence[Joint]) -> tuple[PipeOrEnd, PipeOrEnd]:
    """The two things that the joints of one leg lead from and to: a pipe by its own end, or an end of what stands
    there.
    """
    return _thing(joints[0].a), _thing(joints[-1].b)


def leg_needs(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], point: str, end_id: str) -> Needs:
    """What the way from an end to what stands at its point must hold; nothing where there is no such end."""
    mine = _meetings(plan, lay, pipes)[0].get(point)
    leg = next((x for x in mine.legs if x.key == end_id), None) if mine else None
    return needs_of(mine, leg) if mine and leg else NOTHING_MORE


def _thing(side: Side) -> PipeOrEnd:
    if side.pipe is None:
        return PipeOrEnd(end=side.end)
    item = pipe_called(side.pipe)
    return PipeOrEnd(item.series, item.size, side.end)


@dataclass(frozen=True, slots=True)
class NodeView:
    """One choice for a point: what it is in words, all the joints it takes, its price, and whether it is used now.

    `how` and `fittings` are what a plan keeps to choose it. `loses` (m) is the head lost at the point with it, None
    where no flow is known.
    """

    how: How
    fittings: tuple[str, ...]
    says: str
    joints: int
    price: float
    used: bool
    loses: float | None = None


def node_views(
    plan: Plan,
    lay: Layout,
    pipes: Mapping[str, Pipe],
    point: str,
    own: Mapping[str, float] | None = None,
    speeds: Mapping[str, float] | None = None,
) -> tuple[NodeView, ...]:
    """Every choice for what stands at `point`, the best first; empty where nothing stands there.

    `own` are the crew's prices by fitting id, `speeds` (m/s) how fast water runs in each run at the most.
    """
    mine = _meetings(plan, lay, pipes)[0].get(point)
    here = join_strong(plan, lay, static_pressure(plan, lay), mine) if mine else None
    found = []
    for node in here.choices if here else ():
        names = " + ".join(p.name for p in node.parts) or "the pipe's own bend"
        more = turn_words(node) or (f"{degrees(node.misfit):.3g}° off the turn drawn" if node.misfit > MISFIT else "")
        steps = [s for stack in (*node.stacks, *((node.link,) if node.link else ())) for s in stack.ids()]
        price = sum(fitting_price(name, own) for name in (*node.ids(), *steps))
        says = f"{names} ({more})" if more else names
        loses = None
        if (
            mine is not None
            and speeds
            and node.how != "own bend"
            and any(speeds.get(leg.run or "", 0.0) > 0 for leg in mine.legs)
        ):
            made = join_meeting(replace(mine, node=(node.how, node.ids())))
            loses = sum(k * speeds.get(run, 0.0) ** 2 / (2 * STANDARD_GRAVITY) for run, k in made.minor)
        found.append(
            NodeView(
                how=node.how,
                fittings=node.ids(),
                says=says,
                joints=node.joints,
                price=price,
                used=here is not None and here.used == node,
                loses=loses,
            )
        )
    return tuple(found)
