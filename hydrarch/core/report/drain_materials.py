"""Drain pipe side by side: the same drains in each material the schools take, with what each asks for and stands."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from typing import Any

from hydrarch.core.base.progress import Report, unheard
from hydrarch.core.base.units import nominal_diameter
from hydrarch.core.burial.ovality import run_ovality
from hydrarch.core.catalogue.guidance import practices
from hydrarch.core.catalogue.markets import market
from hydrarch.core.catalogue.pipes import pipe, series
from hydrarch.core.catalogue.prices import fitting_price, known_price, pipe_price
from hydrarch.core.derivation.chain import Derivation, derive
from hydrarch.core.plan.document import DRAIN_SERIES, Plan

__all__ = ["DrainMaterial", "compare_drains"]

_STIFF = 100.0
"""Bend radius over outside from which a pipe does not follow a crooked trench."""


@dataclass(frozen=True, slots=True)
class DrainMaterial:
    """This job's drains in one material. `sold` says whether this market has it: if not, `pipe` is what it has in its
    place.

    `price` is what pipe and fittings come to, as far as they are priced; `unpriced` counts the rows that are not; `own`
    says whether all prices are the crew's. `joints` lie in the ground, where roots get in. `oval` is how far the worst
    run is pressed in, in loose fill and in tamped, as a share of its diameter; None where none lies in the ground.
    `bends` says whether it follows a crooked trench; `later` what a branch into it takes when it is laid, "" where none
    can be made; `against` are the titles of problems that stand with this material and not with each of the others.
    """

    choice: str
    school: str
    pipe: str
    chosen: bool
    usual: bool
    sold: bool
    length: float
    price: float | None
    unpriced: int
    own: bool
    fittings: int
    joints: int
    oval: tuple[float, float] | None
    wheels: bool
    bends: bool
    later: str
    reason: str
    floor: str
    against: tuple[str, ...]


def compare_drains(plan: Plan, report: Report = unheard) -> tuple[DrainMaterial, ...]:
    """The drains of a plan in each material; those whose material somebody chose for a run are tried in the others,
    too.

    What exists stays as it is. Empty where a plan has no drain.
    """
    begun = derive(plan)
    drains = {d.run for d in begun.drains if plan.run_by_id[d.run].existing is None}
    if not drains:
        return ()
    now = plan.practices.get("drain", practices()["drain"].default)
    done = {}
    for n, choice in enumerate(DRAIN_SERIES):
        report(f"material {n + 1} of {len(DRAIN_SERIES)}")
        done[choice] = derive(_made_of(plan, drains, choice))
    told = {choice: {(p.code, p.title or p.says) for p in d.problems("cut")} for choice, d in done.items()}
    everywhere = set.intersection(*({code for code, _ in t} for t in told.values()))
    own_kinds = {r.series for r in plan.runs if r.id in drains and r.series is not None}
    found = []
    for option in practices()["drain"].options:
        choice = option.option
        against = tuple(sorted({says for code, says in told[choice] if code not in everywhere}))
        row = _row(done[choice], drains, choice)
        found.append(
            DrainMaterial(
                choice=choice,
                school=option.says,
                chosen=choice == now and own_kinds <= {market(plan.conditions.market).drain_pipe(DRAIN_SERIES[choice])},
                usual=choice == practices()["drain"].default,
                reason=option.reason,
                floor=option.floor,
                against=against,
                **row,
            )
        )
    return tuple(found)


def _made_of(plan: Plan, drains: set[str], choice: str) -> Plan:
    """The plan with its new drains in one material, each size free again where its series was the crew's."""
    runs = tuple(
        r.model_copy(update={"series": None, "size": None if r.series is not None else r.size}) if r.id in drains else r
        for r in plan.runs
    )
    return plan.model_copy(update={"runs": runs, "practices": {**plan.practices, "drain": choice}})


