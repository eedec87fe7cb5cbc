"""What can drown or poison: suctions that hold a body fast, water too hot, a filler that lets back.

A suction is judged by its cover, its fellows on the same pump and what it would draw with one of them blocked. Skimmers
draw from the surface and hold nobody; they are no fellows. The local code and the cover's own rating win.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.circulation.bodies import body_at
from hydrarch.core.circulation.holds_fast import APART, DrawnTogether, clusters, drawn_fast, states
from hydrarch.core.circulation.laws import air_gap
from hydrarch.core.components.basins import Basin, SuctionCover, TopUp
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.hydraulics.friction import velocity
from hydrarch.core.plan.basin_shapes import filled_by
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout

__all__ = ["BLOCKED_SPEED", "entrapment_problems", "flowing_entrapment", "warmth_problems"]

declare("survey", "one-suction", "suctions-near", "bare-suction", "too-hot", holds=True, danger=True)
declare("survey", "cover-unrated", "air-gap", "fills-nothing")
declare("size", "cover-rating", holds=True, danger=True)
declare("size", "suction-blocked")

BLOCKED_SPEED = 1.83
"""m/s (6 ft/s) in a suction's branch with the other one blocked: ANSI/APSP/ICC-5 and -7, from memory; printed limits
differ by kind of pool and year."""


def entrapment_problems(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """Covers that a body can block all at once, in any state of the valves; an opening with no cover, a cover with no
    rating told.
    """
    for drawn in drawn_fast(plan, lay):
        where, names = drawn.body.point.label, _names(plan, drawn)
        for p in drawn.bare:
            yield tell(
                "bare-suction" if drawn.body.use.bathed else "bare-suction/no people",
                p.id,
                place=p.label,
                body=where,
                pumps=names,
            )
        yield from _blocked_whole(plan, drawn)
        for p in drawn.covers:
            assert isinstance(p.what, SuctionCover)
            if p.what.rated <= 0:
                yield tell("cover-unrated", p.id, place=p.label)


def _names(plan: Plan, drawn: DrawnTogether) -> str:
    return " and ".join(plan.names[p] for p in drawn.pumps)


def _blocked_key(near: bool, shut: bool, bathed: bool) -> str:
    """The message: where people bathe it stops the job; where somebody may wade or fall in it is told."""
    return {
        (False, False, True): "one-suction",
        (False, False, False): "one-suction/no people",
        (False, True, True): "one-suction/shut",
        (False, True, False): "one-suction/shut, no people",
        (True, False, True): "suctions-near",
        (True, False, False): "suctions-near/no people",
        (True, True, True): "suctions-near/shut",
        (True, True, False): "suctions-near/shut, no people",
    }[near, shut, bathed]


def _sentence(words: str) -> str:
    """Words that went on a sentence, as one by themselves; "" for none."""
    words = words.strip()
    return f"{words[:1].upper()}{words[1:]}." if words else ""


def _blockable(covers: Iterable[Point]) -> list[Point]:
    return [c for c in covers if isinstance(c.what, SuctionCover) and c.what.cover == "a body can block it"]


def _blocked_whole(plan: Plan, drawn: DrawnTogether) -> Iterator[Problem]:
    """States in which one body blocks all that is joined to a pump, the first of each kind: it holds who is there."""
    who = "who is held there drowns" if drawn.body.use.bathed else "who wades or falls in there and is held drowns"
    told: set[str] = set()
    for state in states(plan, drawn):
        blocks = _blockable(state.covers)
        if len(blocks) < len(state.covers) or not any(len(k) == len(blocks) for k in clusters(blocks)):
            continue
        one, *more = blocks
        code = "suctions-near" if more else "one-suction"
        if code in told:
            continue
        told.add(code)
        shut = f" with {_listed(state.shut)} shut" if state.shut else ""
        apart = show(APART, "length", plan.units)
        reach = f"all within {apart} of one" if len(more) > 1 else f"less than {apart} apart"
        yield tell(
            _blocked_key(bool(more), bool(state.shut), drawn.body.use.bathed),
            one.id,
            plan.units,
            place=one.label,
            places=_listed([c.label for c in blocks]),
            body=drawn.body.point.label,
            pumps=_names(plan, drawn),
            reach=reach,
            shut=shut,
            who=who,
            apart=APART,
        )


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def flowing_entrapment(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], flows: Mapping[str, Flow]
) -> Iterator[Problem]:
    """Covers that are rated below what they see in the worst state, with all the pumps on the line running and what one
    body blocks blocked, and branches that are then too fast.
    """
    units = plan.units
    for drawn in drawn_fast(plan, lay):
        most = sum(
            max((f.lifts[pump][0] for f in flows.values() if pump in f.lifts), default=0.0) for pump in drawn.pumps
        )
        if not drawn.covers or most <= 0:
            continue
        for p, (alone, why) in _worst(plan, drawn, most).items():
            point = plan.by_id[p]
            assert isinstance(point.what, SuctionCover)
            if 0 < point.what.rated < alone:
                yield tell(
                    "cover-rating" if drawn.body.use.bathed else "cover-rating/no people",
                    p,
                    units,
                    place=point.label,
                    rated=point.what.rated,
                    flow=alone,
                    when=_sentence(why),
                )
            for run in lay.at[p]:
                speed = float(velocity(alone, pipes[run].bore)) if run in pipes and not lay.lines[run].coupled else 0.0
                if speed > BLOCKED_SPEED * (1 + 1e-6):
                    yield tell(
                        "suction-blocked",
                        run,
                        units,
                        place=point.label,
                        speed=speed,
                        limit=BLOCKED_SPEED,
                        when=_sentence(why),
                    )


def _worst(plan: Plan, drawn: DrawnTogether, most: float) -> dict[str, tuple[float, str]]:
    """The most (m³/s) each cover sees over all states, and in which, in words."""
    found: dict[str, tuple[float, str]] = {}
    both = " with both pumps running" if len(drawn.pumps) == 2 else " with all pumps running" if drawn.pumps[2:] else ""
    for state in states(plan, drawn):
        shut = f" with {_listed(state.shut)} shut" if state.shut else ""
        for blocked in ((), *clusters(_blockable(state.covers))):
            left = [c for c in state.covers if c not in blocked]
            names = " with the other one blocked" if len(blocked) == len(left) == 1 else ""
            names = names or (f" with {_listed([b.label for b in blocked])} blocked" if blocked else "")
            for c in left:
                alone = most / len(left)
                if alone > found.get(c.id, (0.0, ""))[0] * (1 + 1e-9):
                    found[c.id] = (alone, both + shut + names)
    return found


def warmth_problems(plan: Plan) -> Iterator[Problem]:
    """Water kept hotter than its use allows; a filler without its air gap, or over no water."""
    units = plan.units
    for p in plan.points:
        if isinstance(p.what, Basin) and p.what.warm is not None:
            most = body_at(plan, p.id).use.most_warm
            if most is not None and p.what.warm > most + 1e-6:
                yield tell("too-hot", p.id, units, place=p.label, warm=p.what.warm, most=most)
        if isinstance(p.what, TopUp):
            wanted = air_gap(p.what.opening)
            if filled_by(plan.points, p) is None:
                yield tell("fills-nothing", p.id, place=p.label)
            elif p.what.gap < wanted - 1e-6:
                yield tell("air-gap", p.id, units, place=p.label, gap=p.what.gap, least=wanted)
