"""Every fitting and joint of a whole plan: turns, junctions, changes of size and material, devices, outlets, ends.

At each point a hub is chosen (elbow, tee, valve, …) or none; each run is led to its port of the hub by the stack with
the fewest joints. A joint's identity is point.run.n, counted from the run's own pipe end inward, so it stays itself
when the plan changes elsewhere.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from itertools import permutations
from math import ceil, cos, degrees, radians, tan

from hydrarch.core.catalogue.fittings import (
    End,
    Fitting,
    end,
    fittings,
    fully_turbulent_friction_factor,
    insert_loss_coefficient,
    mating_method,
    pipe_end,
    reduction_loss_coefficient,
)
from hydrarch.core.catalogue.pipes import Pipe, bend_radius, pipe, series
from hydrarch.core.hydraulics.flow import riser_length, riser_pipe
from hydrarch.core.joining.search import Stack, find_stacks
from hydrarch.core.layout import Layout, label, turn_between
from hydrarch.core.plan import Cap, Outlet, Plan, Point, Source
from hydrarch.core.problems import Problem
from hydrarch.core.units import show, size_value

__all__ = ["Assembly", "Joint", "Laid", "Part", "Side", "SoftBend", "assemble"]

STRAIGHT = radians(3)  # a turn no one can see: the pipe takes it
RIGID_BEND = radians(10)  # the most a stiff pipe is sprung through
MOST_WAYS = 12  # how many ways a crew may choose among
MISFIT = radians(5)  # how far a turn may be from its elbow before someone must decide

_DEVICE_FAMILY = {
    "valve": "valve", "check_valve": "check valve", "union": "union", "filter": "filter",
    "backflow": "backflow preventer",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Part:
    """One fitting in place. `run` is the run whose stack it is in, None for the hub of its point."""

    id: str
    fitting: str
    name: str
    point: str
    run: str | None


@dataclass(frozen=True, slots=True)
class Side:
    """One side of a joint: the part or pipe it belongs to, in words, and the name of its end."""

    what: str
    part: str | None
    end: str


@dataclass(frozen=True, slots=True)
class Joint:
    """One mating. `signature` changes when its own definition does; `depth` (m) is what the socket or thread takes.

    `place` is the point or run it belongs to, `towards` where its run leads, so that two alike can be told apart.
    """

    id: str
    point: str | None
    run: str | None
    method: str
    size: str
    a: Side
    b: Side
    depth: float
    signature: str
    place: str
    towards: str


@dataclass(frozen=True, slots=True)
class Laid:
    """Where a run's pipe stops short of a point: `offset` (m) from the point's centre, and the end it offers."""

    run: str
    point: str
    offset: float
    takes: str


@dataclass(frozen=True, slots=True)
class SoftBend:
    """A turn the pipe takes by itself: `turn` (rad) on radius `radius` (m); the trench opens by `widening` (m)."""

    point: str
    runs: tuple[str, str]
    turn: float
    radius: float
    widening: float
    saved: float


@dataclass(frozen=True, slots=True)
class Assembly:
    """The whole plan joined. `minor` is the sum of loss coefficients K of each run (and of `point.riser`)."""

    parts: tuple[Part, ...]
    joints: tuple[Joint, ...]
    laid: dict[tuple[str, str], Laid]
    bends: tuple[SoftBend, ...]
    minor: dict[str, float]
    problems: tuple[Problem, ...]


@dataclass(frozen=True, slots=True)
class _Leg:
    """Something to be joined at a point: a run's pipe end, or the foot of a riser."""

    key: str
    what: str
    end: End
    bore: float


