"""Every fitting and joint of a whole plan: turns, junctions, changes of size and material, devices, outlets, ends.

At each point a hub is chosen (elbow, tee, valve, …) or none; each run is led to its port of the hub by the stack with
the fewest joints. A joint's identity is point.run.n, counted from the run's own pipe end inward, so it stays itself
when the plan changes elsewhere.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import ceil, cos, degrees, radians, tan

from hydrarch.core.catalogue.fittings import (
    End,
    Fitting,
    end,
    fully_turbulent_friction_factor,
    insert_loss_coefficient,
    mating_method,
    pipe_end,
    reduction_loss_coefficient,
)
from hydrarch.core.catalogue.guidance import choose_practice
from hydrarch.core.catalogue.pipes import Pipe, bend_radius, pipe, series
from hydrarch.core.catalogue.prices import fitting_price
from hydrarch.core.hydraulics.flow import riser_length, riser_pipe
from hydrarch.core.joining.hubs import (
    MISFIT,
    How,
    Hub,
    fitting_hubs,
    link_offsets,
    saddle_hubs,
    service_stack,
    turn_words,
    two_elbows,
)
from hydrarch.core.joining.records import Assembly, Joint, Laid, Part, Side, SoftBend, parts_list
from hydrarch.core.joining.search import FREE, Stack, find_stacks
from hydrarch.core.layout import Layout, label, turn_between
from hydrarch.core.plan import Cap, Outlet, Plan, Point, Pump, Regulator, Source, Vessel
from hydrarch.core.problems import Problem
from hydrarch.core.units import show

__all__ = ["Assembly", "HubView", "Joint", "Laid", "MOST_WAYS", "Part", "Side", "SoftBend", "assemble", "hub_views", "parts_list"]

STRAIGHT = radians(3)  # a turn no one can see: the pipe takes it
RIGID_BEND = radians(10)  # the most a stiff pipe is sprung through
MOST_WAYS = 12  # how many ways a crew may choose among

_METALS = ("steel", "copper")
_ELBOWS = ("elbow", "sweep elbow", "street elbow")
_DEVICE_FAMILY: dict[str, tuple[str, ...]] = {
    "valve": ("valve", "union valve"), "check_valve": ("check valve",), "union": ("union",), "filter": ("filter",),
    "backflow": ("backflow preventer",), "vent": ("vacuum breaker",),
}  # fmt: skip
_SERVED = ("filter", "backflow", "pump")
"""Devices that are cleaned or changed, so that the house practice puts a valve and a union beside them."""


@dataclass(frozen=True, slots=True)
class _Leg:
    """Something to be joined at a point: a run's pipe end, or the foot of a riser."""

    key: str
    what: str
    end: End
    bore: float
    metal: bool = False


