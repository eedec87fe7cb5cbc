"""Things joined port to port with no pipe between: which end each turns to the other.

Of two such things the one nearer the source shows an end of its own, and the other is joined to it. Where what shows it
is a part that is chosen, every part that would do is weighed together with all that is screwed on beyond it, and the
whole with the fewest joints is taken.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from hydrarch.core.base.identity import node_part
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.fittings import end
from hydrarch.core.joining.assembled import Side
from hydrarch.core.joining.choosing import join_meeting
from hydrarch.core.joining.meeting import Leg, Meeting
from hydrarch.core.joining.node_fittings import FREE_PORT, GIVEN_PORT
from hydrarch.core.joining.stacks import Limits
from hydrarch.core.joining.way_search import best_stack
from hydrarch.core.site.layout import Layout

__all__ = ["couple"]

declare("join", "coupled-ring", holds=True)

Cost = tuple[float, ...]
_NONE: Cost = (0.0,) * 5
_NO_WAY: Cost = (0.0, 1000.0, 0.0, 0.0, 0.0)


def couple(found: Mapping[str, Meeting], lay: Layout) -> tuple[dict[str, Meeting], tuple[Problem, ...]]:
    """The meetings of all points with what their close-coupled legs offer and ask; rings of such things are a
    `Problem`.
    """
    known = dict(found)
    problems = []
    for group in _groups(known, lay):
        if len(group.order) > len(group.runs):
            _Coupled(known, lay, group).settle()
        else:
            first = known[group.order[0]]
            problems.append(tell("coupled-ring", first.point, place=first.name))
    return known, tuple(problems)


@dataclass(slots=True)
class _Group:
    """Points held together without pipe, the one nearest the source first; by point the runs that lead on, and the run
    that leads to it.
    """

    order: list[str]
    onward: dict[str, list[str]] = field(default_factory=dict)
    back: dict[str, str] = field(default_factory=dict)
    runs: set[str] = field(default_factory=set)


def _groups(known: Mapping[str, Meeting], lay: Layout) -> list[_Group]:
    coupled = {p: [leg.run for leg in m.legs if leg.coupled and leg.run] for p, m in known.items()}
    groups, done = [], set[str]()
    for start in sorted((p for p, runs in coupled.items() if runs), key=lambda p: (lay.away(p), p)):
        if start in done:
            continue
        group = _Group([start])
        done.add(start)
        for here in group.order:
            for run in coupled[here]:
                far = lay.lines[run].other(here)
                if run not in group.runs and far not in done:
                    done.add(far)
                    group.order.append(far)
                    group.onward.setdefault(here, []).append(run)
                    group.back[far] = run
                group.runs.add(run)
        groups.append(group)
    return groups


class _Coupled:
    """One group on the way to its ends."""

    def __init__(self, known: dict[str, Meeting], lay: Layout, group: _Group) -> None:
        self.known, self.lay, self.group = known, lay, group
        self._costs: dict[tuple[str, str], Cost] = {}

    def settle(self) -> None:
        """Say of every leg what it offers or asks, from the source onward."""
        shown: dict[str, tuple[str, Side]] = {}
        for point in self.group.order:
            back = self.group.back.get(point, "")
            face, side = shown.get(back, ("", None))
            faces = self._best(point, face)[1]
            asks = {
                run: GIVEN_PORT + name if name else f"{FREE_PORT}{self._size(point, run)}"
                for run, name in faces.items()
            }
            if back and not face:  # nothing is there that it could be joined to, which is told at that place
                asks[back] = f"{FREE_PORT}{_leg(self.known[point], back).size}"
            meeting = self._meeting(point, face, side, asks)
            self.known[point] = meeting
            used = join_meeting(meeting).used
            for run, name in faces.items():
                if name and used:
                    shown[run] = (name, Side(used.parts[0].name, name, node_part(point), used.parts[0].id))
                elif name:
                    shown[run] = (name, Side(meeting.name, name))

    def _meeting(self, point: str, face: str, side: Side | None, asks: Mapping[str, str]) -> Meeting:
        """A point's meeting where the leg back offers `face` and those onward ask for what is said by run."""

        def changed(leg: Leg) -> Leg:
            if leg.run is not None and leg.run in asks:
                return replace(leg, asks=asks[leg.run])
            return replace(leg, offers=face, held=side) if face and leg.run == self.group.back.get(point) else leg

        meeting = self.known[point]
        return replace(meeting, legs=tuple(changed(leg) for leg in meeting.legs))

    def _cost(self, point: str, face: str) -> Cost:
        key = (point, face)
        if key not in self._costs:
            self._costs[key] = self._best(point, face)[0]
        return self._costs[key]

    def _best(self, point: str, face: str) -> tuple[Cost, dict[str, str]]:
        """What joining a point and all beyond it costs where it is shown `face`, and the ends it shows in turn, by run
        ("" for none).
        """
        meeting, onward = self.known[point], self.group.onward.get(point, [])
        given = {run: meeting.end_at(_leg(meeting, run).port) for run in onward}
        if not meeting.families and all(given.values()) and (onward or not _plain(meeting)):
            return self._given(meeting, point, face, given)
        tried = join_meeting(
            self._meeting(point, face, None, {r: f"{FREE_PORT}{self._size(point, r)}" for r in onward})
        )
        best: tuple[bool, Cost, dict[str, str]] | None = None
        for choice in tried.choices:
            ports = dict(
                zip(
                    (tried.order[leg] for leg in choice.order),
                    (p.end.name for p in choice.parts[0].ports),
                    strict=False,
                )
            )
            if choice.how == "saddle":
                ports = {tried.order[2]: choice.parts[0].ports[1].end.name}
            shows = {run: ports.get(_leg(meeting, run).key, "") for run in onward}
            if choice.how not in ("fitting", "saddle") or not all(shows.values()):
                continue
            second = choice.how != tried.choices[0].how  # the house has its own order of saddles and tees
            beyond = (self._cost(self.lay.lines[r].other(point), name) for r, name in shows.items())
            whole = _sum(tuple(map(float, choice.cost())), *beyond)
            if best is None or (second, whole) < best[:2]:
                best = second, whole, shows
        return best[1:] if best else (_NO_WAY, dict.fromkeys(onward, ""))

    def _given(self, meeting: Meeting, point: str, face: str, shows: dict[str, str]) -> tuple[Cost, dict[str, str]]:
        """The same for a thing whose ends are given: it shows them, and is led to by a stack."""
        own = _NONE
        if face:
            inlet = meeting.end_at(_leg(meeting, self.group.back[point]).port)
            stack = best_stack(face, inlet, limits=Limits(foreign=meeting.foreign)) if inlet else None
            own = (0.0, *map(float, stack.cost())) if stack else _NO_WAY
        return _sum(own, *(self._cost(self.lay.lines[r].other(point), f) for r, f in shows.items())), shows

    def _size(self, point: str, run: str) -> str:
        """The size it is about between two things: that of what is given beyond, else of the pipe the run would be."""
        beyond = self.known[self.lay.lines[run].other(point)]
        given = beyond.end_at(_leg(beyond, run).port)
        return end(given).size if given else _leg(beyond, run).size


def _leg(meeting: Meeting, run: str) -> Leg:
    return next(leg for leg in meeting.legs if leg.run == run)


def _plain(meeting: Meeting) -> bool:
    return not any(name for _, name in meeting.ends)


def _sum(*costs: Cost) -> Cost:
    return tuple(sum(c) for c in zip(*costs, strict=True))
