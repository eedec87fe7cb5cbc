"""What happens if: levels and flows of bodies of water over minutes and hours, when a pump stops, a valve is shut, a
filter clogs.

Each body is a volume; what moves between them is what the network gives at their levels as they are then, what runs
over the open ends of standpipes, what a float valve lets in, what evaporates. The network is solved anew whenever
levels have moved enough to matter; what falls over open ends, which answers at once to a level, is taken into each step
implicitly (a linearly implicit Euler step), so that steps may grow while little changes. Every step moves water from
one place to another and makes none: the books are kept, and told.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial

import numpy as np

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.progress import Late, TookTooLong, never
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.circulation.laws import evaporation
from hydrarch.core.circulation.mishaps import FROST, MISHAPS, Mishap, freezes, may_befall
from hydrarch.core.circulation.standing import BREAKS, Array, Drain, WaterStanding
from hydrarch.core.components.basins import InWall, Standpipe
from hydrarch.core.plan.document import Plan

__all__ = ["Happening", "Trace", "happens"]

AT, _NIGHT = 600.0, 8 * 3600.0
"""s after which it happens, and how long a night without power is."""
_LEAST_STEP, _MOST_STEP, _MOST_STEPS = 0.05, 600.0, 40_000
_MOVED = 0.002  # m a level moves before the network is solved anew
_MOST_MOVE = 0.004  # m a level may move in one step
_STILL = 1e-9  # m³/s
_GAMMA = 1 - 0.5**0.5
_WRONG = 2e-5  # m a level may be wrong by in one step
_FLOAT = 0.02  # m of level over which a float valve opens
_KEPT, _MOST_KEPT, _SHOWN = (
    720,
    4000,
    1e-3,
)  # places in time that are told: at the least, at the most, and after how far a level moved (m)


@dataclass(frozen=True, slots=True)
class Happening:
    """Something that mattered: when (s), where (a thing's id), and what, in words; `bad` where water is lost or a pump
    is harmed.
    """

    at: float
    where: str
    says: str
    bad: bool


@dataclass(frozen=True, slots=True)
class Trace:
    """What came of it, over time.

    `times` (s), `levels` (m) by body, `flows` (m³/s) through each pump by its point, each as long as `times`. `spilled`
    (m³) ran over by body, `left` (m³) ran out of the job, `dry` are the seconds each pump drew air. `lost` (m³) is what
    the books do not balance by. `says` is the answer in a line, `helps` what would have prevented what went wrong.
    """

    times: tuple[float, ...]
    levels: dict[str, tuple[float, ...]]
    flows: dict[str, tuple[float, ...]]
    happened: tuple[Happening, ...]
    spilled: dict[str, float]
    left: float
    dry: dict[str, float]
    lost: float
    steps: int
    says: str
    helps: tuple[str, ...]


def happens(
    plan: Plan,
    pipes: Mapping[str, Pipe],
    minor: Mapping[str, float],
    mishap: Mishap,
    where: str = "",
    hours: float = 2.0,
    late: Late = never,
) -> Trace:
    """Let it happen, `mishap` at the thing `where` (blank: the first it can happen to), for so many hours (0.1 to 168).

    Raises `TookTooLong` once it is late.
    """
    return _Run(WaterStanding(plan, pipes, minor), mishap, where, min(max(hours, 0.1), 168.0) * 3600, late).trace()


class _Run:
    def __init__(self, work: WaterStanding, mishap: Mishap, where: str, until: float, late: Late) -> None:
        self.w, self.mishap, self.until, self.late = work, mishap, until, late
        things = [p.id for p in work.plan.points if may_befall(work, p, mishap)]
        if mishap != "nothing" and not things:
            raise HydrarchError(f"there is nothing on the drawing that this can happen to: {MISHAPS[mishap]}")
        if where and where not in things:
            raise HydrarchError(f"that cannot happen to {work.plan.names.get(where, where)}")
        self.thing = where or next(iter(things), "")
        self.happened: list[Happening] = []
        self.kept: list[tuple[float, list[float], dict[str, float]]] = []
        n = len(work.bodies)
        self.spilled, self.left, self.gone, self.came = np.zeros(n), 0.0, 0.0, 0.0
        self.dry = {p.id: 0.0 for p in work.pumps}
        self.over = [False] * n
        self.low: set[str] = set()
        self.sucked: set[str] = set()
        self.gurgles: set[str] = set()
        self.moves: dict[str, float] = {}
        self.burst: list[str] = []
        self.moments = self._moments()

    def _moments(self) -> list[tuple[float, Callable[[], None]]]:
        w = self.w
        if self.mishap == "nothing":
            return []
        thing = self.thing
        names = w.plan.names

        def stop() -> None:
            all_of = {
                "power fails": "The power is gone: every pump stops.",
                "frost": f"{FROST}: every pump stands still.",
            }
            told = all_of.get(self.mishap)
            w.stopped = frozenset([p.id for p in w.pumps] if told else [thing])
            self._tell("" if told else thing, told or f"{names.get(thing, 'The pump')} stops.", False)

        def start() -> None:
            w.stopped = frozenset()
            self._tell("", "The power is back: the pumps start.", False)

        def go_wrong() -> None:
            w.wrong = frozenset([thing])
            if self.mishap == "outlet opens":
                w.wrong, w.opened = frozenset(), frozenset([thing])
            what = {
                "outlet opens": "opens",
                "valve shut": "is shut",
                "filter clogs": "is clogged",
                "drain blocked": "is blocked",
                "return off": "comes off",
            }[self.mishap]
            for d in w.drains:
                d.blocked = d.blocked or (d.point == thing and self.mishap == "drain blocked")
            self._tell(thing, f"{names[thing]} {what}.", self.mishap == "return off")

        if self.mishap == "frost":
            frozen = [(AT + t, partial(self._freeze, run)) for run, t in freezes(w).items() if t < _NIGHT]
            return [(AT, stop), *sorted(frozen, key=lambda x: x[0]), (AT + _NIGHT, start)]
        if self.mishap in ("pump stops", "power fails"):
            again: list[tuple[float, Callable[[], None]]] = (
                [(AT + _NIGHT, start)] if self.mishap == "power fails" else []
            )
            return [(AT, stop), *again]
        return [(AT, go_wrong)]

    def _freeze(self, run: str) -> None:
        """A run whose water has stood still and bare for so long: it bursts where it is still full."""
        w, of = self.w, self.w.plan.run_by_id[run]
        ends = [w.plan.by_id[e.point] for e in of.ends]
        if w.stands_full(run):
            self._tell(run, f"The water in {ends[0].label} to {ends[1].label} has frozen: the pipe bursts.", True)
            self.burst.append(run)

    def _tell(self, where: str, says: str, bad: bool) -> None:
        self.happened.append(Happening(self.w.time, where, says, bad))

    def trace(self) -> Trace:
        w, step, steps = self.w, 0.5, 0
        before = float(w.volumes.sum())
        apart = self.until / _KEPT
        into, pumps, out = np.zeros(len(w.bodies)), dict[str, float](), 0.0
        solved_at, solved_as, told = w.levels - 1.0, None, 0
        while w.time < self.until - 1e-9 and steps < _MOST_STEPS:
            if self.late():
                raise TookTooLong("what happens over time")
            steps += 1
            while self.moments and self.moments[0][0] <= w.time + 1e-9:
                self.moments.pop(0)[1]()
                step, solved_as = 0.5, None
            under = w.under_now()
            key = (under, w.stopped, w.wrong, w.opened)
            if key != solved_as or float(np.max(np.abs(w.levels - solved_at), initial=0.0)) > _MOVED:
                into, pumps, out = w.moved(under)
                solved_at, solved_as = w.levels.copy(), key
                self._watch(under, pumps)
            if not self.kept or w.time - self.kept[-1][0] >= apart or len(self.happened) > told or self._moved_on():
                told = len(self.happened)
                self.kept.append((w.time, w.levels.tolist(), dict(pumps)))
            limit = min(self.moments[0][0] if self.moments else self.until, self.until) - w.time
            took, step = self._step(min(step, limit, _MOST_STEP), into, out)
            for name in self.sucked:
                self.dry[name] += took
        self.kept.append((w.time, w.levels.tolist(), dict(pumps)))
        after = float(w.volumes.sum())
        lost = before + self.came - after - float(self.spilled.sum()) - self.left - self.gone
        times = tuple(k[0] for k in self.kept)
        levels = {b.point.id: tuple(k[1][i] for k in self.kept) for i, b in enumerate(w.bodies)}
        flows = {p.id: tuple(k[2].get(p.id, 0.0) for k in self.kept) for p in w.pumps}
        spilled = {b.point.id: float(s) for b, s in zip(w.bodies, self.spilled, strict=True)}
        says, helps = self._words(spilled, flows)
        return Trace(
            times=times,
            levels=levels,
            flows=flows,
            happened=tuple(self.happened),
            spilled=spilled,
            left=self.left,
            dry=self.dry,
            lost=lost,
            steps=steps,
            says=says,
            helps=helps,
        )

    def _moved_on(self) -> bool:
        """Whether a level moved so far since it was kept that a line between would not show it."""
        return (
            len(self.kept) < _MOST_KEPT
            and float(np.max(np.abs(self.w.levels - self.kept[-1][1]), initial=0.0)) > _SHOWN
        )

    def _rates(self, volumes: Array, into: Array, out: float) -> tuple[Array, Array]:
        """How fast (m³/s) each body fills, and what left the job, went off and came in; and how that grows with each
        volume (1/s).

        Whatever one place loses another has: every column adds up to zero.
        """
        w, n = self.w, len(self.w.bodies)
        levels = np.array([b.shape.level(float(v)) for b, v in zip(w.bodies, volumes, strict=True)])
        areas = np.array([b.shape.area(float(level)) for b, level in zip(w.bodies, levels, strict=True)])
        rate, slope = np.zeros(n + 3), np.zeros((n + 3, n + 3))
        rate[:n], rate[n] = into, out

        def moves(a: int, b: int, q: float, more: float, by: int) -> None:
            """So much goes from one to another, and more as a level rises."""
            rate[a] -= q
            rate[b] += q
            slope[a, by] -= more / areas[by]
            slope[b, by] += more / areas[by]

        for d in w.drains:
            q, more = w.falls(d, levels)
            moves(d.start, n if d.stop is None else d.stop, q, more, d.start)
        air = w.plan.conditions
        for i, b in enumerate(w.bodies):
            if not b.what.lid and volumes[i] > 1e-9:
                moves(
                    i,
                    n + 1,
                    evaporation(areas[i], b.what.warm or air.water_temperature, air.air_temperature, air.humidity),
                    0.0,
                    i,
                )
        for _, i, flow, shuts in w.floats:
            share = min(max((shuts - levels[i]) / _FLOAT, 0.0), 1.0)
            moves(n + 2, i, flow * share, -flow / _FLOAT if 0 < share < 1 else 0.0, i)
        return rate, slope

    def _step(self, step: float, into: Array, out: float) -> tuple[float, float]:
        """One step of at most so many seconds, as exact as asked; gives how long it was, and how long the next may be.

        Two stages, linearly implicit, of the second order (Verwer, Spee, Blom and Hundsdorfer, 1999): what falls over
        open ends answers at once, and an explicit step would have to be as short as that.
        """
        w, n = self.w, len(self.w.bodies)
        for d in w.drains:
            self._prime(d)
        rate, slope = self._rates(w.volumes, into, out)
        areas = np.array([b.shape.area(float(level)) for b, level in zip(w.bodies, w.levels, strict=True)])
        while True:
            left = np.eye(n + 3) - _GAMMA * step * slope
            one = np.linalg.solve(left, rate)
            two = np.linalg.solve(left, self._rates(w.volumes + step * one[:n], into, out)[0] - 2 * one)
            change = step * (1.5 * one + 0.5 * two)
            moved = float(np.max(np.abs(change[:n]) / areas, initial=0.0))
            wrong = float(np.max(np.abs(0.5 * step * (one + two)[:n]) / areas, initial=0.0))
            if (moved <= _MOST_MOVE and wrong <= _WRONG) or step <= _LEAST_STEP:
                break
            step = max(step / 2, _LEAST_STEP)
        w.volumes = w.volumes + change[:n]
        self.left += float(change[n])
        self.gone += float(change[n + 1])
        self.came -= float(change[n + 2])
        w.time += step
        for i, b in enumerate(w.bodies):
            if w.volumes[i] > b.shape.holds:
                self.spilled[i] += w.volumes[i] - b.shape.holds
                w.volumes[i] = b.shape.holds
                if not self.over[i]:
                    self.over[i] = True
                    self._tell(b.point.id, f"{b.point.label} runs over its rim.", True)
            elif w.volumes[i] < b.shape.holds * (1 - 1e-4):
                self.over[i] = False
            w.levels[i] = b.shape.level(float(w.volumes[i]))
        return step, step * min(2.0, max(1.0, 0.8 * (_WRONG / max(wrong, 1e-12)) ** 0.5))

    def _prime(self, d: Drain) -> None:
        """A drain that is shut to air fills itself once it drowns by half its bore, and breaks when its end
        takes air.
        """
        if d.works != "full":
            return
        head = float(self.w.levels[d.start]) - d.opens
        if not d.siphons and head > 0.5 * d.bore:
            d.siphons = True
        elif d.siphons and head < BREAKS * d.bore:
            d.siphons = False
        elif d.siphons and d.point not in self.gurgles and d.wet(float(self.w.levels[d.start])) < 0.9:
            self.gurgles.add(d.point)
            self._tell(
                d.point, f"Less comes than {self.w.plan.names[d.point]} takes: it draws air, and gurgles.", False
            )

    def _watch(self, under: frozenset[str], pumps: dict[str, float]) -> None:
        """What is worth a word: a pump that draws air, water that goes backwards."""
        w = self.w
        for p in w.pumps:
            q = pumps.get(p.id, 0.0)
            before = self.moves.get(p.id)
            if before is None or (abs(q - before) > 0.2 * before and p.id not in w.stopped and w.time >= AT):
                if before is not None and q > -_STILL:
                    units = w.plan.units
                    self._tell(
                        p.id,
                        f"{p.label} moves {show(max(q, 0.0), 'flow', units)} instead of {show(before, 'flow', units)}.",
                        False,
                    )
                self.moves[p.id] = q
            if p.id in w.stopped:
                self.moves[p.id] = 0.0
                if q < -1e-6 and p.id not in self.low:
                    self.low.add(p.id)
                    self._tell(p.id, f"Water siphons back through {p.label}, {show(-q, 'flow', w.plan.units)}.", False)
                elif q > -1e-7 and p.id in self.low:
                    self.low.discard(p.id)
                    self._tell(p.id, f"The siphon through {p.label} breaks.", False)
                continue
            self.low.discard(p.id)
            drawn = [
                s
                for s in w.plan.points
                if isinstance(s.what, InWall)
                and s.kind.role == "source"
                and not isinstance(s.what, Standpipe)
                and s.id in self._before(p.id)
            ]
            dry = bool(drawn) and not any(s.id in under for s in drawn)
            if dry and p.id not in self.sucked:
                self.sucked.add(p.id)
                self._tell(p.id, f"{p.label} draws air: {drawn[0].label} lies bare.", True)
            elif not dry and p.id in self.sucked:
                self.sucked.discard(p.id)

    def _before(self, pump: str) -> set[str]:
        w = self.w
        system = next((s for s in w.lay.systems.found if pump in s.points), None)
        return set(system.points) if system is not None else set()

    def _words(self, spilled: dict[str, float], flows: dict[str, tuple[float, ...]]) -> tuple[str, tuple[str, ...]]:
        w, units = self.w, self.w.plan.units
        over = {n: v for n, v in spilled.items() if v > 1e-6}
        dry = {n: s for n, s in self.dry.items() if s > 1}
        told, helps = [], list[str]()
        for n, v in over.items():
            told.append(f"{show(v, 'volume', units)} runs over the rim of {w.plan.names[n]}")
        for n, s in dry.items():
            told.append(f"{w.plan.names[n]} draws air for {s / 60:.0f} min")
        if self.burst:
            told.append(f"{len(self.burst)} stretch{'es' if len(self.burst) > 1 else ''} of pipe burst in the frost")
            helps.append(
                "Drain what lies bare before the frost: a valve at its lowest place, and one at its highest "
                "that lets air in."
            )
            helps.append(
                "Or let the pump run, a little of its flow round all of it: water that moves stays open far longer."
            )
        if self.left > 1e-6:
            told.append(f"{show(self.left, 'volume', units)} runs out of the job")
        if over and self.mishap in ("pump stops", "power fails"):
            helps.append(
                "A hole that lets air in just under the water at the return keeps back what siphons; a check valve "
                "alone is not to be trusted with it."
            )
            helps.append("A larger sump, or one that stands lower while it runs, holds what comes.")
        elif over:
            helps.append("A second standpipe, in need, a little higher, that takes all of it alone.")
            helps.append("A float that stops the pump when the water stands high.")
        if dry:
            helps.append("A float that stops the pump when the water stands low; a float valve that tops up.")
        if self.left > 1e-6 and self.mishap == "return off":
            helps.append("Every return under pump is glued, and its pipe strapped.")
        lows = [
            f"{b.point.label} between {show(min(k[1][i] for k in self.kept) - b.shape.bottom, 'cut', units)} "
            f"and {show(max(k[1][i] for k in self.kept) - b.shape.bottom, 'cut', units)} deep"
            for i, b in enumerate(w.bodies)
        ]
        hours = f"{w.time / 3600:.1f} h".replace(".0 h", " h")
        if w.time < self.until - 1.0:  # what comes later is not known, and is not told
            helps.append(
                f"It was followed for {hours} of {self.until / 3600:.1f} h: it changed so fast that no more "
                "was calculated."
            )
        if not told:
            return f"In {hours} nothing runs over and no pump draws air: {', '.join(lows[:4])}.", tuple(helps)
        return f"In {hours} {', '.join(told)}: {', '.join(lows[:4])}.", tuple(helps)
