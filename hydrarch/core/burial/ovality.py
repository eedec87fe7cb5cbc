"""How far soil and wheels press pipe out of round: the modified Iowa formula, with a heavy lorry's wheel."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import FOOT, INCH, PSI
from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.hydraulics.surge import elasticity, stretches_as
from hydrarch.core.plan.document import Plan, Run

__all__ = ["MOST_OVAL", "Ovality", "live_load", "out_of_round", "oval_problems", "pipe_stiffness", "run_ovality"]

declare("size", "out-of-round")

MOST_OVAL = 0.05
"""Share of its diameter that PVC gravity pipe may be pressed in; customary design limit, from memory."""
_SOIL = 120 * 4.4482216 / FOOT**3
"""Weight of the fill (N/m³): 120 lb/ft³, handbook value."""
_BEDDING, _LAG = 0.1, 1.5
"""Bedding constant and deflection lag of the formula; usual values of design handbooks, from memory."""
LOOSE, TAMPED = 200 * PSI, 1000 * PSI
"""Stiffness E' (Pa) of the fill at the pipe's sides: dumped, and tamped in layers; Howard's table, from memory."""
_WHEELS = ((1.0, 12.5), (2.0, 5.56), (3.0, 4.17), (4.0, 2.78), (5.0, 1.74), (6.0, 1.39), (7.0, 1.22), (8.0, 0.69))
"""Cover (ft) and the load (psi) of an H20 lorry's wheel at the pipe's crown, its impact included: AASHTO's table as
pipe handbooks have it, from memory; beyond 8 ft it is left out."""
_WHEEL, _FOOTPRINT, _IMPACT = 16_000 * 4.4482216, (20 * INCH, 10 * INCH), 1.3
_CORRUGATED = 35 * PSI
"""Stiffness (Pa) at 5 % of corrugated drain, whose wall says nothing of it: ASTM F405, from memory."""
_TOLD = ("pvc", "pe", "pe100", "ppr")


@dataclass(frozen=True, slots=True)
class Ovality:
    """How far a run is pressed in, as a share of its diameter, in loose fill and where that is tamped; under which
    cover (m), and whether wheels go over it.
    """

    run: str
    loose: float
    tamped: float
    cover: float
    wheels: bool


def pipe_stiffness(item: Pipe) -> float:
    """The load on a length of pipe over the length and how far it is pressed in (Pa): 4.47 E / (DR - 1)³ of solid
    walls; ASTM D2412's arithmetic.

    >>> from hydrarch.core.catalogue.pipes import pipe
    >>> round(pipe_stiffness(pipe("sewer-sdr35", "4")) / PSI)
    45
    """
    if item.series == "corrugated":
        return _CORRUGATED
    modulus, _ = elasticity(stretches_as(item.series))
    return 4.47 * modulus / (item.outside / item.wall - 1) ** 3


def live_load(cover: float) -> float:
    """The pressure (Pa) of a heavy lorry's wheel at the crown of pipe under so much cover (m): by the table from a foot
    down, straight between its rows; above that the wheel spread by 1.75 of the depth, AASHTO's way, never less than the
    table's first row.
    """
    depth = cover / FOOT
    if depth >= _WHEELS[-1][0] + 1e-9:
        return 0.0
    if depth >= _WHEELS[0][0]:
        return float(np.interp(depth, [d for d, _ in _WHEELS], [p for _, p in _WHEELS])) * PSI
    long, wide = (x + 1.75 * max(cover, 0.0) for x in _FOOTPRINT)
    return max(_WHEEL * _IMPACT / (long * wide), _WHEELS[0][1] * PSI)


def out_of_round(stiffness: float, soil: float, wheels: float, fill: float, lag: float = _LAG) -> float:
    """The share of its diameter that pipe of a stiffness (Pa) is pressed in by the soil's pressure and by wheels' (Pa),
    in fill of a stiffness E' (Pa): the modified Iowa formula. Wheels press it in each time anew and do not lag.
    """
    return _BEDDING * (lag * soil + wheels) / (0.149 * stiffness + 0.061 * fill)


def run_ovality(plan: Plan, run: Run, item: Pipe) -> Ovality | None:
    """How far a buried run is pressed in at the worse of its ends; None for pipe whose wall the formula is not for."""
    if run.situation != "buried" or run.existing is not None or run.coupled:
        return None
    if series(item.series).material not in _TOLD:
        return None
    stiff, worst = pipe_stiffness(item), None
    for point in (plan.by_id[p] for p in run.points):
        cover = point.depth - item.outside / 2
        if cover <= 0:
            continue  # it comes up there
        soil, wheels = _SOIL * cover, live_load(cover) if run.wheels else 0.0
        found = Ovality(
            run.id,
            out_of_round(stiff, soil, wheels, LOOSE),
            out_of_round(stiff, soil, wheels, TAMPED),
            cover,
            run.wheels,
        )
        if worst is None or found.loose > worst.loose:
            worst = found
    return worst


def oval_problems(plan: Plan, pipes: Mapping[str, Pipe]) -> Iterator[Problem]:
    """Runs that soil and wheels press further out of round, in loose fill, than the limit."""
    for run in plan.runs:
        found = run_ovality(plan, run, pipes[run.id]) if run.id in pipes else None
        if found is None or found.loose <= MOST_OVAL:
            continue
        a, b = (plan.names[p] for p in run.points)
        item = pipes[run.id]
        enough = found.tamped <= MOST_OVAL
        key = "out-of-round" if enough else "out-of-round/tamped too"
        wheels = "wheels and " if found.wheels else ""
        yield tell(
            key,
            run.id,
            plan.units,
            a=a,
            b=b,
            pipe=f"{series(item.series).short} {item.size}",
            oval=found.loose,
            tamped=found.tamped,
            cover=found.cover,
            load=wheels,
        )
