"""Every reach tried one size down, the largest first, until the next size down is forbidden; what forbids it is the reason for its size.

A trial is a solve of every scenario. Where there are many reaches, most are foreseen instead: what is surely forbidden or surely allowed
by it is taken so, what is allowed is solved together after a while, and only what lies near a limit is tried one by one.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, NamedTuple, TypeAlias

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.hydraulics.flow import ENOUGH, Trial
from hydrarch.core.hydraulics.foresight import Ahead, Foreseen
from hydrarch.core.hydraulics.friction import velocity
from hydrarch.core.hydraulics.links import Array
from hydrarch.core.plan import Point
from hydrarch.core.sizing.search import Search, Trials, shortest
from hydrarch.core.units import show

__all__ = ["Reason", "Why", "shrink"]

Reason: TypeAlias = Literal["fixed", "velocity", "pressure", "rating", "smallest", "largest", "no flow", "drain"]


class Why(NamedTuple):
    """What forbids the next size down, in a word and in words, and in which scenario."""

    limit: Reason
    says: str
    scenario: str | None = None


_SURE = 1.15  # a size this far over the velocity limit at today's flow needs no trial
_FEW = 48  # reaches, up to which each is tried
_SHARE, _STILL_SHARE = 0.2, 1e-3  # of a change that is foreseen, which may be wrong; of one in which no flow changes
_ALWAYS = 50.0  # Pa, which may be wrong besides
_FLOWS = 1e-6  # m³/s
_NONE = 1e-12  # what is left of sums taken apart again
_UNDONE = Why("pressure", "a smaller one holds, but not with the fittings it needs")


def shrink(search: Search, flows: Trials, firm: bool) -> tuple[Trials, dict[str, Why]]:
    """Leave every reach the smallest size that holds, with the reason for each run. Where `firm`, none is made smaller."""
    work = _Shrinking(search, flows, firm)
    work.run()
    return work.flows, {r: why for i, why in work.why.items() for r in search.reaches[i].runs}


@dataclass(slots=True)
class _Change:
    """What is foreseen to change in one scenario: margins (Pa) and flows (m³/s), and by how much either may be wrong."""

    margins: Array
    flows: Array
    margins_off: Array
    flows_off: Array

    def add(self, other: _Change, sign: int) -> None:
        """Put another change to it, or take it away again."""
        self.margins += sign * other.margins
        self.flows += sign * other.flows
        self.margins_off += sign * other.margins_off
        self.flows_off += sign * other.flows_off


class _Shrinking:
    def __init__(self, search: Search, flows: Trials, firm: bool) -> None:
        self.search, self.firm = search, firm
        self.why: dict[int, Why] = {}
        self._alone: set[int] = set()
        self._again: list[int] = []
        self._stand(flows)
        self._stuck = self._fast
        self._met = shortest(flows) is None
        self._foresees = len(search.reaches) > _FEW and self._met and all(t.fault is None for t in flows.values())

    def _stand(self, flows: Trials) -> None:
        """Go on from sizes that were solved."""
        self.flows, self._base = flows, list(self.search.at)
        self._most = self.search.carried(flows)
        self._fast = self.search.too_fast(self._most)
        self._taken: dict[int, dict[int, _Change]] = {}
        self._since: list[int] = []
        self._ready: list[tuple[Trial, Ahead, _Change]] | None = None

    def run(self) -> None:
        """Go through all reaches."""
        search = self.search
        order = sorted(range(len(search.reaches)), key=lambda i: -search.size(i).bore)
        while order:
            for i in order:
                while i not in self.why:
                    self._decide(i)
            self._settle()
            order, self._again = self._again, []

    def _decide(self, i: int) -> None:
        """Take one size down of a reach, or say why not."""
        if self.search.at[i] == 0:
            self._say(i, self._at_smallest(i))
        elif (fast := self._fast_below(i)) is not None:
            self._say(i, fast)
        elif not self._met:
            self._say(i, Why("pressure", "an outlet beyond still wants pressure"))
        elif self._foresees and i not in self._alone and self._foresee(i):
            return
        elif self._taken:
            self._settle()
        else:
            self._try(i)

    def _say(self, i: int, why: Why) -> None:
        self.why[i] = why
        self._since.append(i)

    def _try(self, i: int) -> None:
        """Solve with one reach a size smaller, and keep it if that holds."""
        search = self.search
        search.at[i] -= 1
        tried = search.solve()
        holds = self._holds(tried)
        if holds and not self.firm:
            self._stand(tried)
            return
        self._say(i, _UNDONE if holds else self._forbidden(i, tried))
        search.at[i] += 1

    def _holds(self, tried: Trials) -> bool:
        return shortest(tried) is None and not self._faster(tried).any()

    def _faster(self, tried: Trials) -> NDArray[np.bool_]:
        """Which reaches are too fast that could be slower."""
        return np.asarray(self.search.too_fast(self.search.carried(tried)) & ~self._stuck)

    def _settle(self) -> None:
        """Solve with all that was taken on foresight; where it does not hold, take it back and try each of them alone."""
        if not self._taken:
            return
        tried = self.search.solve()
        if self._holds(tried):
            self._stand(tried)
            return
        self._alone |= self._taken.keys()
        self._again += [i for i in (*self._taken, *self._since) if i not in self._again]
        for i in self._since:
            self.why.pop(i, None)
        self.search.at = list(self._base)
        self._stand(self.flows)

    def _foresee(self, i: int) -> bool:
        """Take a reach one size down, or forbid it, where that is sure without solving; else say False."""
        search = self.search
        if self._ready is None:
            self._ready = [(t, t.found.foresight(), _nothing(t)) for t in self.flows.values()]
        changes: dict[int, _Change] = {}
        below = search.reaches[i].options[search.at[i] - 1]
        for n, (trial, ahead, _) in enumerate(self._ready):
            pipes, sizes = trial.model.pipes_of(search.reaches[i].runs, below)
            seen = ahead.change(pipes, sizes) if len(pipes) else Foreseen(None, None)
            if seen is None:
                return False
            if seen.heads is not None:
                changes[n] = _change(trial, seen)
        before = self._taken.get(i, {})
        self._put(before, -1)
        self._put(changes, 1)
        search.at[i] -= 1
        why, good = self._judge(i, below)
        if good and not self.firm:
            self._taken[i] = changes
            return True
        self._put(changes, -1)
        self._put(before, 1)
        search.at[i] += 1
        if good:
            why = _UNDONE
        if why is not None:
            self._say(i, why)
        return why is not None

    def _put(self, changes: Mapping[int, _Change], sign: int) -> None:
        assert self._ready is not None
        for n, change in changes.items():
            self._ready[n][2].add(change, sign)

    def _judge(self, i: int, below: Pipe) -> tuple[Why | None, bool]:
        """What surely forbids all that was taken with this last size, and whether it is surely allowed."""
        assert self._ready is not None
        search, sure = self.search, True
        for trial, _, change in self._ready:
            margins = trial.margins + change.margins
            off = change.margins_off + _ALWAYS * (change.margins_off > _NONE)
            if len(margins) and float((margins + off).min()) < -ENOUGH:
                return self._short(below, trial, margins), False
            sure = sure and bool((margins - off >= 0).all() or (change.margins_off <= _NONE).all())
        still = not any((change.flows_off > _NONE).any() for *_, change in self._ready)
        if still:
            if float(self._most[i]) > search.carries(below) and not self._stuck[i]:
                return self._too_fast(i, below, float(self._most[i]), None), False
            return None, sure
        least = search.most(
            (n, np.maximum(np.abs(t.found.q + c.flows) - c.flows_off, 0.0)) for n, (t, _, c) in enumerate(self._ready)
        )
        fast = search.too_fast(least) & ~self._stuck
        if fast.any():
            return self._too_fast(i, below, float(least[i]), fast), False
        most = search.most((n, np.abs(t.found.q + c.flows) + c.flows_off) for n, (t, _, c) in enumerate(self._ready))
        return None, sure and not (search.too_fast(most) & ~self._stuck).any()

    def _short(self, below: Pipe, trial: Trial, margins: Array) -> Why:
        model = trial.model
        outlet, _, _, needs = model.taps[int(np.argmin(margins))]
        return Why(
            "pressure",
            f"with {below.size}, {self._has(model.points[outlet], float(margins.min()) + needs, needs, 0)}",
            model.scenario.id,
        )

    def _has(self, point: Point, pressure: float, needs: float, digits: int) -> str:
        """What pressure an outlet would have; to no more `digits` than are known."""
        if needs <= 0:
            return f"{point.label} would have no pressure left"
        return f"{point.label} would have {'' if digits else 'about '}{max(pressure, 0) / needs:.{digits}%} of what it wants"

    def _at_smallest(self, i: int) -> Why:
        reach = self.search.reaches[i]
        family = series(reach.options[0].series)
        if reach.options[0] is not family.sizes[0]:
            return Why("rating", f"smaller {family.short} is rated below the pressure at shut-off")
        if self._most[i] <= _FLOWS:
            return Why("no flow", "no scenario sends water through it, so the smallest made was taken")
        return Why("smallest", f"the smallest {family.short} made is enough")

    def _fast_below(self, i: int) -> Why | None:
        """Forbid a size that would be too fast by so much that it needs no trial: smaller pipe passes less through sprinklers."""
        below = self.search.reaches[i].options[self.search.at[i] - 1]
        if float(velocity(float(self._most[i]), below.bore)) <= self.search.limit * _SURE:
            return None
        return self._too_fast(i, below, float(self._most[i]), None)

    def _too_fast(self, i: int, below: Pipe, most: float, fast: NDArray[np.bool_] | None) -> Why:
        search, speed = self.search, float(velocity(most, below.bore))
        if fast is not None and not fast[i]:
            return Why("velocity", f"with {below.size} here another run would be too fast")
        said, limit = (show(s, "velocity", search.plan.units) for s in (speed, search.limit))
        runs = search.reaches[i].runs
        top = max(self.flows.values(), key=lambda t: max(map(t.through, runs)), default=None)
        says = f"{below.size} would run at {said}, over the limit of {limit}"
        return Why("velocity", says, top.model.scenario.id if top is not None else None)

    def _forbidden(self, i: int, tried: Trials) -> Why:
        """What a trial came to grief on."""
        below, short = self.search.size(i), shortest(tried)
        if short is None:
            return self._too_fast(i, below, float(self.search.carried(tried)[i]), self._faster(tried))
        scenario, outlet = short
        trial = tried[scenario]
        margin, needs = next((m, t[3]) for m, t in zip(trial.margins.tolist(), trial.model.taps, strict=True) if t[0] == outlet)
        return Why("pressure", f"with {below.size}, {self._has(trial.model.points[outlet], margin + needs, needs, 1)}", scenario)


def _nothing(trial: Trial) -> _Change:
    taps, links = len(trial.model.taps), len(trial.found.q)
    return _Change(np.zeros(taps), np.zeros(links), np.zeros(taps), np.zeros(links))


def _change(trial: Trial, seen: Foreseen) -> _Change:
    assert seen.heads is not None
    margins = trial.model.margin_change(seen.heads)
    if seen.flows is None:
        still = np.zeros(len(trial.found.q))
        return _Change(margins, still, _STILL_SHARE * np.abs(margins), still)
    flows = np.zeros(len(trial.found.q))
    flows[: len(seen.flows)] = seen.flows
    return _Change(margins, flows, _SHARE * np.abs(margins), _SHARE * np.abs(flows))
