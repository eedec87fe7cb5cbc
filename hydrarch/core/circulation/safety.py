"""What can drown or poison: suctions that hold a body fast, water too hot, a filler that lets back.

A suction is judged by its cover, its fellows on the same pump and what it would draw with one of them blocked. Skimmers
draw from the surface and hold nobody; they are no fellows. The local code and the cover's own rating win.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from math import dist

from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.circulation.bodies import Body, body_at
from hydrarch.core.circulation.laws import air_gap
from hydrarch.core.components.basins import Basin, Bulkhead, InWall, SuctionCover, TopUp
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.hydraulics.friction import velocity
from hydrarch.core.hydraulics.rounds import loops, suction_side
from hydrarch.core.plan.basins import filled_by
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout

__all__ = ["APART", "BLOCKED_SPEED", "entrapment_problems", "flowing_entrapment", "held_fast", "warmth_problems"]

declare("survey", "one-suction", "suctions-near", "bare-suction", "too-hot", holds=True, danger=True)
declare("survey", "cover-unrated", "air-gap", "fills-nothing")
declare("size", "cover-rating", holds=True, danger=True)
declare("size", "suction-blocked")

APART = 0.914
"""m (3 ft) between the centres of two suctions of one pump: ANSI/APSP/ICC-7, from memory; or in different planes, as
the local code says."""
BLOCKED_SPEED = 1.83
"""m/s (6 ft/s) in a suction's branch with the other one blocked: ANSI/APSP/ICC-5 and -7, from memory; printed limits
differ by kind of pool and year."""


def held_fast(plan: Plan, lay: Layout) -> dict[str, tuple[Body, tuple[Point, ...]]]:
    """Of each pump that draws where people bathe: the body, and the suctions it draws from under the water, by the
    pump.
    """
    found: dict[str, tuple[Body, tuple[Point, ...]]] = {}
    for system in loops(plan, lay):
        for pump, runs in suction_side(plan, system).items():
            here = dict.fromkeys(e.point for r in runs for e in plan.run_by_id[r].ends)
            drawn = tuple(
                p
                for n in here
                if isinstance((p := plan.by_id[n]).what, (SuctionCover, Bulkhead)) and p.kind.role == "source"
            )
            basins = {
                p.id: p.what.waters.basin for p in drawn if isinstance(p.what, InWall) and p.what.waters is not None
            }
            for home in sorted(set(basins.values())):
                body = body_at(plan, home)
                if body.use.bathed:
                    found[pump] = (body, tuple(p for p in drawn if basins.get(p.id) == home))
    return found


def entrapment_problems(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """One suction alone that a body can block, two that one body can block, an opening with no cover, a cover with no
    rating told.
    """
    units = plan.units
    for pump, (body, drawn) in held_fast(plan, lay).items():
        where, name = body.point.label, plan.names[pump]
        for p in drawn:
            if isinstance(p.what, Bulkhead):
                yield Problem(
                    code="bare-suction",
                    severity="stop",
                    where=p.id,
                    says=f"{p.label} is a bare hole in {where} under {name}: it holds hair and limbs, and who is "
                    "held drowns.",
                    mend="Make it a suction with a cover rated for the flow; a bulkhead has none.",
                )
        covers = [p for p in drawn if isinstance(p.what, SuctionCover)]
        blocked = [p for p in covers if isinstance(p.what, SuctionCover) and p.what.cover == "a body can block it"]
        if len(covers) == 1 and blocked:
            yield Problem(
                code="one-suction",
                severity="stop",
                where=covers[0].id,
                says=f"{name} draws from {where} by {covers[0].label} alone, and a body can block it: who is held "
                "there drowns. It is not to be built so.",
                mend=f"Give it a second suction at least {show(APART, 'length', units)} away, take a cover that "
                "nobody can block, or let it run to a box by its own fall.",
            )
        for i, one in enumerate(blocked):
            for two in blocked[i + 1 :]:
                apart = dist((one.x, one.y, one.level), (two.x, two.y, two.level))
                if apart < APART - 1e-9 and len(blocked) == len(covers) == 2:
                    yield Problem(
                        code="suctions-near",
                        severity="stop",
                        where=one.id,
                        says=f"{one.label} and {two.label} are {show(apart, 'length', units)} apart, and one body "
                        f"can block both: {show(APART, 'length', units)} at the least.",
                        mend="Set them farther apart, or in different planes as the local code says.",
                    )
        for p in covers:
            if isinstance(p.what, SuctionCover) and p.what.rated <= 0:
                yield Problem(
                    code="cover-unrated",
                    severity="warn",
                    where=p.id,
                    says=f"It is not told what flow the cover of {p.label} is rated for.",
                    mend="Read it on the cover and type it: the other one blocked, it must carry all that the pump draws.",
                )


def flowing_entrapment(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], flows: Mapping[str, Flow]
) -> Iterator[Problem]:
    """Covers that are rated below what they see with a fellow blocked, and branches that are then too fast."""
    units = plan.units
    for pump, (_, drawn) in held_fast(plan, lay).items():
        covers = [p for p in drawn if isinstance(p.what, SuctionCover)]
        most = max((f.lifts[pump][0] for f in flows.values() if pump in f.lifts), default=0.0)
        if not covers or most <= 0:
            continue
        alone = most / max(len(covers) - 1, 1)
        for p in covers:
            assert isinstance(p.what, SuctionCover)
            blocked = (
                " with the other one blocked"
                if len(covers) == 2
                else " with one of the others blocked"
                if len(covers) > 2
                else ""
            )
            if 0 < p.what.rated < alone:
                yield Problem(
                    code="cover-rating",
                    severity="stop",
                    where=p.id,
                    says=f"The cover of {p.label} is rated for {show(p.what.rated, 'flow', units)}; it sees "
                    f"{show(alone, 'flow', units)}{blocked}.",
                    mend="Take covers rated for more, or more of them, or run the pump slower.",
                )
            for run in lay.at[p.id]:
                speed = float(velocity(alone, pipes[run].bore)) if run in pipes and not lay.lines[run].coupled else 0.0
                if speed > BLOCKED_SPEED * (1 + 1e-6):
                    yield Problem(
                        code="suction-blocked",
                        severity="warn",
                        where=run,
                        says=f"{show(speed, 'velocity', units)} in the branch of {p.label}{blocked}: "
                        f"{show(BLOCKED_SPEED, 'velocity', units)} at the most.",
                        mend="Take a larger pipe there, or leave its size open.",
                    )


def warmth_problems(plan: Plan) -> Iterator[Problem]:
    """Water kept hotter than its use allows; a filler without its air gap, or over no water."""
    units = plan.units
    for p in plan.points:
        if isinstance(p.what, Basin) and p.what.warm is not None:
            most = body_at(plan, p.id).use.most_warm
            if most is not None and p.what.warm > most + 1e-6:
                yield Problem(
                    code="too-hot",
                    severity="stop",
                    where=p.id,
                    says=f"{p.label} is kept at {show(p.what.warm, 'temperature', units)}; "
                    f"{show(most, 'temperature', units)} is the most for who sits in it.",
                    mend="Set it lower; children, the old and whoever is with child, lower still.",
                )
        if isinstance(p.what, TopUp):
            wanted = air_gap(p.what.opening)
            if filled_by(plan.points, p) is None:
                yield Problem(
                    code="fills-nothing",
                    severity="warn",
                    where=p.id,
                    says=f"{p.label} stands over no body of water.",
                    mend="Move it to the one it is to fill.",
                )
            elif p.what.gap < wanted - 1e-6:
                yield Problem(
                    code="air-gap",
                    severity="warn",
                    where=p.id,
                    says=f"{p.label}'s spout stands {show(p.what.gap, 'cut', units)} above the rim: less than "
                    f"{show(wanted, 'cut', units)}, and it can draw back what it fills.",
                    mend="Raise it to twice its bore above the rim, an inch at the least, or as the local code says.",
                )
