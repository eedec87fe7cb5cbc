"""Every fitting and joint of a whole plan: what stands at each point, and what joins the lengths of a run to each other."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from math import ceil, degrees

from hydrarch.core.catalogue.fittings import End, end, mating_method, pipe_end
from hydrarch.core.catalogue.pipes import Pipe, pipe, series
from hydrarch.core.catalogue.prices import fitting_price
from hydrarch.core.joining.chains import chains
from hydrarch.core.joining.hubs import MISFIT, How, turn_words
from hydrarch.core.joining.meeting import REMEMBERED, join_place
from hydrarch.core.joining.place import METALS, places
from hydrarch.core.joining.placing import best_stack
from hydrarch.core.joining.records import Assembly, Chain, Joint, Laid, Part, Side
from hydrarch.core.joining.things import Thing
from hydrarch.core.layout import Layout
from hydrarch.core.plan import Plan

__all__ = ["HubView", "assemble", "hub_views", "leg_things"]


def assemble(plan: Plan, lay: Layout, pipes: dict[str, Pipe]) -> Assembly:
    """Join a whole plan. What cannot be joined is a `Problem` at its point; the rest goes on."""
    found = [join_place(place) for place in places(plan, lay, pipes)]
    laid = {(x.run, x.point): x for f in found for x in f.laid}
    minor: dict[str, float] = {}
    for f in found:
        for key, k in f.minor:
            minor[key] = minor.get(key, 0.0) + k
    bends = tuple(b for f in found for b in f.bends)
    lengths = chains(lay, bends)
    along = [coupled for chain in lengths for coupled in _in_chain(lay, chain, pipes[chain.runs[0]], laid, plan.names)]
    return Assembly(
        parts=(*(p for f in found for p in f.parts), *(part for a in along for part, _ in a if part is not None)),
        joints=(*(j for f in found for j in f.joints), *(j for a in along for _, joints in a for j in joints)),
        laid=laid,
        bends=bends,
        chains=lengths,
        minor=minor,
        problems=tuple(p for f in found for p in f.problems),
    )


_BELLS = {"solvent:spigot": "solvent:socket", "sewer:spigot": "gasket:bell"}
Coupled = tuple[Part | None, tuple[Joint, ...]]


def _in_chain(
    lay: Layout, chain: Chain, item: Pipe, laid: dict[tuple[str, str], Laid], names: dict[str, str]
) -> Iterator[tuple[Coupled, ...]]:
    """What joins stick to stick or coil to coil along a length of pipe, run by run: each joint is of the run it falls in."""
    family = series(item.series)
    longest = family.stick or family.coil
    if longest is None:
        return
    ends = ((chain.runs[0], chain.start), (chain.runs[-1], chain.stop))
    first, last = (laid[e].offset if e in laid else 0.0 for e in ends)
    count = ceil((chain.centres - chain.saved - first - last) / longest - 1e-9) - 1
    at, reached = first + longest, 0.0
    for run in chain.runs:
        line = lay.lines[run]
        reached += line.length
        here = count if run == chain.runs[-1] else min(count, max(0, ceil((reached - at) / longest)))
        if here > 0:
            yield _coupled(run, item.series, item.size, here, f"along {names[line.a]} to {names[line.b]}")
            count, at = count - here, at + here * longest


@lru_cache(REMEMBERED)
def _coupled(run: str, series_name: str, size: str, count: int, place: str) -> tuple[Coupled, ...]:
    return tuple(_couplings(run, pipe(series_name, size), count, place))


def _couplings(run: str, item: Pipe, count: int, place: str) -> Iterator[Coupled]:
    family = series(item.series)
    what, mine = f"{family.short} {item.size} pipe", pipe_end(item.series, item.size)
    bell = _BELLS.get(f"{mine.system}:{mine.gender}") if family.stick else None
    if bell is not None:  # sticks come with a bell: one joint each
        socket = end(f"{bell}:{item.size}")
        for n in range(1, count + 1):
            here, there = Side(what, None, mine.name), Side("bell of the next length", None, socket.name)
            yield None, (_run_joint(run, f"b{n}", here, mine, there, socket, place),)
        return
    coupling = best_stack(mine.name, mine.name, frozenset({mine.name}) if family.material in METALS else frozenset())
    if coupling is None:
        return
    for n in range(1, count + 1):
        ids = [f"{run}.c{n}", *(f"{run}.c{n}{k}" for k in range(2, len(coupling.steps) + 1))]
        parts = [Part(i, s.fitting.id, s.fitting.name, "", run) for i, s in zip(ids, coupling.steps, strict=True)]
        sides = [Side(what, None, mine.name), *(Side(p.name, p.id, "") for p in parts), Side(what, None, mine.name)]
        joints = []
        for k, pair in enumerate(coupling.ends()):
            made = [(replace(side, end=e.name), e) for side, e in zip(sides[k : k + 2], pair, strict=True)]
            if made[0][0].part is not None and made[1][0].part is None:
                made.reverse()  # the pipe is named first
            (one, a), (two, b) = made
            joints.append(_run_joint(run, f"c{n}{_LETTERS[k]}", one, a, two, b, place))
        yield from zip(parts, [tuple(joints), *[()] * (len(parts) - 1)], strict=True)


_LETTERS = "abcdefgh"


def _run_joint(run: str, n: str, one: Side, a: End, two: Side, b: End, place: str) -> Joint:
    method = mating_method(a, b)
    assert method is not None
    depth = max(a.engagement, b.engagement) if one.part else b.engagement
    return Joint(f"{run}.{n}", None, run, method, a.size, one, two, depth, place, "")


def leg_things(lay: Layout, pipes: Mapping[str, Pipe], joints: Sequence[Joint]) -> tuple[Thing, Thing]:
    """The two things that the joints of one leg lead from and to: a pipe by its own end, or an end of what stands there."""
    first, last = joints[0], joints[-1]
    other = lay.other_run(last.point, last.run) if last.to_pipe and last.point else None
    return _thing(pipes.get(first.run or ""), first.a.end), _thing(pipes.get(other or ""), last.b.end)


def _thing(item: Pipe | None, name: str) -> Thing:
    return Thing(end=name) if item is None else Thing(item.series, item.size, name)


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
    here = next((join_place(place) for place in places(plan, lay, pipes) if place.point == point), None)
    found = []
    for hub in here.choices if here else ():
        names = " + ".join(p.name for p in hub.parts) or "the pipe's own bend"
        more = turn_words(hub) or (f"{degrees(hub.misfit):.3g}° off the turn drawn" if hub.misfit > MISFIT else "")
        steps = [s for stack in (*hub.stacks, *((hub.link,) if hub.link else ())) for s in stack.ids()]
        price = sum(fitting_price(name, own) for name in (*hub.ids(), *steps))
        says = f"{names} ({more})" if more else names
        found.append(HubView(hub.how, hub.ids(), says, hub.joints, price, here is not None and here.used == hub))
    return tuple(found)