class _Builder:
    def __init__(self, plan: Plan, lay: Layout, pipes: dict[str, Pipe]) -> None:
        self.plan, self.lay, self.pipes = plan, lay, pipes
        self.points = {p.id: p for p in plan.points}
        self.chosen = {(c.point, c.run): c.fittings for c in plan.chosen}
        self.stops = {(m.fitting, m.port): m.stop for m in plan.measured}
        self.parts: list[Part] = []
        self.joints: list[Joint] = []
        self.laid: dict[tuple[str, str], Laid] = {}
        self.bends: list[SoftBend] = []
        self.minor: dict[str, float] = {}
        self.problems: list[Problem] = []

    # What is there to join

    def leg(self, run: str) -> _Leg:
        item = self.pipes[run]
        family = series(item.series)
        return _Leg(run, f"{family.short} {item.size} pipe", pipe_end(item.series, item.size), item.bore)

    def riser_leg(self, point: Point) -> _Leg:
        item = riser_pipe(point)
        return _Leg("riser", f"threaded riser {item.size}", end(f"npt:male:{item.size}"), item.bore)

    def stop(self, part: Fitting, port: int) -> float:
        return self.stops.get((part.id, port), part.ports[port].stop)

    def turn(self, point: str, a: str, b: str) -> float:
        return turn_between(self.lay, point, a, b)

    # One point at a time

    def build(self) -> Assembly:
        for point in self.plan.points:
            legs = [self.leg(r) for r in self.lay.at[point.id]]
            if legs:
                self._point(point, legs)
        for run in self.plan.runs:
            self._in_run(run.id)
        return Assembly(tuple(self.parts), tuple(self.joints), self.laid, tuple(self.bends), self.minor, tuple(self.problems))

    def _point(self, point: Point, legs: list[_Leg]) -> None:
        what = point.what
        if isinstance(what, Source) and len(legs) == 1:
            self._to_device(point, legs[0], end(f"npt:female:{what.thread}"))
        elif isinstance(what, Cap) and len(legs) == 1:
            self._hub(point, legs, "cap", 0.0)
        elif isinstance(what, Outlet):
            self._outlet(point, legs)
        elif what.kind in _DEVICE_FAMILY and len(legs) == 2:
            self._hub(point, legs, _DEVICE_FAMILY[what.kind], 0.0)
            self._expect_straight(point, legs)
        elif len(legs) == 1:
            self.laid[legs[0].key, point.id] = Laid(legs[0].key, point.id, 0.0, "")
        elif len(legs) == 2:
            self._two(point, legs)
        elif len(legs) == 3:
            self._tee(point, legs, "tee")
        elif len(legs) == 4:
            self._cross(point, legs)
        else:
            self._problem(
                "too-many-runs",
                point,
                f"{len(legs)} runs meet at {label(point)}.",
                "Part them over two points, a foot or more apart.",
            )

    def _outlet(self, point: Point, legs: list[_Leg]) -> None:
        assert isinstance(point.what, Outlet)
        inlet = end(f"npt:female:{point.what.thread}")
        upright = riser_length(point) > 0
        if len(legs) == 1 and not upright:
            self._to_device(point, legs[0], inlet)
            return
        riser = self.riser_leg(point)
        if len(legs) == 1:
            self._hub(point, [*legs, riser], "elbow", radians(90))
        elif len(legs) == 2:
            turn = self.turn(point.id, legs[0].key, legs[1].key)
            corner = abs(turn - radians(90)) <= MISFIT
            self._hub(point, [*legs, riser], "side-outlet elbow" if corner else "tee", turn if corner else 0.0)
            if not corner:
                self._expect_straight(point, legs)
        else:
            self._problem(
                "outlet-on-junction",
                point,
                f"{label(point)} stands where {len(legs)} runs meet.",
                "Move it along one of them, so that it has a tee of its own.",
            )
            return
        if upright:
            self._joint(point.id, "riser", 99, riser.what, riser.end, None, label(point), inlet, None)

    def _two(self, point: Point, legs: list[_Leg]) -> None:
        a, b = legs
        turn = self.turn(point.id, a.key, b.key)
        same = self.pipes[a.key] == self.pipes[b.key]
        if same and turn <= STRAIGHT:
            self.bends.append(SoftBend(point.id, (a.key, b.key), turn, 0.0, 0.0, 0.0))
        elif same and (soft := self._soft_bend(point, a.key, b.key, turn)) is not None:
            self.bends.append(soft)
            if turn > RIGID_BEND:
                wide, radius = (show(x, "depth", self.plan.units) for x in (soft.widening, soft.radius))
                self._problem(
                    "wide-trench", point, f"The pipe bends at {label(point)} on a radius of {radius} or more.",
                    f"Cut the inside of the corner back by {wide}, or put an elbow there.", "note",
                )  # fmt: skip
        elif turn > STRAIGHT:
            self._hub(point, legs, "elbow", turn)
        else:
            self._change(point, a, b)

    def _soft_bend(self, point: Point, a: str, b: str, turn: float) -> SoftBend | None:
        item = self.pipes[a]
        limit = RIGID_BEND if series(item.series).stick is not None else radians(100)
        radius = bend_radius(item)
        if turn > limit:
            return None
        tangent = radius * tan(turn / 2)
        if tangent > 0.5 * min(self.lay.lines[a].length, self.lay.lines[b].length):
            return None
        return SoftBend(point.id, (a, b), turn, radius, radius * (1 / cos(turn / 2) - 1), 2 * tangent - radius * turn)

    def _change(self, point: Point, a: _Leg, b: _Leg) -> None:
        stack = self._way(point, a, a.end, b.end)
        if stack is None:
            self._no_way(point, a.what, b.what)
            return
        half = self._length(stack) / 2
        names = self._place(point, a, stack, b.what, None)
        self.laid[a.key, point.id] = Laid(a.key, point.id, half, names[0])
        self.laid[b.key, point.id] = Laid(b.key, point.id, half, names[-1])
        self._stack_losses(stack, a)

    def _to_device(self, point: Point, leg: _Leg, inlet: End) -> None:
        stack = self._way(point, leg, leg.end, inlet)
        if stack is None:
            self._no_way(point, leg.what, label(point))
            return
        names = self._place(point, leg, stack, label(point), None)
        self.laid[leg.key, point.id] = Laid(leg.key, point.id, self._length(stack), names[0])
        self._stack_losses(stack, leg)

    def _tee(self, point: Point, legs: list[_Leg], family: str) -> None:
        pairs = [(self.turn(point.id, a.key, b.key), a, b) for i, a in enumerate(legs) for b in legs[i + 1 :]]
        through, one, two = min(pairs, key=lambda p: p[0])
        branch = next(x for x in legs if x not in (one, two))
        self._hub(point, [one, two, branch], family, 0.0)
        aside = min(self.turn(point.id, one.key, branch.key), self.turn(point.id, two.key, branch.key))
        if through > RIGID_BEND or abs(aside - radians(90)) > RIGID_BEND:
            self._problem(
                "tee-angle", point,
                f"The runs at {label(point)} do not make a tee: {degrees(through):.0f}° off straight, branch at {degrees(aside):.0f}°.",
                "Draw two of them straight through and the third square to them, with a bend further on.",
            )  # fmt: skip

    def _cross(self, point: Point, legs: list[_Leg]) -> None:
        first, *rest = legs
        facing = min(rest, key=lambda x: self.turn(point.id, first.key, x.key))
        sides = [x for x in rest if x is not facing]
        self._hub(point, [first, facing, *sides], "cross", 0.0)
        self._expect_straight(point, [first, facing])

    def _expect_straight(self, point: Point, legs: list[_Leg]) -> None:
        turn = self.turn(point.id, legs[0].key, legs[1].key)
        if turn > RIGID_BEND:
            self._problem(
                "turn-at-device", point, f"The line turns {degrees(turn):.0f}° at {label(point)}, which is straight.",
                "Put the bend at a point of its own.",
            )  # fmt: skip

    # Hubs

    def _hub(self, point: Point, legs: list[_Leg], family: str, turn: float) -> None:
        best = _choose_hub(family, tuple(leg.end.name for leg in legs), round(turn, 4))
        if best is None:
            self._no_way(point, " and ".join(leg.what for leg in legs), f"a {family}")
            return
        part, order, whole = best
        if len(legs) > 1 and family == "elbow" and abs(part.angle - turn) > MISFIT:
            self._problem(
                "no-elbow", point, f"The line turns {degrees(turn):.0f}° at {label(point)}; the nearest elbow is {degrees(part.angle):.0f}°.",
                "Move the point until it turns 22-1/2, 45 or 90°, or bend twice.",
            )  # fmt: skip
        hub = Part(f"{point.id}.hub", part.id, part.name, point.id, None)
        self.parts.append(hub)
        for port, (i, usual) in enumerate(zip(order, whole, strict=True)):
            leg = legs[i]
            stack = self._way(point, leg, leg.end, part.ports[port].end) or usual
            names = self._place(point, leg, stack, part.name, hub.id)
            offset = self._length(stack) + self.stop(part, port)
            self.laid[leg.key, point.id] = Laid(leg.key, point.id, offset, names[0])
            self._stack_losses(stack, leg, self._losing_key(point, leg))
        self._hub_losses(point, part, legs)

    def _way(self, point: Point, leg: _Leg, start: End, stop: End) -> Stack | None:
        """The crew's own stack for a leg where it chose one that still fits, else the best."""
        wanted = self.chosen.get((point.id, leg.key))
        usual = self._best(start.name, stop.name)
        if wanted is None:
            return usual
        for stack in find_stacks(start.name, stop.name, MOST_WAYS):
            if tuple(s.fitting.id for s in stack.steps) == wanted:
                return stack
        self._problem(
            "choice-lapsed",
            point,
            f"The way chosen for {leg.what} at {label(point)} no longer fits the line.",
            "Choose again among the ways shown at that joint, or leave it to Hydrarch.",
        )
        return usual

    def _best(self, start: str, stop: str) -> Stack | None:
        found = find_stacks(start, stop, 1)
        return found[0] if found else None

    def _length(self, stack: Stack) -> float:
        return sum(self.stop(s.fitting, s.into) + self.stop(s.fitting, s.out) for s in stack.steps)

    def _place(self, point: Point, leg: _Leg, stack: Stack, last: str, last_part: str | None) -> list[str]:
        """Put a stack's parts and joints in; the words for what each pipe end goes into, first and last."""
        sides: list[tuple[str, str | None]] = [(leg.what, None)]
        for n, step in enumerate(stack.steps, 1):
            part = Part(f"{point.id}.{leg.key}.p{n}", step.fitting.id, step.fitting.name, point.id, leg.key)
            self.parts.append(part)
            sides.append((part.name, part.id))
        sides.append((last, last_part))
        for n, (a, b) in enumerate(stack.ends(), 1):
            self._joint(point.id, leg.key, n, sides[n - 1][0], a, sides[n - 1][1], sides[n][0], b, sides[n][1])
        return [sides[1][0], sides[-2][0]]

    def _joint(
        self, point: str, run: str, n: int, a_what: str, a: End, a_part: str | None,
        b_what: str, b: End, b_part: str | None,
    ) -> None:  # fmt: skip
        method = mating_method(a, b)
        assert method is not None, f"{a.name} and {b.name} do not mate"
        at = self.points[point]
        signature = "|".join((method, *(e.name if what == label(at) else what for what, e in ((a_what, a), (b_what, b)))))
        self.joints.append(Joint(
            f"{point}.{run}.{n}", point, run, method, a.size, Side(a_what, a_part, a.name), Side(b_what, b_part, b.name),
            max(a.engagement, b.engagement) if "socket" not in (a.gender, b.gender) else _socket(a, b).engagement,
            signature,
                label(at),
                "up to the outlet" if run == "riser" else label(self.points[self.lay.lines[run].other(point)]),
        ))  # fmt: skip

    # In the run

    def _in_run(self, run: str) -> None:
        item = self.pipes[run]
        family = series(item.series)
        longest = family.stick or family.coil
        if longest is None:
            return
        offsets = sum(x.offset for x in (self.laid.get((run, p)) for p in (self.lay.lines[run].a, self.lay.lines[run].b)) if x)
        count = ceil((self.lay.lines[run].length - offsets) / longest - 1e-9) - 1
        what, mine = f"{family.short} {item.size} pipe", pipe_end(item.series, item.size)
        place = f"along {label(self.points[self.lay.lines[run].a])} to {label(self.points[self.lay.lines[run].b])}"
        for n in range(1, count + 1):
            if mine.system == "solvent":  # sticks come with a bell: one joint each
                socket = end(f"solvent:socket:{item.size}")
                self.joints.append(_run_joint(run, f"b{n}", what, mine, "bell of the next length", socket, None, place))
                continue
            coupling = self._best(mine.name, mine.name)
            if coupling is None:
                continue
            part = Part(f"{run}.c{n}", coupling.steps[0].fitting.id, coupling.steps[0].fitting.name, "", run)
            self.parts.append(part)
            for side, (a, b) in zip("ab", coupling.ends(), strict=True):
                barb = b if a.name == mine.name else a
                self.joints.append(_run_joint(run, f"c{n}{side}", what, mine, part.name, barb, part.id, place))

    # Losses

    def _losing_key(self, point: Point, leg: _Leg) -> str:
        return f"{point.id}.riser" if leg.key == "riser" else leg.key

    def _add(self, key: str, coefficient: float) -> None:
        if coefficient > 0:
            self.minor[key] = self.minor.get(key, 0.0) + coefficient

    def _stack_losses(self, stack: Stack, leg: _Leg, key: str | None = None) -> None:
        for step in stack.steps:
            self._add(key or leg.key, _inserts(step.fitting, leg.bore))
            if step.fitting.loss.reduces:
                one, two = (pipe("pvc40", step.fitting.ports[p].end.size).bore for p in (step.into, step.out))
                small = min(one, two)
                k = reduction_loss_coefficient(small, max(one, two))
                self._add(key or leg.key, k * (leg.bore / small) ** 4)

    def _hub_losses(self, point: Point, part: Fitting, legs: list[_Leg]) -> None:
        """Run losses go to the legs beyond the source's, the branch loss to the branch."""
        for place, leg in enumerate(legs):
            beyond = leg.key == "riser" or self.lay.distance.get(
                self.lay.lines[leg.key].other(point.id), 0.0
            ) >= self.lay.distance.get(point.id, 0.0)
            diameters = part.loss.branch if place >= 2 else part.loss.run if beyond else 0.0
            k = diameters * fully_turbulent_friction_factor(leg.bore)
            self._add(self._losing_key(point, leg), k + (_inserts(part, leg.bore) if beyond else 0.0))

    def _problem(self, code: str, point: Point, says: str, mend: str, severity: str = "warn") -> None:
        self.problems.append(Problem(code, severity, point.id, says, mend))  # type: ignore[arg-type]

    def _no_way(self, point: Point, a: str, b: str) -> None:
        self._problem(
            "no-way", point, f"No honest way was found at {label(point)} to join {a} to {b}.",
            "Choose another size or series for one of the runs.", "stop",
        )  # fmt: skip


