"""Every reach tried one size down, the largest first, until the next size down is forbidden; what forbids it is the
reason for its size.

A trial is a solve of every scenario. Where there are many reaches, most are foreseen instead: what is surely forbidden
or surely allowed by it is taken so, what is allowed is solved together after a while, and only what lies near a limit
is tried one by one.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal, NamedTuple, TypeAlias

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.base.units import show, show_apart
from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.hydraulics.flow import ENOUGH, Trial
from hydrarch.core.hydraulics.foresight import Foreseen, Part
from hydrarch.core.hydraulics.friction import velocity
from hydrarch.core.hydraulics.links import Array
from hydrarch.core.hydraulics.round_flow import AIR_SPEED
from hydrarch.core.plan.document import Point
from hydrarch.core.sizing.search import FEW, Hint, Search, Trials, shortest, unsettled

__all__ = ["Reason", "Why", "shrink"]

Reason: TypeAlias = Literal[
    "fixed", "velocity", "pressure", "rating", "smallest", "largest", "no flow", "drain", "jet", "met"
]


class Why(NamedTuple):
    """What forbids the next size down, in a word and in words, and in which scenario."""

    limit: Reason
    says: str
    scenario: str | None = None


_SHARE, _SECOND, _STILL_SHARE = (
    0.2,
    2.0,
    0.002,
)  # of a change that is foreseen, which may be wrong: at most, by its size, and always
_ALWAYS = 0.2  # Pa, which may be wrong besides
_LEAST = 1e3  # Pa
_AS_MUCH, _STILL_FALLS = 0.95, 0.8  # of flow, losses and fall foreseen before, that an outlet short then is short now
_AT_ONCE = 32  # reaches foreseen in one go
_FLOWS = 1e-6  # m³/s
_NONE = 1e-12  # what is left of sums taken apart again
_UNDONE = Why("pressure", "a smaller one holds, but not with the fittings it needs")


def shrink(search: Search, flows: Trials, firm: bool) -> tuple[Trials, dict[str, Why]]:
    """Leave every reach the smallest size that holds, with the reason for each run.

    Where `firm`, none is made smaller.
    """
    work = _Shrinking(search, flows, firm)
    work.run()
    return work.flows, {r: why for i, why in work.why.items() for r in search.reaches[i].runs}


class _Change(NamedTuple):
    """What is foreseen to change in one scenario by one reach: margins (Pa) and flows (m³/s); None where no
    flow does.
    """

    margins: Array
    flows: Array | None


class _Outlook:
    """One scenario as it was solved, with all that was foreseen since put to it.

    What is foreseen may be wrong by a share of the change that grows with the change itself: by how much the pressure
    of an outlet changes against what it has.
    """

    def __init__(self, trial: Trial) -> None:
        self.trial, self.ahead = trial, trial.found.foresight()
        self._margins, self._q = trial.margins, trial.found.q
        self._pressures = np.maximum(self._margins + np.array([needs for *_, needs in trial.model.taps]), _LEAST)
        self.more, self._spread = np.zeros(len(self._margins)), np.zeros(len(self._margins))
        self._flows, self._flows_spread = np.zeros(len(self._q)), np.zeros(len(self._q))
        self._moving = 0

    def changes(self, parts: Sequence[Part]) -> list[_Change | None]:
        """What each of these changes would do to it; None where that cannot be foreseen."""
        return [self._change(x) for x in self.ahead.changes(parts)]

    def _change(self, seen: Foreseen | None) -> _Change | None:
        if seen is None:
            return None
        if seen.heads is None:
            return _Change(np.zeros(len(self._margins)), None)
        flows = seen.flows
        if flows is not None and len(flows) < len(self._q):  # of what regulators pass nothing is said
            flows = np.concatenate([flows, np.zeros(len(self._q) - len(flows))])
        return _Change(self.trial.model.margin_change(seen.heads), flows)

    def put(self, change: _Change, sign: int) -> None:
        """Put a change to it, or take it away again."""
        self.more += sign * change.margins
        self._spread += sign * np.abs(change.margins)
        if change.flows is not None:
            self._moving += sign
            self._flows += sign * change.flows
            self._flows_spread += sign * np.abs(change.flows)

    def margins(self) -> tuple[Array, Array]:
        """The margins foreseen (Pa), and by how much they may be wrong."""
        return self._margins + self.more, self._share() * self._spread + _ALWAYS * (self._spread > _NONE)

    def flows(self) -> tuple[Array, Array]:
        """The most and the least (m³/s) that each link may carry either way."""
        q, off = self._q + self._flows, self._share() * self._flows_spread
        return np.abs(q) + off, np.maximum(np.abs(q) - off, 0.0)

    @property
    def moves(self) -> bool:
        """Whether any flow changes."""
        return self._moving > 0

    def _share(self) -> float:
        if not self.moves:
            return _STILL_SHARE
        return min(_SHARE, _STILL_SHARE + _SECOND * float((self._spread / self._pressures).max(initial=0.0)))


class _Shrinking:
    def __init__(self, search: Search, flows: Trials, firm: bool) -> None:
        self.search, self.firm = search, firm
        self.why: dict[int, Why] = {}
        self._alone: set[int] = set()
        self._again: list[int] = []
        self._order: list[int] = []
        self._stand(flows)
        self._stuck = self._fast
        self._met = shortest(flows) is None and not unsettled(flows)
        self._foresees = len(search.reaches) > FEW and self._met

    def _stand(self, flows: Trials) -> None:
        """Go on from sizes that were solved."""
        self.flows, self._base = flows, self.search.at.copy()
        self._most = self.search.carried(flows)
        self._fast = self.search.too_fast(self._most)
        self._trials = list(flows.values())
        self._margins = [t.margins for t in self._trials]
        self._taken: dict[int, Sequence[_Change]] = {}
        self._since: list[int] = []
        self._outlooks: list[_Outlook] | None = None
        self._seen: dict[int, list[_Change | None]] = {}

    def run(self) -> None:
        """Go through all reaches, until with the last sizes each has a reason: what one gave up another may have need
        of no more.
        """
        search, before = self.search, self.search.last + 1
        while (before != search.at).any():
            before = search.at.copy()
            self.why.clear()
            order = sorted(range(len(search.reaches)), key=lambda i: -search.size(i).bore)
            while order:
                self._order = order
                for i in order:
                    while i not in self.why and not self._decide(i):
                        pass
                if all(i in self.why for i in order):
                    self._settle()
                order = list(dict.fromkeys((*(i for i in order if i not in self.why), *self._again)))
                self._again = []

    def _decide(self, i: int) -> bool:
        """Take one size down of a reach, or say why not; whether others may go on first before it is looked at
        again.
        """
        if self._stuck[i]:
            self._say(i, self._largest(i))
        elif self.search.at[i] == 0:
            self._say(i, self._at_smallest(i))
        elif (fast := self._fast_below(i)) is not None:
            self._say(i, fast)
        elif not self._met:
            lacks = "its flows do not settle" if unsettled(self.flows) else "an outlet beyond still wants pressure"
            self._say(i, Why("pressure", lacks))
        elif self._foresees and i not in self._alone and (self._still_short(i) or self._foresee(i)):
            return True
        elif self._taken:
            self._settle()
        else:
            self._try(i)
        return False

    def _say(self, i: int, why: Why) -> None:
        self.why[i] = why
        self._seen.pop(i, None)
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
        return not unsettled(tried) and shortest(tried) is None and not self._faster(tried).any()

    def _faster(self, tried: Trials) -> NDArray[np.bool_]:
        """Which reaches are too fast that could be slower."""
        return np.asarray(self.search.too_fast(self.search.carried(tried)) & ~self._stuck)

    def _settle(self) -> None:
        """Solve with all that was taken on foresight; where it does not hold, take it back and try each of them
        alone.
        """
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
        self.search.at = self._base.copy()
        self._stand(self.flows)

    def _still_short(self, i: int) -> bool:
        """Forbid a size by the outlet that would have been short with it before, where that still is sure."""
        search = self.search
        hint = search.hints.get((i, int(search.at[i])))
        if hint is None or self._most[i] < _AS_MUCH * hint.flow or search.loses(i) < _AS_MUCH * hint.minor:
            return False
        trial = self._trials[hint.model]
        more = 0.0 if self._outlooks is None else float(self._outlooks[hint.model].more[hint.tap])
        margin = float(self._margins[hint.model][hint.tap]) + more
        if margin + hint.fall * _STILL_FALLS >= -ENOUGH:
            return False
        below = search.reaches[i].options[search.at[i] - 1]
        self._say(i, self._short(below, trial, hint.tap, margin + hint.fall))
        return True

    def _foresee(self, i: int) -> bool:
        """Take a reach one size down, or forbid it, where that is sure without solving; else say False."""
        search = self.search
        if i not in self._seen:
            self._look_ahead(i)
        changes = [c for c in self._seen.pop(i) if c is not None]
        if len(changes) < len(self.flows):
            return False
        before = self._taken.get(i, ())
        self._put(before, -1)
        self._put(changes, 1)
        below = search.reaches[i].options[search.at[i] - 1]
        search.at[i] -= 1
        why, good = self._judge(i, below, changes)
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

    def _look_ahead(self, i: int) -> None:
        """Foresee what a size less would do to a reach, and in one go to some that come after it."""
        search = self.search
        if self._outlooks is None:
            self._outlooks = [_Outlook(t) for t in self.flows.values()]
        next_ones = [i]
        for j in self._order[self._order.index(i) + 1 :]:
            if len(next_ones) + len(self._seen) >= _AT_ONCE:
                break
            if j not in self.why and j not in self._seen and search.at[j] > 0 and not self._is_fast_below(j):
                next_ones.append(j)
        each = [outlook.changes([search.smaller(n, j) for j in next_ones]) for n, outlook in enumerate(self._outlooks)]
        self._seen |= {j: [changes[k] for changes in each] for k, j in enumerate(next_ones)}

    def _put(self, changes: Sequence[_Change], sign: int) -> None:
        for outlook, change in zip(self._outlooks or (), changes, strict=False):
            outlook.put(change, sign)

    def _judge(self, i: int, below: Pipe, changes: Sequence[_Change]) -> tuple[Why | None, bool]:
        """What surely forbids all that was taken with this last size, and whether it is surely allowed."""
        outlooks, search, sure = self._outlooks or [], self.search, True
        for n, outlook in enumerate(outlooks):
            margins, off = outlook.margins()
            if float((margins + off).min(initial=0.0)) < -ENOUGH:
                tap = int(np.argmin(margins))
                fall = float(changes[n].margins[tap])
                search.hints[i, int(search.at[i]) + 1] = Hint(n, tap, fall, float(self._most[i]), search.loses(i))
                surely = float(search.most((n, o.flows()[1]) for n, o in enumerate(outlooks))[i])
                if self._is_too_fast(i, below, surely):
                    return self._too_fast(i, below, surely, None), False
                return self._short(below, outlook.trial, tap, float(margins[tap])), False
            sure = sure and float((margins - off).min(initial=0.0)) >= -ENOUGH / 2
        if not any(o.moves for o in outlooks):
            if self._is_too_fast(i, below, float(self._most[i])):
                return self._too_fast(i, below, float(self._most[i]), None), False
            return None, sure
        flows = [o.flows() for o in outlooks]
        least = search.most((n, low) for n, (_, low) in enumerate(flows))
        fast = search.too_fast(least) & ~self._stuck
        if fast.any():
            return self._too_fast(i, below, float(least[i]), fast), False
        most = search.most((n, high) for n, (high, _) in enumerate(flows))
        return None, sure and not (search.too_fast(most) & ~self._stuck).any()

    def _short(self, below: Pipe, trial: Trial, tap: int, margin: float) -> Why:
        model = trial.model
        outlet, _, _, needs = model.taps[tap]
        return Why(
            "pressure",
            f"with {below.size}, {self._has(model.points[outlet], margin + needs, needs, 0)}",
            model.scenario.id,
        )

    def _has(self, point: Point, pressure: float, needs: float, digits: int) -> str:
        """What pressure an outlet would have; to no more `digits` than are known."""
        if needs <= 0:
            return f"{point.label} would have no pressure left"
        return (
            f"{point.label} would have {'' if digits else 'about '}{max(pressure, 0) / needs:.{digits}%} of what "
            "it wants"
        )

    def _at_smallest(self, i: int) -> Why:
        reach = self.search.reaches[i]
        family = series(reach.options[0].series)
        if told := self.search.least.why(reach.runs, reach.options[0]):
            return Why(*told)
        if reach.options[0] is not family.sizes[0]:
            return Why("rating", f"smaller {family.short} is rated below the pressure at shut-off")
        if self._most[i] <= _FLOWS:
            return Why("no flow", "no scenario sends water through it, so the smallest made was taken")
        return Why("smallest", f"the smallest {family.short} made is enough")

    def _largest(self, i: int) -> Why:
        """Of a reach that is too fast at any size: nothing smaller is taken, for no size of it holds."""
        item = self.search.size(i)
        speed, limit = show_apart(
            float(velocity(float(self._most[i]), item.bore)), self.search.limit, "velocity", self.search.plan.units
        )
        return Why("largest", f"{item.size}, the largest made, runs at {speed}, over the limit of {limit}")

    def _is_too_fast(self, i: int, item: Pipe, flow: float) -> bool:
        return bool(flow > self.search.carries(item) and not self._stuck[i])

    def _is_fast_below(self, i: int) -> bool:
        """Whether a size less is too fast for the least its outlets want, which needs no trial; more than that may
        become less.
        """
        search = self.search
        if search.wanted is None or self._stuck[i]:
            return False
        return bool(search.wanted[i] > search.carries(search.reaches[i].options[search.at[i] - 1]))

    def _fast_below(self, i: int) -> Why | None:
        if not self._is_fast_below(i):
            return None
        below = self.search.reaches[i].options[self.search.at[i] - 1]
        return self._too_fast(i, below, float(self._most[i]), None)

    def _too_fast(self, i: int, below: Pipe, most: float, fast: NDArray[np.bool_] | None) -> Why:
        search, speed = self.search, float(velocity(most, below.bore))
        if fast is not None and not fast[i]:
            return Why("velocity", f"with {below.size} here another run would be too fast")
        units = search.plan.units
        said, limit = show_apart(speed, search.limit, "velocity", units)
        runs = search.reaches[i].runs
        top = max(self.flows.values(), key=lambda t: max(map(t.through, runs)), default=None)
        says = f"{below.size} would run at {said} with {show(most, 'flow', units)}, over the limit of {limit}"
        if (
            search.lay.systems.sort(runs[0]) == "air"
        ):  # its size is calculated as that of water which runs as much below its limit
            said, limit = show_apart(speed * AIR_SPEED / search.limit, AIR_SPEED, "velocity", units)
            says = f"air would run through {below.size} at {said}, over the limit of {limit}"
        return Why("velocity", says, top.model.scenario.id if top is not None else None)

    def _forbidden(self, i: int, tried: Trials) -> Why:
        """What a trial came to grief on."""
        below, short, most = self.search.size(i), shortest(tried), float(self.search.carried(tried)[i])
        if unsettled(tried):
            return Why("pressure", f"with {below.size} the flows do not settle")
        if short is None or self._is_too_fast(i, below, most):
            return self._too_fast(i, below, most, self._faster(tried))
        scenario, outlet = short
        trial = tried[scenario]
        margin, needs = next(
            (m, t[3]) for m, t in zip(trial.margins.tolist(), trial.model.taps, strict=True) if t[0] == outlet
        )
        return Why(
            "pressure",
            f"with {below.size}, {self._has(trial.model.points[outlet], margin + needs, needs, 1)}",
            scenario,
        )
