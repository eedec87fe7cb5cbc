"""Solids by revolving, sweeping and joining: watertight meshes from a kept geometry library.

Round things are polygons of so many corners whose area is the circle's own, so that volumes agree with formulas.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import degrees, pi, sin, sqrt

import manifold3d as m3
import numpy as np
from numpy.typing import NDArray

from hydrarch.core.base.cache import remembered
from hydrarch.core.model.profiles import Profile

__all__ = [
    "CORNERS",
    "Mesh",
    "Vectors",
    "arc_mesh",
    "block_mesh",
    "drum_mesh",
    "frustum_mesh",
    "joined_mesh",
    "surface_mesh",
    "tube_mesh",
]

CORNERS = 20
"""Corners of what is round."""
_ROUND = sqrt(2 * pi / CORNERS / sin(2 * pi / CORNERS))  # radius of the polygon of a circle's area, over the circle's
Vectors = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Mesh:
    """A mesh: corners (m), shape (n, 3), and triangles by their corners, shape (k, 3), outside anticlockwise."""

    corners: Vectors
    triangles: NDArray[np.int64]

    @property
    def volume(self) -> float:
        """What it encloses (m³), by the divergence theorem."""
        a, b, c = (self.corners[self.triangles[:, i]] for i in range(3))
        return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)

    @property
    def closed(self) -> bool:
        """Whether every edge belongs to two triangles that run along it in opposite ways."""
        edges = np.concatenate([self.triangles[:, [i, (i + 1) % 3]] for i in range(3)])
        there = {(int(a), int(b)) for a, b in edges}
        return len(there) == len(edges) and all((b, a) in there for a, b in there)


def _mesh(solid: m3.Manifold) -> Mesh:
    found = solid.to_mesh()
    return Mesh(np.asarray(found.vert_properties[:, :3], dtype=np.float64), np.asarray(found.tri_verts, dtype=np.int64))


def _turned(way: Sequence[float]) -> Vectors:
    """A rotation that takes the z axis to a unit vector, shape (3, 4), with no shift."""
    z = np.asarray(way, dtype=np.float64)
    aside = np.array([1.0, 0.0, 0.0]) if abs(z[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
    x = np.cross(aside, z)
    x /= np.linalg.norm(x)
    return np.column_stack([x, np.cross(z, x), z, np.zeros(3)])


def _revolved(profile: Profile, way: Sequence[float]) -> m3.Manifold:
    """A profile about the z axis, laid along a unit vector."""
    corners = [(r * _ROUND, s) for s, r in profile]
    section = m3.CrossSection([corners], m3.FillRule.Positive)
    if section.is_empty():
        section = m3.CrossSection([corners[::-1]], m3.FillRule.Positive)
    return m3.Manifold.revolve(section, CORNERS).transform(_turned(way))


Arm = tuple[tuple[float, float, float], Profile, Profile]


def joined_mesh(arms: Sequence[Arm], hub: float, bore: float, handle: float = 0.0) -> Mesh:
    """A body of arms that leave one centre, each a way out with its shell and its core: all shells, less all cores.

    A ball of radius `hub` (m; 0 for none) rounds the centre outside and one of `bore` inside. A `handle` (m) is a lever
    of that length, along x above the body.
    """
    shell = [_revolved(outer, way) for way, outer, _ in arms]
    core = [_revolved(inner, way) for way, _, inner in arms if inner]
    if hub > 0:
        shell.append(m3.Manifold.sphere(hub * _ROUND, CORNERS))
    if bore > 0:
        core.append(m3.Manifold.sphere(bore * _ROUND, CORNERS))
    whole = m3.Manifold.batch_boolean(shell, m3.OpType.Add)
    if core:
        whole -= m3.Manifold.batch_boolean(core, m3.OpType.Add)
    if handle > 0:
        high = max(r for _, outer, _ in arms for _, r in outer)
        stem = m3.Manifold.cylinder(0.6 * high, 0.3 * high, 0.3 * high, CORNERS).translate((0.0, 0.0, 0.98 * high))
        lever = m3.Manifold.cube((handle, 0.5 * high, 0.18 * high)).translate(
            (-0.2 * handle, -0.25 * high, 1.45 * high)
        )
        whole = whole + stem + lever
    return _mesh(whole)


@remembered(1 << 10)
def tube_mesh(outside: float, bore: float) -> Mesh:
    """A pipe of two diameters (m), one metre long from the origin along z."""
    return _mesh(_revolved(((0.0, bore / 2), (1.0, bore / 2), (1.0, outside / 2), (0.0, outside / 2)), (0.0, 0.0, 1.0)))


@remembered(1 << 10)
def arc_mesh(outside: float, bore: float, radius: float, turn: float) -> Mesh:
    """A pipe bent on a radius (m) by a turn (rad): it begins at the origin along x and turns towards y, its centre on
    the y axis.
    """

    def ring(r: float) -> list[tuple[float, float]]:
        angles = [2 * pi * n / CORNERS for n in range(CORNERS)]
        return [(radius + _ROUND * r * np.cos(a), _ROUND * r * np.sin(a)) for a in angles]

    section = m3.CrossSection([ring(outside / 2), ring(bore / 2)[::-1]])
    steps = max(4, round(degrees(turn) / 6))
    bent = m3.Manifold.revolve(section, max(4, round(steps * 2 * pi / turn)), degrees(turn))
    # revolved about z from x: laid so that it begins at the origin along x and turns left about (0, radius)
    return _mesh(bent.transform(np.array([[0.0, 1.0, 0.0, 0.0], [-1.0, 0.0, 0.0, radius], [0.0, 0.0, 1.0, 0.0]])))


@remembered(1 << 10)
def drum_mesh(radius: float, high: float) -> Mesh:
    """An upright cylinder on the origin (m)."""
    return _mesh(_revolved(((0.0, 0.0), (high, 0.0), (high, radius), (0.0, radius)), (0.0, 0.0, 1.0)))


@remembered()
def block_mesh() -> Mesh:
    """A cube of one metre about the origin, to be scaled."""
    return _mesh(m3.Manifold.cube((1.0, 1.0, 1.0), True))


def frustum_mesh(corners: Sequence[tuple[float, float]], bottom: float, top: float, share: float) -> Mesh:
    """A body of water: an outline (m) at the `top`, narrowing evenly about its middle to `share` of its area at the
    `bottom`.
    """
    around = np.asarray(corners, dtype=np.float64)
    middle = around.mean(axis=0)
    outline = [(float(x), float(y)) for x, y in around - middle]
    scale = max(sqrt(share), 1e-3)
    small = [(x * scale, y * scale) for x, y in outline]
    solid = m3.Manifold.extrude(m3.CrossSection([small]), top - bottom, 0, 0.0, (1 / scale, 1 / scale))
    return _mesh(solid.translate((float(middle[0]), float(middle[1]), bottom)))


def surface_mesh(places: Vectors, triangles: NDArray[np.int64]) -> Mesh:
    """An open surface, as the ground is: corners (m) and triangles."""
    return Mesh(places, triangles)