@cache
def _choose_hub(family: str, legs: tuple[str, ...], turn: float) -> tuple[Fitting, tuple[int, ...], tuple[Stack, ...]] | None:
    """The part of a family that joins legs (ends by name) with the fewest joints, which leg goes to which port, and how."""
    best: tuple[tuple[bool, int, int, float, float], Fitting, tuple[int, ...], tuple[Stack, ...]] | None = None
    sizes = {end(name).size for name in legs}
    for part in fittings().values():
        if part.family != family or len(part.ports) != len(legs) or not {p.end.size for p in part.ports} <= sizes:
            continue
        misfit = abs(part.angle - turn) if len(legs) > 1 else 0.0
        for order in _orders(family, len(legs)):
            found = [find_stacks(legs[i], part.ports[p].end.name, 1) for p, i in enumerate(order)]
            whole = tuple(f[0] for f in found if f)
            if len(whole) < len(found):
                continue
            joints, detours, lengths = (sum(c) for c in zip(*(s.cost() for s in whole), strict=True))
            cost = (misfit > RIGID_BEND + MISFIT, round(misfit / MISFIT), int(joints), float(detours), float(lengths))
            if best is None or cost < best[0]:
                best = (cost, part, order, whole)
    return best[1:] if best else None


def _socket(a: End, b: End) -> End:
    return a if a.gender == "socket" else b