class _Builder:
    def __init__(self, plan: Plan, lay: Layout, pipes: dict[str, Pipe]) -> None:
        self.plan, self.lay, self.pipes = plan, lay, pipes
        self.points = {p.id: p for p in plan.points}
        self.names = {p.id: label(p) for p in plan.points}
        self.turns: dict[tuple[str, str, str], float] = {}
        self.chosen = {(c.point, c.run): c.fittings for c in plan.chosen}
        self.hubs = {c.point: c for c in plan.hubs}
        self.saddles = choose_practice(plan.practices, "branch") == "saddle"
        self.service = choose_practice(plan.practices, "service")
        self.stops = {(m.fitting, m.port): m.stop for m in plan.measured}
        self.parts: list[Part] = []
        self.joints: list[Joint] = []
        self.laid: dict[tuple[str, str], Laid] = {}
        self.bends: list[SoftBend] = []
        self.minor: dict[str, float] = {}
        self.problems: list[Problem] = []
        self.choices: dict[str, tuple[Hub, ...]] = {}
        self.used: dict[str, Hub] = {}

    # What is there to join

    def leg(self, run: str) -> _Leg:
        item = self.pipes[run]
        family = series(item.series)
        return _Leg(
            run, f"{family.short} {item.size} pipe", pipe_end(item.series, item.size), item.bore, family.material in _METALS
        )

    def riser_leg(self, point: Point) -> _Leg:
        item = riser_pipe(point)
        return _Leg("riser", f"threaded riser {item.size}", end(f"npt:male:{item.size}"), item.bore)

    def stop(self, part: Fitting, port: int) -> float:
        return self.stops.get((part.id, port), part.ports[port].stop)

    def turn(self, point: str, a: str, b: str) -> float:
        key = (point, a, b) if a < b else (point, b, a)
        if key not in self.turns:
            self.turns[key] = turn_between(self.lay, point, a, b)
        return self.turns[key]

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
            self._hub(point, legs, "a cap", fitting_hubs(("cap",), _names(legs), 0.0, _metal(legs)))
        elif isinstance(what, Outlet):
            self._outlet(point, legs)
        elif isinstance(what, Vessel) and len(legs) == 1:
            self._to_device(point, legs[0], end(f"npt:female:{what.thread}"))
        elif isinstance(what, Pump | Regulator) and len(legs) == 2:
            for leg in legs:
                self._to_device(point, leg, end(f"npt:female:{what.thread}"))
        elif what.kind == "three_way" and len(legs) == 3:
            self._tee(point, legs, ("three-way valve",))
        elif what.kind in _DEVICE_FAMILY and len(legs) == 2:
            families = _DEVICE_FAMILY[what.kind]
            self._hub(point, legs, f"a {families[0]}", fitting_hubs(families, _names(legs), 0.0, _metal(legs)))
            self._expect_straight(point, legs)
        elif len(legs) == 1:
            self.laid[legs[0].key, point.id] = Laid(legs[0].key, point.id, 0.0, "")
        elif len(legs) == 2:
            self._two(point, legs)
        elif len(legs) == 3:
            self._tee(point, legs)
        elif len(legs) == 4:
            self._cross(point, legs)
        else:
            self._problem(
                "too-many-runs",
                point,
                f"{len(legs)} runs meet at {self.names[point.id]}.",
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
            self._hub(
                point,
                [*legs, riser],
                "an elbow",
                fitting_hubs(("elbow",), _names([*legs, riser]), _key(radians(90)), _metal(legs)),
            )
        elif len(legs) == 2:
            turn = self.turn(point.id, legs[0].key, legs[1].key)
            corner = abs(turn - radians(90)) <= MISFIT
            three = [*legs, riser]
            if corner:
                self._hub(
                    point, three, "an outlet elbow", fitting_hubs(("side-outlet elbow",), _names(three), _key(turn), _metal(legs))
                )
            else:
                self._hub(point, three, "a tee", self._branchings(three, turn))
                self._expect_straight(point, legs)
        else:
            self._problem(
                "outlet-on-junction",
                point,
                f"{self.names[point.id]} stands where {len(legs)} runs meet.",
                "Move it along one of them, so that it has a tee of its own.",
            )
            return
        if upright:
            self._joint(point.id, "riser", 99, riser.what, riser.end, None, self.names[point.id], inlet, None)

    def _two(self, point: Point, legs: list[_Leg]) -> None:
        a, b = legs
        turn = self.turn(point.id, a.key, b.key)
        same = self.pipes[a.key] == self.pipes[b.key]
        if same and turn <= STRAIGHT:
            self.bends.append(SoftBend(point.id, (a.key, b.key), turn, 0.0, 0.0, 0.0))
        elif turn > STRAIGHT:
            self._hub(point, legs, "an elbow", self._turnings(point, legs, turn))
        else:
            self._change(point, a, b)

    def _turnings(self, point: Point, legs: list[_Leg], turn: float) -> tuple[Hub, ...]:
        """Every way to turn a corner: by the pipe itself where it may, an elbow, or two."""
        a, b = legs
        names = (a.end.name, b.end.name)
        single = fitting_hubs(_ELBOWS, names, _key(turn), _metal(legs))
        fits = tuple(h for h in single if h.misfit <= MISFIT)
        pairs = () if fits else two_elbows(names, _key(turn), _metal(legs))
        own = self.pipes[a.key] == self.pipes[b.key] and self._soft_bend(point, a.key, b.key, turn) is not None
        bend = (Hub("own bend", (), (), ()),) if own else ()
        return (*bend, *fits) or (*pairs, *single)

    def _branchings(self, legs: list[_Leg], through: float) -> tuple[Hub, ...]:
        """Every way to branch off: tees, and saddles where the line runs on straight in one pipe."""
        tees = fitting_hubs(("tee", "wye"), _names(legs), 0.0, _metal(legs))
        one, two = (self.pipes[x.key] for x in legs[:2])
        if one != two or through > STRAIGHT:
            return tees
        saddles = saddle_hubs(round(one.outside, 6), legs[2].end.name, _metal(legs[2:]))
        return (*saddles, *tees) if self.saddles else (*tees, *saddles)

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
            self._no_way(point, leg.what, self.names[point.id])
            return
        names = self._place(point, leg, stack, self.names[point.id], None)
        self.laid[leg.key, point.id] = Laid(leg.key, point.id, self._length(stack), names[0])
        self._stack_losses(stack, leg)

    def _tee(self, point: Point, legs: list[_Leg], families: tuple[str, ...] = ()) -> None:
        pairs = [(self.turn(point.id, a.key, b.key), a, b) for i, a in enumerate(legs) for b in legs[i + 1 :]]
        through, one, two = min(pairs, key=lambda p: p[0])
        branch = next(x for x in legs if x not in (one, two))
        whole = [one, two, branch]
        choices = fitting_hubs(families, _names(whole), 0.0, _metal(whole)) if families else self._branchings(whole, through)
        self._hub(point, whole, f"a {families[0]}" if families else "a tee", choices)
        aside = min(self.turn(point.id, one.key, branch.key), self.turn(point.id, two.key, branch.key))
        if through > RIGID_BEND or abs(aside - radians(90)) > RIGID_BEND:
            self._problem(
                "tee-angle", point,
                f"The runs at {self.names[point.id]} do not make a tee: {degrees(through):.0f}° off straight, branch at {degrees(aside):.0f}°.",
                "Draw two of them straight through and the third square to them, with a bend further on.",
            )  # fmt: skip

    def _cross(self, point: Point, legs: list[_Leg]) -> None:
        first, *rest = legs
        facing = min(rest, key=lambda x: self.turn(point.id, first.key, x.key))
        whole = [first, facing, *(x for x in rest if x is not facing)]
        self._hub(point, whole, "a cross", fitting_hubs(("cross",), _names(whole), 0.0, _metal(whole)))
        self._expect_straight(point, [first, facing])

    def _expect_straight(self, point: Point, legs: list[_Leg]) -> None:
        turn = self.turn(point.id, legs[0].key, legs[1].key)
        if turn > RIGID_BEND:
            self._problem(
                "turn-at-device", point, f"The line turns {degrees(turn):.0f}° at {self.names[point.id]}, which is straight.",
                "Put the bend at a point of its own.",
            )  # fmt: skip

    # Hubs

    def _hub(self, point: Point, legs: list[_Leg], wanted: str, choices: tuple[Hub, ...]) -> None:
        """Put the best of `choices` at a point, or the one the crew chose while it still fits."""
        self.choices[point.id] = choices
        if not choices:
            self._no_way(point, " and ".join(leg.what for leg in legs), wanted)
            return
        best = choices[0]
        mine = self.hubs.get(point.id)
        if mine is not None:
            kept = next((h for h in choices if (h.how, h.ids()) == (mine.how, mine.fittings)), None)
            if kept is None:
                self._lapsed(point, "What was chosen")
            best = kept or best
        self.used[point.id] = best
        match best.how:
            case "own bend":
                self._own_bend(point, legs)
            case "saddle":
                self._saddle(point, legs, best)
            case "two elbows":
                self._pair(point, legs, best)
            case _:
                self._one_fitting(point, legs, best)

    def _one_fitting(self, point: Point, legs: list[_Leg], best: Hub) -> None:
        part = best.parts[0]
        if len(legs) > 1 and best.misfit > MISFIT:
            self._problem(
                "no-elbow", point, f"{part.name} at {self.names[point.id]} turns {degrees(best.misfit):.0f}° more or less than the line does.",
                "Move the point until it turns 22-1/2, 45 or 90°, or choose two elbows there.",
            )  # fmt: skip
        hub = Part(f"{point.id}.hub", part.id, part.name, point.id, None)
        self.parts.append(hub)
        for port, (i, usual) in enumerate(zip(best.order, best.stacks, strict=True)):
            leg = legs[i]
            self._lead(point, leg, usual, part.ports[port].end, part, hub, self.stop(part, port))
        self._hub_losses(point, part, legs)

    def _lead(self, point: Point, leg: _Leg, usual: Stack, port: End, part: Fitting, hub: Part, beyond: float) -> None:
        """Lead a leg to its port of a hub; `beyond` (m) is from that port's stop to the point."""
        stack = self._way(point, leg, leg.end, port) or usual
        names = self._place(point, leg, stack, part.name, hub.id)
        self.laid[leg.key, point.id] = Laid(leg.key, point.id, self._length(stack) + beyond, names[0])
        self._stack_losses(stack, leg, self._losing_key(point, leg))

    def _own_bend(self, point: Point, legs: list[_Leg]) -> None:
        a, b = legs
        soft = self._soft_bend(point, a.key, b.key, self.turn(point.id, a.key, b.key))
        assert soft is not None
        self.bends.append(soft)
        if soft.turn > RIGID_BEND:
            wide, radius = (show(x, "depth", self.plan.units) for x in (soft.widening, soft.radius))
            self._problem(
                "wide-trench", point, f"The pipe bends at {self.names[point.id]} on a radius of {radius} or more.",
                f"Cut the inside of the corner back by {wide}, or put an elbow there.", "note",
            )  # fmt: skip

    def _pair(self, point: Point, legs: list[_Leg], best: Hub) -> None:
        (one, two), link = best.parts, best.link
        assert link is not None
        parts = [Part(f"{point.id}.hub{n}", p.id, p.name, point.id, None) for n, p in ((1, one), (2, two))]
        self.parts += parts
        across = link.ends()
        inner = [self._port(one, across[0][0]), self._port(two, across[-1][1])]
        centres = self.stop(one, inner[0]) + self._length(link) + self.stop(two, inner[1])
        *along, side = link_offsets(one.angle, two.angle, self.turn(point.id, legs[0].key, legs[1].key), centres)
        for leg, part, hub, near, usual, offset in zip(legs, best.parts, parts, inner, best.stacks, along, strict=True):
            port = 1 - near
            self._lead(point, leg, usual, part.ports[port].end, part, hub, offset + self.stop(part, port))
        self._place(point, _Leg("between", one.name, across[0][0], legs[0].bore), link, two.name, parts[1].id, parts[0].id)
        for part in best.parts:
            self._add(legs[1].key, part.loss.run * fully_turbulent_friction_factor(legs[1].bore))
        shift = f"; the line moves {show(side, 'cut', self.plan.units)} sideways" if side > 2e-3 else ""
        self._problem(
            "two-elbows", point, f"Two elbows turn the line at {self.names[point.id]}: {turn_words(best)}{shift}.",
            "Set the angle dry with an angle finder and mark it before anything is made.", "note",
        )  # fmt: skip

    def _saddle(self, point: Point, legs: list[_Leg], best: Hub) -> None:
        one, two, branch = legs
        part = best.parts[0]
        clamp, outlet = part.ports
        self.bends.append(SoftBend(point.id, (one.key, two.key), 0.0, 0.0, 0.0, 0.0))
        hub = Part(f"{point.id}.hub", part.id, part.name, point.id, None)
        self.parts.append(hub)
        wall = end(f"{clamp.end.system}:wall:{clamp.end.size}")
        self._joint(point.id, one.key, 90, f"side of the {one.what}", wall, None, part.name, clamp.end, hub.id)
        self._lead(point, branch, best.stacks[0], outlet.end, part, hub, self.stop(part, 0) + self.stop(part, 1))
        k = part.loss.branch * fully_turbulent_friction_factor(branch.bore)
        self._add(self._losing_key(point, branch), k)

    @staticmethod
    def _port(part: Fitting, mine: End) -> int:
        return next(i for i, p in enumerate(part.ports) if p.end.name == mine.name)

    def _beside(self, point: Point, leg: _Leg, kind: str) -> bool:
        """Whether the run's other end already is a device of that kind."""
        return leg.key in self.lay.lines and self.points[self.lay.lines[leg.key].other(point.id)].what.kind == kind

    def _usual(self, point: Point, leg: _Leg, start: End, stop: End) -> Stack | None:
        """The best stack, with the valve and union the house practice puts beside what is serviced."""
        if point.what.kind not in _SERVED or self.service == "none":
            return self._best(start.name, stop.name, _metal([leg]))
        valve = self.service == "both" and not self._beside(point, leg, "valve")
        union = not self._beside(point, leg, "union")
        return service_stack(start.name, stop.name, valve, union) or self._best(start.name, stop.name, _metal([leg]))

    def _way(self, point: Point, leg: _Leg, start: End, stop: End) -> Stack | None:
        """The crew's own stack for a leg where it chose one that still fits, else the best."""
        wanted = self.chosen.get((point.id, leg.key))
        usual = self._usual(point, leg, start, stop)
        if wanted is None:
            return usual
        for stack in find_stacks(start.name, stop.name, MOST_WAYS):
            if stack.ids() == wanted:
                return stack
        self._lapsed(point, f"The way chosen for {leg.what}")
        return usual

    def _lapsed(self, point: Point, what: str) -> None:
        self._problem(
            "choice-lapsed",
            point,
            f"{what} at {self.names[point.id]} no longer fits the line.",
            "Choose again among the ways shown at that joint, or leave it to Hydrarch.",
        )

    def _best(self, start: str, stop: str, metal: frozenset[str] = frozenset()) -> Stack | None:
        found = find_stacks(start, stop, 1, FREE, metal)
        return found[0] if found else None

    def _length(self, stack: Stack) -> float:
        return sum(self.stop(s.fitting, s.into) + self.stop(s.fitting, s.out) for s in stack.steps)

    def _place(
        self, point: Point, leg: _Leg, stack: Stack, last: str, last_part: str | None, first_part: str | None = None
    ) -> list[str]:
        """Put a stack's parts and joints in; the words for what each pipe end goes into, first and last."""
        sides: list[tuple[str, str | None]] = [(leg.what, first_part)]
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
        signature = "|".join((method, *(e.name if what == self.names[point] else what for what, e in ((a_what, a), (b_what, b)))))
        self.joints.append(Joint(
            f"{point}.{run}.{n}", point, run, method, a.size, Side(a_what, a_part, a.name), Side(b_what, b_part, b.name),
            max(a.engagement, b.engagement) if "socket" not in (a.gender, b.gender) else _socket(a, b).engagement,
            signature,
            self.names[point],
            self._towards(point, run),
        ))  # fmt: skip

    def _towards(self, point: str, run: str) -> str:
        if run in self.lay.lines:
            return self.names[self.lay.lines[run].other(point)]
        return "up to the outlet" if run == "riser" else "between the elbows"

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
        place = f"along {self.names[self.lay.lines[run].a]} to {self.names[self.lay.lines[run].b]}"
        for n in range(1, count + 1):
            if family.stick and mine.name.startswith("solvent:spigot"):  # sticks come with a bell: one joint each
                socket = end(f"solvent:socket:{item.size}")
                self.joints.append(_run_joint(run, f"b{n}", what, mine, "bell of the next length", socket, None, place))
                continue
            coupling = self._best(mine.name, mine.name, frozenset({mine.name}) if family.material in _METALS else frozenset())
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
            "no-way", point, f"No honest way was found at {self.names[point.id]} to join {a} to {b}.",
            "Choose another size or series for one of the runs.", "stop",
        )  # fmt: skip


