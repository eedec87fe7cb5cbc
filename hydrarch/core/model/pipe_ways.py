"""The way a length of pipe goes: its corners between two stops, straight stretches and arcs."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from math import hypot, tan

import numpy as np

from hydrarch.core.base.identity import EndId
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.joining.assembled import PipeLength
from hydrarch.core.model.solids import Vectors

__all__ = ["bent", "corners_of", "run_ends"]


def run_ends(d: Derivation, x: PipeLength) -> Iterator[EndId]:
    """The ends of all runs a length goes through."""
    for run in x.runs:
        yield from (EndId(e) for e in d.layout.lines[run].ends)


def corners_of(d: Derivation, x: PipeLength) -> list[tuple[str, Vectors]]:
    """The corners of a length, from where its pipe begins to where it ends; each with the point it is at."""
    lay = d.layout
    here = lay.point_of[x.start]
    found: list[tuple[str, Vectors]] = [(here, np.asarray(lay.spots[x.start], dtype=np.float64))]
    for run in x.runs:
        line = lay.lines[run]
        there = line.other(here)
        found.append((there, np.asarray(lay.spots[line.end_at(there)], dtype=np.float64)))
        here = there
    for n, (e, inner) in enumerate(((x.start, 1), (x.stop, -2))):
        taken = d.assembly.taken.get(e)
        if taken is None or len(found) < 2:
            continue
        point, at = found[0 if n == 0 else -1]
        way = found[inner][1] - at
        far = float(np.linalg.norm(way))
        if far > 1e-9:
            found[0 if n == 0 else -1] = (point, at + way * (min(taken.offset, 0.999 * far) / far))
    return found


def bent(
    corners: Sequence[tuple[str, Vectors]], radii: Mapping[str, float]
) -> Iterator[tuple[str, tuple[Vectors, ...]]]:
    """A line of corners as straight stretches and arcs on the radius (m) of each corner that has one."""
    at = corners[0][1]
    for (_, a), (point, b), (_, c) in zip(corners, corners[1:], corners[2:], strict=False):
        one, two = b - a, c - b
        near, far = float(np.linalg.norm(one)), float(np.linalg.norm(two))
        if min(near, far) < 1e-9:
            continue
        u, v = one / near, two / far
        turn = float(np.arccos(np.clip(np.dot(u, v), -1.0, 1.0)))
        radius = radii.get(point, 0.0)
        before = radius * tan(turn / 2) if 1e-3 < turn < 3.1 else 0.0
        if before <= 0 or before > min(near, far):
            if float(np.linalg.norm(b - at)) > 1e-6:
                yield "straight", (at, b)
            at = b
            continue
        start, stop = b - before * u, b + before * v
        if float(np.linalg.norm(start - at)) > 1e-6:
            yield "straight", (at, start)
        aside = v - float(np.dot(u, v)) * u
        aside /= hypot(*aside)
        yield "arc", (start, u, aside, np.array([radius, turn]))
        at = stop
    if float(np.linalg.norm(corners[-1][1] - at)) > 1e-6:
        yield "straight", (at, corners[-1][1])
