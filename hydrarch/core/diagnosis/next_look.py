"""What to read next: the reading that is expected to tell most of which explanation it is, for its minutes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import pi, sqrt

import numpy as np

from hydrarch.core.components.outlets import Outlet
from hydrarch.core.diagnosis.candidates import FaultyLine
from hydrarch.core.diagnosis.weighing import FaultSizes, Measured, Weigher, reading_doubt

__all__ = ["LIKELY", "NextLook", "next_looks", "reading_places"]

LIKELY = 0.005
"""Explanations below this share tell nothing of where to look."""
_LOOKED_AT, _TELLS, _VALVES, _DRAINS = 30, 0.02, 12, 40
_MINUTES = {"outlet": 4.0, "bucket": 6.0, "source": 3.0, "valve": 3.0, "device": 12.0, "drain": 10.0}
"""What a reading takes (min): a gauge on an outlet, a bucket under it, gauge or meter at the source, a valve shut and
opened, at a device that has to be tapped, water poured into a drain until it backs up; from memory.
"""


@dataclass(frozen=True, slots=True)
class NextLook:
    """What to read next: where and what, with which valve `shut` meanwhile ("" for none), how much it is expected to
    tell (bit) in how many minutes, and whether it tells the first two explanations apart.
    """

    point: str
    what: Measured
    shut: str
    minutes: float
    tells: float
    parts_first_two: bool


def next_looks(
    line: FaultyLine, weigh: Weigher, ranked: Sequence[tuple[float, FaultSizes]], nothing: float
) -> Sequence[NextLook]:
    """Places to read, by how much each is expected to tell of which explanation it is, for its minutes."""
    likely = [(share, mine) for share, mine in ranked if share >= LIKELY][:_LOOKED_AT] or ranked[:_LOOKED_AT]
    read = {(s.point, s.what, s.shut) for s in weigh.seen}
    cases = [(share, [(w, c) for w, c in mine if w > 1e-3]) for share, mine in likely]
    cases.append((max(nothing, 1e-3), [(1.0, weigh.case((), line.rest))]))
    whole = sum(share for share, _ in cases)
    few = [(share, [(1.0, max(mine, key=lambda m: m[0])[1])]) for share, mine in cases]  # each costs a solve anew
    told = []
    for point, what, shut, minutes in reading_places(line):
        if (point, what, shut) in read:
            continue
        at_rest = weigh.shows((), line.rest, point, what, shut)
        if at_rest is None:
            continue
        doubt = reading_doubt(at_rest, what)
        parts = [
            (
                share / whole,
                [(w, v) for w, c in mine if (v := weigh.shows(c.faults, c.found, point, what, shut)) is not None],
            )
            for share, mine in (few if shut else cases)
        ]
        tells = _bits([(s, p) for s, p in parts if p], doubt)
        firsts = [sum(w * v for w, v in p) / sum(w for w, _ in p) for _, p in parts[:2] if p]
        apart = len(firsts) == 2 and abs(firsts[0] - firsts[1]) > 2 * doubt
        told.append(NextLook(point, what, shut, minutes, tells, apart))
    return sorted((t for t in told if t.tells > _TELLS), key=lambda t: (-t.tells / t.minutes, t.point, t.shut))


def _bits(parts: Sequence[tuple[float, list[tuple[float, float]]]], doubt: float) -> float:
    """How much (bit) a reading tells of which of the parts it is: mutual information, by numbers on a grid."""
    values = [v for _, p in parts for _, v in p]
    low, high = min(values) - 4 * doubt, max(values) + 4 * doubt
    y = np.linspace(low, high, min(400, max(60, int((high - low) / doubt * 3))))
    step = y[1] - y[0]
    densities = []
    for _, p in parts:
        whole = sum(w for w, _ in p)
        d = sum((w / whole) * np.exp(-0.5 * ((y - v) / doubt) ** 2) for w, v in p) / (doubt * sqrt(2 * pi))
        densities.append(np.asarray(d) + 1e-300)
    shares = np.array([s for s, _ in parts])
    shares = shares / shares.sum()
    mixed = sum(s * d for s, d in zip(shares, densities, strict=True))
    return float(sum(s * np.sum(d * np.log2(d / mixed)) * step for s, d in zip(shares, densities, strict=True)))


def reading_places(line: FaultyLine) -> Sequence[tuple[str, Measured, str, float]]:
    """Where may be read what, with which valve shut, and in how many minutes."""
    told: list[tuple[str, Measured, str, float]] = []
    for p in line.model.points.values():
        if p.kind.role == "outlet" or isinstance(p.what, Outlet):
            told.append((p.id, "pressure", "", _MINUTES["outlet"]))
            told.append((p.id, "flow", "", _MINUTES["bucket"]))
        elif p.kind.role == "source":
            told += [(p.id, "pressure", "", _MINUTES["source"]), (p.id, "flow", "", _MINUTES["source"])]
            told += [(p.id, "flow", v, _MINUTES["source"] + _MINUTES["valve"]) for v in line.valves()[:_VALVES]]
        elif p.kind.role == "device":
            told.append((p.id, "pressure", "", _MINUTES["device"]))
    told += [(p, "takes", "", _MINUTES["drain"]) for p in line.pours()[:_DRAINS]]
    return told