def _row(done: Derivation, drains: set[str], choice: str) -> dict[str, Any]:
    plan, pipes = done.plan, done.settled.pipes
    wanted = DRAIN_SERIES[choice]
    taken = market(plan.conditions.market).drain_pipe(wanted)
    ends = {e.id for r in plan.runs if r.id in drains for e in r.ends}
    places = {p for r in plan.runs if r.id in drains for p in r.points}
    places -= {p for r in plan.runs if r.id not in drains for p in r.points}
    fittings = [p for p in done.assembly.parts if p.end in ends or (p.end is None and p.point in places)]
    prices = [known_price(fitting_price, p.fitting, plan.prices) for p in fittings]
    nests = [n for n in done.cuts.nests if series(n.series).kind == "drain"]
    lengths = [(known_price(pipe_price, pipe(n.series, n.size), plan.prices), n) for n in nests]
    prices += [None if each is None else each * sum(s.length for s in n.sticks) for each, n in lengths]
    known = [x for x in prices if x is not None]
    items = {p.fitting for p in fittings} | {pipe(n.series, n.size).name for n in nests}
    ovals = [o for r in plan.runs if r.id in drains and (o := run_ovality(plan, r, pipes[r.id])) is not None]
    worst = max(ovals, key=lambda o: o.loose, default=None)
    sizes = sorted((p.size for r, p in pipes.items() if r in drains and p.series == taken), key=nominal_diameter)
    return {
        "pipe": series(taken).name,
        "sold": taken == wanted or choice == practices()["drain"].default,
        "length": sum(done.layout.lines[r].length for r in drains),
        "price": sum(known) if known else None,
        "unpriced": len(prices) - len(known),
        "own": items <= plan.prices.keys(),
        "fittings": len(fittings),
        "joints": sum(j.count for j in done.assembly.joints if j.end in ends or j.run in drains or j.point in places),
        "oval": None if worst is None else (worst.loose, worst.tamped),
        "wheels": any(plan.run_by_id[r].wheels for r in drains),
        "bends": series(taken).bend_radius < _STIFF,
        "later": _later(plan, taken, sizes[-1]) if sizes else "",
    }


def _later(plan: Plan, name: str, size: str) -> str:
    """What a branch into a laid drain of that pipe takes, in words; "" where it cannot be made of what is sold."""
    laid = {"series": name, "size": size, "existing": {}}
    branch = {"series": name, "size": size}

    def point(name: str, kind: str, x: float, y: float, old: bool) -> dict[str, Any]:
        more: dict[str, Any] = {"existing": {}} if old else {}
        return {"id": name, "x": x, "y": y, "depth": 0.6 + x / 60, "what": {"kind": kind}, **more}

    def run(name: str, a: tuple[str, str], b: tuple[str, str], more: dict[str, Any]) -> dict[str, Any]:
        ends = {s: {"id": f"{name}{s}", "point": p, "port": port} for s, (p, port) in (("a", a), ("b", b))}
        return {"id": name, **ends, **more}

    probe = Plan.model_validate(
        {
            "name": "a branch later",
            "points": [
                point("A", "drain_inlet", 0, 0, True),
                point("J", "junction", 10, 0, False),
                point("O", "outfall", 20, 0, True),
                point("H", "drain_inlet", 7, 3, False),
            ],
            "runs": [
                run("1", ("A", "out"), ("J", "line"), laid),
                run("2", ("J", "line"), ("O", "in"), laid),
                run("3", ("H", "out"), ("J", "line"), branch),
            ],
            "practices": {k: v for k, v in plan.practices.items() if k != "drain"},
            "conditions": {"market": plan.conditions.market},
        }
    )
    done = derive(probe)
    if any(p.severity == "stop" and p.stage == "join" for p in done.problems("join")):
        return ""
    at = {e.id for r in probe.runs for e in r.ends if e.point == "J"}
    parts = Counter(p.name for p in done.assembly.parts if p.end in at or (p.end is None and p.point == "J"))
    return ", ".join(f"{n} × {name}" if n > 1 else name for name, n in parts.items())
