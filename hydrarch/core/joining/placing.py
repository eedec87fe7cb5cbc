"""Putting what was chosen for one point in: parts, joints, take-offs, and what each costs in head.

A joint is named after the run's end it is on, counted from the pipe inward, so it stays itself when the plan changes
elsewhere.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import degrees, radians

from hydrarch.core.base.identity import (
    EndId,
    JointId,
    between_elbows,
    head_joint,
    node_part,
    saddle_joint,
    stack_joint,
    stack_part,
    swing_part,
)
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.fittings import End, Fitting, end, fittings, joint_depth, mating_method
from hydrarch.core.joining.assembled import ColdBend, Joint, JointRole, Part, Side, TakeOff
from hydrarch.core.joining.leading import chosen_stack, usual_stack
from hydrarch.core.joining.losses import Losses
from hydrarch.core.joining.meeting import Leg, Meeting
from hydrarch.core.joining.node_fittings import MISFIT, NodeFitting, link_offsets, turn_words
from hydrarch.core.joining.stacks import Limits, Stack
from hydrarch.core.joining.way_search import best_stack

__all__ = ["RIGID_BEND", "Joined", "Placing"]

declare("join", "no-way", "no-elbow", holds=True)
_BY_SPADE = 0.05
"""m that a corner is cut back in the digging anyhow; common practice."""

declare("join", "two-elbows", "wide-trench", "choice-lapsed", "no-swing", "taken-end", "held-ends", "no-service")

RIGID_BEND = radians(10)  # the most a stiff pipe is sprung through


@dataclass(frozen=True, slots=True)
class Joined:
    """One point joined. `minor` are loss coefficients K by run (or riser's foot); `choices` what else may stand there
    for the legs in `order`.
    """

    parts: tuple[Part, ...]
    joints: tuple[Joint, ...]
    taken: tuple[TakeOff, ...]
    bends: tuple[ColdBend, ...]
    minor: tuple[tuple[str, float], ...]
    problems: tuple[Problem, ...]
    choices: tuple[NodeFitting, ...]
    used: NodeFitting | None
    order: tuple[EndId, ...]


class Placing:
    """What was put in at one point so far."""

    def __init__(self, meeting: Meeting) -> None:
        self.meeting = meeting
        self._stops = {(fitting, port): stop for fitting, port, stop in meeting.stops}
        self._ways = dict(meeting.ways)
        self._limits = Limits(foreign=meeting.foreign, weak=meeting.weak)
        self._parts: list[Part] = []
        self._joints: list[Joint] = []
        self._taken: list[TakeOff] = []
        self._bends: list[ColdBend] = []
        self._losses = Losses()
        self._problems: list[Problem] = []
        self._choices: tuple[NodeFitting, ...] = ()
        self._used: NodeFitting | None = None
        self._order: tuple[EndId, ...] = ()
        self._met = meeting.met
        self._swing: Part | None = None
        self._stands: Part | None = None

    def joined(self) -> Joined:
        """All of it; nothing is to be mended where all exists already."""
        if self._met and all(leg.existing for leg in self.meeting.legs):
            self._problems = []
        return Joined(
            parts=tuple(self._parts),
            joints=tuple(self._joints),
            taken=tuple(self._taken),
            bends=tuple(self._bends),
            minor=tuple(self._losses.by.items()),
            problems=tuple(self._problems),
            choices=self._choices,
            used=self._used,
            order=self._order,
        )

    # One leg

    def open_end(self, leg: Leg) -> None:
        """Let a pipe end at the point with nothing on it."""
        self._take(leg, 0.0, "")

    def device(self, leg: Leg, inlet: End) -> None:
        """Lead a leg to the opening of what stands at the point."""
        if leg.asks:
            return
        stack = self._way(leg, leg.end, inlet)
        if stack is None:
            self.no_way(leg.what, self.meeting.name)
            return
        names = self._put(leg, stack, Side(self.meeting.name, inlet.name))
        self._take(leg, self._length(stack), names[0])
        self._losses.stack(stack, leg)

    def change(self, a: Leg, b: Leg) -> None:
        """Join two pipes that run on straight but are not alike."""
        stack = self._way(a, a.end, b.end)
        if stack is None:
            self.no_way(a.what, b.what)
            return
        half = self._length(stack) / 2
        names = self._put(a, stack, Side(b.what, b.end.name, pipe=b.item, of=b.key))
        self._take(a, half, names[0])
        self._take(b, half, names[-1])
        self._losses.stack(stack, a)

    def head(self, riser: Leg, inlet: End) -> None:
        """Put the tap or head on its riser."""
        foot = self._foot(riser)
        stack = best_stack(riser.end.name, inlet.name, frozenset(), self._limits)
        if stack is None:
            self.no_way(riser.what, self.meeting.name)
            return
        self._put(riser, stack, Side(self.meeting.name, inlet.name), foot, head=True)

    def swing(self, riser: Leg, most: float) -> None:
        """Take a swing riser for a straight one, where it reaches: `most` (m) is as high as one goes."""
        made = fittings().get(f"swing-riser-{riser.size.replace('/', '_')}")
        if made is None or riser.length > most or riser.end.system != made.ports[0].end.system:
            high = made is not None and riser.length > most
            self.problem("no-swing/high" if high else "no-swing", high=riser.length, reach=most)
            return
        self._swing = Part(swing_part(self.meeting.point), made.id, made.name, self.meeting.point, riser.key)
        if not self._met:
            self._parts.append(self._swing)
        self._losses.lose(riser, made.loss.run)

    def stand(self, part: Fitting) -> None:
        """Put a fitting with one opening at the point, to be led to the branch of a tee there."""
        self._stands = self._node_part(part, 2)

    def _foot(self, leg: Leg) -> Side:
        """What a leg is on its own side of its first joint: its pipe, or the part it is where it is no pipe."""
        if leg.riser and self._swing is not None:
            return self._side(self._swing, leg.end)
        if self._stands is not None and leg.run is None:
            return self._side(self._stands, leg.end)
        if leg.held is not None:
            return leg.held
        return Side(leg.what, leg.end.name, pipe=leg.item, of=leg.key)

    def bend(self, cold: ColdBend) -> None:
        """Let the pipe go through."""
        self._bends.append(cold)

    def _take(self, leg: Leg, offset: float, takes: str) -> None:
        if leg.coupled:
            return
        self._taken.append(TakeOff(leg.key, self.meeting.point, offset, takes))

    # What stands at the point

    def node(
        self, legs: tuple[Leg, ...], wanted: str, choices: tuple[NodeFitting, ...], own: ColdBend | None = None
    ) -> None:
        """Put the best of `choices` at the point, or the one the crew chose while it still fits; `own` is the pipe's
        bend.
        """
        self._choices, self._order = choices, tuple(leg.key for leg in legs)
        if not choices:
            self.no_way(" and ".join(leg.what for leg in legs), wanted)
            return
        best = choices[0]
        if self.meeting.node is not None:
            kept = next((h for h in choices if (h.how, h.ids()) == self.meeting.node), None)
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

    def _own_bend(self, cold: ColdBend) -> None:
        self._bends.append(cold)
        if cold.turn > RIGID_BEND and cold.widening > _BY_SPADE and any(leg.buried for leg in self.meeting.legs):
            self.problem("wide-trench", wide=cold.widening, radius=cold.radius)

    def _one_fitting(self, legs: tuple[Leg, ...], best: NodeFitting) -> None:
        part = best.parts[0]
        if len(legs) > 1 and best.misfit > MISFIT:
            self.problem("no-elbow", part=part.name, off=degrees(best.misfit))
        body = self._node_part(part)
        for port, (i, usual) in enumerate(zip(best.order, best.stacks, strict=True)):
            self._lead(legs[i], usual, part.ports[port].end, body, self._stop(part, port))
        self._losses.node(part, legs)

    def _pair(self, legs: tuple[Leg, ...], best: NodeFitting) -> None:
        (one, two), link = best.parts, best.link
        assert link is not None
        bodies = [self._node_part(p, n) for n, p in ((1, one), (2, two))]
        across = link.ends()
        inner = [_port(one, across[0][0]), _port(two, across[-1][1])]
        centres = self._stop(one, inner[0]) + self._length(link) + self._stop(two, inner[1])
        turn = self.meeting.turn(legs[0].key, legs[1].key)
        *along, side = link_offsets(one.angle, two.angle, turn, centres)
        for leg, part, body, near, usual, offset in zip(
            legs, best.parts, bodies, inner, best.stacks, along, strict=True
        ):
            port = 1 - near
            self._lead(leg, usual, part.ports[port].end, body, offset + self._stop(part, port))
        ends = (across[0][0].name, across[-1][1].name)
        first, last = (self._side(b, end(e)) for b, e in zip(bodies, ends, strict=True))
        self._run(
            between_elbows(self.meeting.point), None, "the other elbow", link, first, last, "between", there=self._met
        )
        for part in best.parts:
            self._losses.lose(legs[1], part.loss.run)
        self.problem("two-elbows/aside" if side > 2e-3 else "two-elbows", how=turn_words(best), side=side)

    def _saddle(self, legs: tuple[Leg, ...], best: NodeFitting) -> None:
        one, two, branch = legs
        part = best.parts[0]
        clamp = part.ports[0]
        self._bends.append(ColdBend(self.meeting.point, (one.key, two.key), 0.0, 0.0, 0.0, 0.0))
        body = self._node_part(part)
        if self._met:
            self._branch(branch, best, body)
            return
        wall = end(f"{clamp.end.system}:wall:{clamp.end.size}")
        self._joint(
            saddle_joint(self.meeting.point),
            "saddle",
            one.key,
            one.run,
            1,
            one.towards,
            (Side(f"side of the {one.what}", wall.name, pipe=one.item, of=one.key), wall),
            (self._side(body, clamp.end), clamp.end),
        )
        self._branch(branch, best, body)

    def _branch(self, branch: Leg, best: NodeFitting, body: Part) -> None:
        """Lead what branches off to a saddle's outlet."""
        part = best.parts[0]
        self._lead(branch, best.stacks[0], part.ports[1].end, body, self._stop(part, 0) + self._stop(part, 1))
        self._losses.lose(branch, part.loss.branch)

    def _node_part(self, part: Fitting, which: int = 1) -> Part:
        made = Part(node_part(self.meeting.point, which), part.id, part.name, self.meeting.point, None)
        if not self._met:
            self._parts.append(made)
        return made

    def _side(self, part: Part, opening: End) -> Side:
        """A part as one side of a joint; one that exists already is a thing there and none of ours."""
        if self._met:
            return Side(self.meeting.name, opening.name)
        return Side(part.name, opening.name, part.id, part.fitting)

    def _lead(self, leg: Leg, usual: Stack, port: End, body: Part, beyond: float) -> None:
        """Lead a leg to its port of what stands there; `beyond` (m) is from that port's stop to the point."""
        if leg.asks:
            return
        stack = self._way(leg, leg.end, port) or usual
        foot = self._foot(leg)
        if self._met and not leg.existing and not leg.riser:
            self.problem("taken-end", towards=leg.towards, end=port.words())
        names = self._put(leg, stack, self._side(body, port), foot)
        if foot.part is None or leg.coupled:
            self._take(leg, self._length(stack) + beyond, names[0])
        self._losses.stack(stack, leg)

    # Stacks

    def _way(self, leg: Leg, start: End, stop: End) -> Stack | None:
        """The crew's own stack for a leg where it chose one that still fits, else the best."""
        wanted = self._ways.get(leg.key)
        own = chosen_stack(self.meeting, leg, start, stop, wanted) if wanted is not None else None
        if own is not None:
            return own
        if wanted is not None:
            self._lapsed(f"The way chosen for {leg.what}")
        usual, lacks = usual_stack(self.meeting, leg, start, stop)
        if usual is not None and (lacks.valve or lacks.union):
            what = " and ".join(w for w, on in (("valve", lacks.valve), ("union", lacks.union)) if on)
            self.problem("no-service", what=what, pipe=leg.what)
        if usual is not None and lacks.fixed:
            self.problem("held-ends")
        return usual

    def _there(self, leg: Leg) -> bool:
        """Whether what joins a leg to what stands at the point was made long ago."""
        return self._met and (leg.existing or leg.riser)

    def _lapsed(self, what: str) -> None:
        self.problem("choice-lapsed", choice=what)

    def _stop(self, part: Fitting, port: int) -> float:
        """The crew's own measure of that opening, or of one alike on the same fitting, or else the catalogue's."""
        mine, own = part.ports[port], self._stops.get((part.id, port))
        if own is not None or not self._stops:
            return mine.stop if own is None else own
        alike = (n for n, p in enumerate(part.ports) if p.end == mine.end and p.stop == mine.stop)
        return next((self._stops[part.id, n] for n in alike if (part.id, n) in self._stops), mine.stop)

    def _length(self, stack: Stack) -> float:
        return sum(self._stop(s.fitting, s.into) + self._stop(s.fitting, s.out) for s in stack.steps)

    def _put(self, leg: Leg, stack: Stack, last: Side, foot: Side | None = None, head: bool = False) -> tuple[str, str]:
        """Put a stack's parts and joints in on a leg; the words for what each pipe end goes into, first and last."""
        key = EndId(head_joint(self.meeting.point)) if head else leg.key
        towards = "the outlet" if leg.riser else leg.towards
        role: JointRole = "head" if head else "stack"
        return self._run(
            key, leg.run, towards, stack, foot or self._foot(leg), last, role, leg.key, leg.opposite, self._there(leg)
        )

    def _run(
        self,
        key: EndId,
        run: str | None,
        towards: str,
        stack: Stack,
        first: Side,
        last: Side,
        role: JointRole,
        at: EndId | None = None,
        opposite: str = "",
        there: bool = False,
    ) -> tuple[str, str]:
        """Parts and joints from one side to another, named after `key` (and `opposite`), unless they were `there`
        already.

        The answer is what each goes into, first and last, in words.
        """
        parts = [
            Part(stack_part(key, n), s.fitting.id, s.fitting.name, self.meeting.point, at or key)
            for n, s in enumerate(stack.steps, 1)
        ]
        inner = [(p.name, p.id, p.fitting) for p in parts]
        pairs = stack.ends()
        if there:
            return (inner[0][0] if inner else last.what), (inner[-1][0] if inner else first.what)
        self._parts += parts
        for n, (a, b) in enumerate(pairs, 1):
            one = first if n == 1 else Side(inner[n - 2][0], a.name, inner[n - 2][1], inner[n - 2][2])
            two = last if n == len(pairs) else Side(inner[n - 1][0], b.name, inner[n - 1][1], inner[n - 1][2])
            name = JointId(key) if role == "head" and n == len(pairs) else stack_joint(key, n)
            also = stack_joint(opposite, len(pairs) - n + 1) if opposite else None
            self._joint(name, role, at or key, run, n, towards, (one, a), (two, b), also)
        return (inner[0][0] if inner else last.what), (inner[-1][0] if inner else first.what)

    def _joint(
        self,
        name: JointId,
        role: JointRole,
        end_id: EndId,
        run: str | None,
        number: int,
        towards: str,
        one: tuple[Side, End],
        two: tuple[Side, End],
        also: JointId | None = None,
    ) -> None:
        a, b = one[1], two[1]
        method = mating_method(a, b)
        assert method is not None, f"{a.name} and {b.name} do not mate"
        at = self.meeting
        self._joints.append(
            Joint(
                id=name,
                also=also,
                role=role,
                point=at.point,
                end=end_id,
                run=run,
                number=number,
                method=method,
                size=a.size,
                a=one[0],
                b=two[0],
                depth=joint_depth(a, b),
                place=at.name,
                towards=towards,
            )
        )

    # What is wrong

    def problem(self, key: str, **values: str | float) -> None:
        """Note a problem at the point."""
        self._problems.append(
            tell(key, self.meeting.point, self.meeting.units, scenario=None, **{"place": self.meeting.name, **values})
        )

    def no_way(self, a: str, b: str) -> None:
        """Note that two things cannot be joined."""
        self.problem("no-way", a=a, b=b, instead=self.meeting.instead)


def _port(part: Fitting, mine: End) -> int:
    return next(i for i, p in enumerate(part.ports) if p.end.name == mine.name)