def _run_joint(run: str, n: str, what: str, a: End, other: str, b: End, part: str | None, place: str) -> Joint:
    method = mating_method(a, b)
    assert method is not None
    return Joint(
        f"{run}.{n}", None, run, method, a.size, Side(what, None, a.name), Side(other, part, b.name),
        b.engagement, f"{method}|{what}|{other}",
        place,
        "",
    )  # fmt: skip


def _orders(family: str, count: int) -> Iterable[tuple[int, ...]]:
    """Which leg goes to which port: the third leg of a tee or outlet elbow is always its branch."""
    if family == "cross":
        return ((0, 1, 2, 3),)
    if count == 3:
        return ((0, 1, 2), (1, 0, 2))
    return tuple(permutations(range(count)))


def _inserts(part: Fitting, bore: float) -> float:
    return insert_loss_coefficient(bore, part.loss.bore) if part.loss.bore is not None else 0.0


def assemble(plan: Plan, lay: Layout, pipes: dict[str, Pipe]) -> Assembly:
    """Join a whole plan. What cannot be joined is a `Problem` at its point; the rest goes on."""
    return _Builder(plan, lay, pipes).build()


def parts_list(assembly: Assembly) -> dict[str, int]:
    """How many of each fitting, by fitting id, in the order of size within family."""
    counts: dict[str, int] = {}
    for part in assembly.parts:
        counts[part.fitting] = counts.get(part.fitting, 0) + 1
    known = fittings()
    return dict(sorted(counts.items(), key=lambda c: (known[c[0]].family, -size_value(known[c[0]].ports[0].end.size), c[0])))