def _names(legs: list[_Leg]) -> tuple[str, ...]:
    return tuple(leg.end.name for leg in legs)


def _metal(legs: list[_Leg]) -> frozenset[str]:
    return frozenset(leg.end.name for leg in legs if leg.metal)


def _key(turn: float) -> float:
    """A turn rounded so that what was found for it is remembered."""
    return round(turn, 4)


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


def _inserts(part: Fitting, bore: float) -> float:
    return insert_loss_coefficient(bore, part.loss.bore) if part.loss.bore is not None else 0.0


def assemble(plan: Plan, lay: Layout, pipes: dict[str, Pipe]) -> Assembly:
    """Join a whole plan. What cannot be joined is a `Problem` at its point; the rest goes on."""
    return _Builder(plan, lay, pipes).build()


@dataclass(frozen=True, slots=True)
class HubView:
    """One choice for a point: what it is in words, all the joints it takes, its price, and whether it is used now.

    `how` and `fittings` are what a plan keeps to choose it.
    """

    how: How
    fittings: tuple[str, ...]
    says: str
    joints: int
    price: float
    used: bool


def hub_views(
    plan: Plan, lay: Layout, pipes: dict[str, Pipe], point: str, own: Mapping[str, float] | None = None
) -> tuple[HubView, ...]:
    """Every choice for what stands at `point`, the best first; empty where nothing stands there.

    `own` are the crew's prices by fitting id.
    """
    builder = _Builder(plan, lay, pipes)
    builder.build()
    found = []
    for hub in builder.choices.get(point, ()):
        names = " + ".join(p.name for p in hub.parts) or "the pipe's own bend"
        more = turn_words(hub) or (f"{degrees(hub.misfit):.3g}° off the turn drawn" if hub.misfit > MISFIT else "")
        steps = [s for stack in (*hub.stacks, *((hub.link,) if hub.link else ())) for s in stack.ids()]
        price = sum(fitting_price(name, own) for name in (*hub.ids(), *steps))
        says = f"{names} ({more})" if more else names
        found.append(HubView(hub.how, hub.ids(), says, hub.joints, price, builder.used.get(point) == hub))
    return tuple(found)
