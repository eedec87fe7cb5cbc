"""Putting what was chosen for one place in: parts, joints, where each pipe stops, and what each costs in head.

A joint's identity is point.run.n, counted from the run's own pipe end inward, so it stays itself when the plan changes
elsewhere.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import degrees, radians

from hydrarch.core.catalogue.fittings import (
    End,
    Fitting,
    end,
    fittings,
    fully_turbulent_friction_factor,
    insert_loss_coefficient,
    joint_depth,
    mating_method,
    reduction_loss_coefficient,
)
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.joining.hubs import MISFIT, Hub, link_offsets, service_stack, turn_words
from hydrarch.core.joining.place import RISER, Leg, Place
from hydrarch.core.joining.records import Joint, Laid, Part, Side, SoftBend
from hydrarch.core.joining.search import FREE, Stack, find_stacks
from hydrarch.core.problems import Problem, Severity
from hydrarch.core.units import show

__all__ = ["HEAD_JOINT", "MOST_WAYS", "RIGID_BEND", "Joined", "Placing", "best_stack", "metal_ends"]

MOST_WAYS = 12  # how many ways a crew may choose among
HEAD_JOINT = 99  # the number of the joint that puts an outlet on its riser
_SADDLE_JOINT = 90
_METRIC_BORE = 0.75  # of the outside diameter, between PE100 SDR 11 and PPR S2.5; from memory
RIGID_BEND = radians(10)  # the most a stiff pipe is sprung through

_SERVED = ("filter", "backflow", "pump")
"""Devices that are cleaned or changed, so that the house practice puts a valve and a union beside them."""


@dataclass(frozen=True, slots=True)
class Joined:
    """One place joined. `minor` are loss coefficients K by run (or `point.riser`); `choices` what else may stand there."""

    parts: tuple[Part, ...]
    joints: tuple[Joint, ...]
    laid: tuple[Laid, ...]
    bends: tuple[SoftBend, ...]
    minor: tuple[tuple[str, float], ...]
    problems: tuple[Problem, ...]
    choices: tuple[Hub, ...]
    used: Hub | None


class Placing:
    """What has been put in at one place so far."""

    def __init__(self, place: Place) -> None:
        self.place = place
        self._stops = {(fitting, port): stop for fitting, port, stop in place.stops}
        self._ways = dict(place.ways)
        self._parts: list[Part] = []
        self._joints: list[Joint] = []
        self._laid: list[Laid] = []
        self._bends: list[SoftBend] = []
        self._minor: dict[str, float] = {}
        self._problems: list[Problem] = []
        self._choices: tuple[Hub, ...] = ()
        self._used: Hub | None = None
        self._swing: Part | None = None

    def joined(self) -> Joined:
        """All of it."""
        return Joined(
            tuple(self._parts), tuple(self._joints), tuple(self._laid), tuple(self._bends), tuple(self._minor.items()),
            tuple(self._problems), self._choices, self._used,
        )  # fmt: skip

    # One leg

    def open_end(self, leg: Leg) -> None:
        """Let a pipe end at the point with nothing on it."""
        self._laid.append(Laid(leg.key, self.place.point, 0.0, ""))

    def device(self, leg: Leg, inlet: End) -> None:
        """Lead a leg to the opening of what stands at the point."""
        stack = self._way(leg, leg.end, inlet)
        if stack is None:
            self.no_way(leg.what, self.place.name)
            return
        names = self._put(leg.key, leg.what, stack, self.place.name, None)
        self._laid.append(Laid(leg.key, self.place.point, self._length(stack), names[0]))
        self._stack_losses(stack, leg, leg.key)

    def change(self, a: Leg, b: Leg) -> None:
        """Join two pipes that run on straight but are not alike."""
        stack = self._way(a, a.end, b.end)
        if stack is None:
            self.no_way(a.what, b.what)
            return
        half = self._length(stack) / 2
        names = self._put(a.key, a.what, stack, b.what, None)
        self._laid += [Laid(a.key, self.place.point, half, names[0]), Laid(b.key, self.place.point, half, names[-1])]
        self._stack_losses(stack, a, a.key)

    def head(self, riser: Leg, inlet: End) -> None:
        """Put the tap or head on its riser."""
        what, part = self._foot(riser)
        self._joint(RISER, HEAD_JOINT, what, riser.end, part, self.place.name, inlet, None)

    def swing(self, riser: Leg, most: float) -> None:
        """Take a swing riser for a straight one, where it reaches: `most` (m) is as high as one goes."""
        made = fittings().get(f"swing-riser-{riser.size.replace('/', '_')}")
        if made is None or riser.length > most:
            self.problem(
                "no-swing", f"No swing riser is made for {self.place.name}: it stands on a straight one.",
                "Lay the line higher there, or leave it straight.", "note",
            )  # fmt: skip
            return
        self._swing = Part(f"{self.place.point}.swing", made.id, made.name, self.place.point, RISER)
        self._parts.append(self._swing)
        self._add(self._losing_key(riser), made.loss.run * fully_turbulent_friction_factor(riser.bore))

    def _foot(self, leg: Leg) -> tuple[str, str | None]:
        """What a leg is, in words, and the part it is where it is no pipe."""
        if leg.key == RISER and self._swing is not None:
            return self._swing.name, self._swing.id
        return leg.what, None

    def bend(self, soft: SoftBend) -> None:
        """Let the pipe go through."""
        self._bends.append(soft)

    # A hub

    def hub(self, legs: tuple[Leg, ...], wanted: str, choices: tuple[Hub, ...], own: SoftBend | None = None) -> None:
        """Put the best of `choices` at the point, or the one the crew chose while it still fits; `own` is the pipe's bend."""
        self._choices = choices
        if not choices:
            self.no_way(" and ".join(leg.what for leg in legs), wanted)
            return
        best = choices[0]
        if self.place.hub is not None:
            kept = next((h for h in choices if (h.how, h.ids()) == self.place.hub), None)
            if kept is None:
                self._lapsed("What was chosen")
            best = kept or best
        self._used = best
        match best.how:
            case "own bend":
                assert own is not None
                self._own_bend(own)
            case "saddle":
                self._saddle(legs, best)
            case "two elbows":
                self._pair(legs, best)
            case _:
                self._one_fitting(legs, best)

    def _own_bend(self, soft: SoftBend) -> None:
        self._bends.append(soft)
        if soft.turn > RIGID_BEND:
            wide, radius = (show(x, "depth", self.place.units) for x in (soft.widening, soft.radius))
            self.problem(
                "wide-trench", f"The pipe bends at {self.place.name} on a radius of {radius} or more.",
                f"Cut the inside of the corner back by {wide}, or put an elbow there.", "note",
            )  # fmt: skip

    def _one_fitting(self, legs: tuple[Leg, ...], best: Hub) -> None:
        part = best.parts[0]
        if len(legs) > 1 and best.misfit > MISFIT:
            self.problem(
                "no-elbow", f"{part.name} at {self.place.name} turns {degrees(best.misfit):.0f}° more or less than the line does.",
                "Move the point until it turns 22-1/2, 45 or 90°, or choose two elbows there.",
            )  # fmt: skip
        hub = self._hub_part(part)
        for port, (i, usual) in enumerate(zip(best.order, best.stacks, strict=True)):
            self._lead(legs[i], usual, part.ports[port].end, part, hub, self._stop(part, port))
        self._hub_losses(part, legs)

    def _pair(self, legs: tuple[Leg, ...], best: Hub) -> None:
        (one, two), link = best.parts, best.link
        assert link is not None
        parts = [self._hub_part(p, str(n)) for n, p in ((1, one), (2, two))]
        across = link.ends()
        inner = [_port(one, across[0][0]), _port(two, across[-1][1])]
        centres = self._stop(one, inner[0]) + self._length(link) + self._stop(two, inner[1])
        turn = self.place.turn(legs[0].key, legs[1].key)
        *along, side = link_offsets(one.angle, two.angle, turn, centres)
        for leg, part, hub, near, usual, offset in zip(legs, best.parts, parts, inner, best.stacks, along, strict=True):
            port = 1 - near
            self._lead(leg, usual, part.ports[port].end, part, hub, offset + self._stop(part, port))
        self._put("between", one.name, link, two.name, parts[1].id, parts[0].id)
        for part in best.parts:
            self._add(legs[1].key, part.loss.run * fully_turbulent_friction_factor(legs[1].bore))
        shift = f"; the line moves {show(side, 'cut', self.place.units)} sideways" if side > 2e-3 else ""
        self.problem(
            "two-elbows", f"Two elbows turn the line at {self.place.name}: {turn_words(best)}{shift}.",
            "Set the angle dry with an angle finder and mark it before anything is made.", "note",
        )  # fmt: skip

    def _saddle(self, legs: tuple[Leg, ...], best: Hub) -> None:
        one, two, branch = legs
        part = best.parts[0]
        clamp, outlet = part.ports
        self._bends.append(SoftBend(self.place.point, (one.key, two.key), 0.0, 0.0, 0.0, 0.0))
        hub = self._hub_part(part)
        wall = end(f"{clamp.end.system}:wall:{clamp.end.size}")
        self._joint(one.key, _SADDLE_JOINT, f"side of the {one.what}", wall, None, part.name, clamp.end, hub.id)
        self._lead(branch, best.stacks[0], outlet.end, part, hub, self._stop(part, 0) + self._stop(part, 1))
        self._add(self._losing_key(branch), part.loss.branch * fully_turbulent_friction_factor(branch.bore))

    def _hub_part(self, part: Fitting, which: str = "") -> Part:
        made = Part(f"{self.place.point}.hub{which}", part.id, part.name, self.place.point, None)
        self._parts.append(made)
        return made

    def _lead(self, leg: Leg, usual: Stack, port: End, part: Fitting, hub: Part, beyond: float) -> None:
        """Lead a leg to its port of a hub; `beyond` (m) is from that port's stop to the point."""
        stack = self._way(leg, leg.end, port) or usual
        what, own = self._foot(leg)
        names = self._put(leg.key, what, stack, part.name, hub.id, own)
        if own is None:
            self._laid.append(Laid(leg.key, self.place.point, self._length(stack) + beyond, names[0]))
        self._stack_losses(stack, leg, self._losing_key(leg))

    # Stacks

    def _usual(self, leg: Leg, start: End, stop: End) -> Stack | None:
        """The best stack, with the valve and union the house practice puts beside what is serviced."""
        plain = best_stack(start.name, stop.name, metal_ends((leg,)))
        if self.place.kind not in _SERVED or self.place.service == "none":
            return plain
        valve = self.place.service == "both" and leg.far_kind != "valve"
        return service_stack(start.name, stop.name, valve, leg.far_kind != "union") or plain

    def _way(self, leg: Leg, start: End, stop: End) -> Stack | None:
        """The crew's own stack for a leg where it chose one that still fits, else the best."""
        wanted = self._ways.get(leg.key)
        usual = self._usual(leg, start, stop)
        if wanted is None:
            return usual
        for stack in find_stacks(start.name, stop.name, MOST_WAYS):
            if stack.ids() == wanted:
                return stack
        self._lapsed(f"The way chosen for {leg.what}")
        return usual

    def _lapsed(self, what: str) -> None:
        self.problem(
            "choice-lapsed", f"{what} at {self.place.name} no longer fits the line.",
            "Choose again among the ways shown at that joint, or leave it to Hydrarch.",
        )  # fmt: skip

    def _stop(self, part: Fitting, port: int) -> float:
        """The crew's own measure of that opening, or of one alike on the same fitting, or else the catalogue's."""
        mine, own = part.ports[port], self._stops.get((part.id, port))
        if own is not None or not self._stops:
            return mine.stop if own is None else own
        alike = (n for n, p in enumerate(part.ports) if p.end == mine.end and p.stop == mine.stop)
        return next((self._stops[part.id, n] for n in alike if (part.id, n) in self._stops), mine.stop)

    def _length(self, stack: Stack) -> float:
        return sum(self._stop(s.fitting, s.into) + self._stop(s.fitting, s.out) for s in stack.steps)

    def _put(
        self, key: str, what: str, stack: Stack, last: str, last_part: str | None, first_part: str | None = None
    ) -> tuple[str, str]:
        """Put a stack's parts and joints in; the words for what each pipe end goes into, first and last."""
        sides: list[tuple[str, str | None]] = [(what, first_part)]
        for n, step in enumerate(stack.steps, 1):
            part = Part(f"{self.place.point}.{key}.p{n}", step.fitting.id, step.fitting.name, self.place.point, key)
            self._parts.append(part)
            sides.append((part.name, part.id))
        sides.append((last, last_part))
        for n, (a, b) in enumerate(stack.ends(), 1):
            self._joint(key, n, *_side(sides[n - 1], a), *_side(sides[n], b))
        return sides[1][0], sides[-2][0]

    def _joint(self, run: str, n: int, a_what: str, a: End, a_part: str | None, b_what: str, b: End, b_part: str | None) -> None:
        method = mating_method(a, b)
        assert method is not None, f"{a.name} and {b.name} do not mate"
        at, name = self.place.point, self.place.name
        depth = joint_depth(a, b)
        self._joints.append(Joint(
            f"{at}.{run}.{n}", at, run, method, a.size, Side(a_what, a_part, a.name), Side(b_what, b_part, b.name),
            depth, name, self._towards(run),
        ))  # fmt: skip

    def _towards(self, run: str) -> str:
        if run == RISER:
            return "the outlet"
        return next((leg.towards for leg in self.place.legs if leg.key == run), "the other elbow")

    # Losses

    def _losing_key(self, leg: Leg) -> str:
        return f"{self.place.point}.riser" if leg.key == RISER else leg.key

    def _add(self, key: str, coefficient: float) -> None:
        if coefficient > 0:
            self._minor[key] = self._minor.get(key, 0.0) + coefficient

    def _stack_losses(self, stack: Stack, leg: Leg, key: str) -> None:
        if leg.drain:
            return  # a drain runs by its fall
        for step in stack.steps:
            self._add(key, _inserts(step.fitting, leg.bore))
            if step.fitting.loss.reduces:
                one, two = (_bore(step.fitting.ports[p].end) for p in (step.into, step.out))
                small = min(one, two)
                self._add(key, reduction_loss_coefficient(small, max(one, two)) * (leg.bore / small) ** 4)

    def _hub_losses(self, part: Fitting, legs: tuple[Leg, ...]) -> None:
        """Run losses go to the legs beyond the source's, the branch loss to the branch."""
        for number, leg in enumerate(legs):
            diameters = part.loss.branch if number >= 2 else part.loss.run if leg.beyond else 0.0
            k = diameters * fully_turbulent_friction_factor(leg.bore)
            self._add(self._losing_key(leg), k + (_inserts(part, leg.bore) if leg.beyond else 0.0))

    # What is wrong

    def problem(self, code: str, says: str, mend: str, severity: Severity = "warn") -> None:
        """Note a problem at the point."""
        self._problems.append(Problem(code, severity, self.place.point, says, mend))

    def no_way(self, a: str, b: str) -> None:
        """Note that two things cannot be joined."""
        self.problem(
            "no-way", f"No honest way was found at {self.place.name} to join {a} to {b}.",
            "Choose another size or series for one of the runs.", "stop",
        )  # fmt: skip


def best_stack(start: str, stop: str, metal: frozenset[str] = frozenset()) -> Stack | None:
    """The best way from one end to another, both by name; None where there is none."""
    found = find_stacks(start, stop, 1, FREE, metal)
    return found[0] if found else None


def metal_ends(legs: tuple[Leg, ...]) -> frozenset[str]:
    """The ends of those legs that are metal."""
    return frozenset(leg.end.name for leg in legs if leg.metal)


def _side(of: tuple[str, str | None], mine: End) -> tuple[str, End, str | None]:
    return of[0], mine, of[1]


def _port(part: Fitting, mine: End) -> int:
    return next(i for i, p in enumerate(part.ports) if p.end.name == mine.name)


def _bore(opening: End) -> float:
    """The bore (m) about an opening: that of the usual pipe of its size, or three quarters of a metric outside diameter."""
    usual = next((s for s in series("pvc40").sizes if s.size == opening.size), None)
    return usual.bore if usual else _METRIC_BORE * opening.diameter


def _inserts(part: Fitting, bore: float) -> float:
    return insert_loss_coefficient(bore, part.loss.bore) if part.loss.bore is not None else 0.0
